#include "core/method/purity/purity_coverage.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"

namespace heron {
namespace {

/// Narrower than both these shares, of its frequency and of the mask's step that it is in, a range
/// is an edge, not a gap.
constexpr double kEdge = 1e-4;
constexpr double kEdgeOfStep = 0.01;

CarrierPower carrier_of(const PurityLine& line, double carrier_hz,
                        const std::optional<double>& carrier_dbm) {
  // In dBm the line's own carrier is what its ratio hangs on.
  if (!carrier_dbm) return {carrier_hz, std::nullopt};
  return {carrier_hz, line.level_dbm - line.level_dbc};
}

/// Why a line at the limit would not be seen there; nullopt if it would.
std::optional<Unjudged::Why> why_unseen(const std::vector<PurityScale>& scales, double hz,
                                        double limit_dbc) {
  bool is_looked_at = false;
  for (const PurityScale& scale : scales) {
    const auto from = scale.sees_from_dbc(hz);
    if (from && *from <= limit_dbc) return std::nullopt;
    is_looked_at = is_looked_at || from.has_value();
  }
  return is_looked_at ? Unjudged::Why::floor : Unjudged::Why::range;
}

void add_range(std::vector<Unjudged>& all, const Unjudged& range) {
  if (!all.empty() && all.back().why == range.why &&
      range.from_hz - all.back().to_hz <= kEdge * range.from_hz) {
    all.back().to_hz = range.to_hz;
    return;
  }
  all.push_back(range);
}

}  // namespace

void judge_line(PurityLine& line, const Mask& mask, double carrier_hz,
                const std::optional<double>& carrier_dbm) {
  line.limit_dbc.reset();
  line.judgement.reset();
  line.limit_carrier_share = 1.0;
  if (!line.is_unwanted()) return;
  const MaskLimits limits =
      mask_limits(mask, carrier_of(line, carrier_hz, carrier_dbm), line.frequency_hz);
  line.needs_power = limits.needs_power;
  for (const MaskLimit& limit : limits.known) {
    Figure figure = line_figure(line);
    figure.contributions = line_contributions(line, limit.carrier_share);
    const Judgement j =
        judge(figure, Limit{mask.name, Sense::at_most, limit.dbc, "dB", kReCarrier, 20.0});
    if (line.judgement && !is_worse(j, *line.judgement)) continue;
    line.judgement = j;
    line.limit_dbc = limit.dbc;
    line.limit_carrier_share = limit.carrier_share;
  }
}

std::vector<Unjudged> unjudged_ranges(const PurityAnalysis& a,
                                      const std::vector<PurityScale>& scales) {
  std::vector<Unjudged> all;
  if (a.mask.is_none()) return all;
  const CarrierPower carrier{a.carrier_hz, a.carrier_dbm};
  double lowest = 1e18;
  double highest = 0.0;
  double laxest = -400.0;
  for (const MaskSegment& s : a.mask.segments) {
    lowest = std::min(lowest, s.is_offset ? std::max(0.0, a.carrier_hz - s.to_hz) : s.from_hz);
    highest = std::max(highest, s.is_offset ? a.carrier_hz + s.to_hz : s.to_hz);
    if (!s.limit_dbc && !a.carrier_dbm)
      add_range(all, {s.is_offset ? a.carrier_hz + s.from_hz : s.from_hz,
                      s.is_offset ? a.carrier_hz + s.to_hz : s.to_hz, Unjudged::Why::power});
  }
  double own_width = 0.0;
  std::vector<double> edges;
  for (const PurityScale& scale : scales) {
    if (scale.is_own_carrier) own_width = std::max(own_width, scale.carrier_width_hz());
    edges.push_back(scale.source->from_hz);
    edges.push_back(scale.source->to_hz);
    for (const SeenRange& range : scale.source->seen) {
      edges.push_back(range.from_hz);
      edges.push_back(range.to_hz);
    }
  }
  edges.push_back(a.carrier_hz - own_width);
  edges.push_back(a.carrier_hz + own_width);
  std::sort(edges.begin(), edges.end());
  for (const MaskStep& step : mask_steps(a.mask, carrier, lowest, highest)) {
    laxest = std::max(laxest, step.limit_dbc);
    const double narrowest = kEdgeOfStep * (step.to_hz - step.from_hz);
    double from = step.from_hz;
    auto edge = std::upper_bound(edges.begin(), edges.end(), from);
    while (from < step.to_hz) {
      const double to = edge == edges.end() ? step.to_hz : std::min(*edge++, step.to_hz);
      const double middle = (from + to) / 2.0;
      if (to - from > std::min(kEdge * middle, narrowest) &&
          std::abs(middle - a.carrier_hz) > own_width) {
        if (const auto why = why_unseen(scales, middle, step.limit_dbc))
          add_range(all, {from, to, *why});
      }
      from = to;
    }
  }
  for (const PurityLine& line : a.lines) {
    if (!line.is_unwanted() || line.judgement || line.is_bound || line.needs_power) continue;
    // Between two segments, and stronger than the most that the mask allows anywhere.
    if (line.frequency_hz > lowest && line.frequency_hz < highest && line.level_dbc > laxest)
      all.push_back({line.frequency_hz, line.frequency_hz, Unjudged::Why::gap});
  }
  return all;
}

std::string unjudged_text(const std::vector<Unjudged>& unjudged) {
  constexpr std::size_t kNamed = 3;
  std::string text;
  for (std::size_t i = 0; i < std::min(unjudged.size(), kNamed); ++i) {
    const Unjudged& u = unjudged[i];
    const std::string from = engineering_text(u.from_hz, "Hz", 5);
    const std::string range = from + " to " + engineering_text(u.to_hz, "Hz", 5);
    if (!text.empty()) text += "; ";
    switch (u.why) {
      case Unjudged::Why::range:
        text += range + " was not measured";
        break;
      case Unjudged::Why::floor:
        text += "the floor from " + range + " is above the limit";
        break;
      case Unjudged::Why::power:
        text += "the limit from " + range + " needs the carrier\u2019s power";
        break;
      case Unjudged::Why::gap:
        text += "a strong line at " + from + " lies in a gap of the mask";
        break;
    }
  }
  if (unjudged.size() > kNamed) text += fmt::format("; and {} more", unjudged.size() - kNamed);
  return text;
}

}  // namespace heron
