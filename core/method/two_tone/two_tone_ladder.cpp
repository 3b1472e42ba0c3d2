#include "core/method/two_tone/two_tone_ladder.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/two_tone/ladder_checks.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

const std::string& judged_convention(const std::optional<Limit>& limit) {
  static const std::string pep = kRePep;
  return limit ? limit->convention : pep;
}

int dominant_order(const TwoToneAnalysis& a) {
  const TwoToneProduct* best = nullptr;
  for (const TwoToneProduct& p : a.products) {
    if (!p.is_bound && (best == nullptr || p.level_dbc > best->level_dbc)) best = &p;
  }
  return best == nullptr ? 0 : best->order;
}

/// Rows with an output and a recording, from low to high output.
std::vector<std::size_t> by_output(const TwoToneLadder& ladder) {
  std::vector<std::size_t> order;
  for (std::size_t i = 0; i < ladder.rows.size(); ++i) {
    if (ladder.rows[i].output_dbm && ladder.rows[i].worst) order.push_back(i);
  }
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return *ladder.rows[a].output_dbm < *ladder.rows[b].output_dbm;
  });
  return order;
}

double crossing(double x0, double x1, double d0, double d1) {
  // d = new order minus old: below 0 at x0, above at x1.
  return d1 == d0 ? (x0 + x1) / 2.0 : x0 + (x1 - x0) * std::clamp(-d0 / (d1 - d0), 0.0, 1.0);
}

void find_dominance_changes(TwoToneLadder& ladder, const std::vector<LadderStep>& steps,
                            const std::vector<std::size_t>& order) {
  for (std::size_t i = 1; i < order.size(); ++i) {
    const LadderRow& low = ladder.rows[order[i - 1]];
    const LadderRow& high = ladder.rows[order[i]];
    if (low.dominant_order == 0 || high.dominant_order == 0 ||
        low.dominant_order == high.dominant_order)
      continue;
    DominanceChange change{
        low.dominant_order, high.dominant_order, *low.output_dbm, *high.output_dbm, 0.0, 0.0};
    const auto gap = [&](std::size_t row) {
      const TwoToneAnalysis& a = *steps[row].analysis;
      const TwoToneProduct* now = a.worse_side(change.to_order);
      const TwoToneProduct* before = a.worse_side(change.from_order);
      return now == nullptr || before == nullptr ? 0.0 : now->level_dbc - before->level_dbc;
    };
    change.crossing_dbm =
        crossing(change.lower_dbm, change.upper_dbm, gap(order[i - 1]), gap(order[i]));
    const auto u = [&](std::size_t row, int n) {
      const TwoToneProduct* p = steps[row].analysis->worse_side(n);
      return p == nullptr || p->is_bound ? 0.0
                                         : product_figure(*steps[row].analysis, *p, kReOneTone).u();
    };
    // Between the steps nothing says that it is straight: what the neighbouring steps would say, or
    // without any a quarter of the way.
    double bend = order.size() > 2 ? 0.0 : (change.upper_dbm - change.lower_dbm) / 4.0;
    const auto compare = [&](std::size_t a, std::size_t b) {
      const double xa = *ladder.rows[order[a]].output_dbm;
      const double xb = *ladder.rows[order[b]].output_dbm;
      const double rise = gap(order[b]) - gap(order[a]);
      if (xb - xa < 1e-9 || rise <= 0.0) return;
      const double there =
          std::clamp(xa - gap(order[a]) * (xb - xa) / rise, change.lower_dbm, change.upper_dbm);
      bend = std::max(bend, std::abs(there - change.crossing_dbm));
    };
    if (i >= 2) compare(i - 2, i - 1);
    if (i + 1 < order.size()) compare(i, i + 1);
    const double width = change.upper_dbm - change.lower_dbm;
    const double slope = std::abs(gap(order[i]) - gap(order[i - 1])) / std::max(width, 1e-9);
    const double u_gap = std::hypot(u(order[i], change.to_order), u(order[i], change.from_order));
    const double u_place = slope > 0.0 ? u_gap / slope : width / 2.0;
    change.u_db = std::min(std::hypot(u_place, u_rectangular(bend)), width / 2.0);
    ladder.dominance_changes.push_back(change);
  }
}

/// Slope of IM3 power against tone power between neighbouring low steps; the intercept only exists
/// where that is 3 dB per dB.
void find_intercept(TwoToneLadder& ladder, const std::vector<LadderStep>& steps,
                    const std::vector<std::size_t>& order) {
  struct Point {
    double tone_dbm;
    const TwoToneProduct* im3;
    std::size_t row;
  };
  std::vector<Point> points;
  for (const std::size_t row : order) {
    const TwoToneProduct* im3 = steps[row].analysis->worse_side(3);
    if (im3 == nullptr || im3->is_bound) continue;
    points.push_back(
        {*ladder.rows[row].output_dbm - steps[row].analysis->pep_over_tone_db(), im3, row});
    if (points.size() == 3) break;
  }
  if (points.size() < 2 || points.back().tone_dbm - points.front().tone_dbm < 1.0) return;
  const auto& [x0, low, row] = points.front();
  const auto& [x1, high, high_row] = points.back();
  const double slope = ((x1 + high->level_dbc) - (x0 + low->level_dbc)) / (x1 - x0);
  ladder.im3_slope = slope;
  if (slope < 2.7 || slope > 3.3) {
    ladder.remarks.push_back(
        {"no_intercept", Severity::note,
         fmt::format(
             "IM3 grows {} dB per dB of output, not 3: an intercept point is meaningless for "
             "this device.",
             number_text(slope, 1)),
         ""});
    return;
  }
  Figure oip3;
  oip3.id = "oip3";
  oip3.label = "Output third-order intercept";
  oip3.unit = "dBm";
  oip3.convention = "one tone";
  oip3.value = x0 - low->level_dbc / 2.0;
  // Half of what makes the product uncertain, all of what makes the output so, and half of what the
  // product departed from the law between the steps: it may have done so below them too.
  if (steps[row].output) oip3.contributions = steps[row].output->contributions;
  for (Contribution c : product_figure(*steps[row].analysis, *low, kReOneTone).contributions) {
    c.u /= 2.0;
    oip3.contributions.push_back(c);
  }
  oip3.contributions.push_back({"departure from the 3 dB law",
                                u_rectangular(std::abs(slope - 3.0) * (x1 - x0) / 2.0),
                                Scope::independent});
  ladder.oip3 = oip3;
  ladder.remarks.push_back({"oip3", Severity::note,
                            fmt::format("IM3 follows the 3 dB law: output intercept {}, one tone.",
                                        figure_text(oip3, Rounding::compact)),
                            ""});
}

void add_ladder_remarks(TwoToneLadder& ladder) {
  for (const DominanceChange& change : ladder.dominance_changes) {
    ladder.remarks.push_back(
        {"dominance", Severity::note,
         fmt::format("IM{} overtakes IM{} near {} W: the cause of the distortion changes there.",
                     change.to_order, change.from_order,
                     number_text(std::pow(10.0, change.crossing_dbm / 10.0 - 3.0), 1)),
         ""});
  }
  if (ladder.sweet_spot && ladder.rows[*ladder.sweet_spot].judgement.verdict == Verdict::pass) {
    const LadderRow& row = ladder.rows[*ladder.sweet_spot];
    ladder.remarks.push_back(
        {"sweet_spot", Severity::note,
         fmt::format("{} is the highest step that passes, with {} dB to the limit.", row.label,
                     number_text(row.judgement.margin, 1)),
         ""});
  }
}

}  // namespace

TwoToneLadder evaluate_ladder(const std::vector<LadderStep>& steps,
                              const std::optional<Limit>& limit) {
  TwoToneLadder ladder;
  const std::string& convention = judged_convention(limit);
  for (const LadderStep& step : steps) {
    LadderRow row;
    row.label = step.label;
    if (step.output) row.output_dbm = step.output->value;
    if (step.analysis != nullptr) {
      if (const TwoToneProduct* worst = step.analysis->worst()) {
        row.worst = product_figure(*step.analysis, *worst, convention);
        row.worst_order = worst->order;
        row.dominant_order = dominant_order(*step.analysis);
        if (limit) row.judgement = judge(*row.worst, *limit);
        const std::vector<int> missing = missing_orders(steps, ladder.rows.size());
        if (!missing.empty()) {
          std::string names;
          for (const int order : missing)
            names += (names.empty() ? "IM" : ", IM") + std::to_string(order);
          ladder.remarks.push_back(
              {"product_unknown", Severity::caution,
               fmt::format("{}: nothing says how strong {} is there.", step.label, names),
               "Read it, or type < and the floor"});
          if (row.judgement.verdict == Verdict::pass) row.judgement.verdict = Verdict::incomplete;
        }
      }
    }
    ladder.rows.push_back(row);
  }
  const std::vector<std::size_t> order = by_output(ladder);
  for (const std::size_t row : order) {
    if (limit && ladder.rows[row].judgement.verdict == Verdict::pass) ladder.sweet_spot = row;
    if (!ladder.quietest ||
        ladder.rows[row].worst->value < ladder.rows[*ladder.quietest].worst->value) {
      ladder.quietest = row;
    }
  }
  find_dominance_changes(ladder, steps, order);
  find_intercept(ladder, steps, order);
  add_ladder_remarks(ladder);
  const std::vector<Remark> checks = check_steps(steps);
  ladder.remarks.insert(ladder.remarks.end(), checks.begin(), checks.end());
  return ladder;
}

std::vector<SelfTestRow> sampler_self_test(const TwoToneAnalysis& normal,
                                           const TwoToneAnalysis& attenuated, double added_db) {
  std::vector<SelfTestRow> rows;
  for (const TwoToneProduct& p : normal.products) {
    const TwoToneProduct* again = attenuated.find(p.order, p.side);
    if (again == nullptr || p.is_bound) continue;
    SelfTestRow row;
    row.product = product_name(p);
    row.change_db = again->level_dbc - p.level_dbc;
    row.made_by_sampler = row.change_db < -added_db / 2.0;
    rows.push_back(row);
  }
  return rows;
}

}  // namespace heron
