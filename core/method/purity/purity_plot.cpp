#include "core/method/purity/purity_plot.h"

#include <algorithm>
#include <cmath>

#include "core/method/measure/filter_proposal.h"
#include "core/method/measure/mask_layer.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

/// What can be seen of everything: no weaker than far below the mask, no stronger than far above.
std::pair<double, double> level_range(const std::optional<PurityAnalysis>& a,
                                      const PlotLayer& mask) {
  double top = -20.0;
  double bottom = -90.0;
  if (a) {
    for (const PurityLine& l : a->lines) {
      if (l.kind == LineKind::carrier) continue;
      top = std::max(top, l.level_dbc + 8.0);
      bottom = std::min(bottom, l.level_dbc - 12.0);
    }
  }
  const auto lower = [](const PlotPoint& x, const PlotPoint& y) { return x.y < y.y; };
  if (!mask.points.empty()) {
    const double highest = std::max_element(mask.points.begin(), mask.points.end(), lower)->y;
    const double lowest = std::min_element(mask.points.begin(), mask.points.end(), lower)->y;
    top = std::max(std::min(top, highest + 40.0), highest + 20.0);
    bottom = std::max(std::min(bottom, lowest - 20.0), lowest - 60.0);
  }
  return {std::floor(bottom / 10.0) * 10.0, std::ceil(top / 5.0) * 5.0};
}

std::pair<double, double> frequency_range(const std::optional<PurityAnalysis>& a,
                                          double carrier_hz) {
  double low = carrier_hz * 0.7;
  if (!a) return {low, carrier_hz * 8.0};
  double high = 2.2 * a->carrier_hz;
  for (const PurityLine& l : a->lines) {
    low = std::min(low, l.frequency_hz * 0.85);
    high = std::max(high, l.frequency_hz);
  }
  return {low, high * 1.15};
}

PlotLayer line_layer(const PurityAnalysis& a) {
  PlotLayer layer{PlotLayer::Kind::stem, "lines", 1, false, {}};
  const PurityLine* carrier = a.carrier();
  for (std::size_t i = 0; i < a.lines.size(); ++i) {
    const PurityLine& l = a.lines[i];
    if (l.kind == LineKind::carrier) continue;
    PlotPoint p{l.frequency_hz, l.level_dbc};
    p.expanded = l.is_bound ? 0.0 : line_figure(l).expanded();
    p.bound = l.is_bound ? Bound::upper : Bound::none;
    p.step = i;
    if (l.harmonic > 1) p.word = std::to_string(l.harmonic);
    const double before =
        l.level_dbc - l.correction_db + (carrier != nullptr ? carrier->correction_db : 0.0);
    if (std::abs(before - l.level_dbc) > 0.25) p.before = before;
    if (l.judgement) p.verdict = l.judgement->verdict;
    p.is_pale = l.kind == LineKind::instrument;
    layer.points.push_back(std::move(p));
  }
  return layer;
}

PlotLayer carrier_layer(const PurityAnalysis& a) {
  PlotLayer layer{PlotLayer::Kind::flag, "carrier = 0 dBc", 1, false, {}};
  PlotPoint p{a.carrier_hz, 0.0};
  if (a.carrier_dbm) p.word = number_text(*a.carrier_dbm, 1, true) + " dBm";
  layer.points = {p};
  return layer;
}

std::string note_of(const std::optional<PurityAnalysis>& a, const Mask& mask) {
  const bool is_corrected =
      a && std::any_of(a->lines.begin(), a->lines.end(),
                       [](const PurityLine& l) { return l.correction_db != 0.0; });
  std::string note = is_corrected ? "corrected for the hook-up, tick = as measured" : "";
  if (!mask.is_none()) note += (note.empty() ? "" : " \u00b7 ") + std::string(kOwnLicence);
  return note;
}

}  // namespace

Plot purity_plot(const std::optional<PurityAnalysis>& a, const Mask& mask, double carrier_hz,
                 const std::string& empty_words) {
  Plot plot;
  plot.title = "Lines relative to the carrier";
  plot.empty_words = empty_words;
  plot.note = note_of(a, mask);
  const auto [from, to] = frequency_range(a, carrier_hz);
  plot.x = {"Frequency", "Hz", true, std::pair(from, to)};
  CarrierPower carrier{carrier_hz, std::nullopt};
  if (a) carrier = {a->carrier_hz, a->carrier_dbm};
  PlotPanel panel{{"dB relative to the carrier", ""}, {}};
  PlotLayer limits = mask_layer(mask, carrier, from, to);
  panel.y.range = level_range(a, limits);
  panel.layers.push_back(std::move(limits));
  if (a) {
    panel.layers.push_back(carrier_layer(*a));
    panel.layers.push_back(line_layer(*a));
  }
  plot.panels.push_back(std::move(panel));
  return plot;
}

std::optional<ProposalCard> filter_card(const PurityAnalysis& a) {
  FilterCase of{a.carrier_hz, a.carrier_dbm, a.mask, {}, advise_filter(a)};
  for (const PurityLine& l : a.lines)
    of.lines.push_back({l.frequency_hz, line_name(l), l.judgement});
  return filter_card(of);
}

}  // namespace heron
