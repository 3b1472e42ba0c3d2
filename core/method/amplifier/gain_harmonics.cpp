#include "core/method/amplifier/gain_harmonics.h"

#include "core/method/measure/filter_proposal.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr double kHarmonicU = 0.5;  // dB: of a level read off a screen

}  // namespace

std::vector<StepHarmonic> harmonics_of(const DrivenRow& row, const GainCase& of) {
  std::vector<StepHarmonic> all;
  const auto add = [&](int order, const std::optional<double>& dbc) {
    if (!dbc) return;
    StepHarmonic h;
    h.order = order;
    h.level.unit = "dB";
    h.level.convention = "re carrier";
    h.level.label = ordinal(order) + " harmonic";
    h.level.value = *dbc;
    h.level.contributions = {{"reading off a screen", kHarmonicU, Scope::independent}};
    const auto& carrier_hz = of.amplifier.frequency_hz;
    if (carrier_hz && row.output)
      h.limit_dbc = mask_limit_dbc(of.mask, {*carrier_hz, row.output->value}, order * *carrier_hz);
    if (h.limit_dbc)
      h.judgement = judge(h.level, Limit{of.mask.name, Sense::at_most, *h.limit_dbc, "dB",
                                         "re carrier", kGainMarginSpanDb});
    all.push_back(std::move(h));
  };
  add(2, row.second_dbc);
  add(3, row.third_dbc);
  return all;
}

std::optional<ProposalCard> harmonic_filters(const GainCase& of) {
  const DrivenRow* worst = nullptr;
  std::optional<Judgement> least;
  for (const DrivenRow& row : of.amplifier.rows) {
    for (const StepHarmonic& h : harmonics_of(row, of)) {
      if (!h.judgement || (least && !is_worse(*h.judgement, *least))) continue;
      least = h.judgement;
      worst = &row;
    }
  }
  if (worst == nullptr || least->verdict == Verdict::pass) return std::nullopt;
  FilterCase wanted{*of.amplifier.frequency_hz, worst->output->value, of.mask, {}, {}};
  std::vector<FilterNeed> needs;
  for (const StepHarmonic& h : harmonics_of(*worst, of)) {
    if (!h.limit_dbc) continue;
    const double hz = h.order * wanted.carrier_hz;
    needs.push_back({hz, h.level.value, *h.limit_dbc, h.level.expanded()});
    wanted.lines.push_back({hz, h.level.label, h.judgement});
  }
  wanted.advice = filter_advice(wanted.carrier_hz, needs);
  return filter_card(wanted);
}

}  // namespace heron
