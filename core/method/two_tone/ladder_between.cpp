#include "core/method/two_tone/ladder_between.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace heron {
namespace {

constexpr double kSamePlaceDb = 0.005;

double slope_of(const LadderPoint& a, const LadderPoint& b) {
  return b.output_dbm > a.output_dbm ? (b.level_db - a.level_db) / (b.output_dbm - a.output_dbm)
                                     : 0.0;
}

bool reaches(const LadderTrace& trace, double output_dbm) {
  return !trace.points.empty() && output_dbm >= trace.points.front().output_dbm - kSamePlaceDb &&
         output_dbm <= trace.points.back().output_dbm + kSamePlaceDb;
}

/// The lowest needed order of which nothing is known there, though it is elsewhere.
std::optional<int> unread_order(const std::vector<LadderTrace>& traces, double output_dbm) {
  for (const LadderTrace& trace : traces) {
    if (trace.order <= kHighestNeededOrder && !reaches(trace, output_dbm)) return trace.order;
  }
  return std::nullopt;
}

/// Every output that some trace has, rising, each once.
std::vector<double> outputs_of(const std::vector<LadderTrace>& traces) {
  std::vector<double> outputs;
  for (const LadderTrace& trace : traces) {
    for (const LadderPoint& p : trace.points) outputs.push_back(p.output_dbm);
  }
  std::sort(outputs.begin(), outputs.end());
  outputs.erase(std::unique(outputs.begin(), outputs.end()), outputs.end());
  return outputs;
}

/// How far a straight line between two points may miss a smooth curve at `x`, from how the slope
/// changes to the neighbouring points (half the second derivative times both distances); with no
/// neighbour a quarter of the rise at the middle.
double straight_line_error_db(const std::vector<LadderPoint>& points, std::size_t high, double x) {
  const LadderPoint& a = points[high - 1];
  const LadderPoint& b = points[high];
  const double away = (x - a.output_dbm) * (b.output_dbm - x);
  const double width = b.output_dbm - a.output_dbm;
  if (!(width > 0.0) || away <= 0.0) return 0.0;
  const double slope = slope_of(a, b);
  std::optional<double> bend;
  const auto compare = [&](const LadderPoint& c, const LadderPoint& d) {
    const double span = std::max(b.output_dbm, d.output_dbm) - std::min(a.output_dbm, c.output_dbm);
    if (c.is_bound || d.is_bound || !(d.output_dbm > c.output_dbm)) return;
    const double here = 2.0 * std::abs(slope_of(c, d) - slope) / span;
    bend = std::max(bend.value_or(0.0), here);
  };
  if (high >= 2) compare(points[high - 2], a);
  if (high + 1 < points.size()) compare(b, points[high + 1]);
  // away is at most a quarter of the width squared.
  return bend ? *bend / 2.0 * away : std::abs(slope) * away / width;
}

}  // namespace

std::vector<LadderTrace> ladder_traces(const std::vector<LadderStep>& steps,
                                       const std::string& convention) {
  std::vector<LadderTrace> traces;
  for (std::size_t i = 0; i < steps.size(); ++i) {
    const LadderStep& step = steps[i];
    if (!step.output || step.analysis == nullptr) continue;
    for (int order = 3; order <= 15; order += 2) {
      const TwoToneProduct* p = step.analysis->worse_side(order);
      if (p == nullptr) continue;
      auto trace = std::find_if(traces.begin(), traces.end(),
                                [&](const LadderTrace& t) { return t.order == order; });
      if (trace == traces.end()) trace = traces.insert(traces.end(), LadderTrace{order, {}});
      const double reference = convention == kRePep ? step.analysis->pep_over_tone_db() : 0.0;
      LadderPoint point;
      point.output_dbm = step.output->value;
      point.u_output_db = step.output->u();
      point.level_db = p->level_dbc - reference;
      point.u_db = product_figure(*step.analysis, *p, convention).u();
      point.is_bound = p->is_bound;
      point.floor_db = p->floor_dbc - reference;
      point.row = i;
      trace->points.push_back(point);
    }
  }
  std::sort(traces.begin(), traces.end(),
            [](const LadderTrace& a, const LadderTrace& b) { return a.order < b.order; });
  for (LadderTrace& trace : traces)
    std::stable_sort(
        trace.points.begin(), trace.points.end(),
        [](const LadderPoint& a, const LadderPoint& b) { return a.output_dbm < b.output_dbm; });
  return traces;
}

std::optional<Figure> level_at(const LadderTrace& trace, double output_dbm) {
  const auto& points = trace.points;
  if (!reaches(trace, output_dbm)) return std::nullopt;
  Figure figure;
  figure.id = fmt::format("im{}", trace.order);
  figure.label = fmt::format("IM{}", trace.order);
  figure.unit = "dB";
  const auto set = [&](const LadderPoint& p) {
    figure.value = p.level_db;
    if (p.is_bound) figure.bound = Bound::upper;
    figure.contributions = {{"measured", p.u_db, Scope::common}};
    return figure;
  };
  for (const LadderPoint& p : points) {
    if (std::abs(p.output_dbm - output_dbm) <= kSamePlaceDb) return set(p);
  }
  const auto above = std::find_if(points.begin(), points.end(),
                                  [&](const LadderPoint& p) { return p.output_dbm > output_dbm; });
  if (above == points.end()) return set(points.back());
  if (above == points.begin()) return set(points.front());
  const LadderPoint& high = *above;
  const LadderPoint& low = *(above - 1);
  const double slope = slope_of(low, high);
  figure.value = low.level_db + slope * (output_dbm - low.output_dbm);
  if (low.is_bound || high.is_bound) {
    // Nobody knows how far below the bound it was.
    figure.value = std::max(low.level_db, high.level_db);
    figure.bound = Bound::upper;
    figure.contributions = {
        {"measured at the neighbouring steps", std::max(low.u_db, high.u_db), Scope::common}};
    return figure;
  }
  figure.contributions = {
      {"measured at the neighbouring steps", std::max(low.u_db, high.u_db), Scope::common},
      {"output of the neighbouring steps",
       std::abs(slope) * std::max(low.u_output_db, high.u_output_db), Scope::common},
      {"straight line between steps",
       u_rectangular(straight_line_error_db(
           points, static_cast<std::size_t>(above - points.begin()), output_dbm)),
       Scope::independent}};
  return figure;
}

std::optional<WorstAt> worst_at(const std::vector<LadderTrace>& traces, double output_dbm,
                                const std::string& convention) {
  std::optional<WorstAt> worst;
  for (const LadderTrace& trace : traces) {
    auto figure = level_at(trace, output_dbm);
    if (!figure || (worst && worst->figure.value >= figure->value)) continue;
    figure->convention = convention;
    const bool is_step = std::any_of(
        trace.points.begin(), trace.points.end(),
        [&](const LadderPoint& p) { return std::abs(p.output_dbm - output_dbm) <= kSamePlaceDb; });
    worst = WorstAt{*figure, trace.order, !is_step, unread_order(traces, output_dbm)};
  }
  return worst;
}

std::optional<OutputAtLimit> output_at_limit(const std::vector<LadderTrace>& traces,
                                             double limit_db) {
  const std::vector<double> outputs = outputs_of(traces);
  if (outputs.empty()) return std::nullopt;
  // Going down from the top, the first place where `excess` of the limit is gone.
  const auto place = [&](double guard) -> std::optional<double> {
    const auto excess = [&](double x) {
      const auto worst = worst_at(traces, x, "");
      if (!worst || (guard > 0.0 && unread_order(traces, x))) return 1e9;
      return worst->figure.value + guard * worst->figure.expanded() - limit_db;
    };
    if (excess(outputs.back()) <= 0.0) return outputs.back();
    for (std::size_t i = outputs.size() - 1; i > 0; --i) {
      // Orders cross between steps, so the worst one is not straight: look at it finely.
      constexpr int kParts = 64;
      double above = outputs[i];
      for (int k = 1; k <= kParts; ++k) {
        const double below =
            outputs[i] + (outputs[i - 1] - outputs[i]) * static_cast<double>(k) / kParts;
        const double here = excess(below);
        if (here <= 0.0) {
          const double before = excess(above);
          const double part = before < 1e8 && before > here ? before / (before - here) : 1.0;
          return above + (below - above) * std::clamp(part, 0.0, 1.0);
        }
        above = below;
      }
    }
    return std::nullopt;
  };
  const auto found = place(0.0);
  if (!found) return std::nullopt;
  OutputAtLimit result;
  result.output_dbm = *found;
  result.is_at_least = *found >= outputs.back() - 1e-9;
  result.unread_order = unread_order(traces, *found);
  result.sure_dbm = place(1.0);
  result.is_surely_at_least = result.sure_dbm && *result.sure_dbm >= outputs.back() - 1e-9;
  // Up to where the whole interval would have to fail; beyond the ladder nobody looked.
  const auto failing = place(-1.0);
  const double above = failing ? std::max(0.0, *failing - *found) : 0.0;
  const double below = result.sure_dbm ? *found - *result.sure_dbm : *found - outputs.front();
  result.u_db = result.is_at_least ? 0.0 : std::max({0.0, below, above}) / 2.0;
  return result;
}

}  // namespace heron
