#include "core/method/measure/filter_proposal.h"

#include <algorithm>
#include <cmath>

#include "core/method/measure/mask_layer.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

Judgement judged_after(const FilterAdvice& f) {
  Judgement j;
  j.margin = f.margin_db;
  j.verdict = f.is_enough ? Verdict::pass : f.margin_db < 0.0 ? Verdict::fail : Verdict::too_close;
  return j;
}

/// The filter's own loss over frequency, the mask, and how far the worst line comes down.
Plot response_plot(const FilterCase& a, const FilterAdvice& f) {
  constexpr int kPoints = 120;
  const double from = a.carrier_hz * 0.5;
  double to = a.carrier_hz * 4.0;
  for (const FilterLine& l : a.lines)
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

Proposal proposal_of(const FilterCase& a, const FilterAdvice& f) {
  const auto worst = std::find_if(a.lines.begin(), a.lines.end(), [&](const FilterLine& l) {
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
  p.place = worst != a.lines.end() ? worst->name : "worst line";
  p.change = before + " \u2192 " + after + " dBc";
  if (worst != a.lines.end() && worst->judgement) p.before = *worst->judgement;
  p.after = judged_after(f);
  p.after.expanded = p.before.expanded;
  p.note = f.is_enough ? "Costs " + cost + "; all lines then pass"
                       : "Lines below the cut-off stay as they are";
  return p;
}

}  // namespace

std::optional<ProposalCard> filter_card(const FilterCase& of) {
  if (of.advice.empty()) return std::nullopt;
  ProposalCard card;
  for (const FilterAdvice& f : of.advice) card.choices.push_back(proposal_of(of, f));
  // None that does it: the strongest, and its words say so.
  const FilterAdvice* best = lowest_enough(of.advice);
  card.shown =
      best != nullptr ? static_cast<std::size_t>(best - of.advice.data()) : of.advice.size() - 1;
  return card;
}

}  // namespace heron
