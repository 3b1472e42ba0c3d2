#include "core/method/purity/purity_plot.h"

#include <algorithm>
#include <cmath>

#include "core/method/purity/lowpass.h"
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

Judgement judged_after(const FilterAdvice& f) {
  Judgement j;
  j.margin = f.margin_db;
  j.verdict = f.is_enough ? Verdict::pass : f.margin_db < 0.0 ? Verdict::fail : Verdict::too_close;
  return j;
}

/// The filter's own loss over frequency, the mask, and how far the worst line comes down.
Plot response_plot(const PurityAnalysis& a, const FilterAdvice& f) {
  constexpr int kPoints = 120;
  const double from = a.carrier_hz * 0.5;
  double to = a.carrier_hz * 4.0;
  for (const PurityLine& l : a.lines)
    to = std::max(to, std::min(l.frequency_hz * 1.1, a.carrier_hz * 12.0));
  PlotLayer response{PlotLayer::Kind::guide, "filter", 1, true, {}};
  for (int i = 0; i <= kPoints; ++i) {
    const double hz = from * std::pow(to / from, static_cast<double>(i) / kPoints);
    response.points.push_back({hz, -chebyshev_loss_db(f.order, kFilterRippleDb, hz / f.cutoff_hz)});
  }
  PlotLayer line{PlotLayer::Kind::stem, "line", 1, false, {}};
  PlotPoint p{f.worst_hz, f.worst_after_dbc};
  p.before = f.worst_before_dbc;
  p.verdict = judged_after(f).verdict;
  line.points = {p};
  Plot plot;
  plot.title = "Loss of the filter";
  plot.x = {"Frequency", "Hz", true, std::pair(from, to)};
  plot.panels = {{{"dB", "", false, std::pair(-90.0, 0.0)},
                  {mask_layer(a.mask, {a.carrier_hz, a.carrier_dbm}, from, to), response, line}}};
  return plot;
}

Proposal proposal_of(const PurityAnalysis& a, const FilterAdvice& f) {
  const auto worst = std::find_if(a.lines.begin(), a.lines.end(), [&](const PurityLine& l) {
    return l.frequency_hz == f.worst_hz;
  });
  // A tenth of a megahertz is as near as coils can be wound.
  constexpr double kCutoffStepHz = 1e5;
  const std::string cutoff =
      frequency_text(std::round(f.cutoff_hz / kCutoffStepHz) * kCutoffStepHz);
  const std::string order = std::to_string(f.order);
  const std::string before = number_text(f.worst_before_dbc, 1);
  const std::string after = number_text(f.worst_after_dbc, 1);
  const std::string cost = number_text(f.pass_band_loss_db, 1) + " dB of carrier";
  Proposal p;
  p.title = f.is_enough ? "Filter that would comply" : "No filter complies";
  p.subtitle = "Ideal low-pass, order " + order + ", cut-off " + cutoff;
  p.words = "A low-pass filter of order " + order + ", " + number_text(kFilterRippleDb, 1) +
            " dB ripple, cut-off " + cutoff + ", would bring " +
            engineering_text(f.worst_hz, "Hz", 4) + " from " + before + " to " + after +
            " dBc and cost " + cost + ". " +
            (f.is_enough ? "All lines then pass." : "That is not enough.");
  p.plot = response_plot(a, f);
  p.place = worst != a.lines.end() ? line_name(*worst) : "worst line";
  p.change = before + " \u2192 " + after + " dBc";
  if (worst != a.lines.end() && worst->judgement) p.before = *worst->judgement;
  p.after = judged_after(f);
  p.after.expanded = p.before.expanded;
  p.note = f.is_enough ? "Costs " + cost + "; all lines then pass"
                       : "Lines below the cut-off stay as they are";
  return p;
}

}  // namespace

PlotLayer mask_layer(const Mask& mask, const CarrierPower& carrier, double from_hz, double to_hz) {
  PlotLayer layer{PlotLayer::Kind::mask, mask.name, 1, true, {}};
  for (const MaskStep& s : mask_steps(mask, carrier, from_hz, to_hz)) {
    layer.points.push_back({s.from_hz, s.limit_dbc});
    layer.points.push_back({s.to_hz, s.limit_dbc});
  }
  return layer;
}

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
  const std::vector<FilterAdvice> advice = advise_filter(a);
  if (advice.empty()) return std::nullopt;
  ProposalCard card;
  for (const FilterAdvice& f : advice) card.choices.push_back(proposal_of(a, f));
  // None that does it: the strongest, and its words say so.
  const FilterAdvice* best = lowest_enough(advice);
  card.shown = best != nullptr ? static_cast<std::size_t>(best - advice.data()) : advice.size() - 1;
  return card;
}

}  // namespace heron
