#include "core/method/purity/purity.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/measure/recorder_linearity.h"
#include "core/method/purity/purity_coverage.h"
#include "core/method/purity/purity_lines.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

/// The strongest carrier's reading and its source.
std::pair<const PuritySource*, const PurityReading*> joint_carrier_of(
    const std::vector<PuritySource>& sources, double carrier_hz) {
  std::pair<const PuritySource*, const PurityReading*> best{nullptr, nullptr};
  for (const PuritySource& s : sources) {
    const PurityReading* r = carrier_in(s, carrier_hz);
    if (r != nullptr && (best.second == nullptr || r->level_dbm > best.second->level_dbm))
      best = {&s, r};
  }
  return best;
}

[[noreturn]] void refuse_without_carrier(const std::vector<PuritySource>& sources,
                                         double carrier_hz) {
  const PurityReading* strongest = nullptr;
  for (const PuritySource& s : sources) {
    for (const PurityReading& r : s.readings) {
      if (!r.is_bound && (strongest == nullptr || r.level_dbm > strongest->level_dbm))
        strongest = &r;
    }
  }
  throw InputError(
      sources.empty() ? "purity" : sources.front().name, "carrier",
      fmt::format("there is no line at {}{}", engineering_text(carrier_hz, "Hz", 6),
                  strongest == nullptr ? ""
                                       : ", the strongest line is at " +
                                             engineering_text(strongest->frequency_hz, "Hz", 8)),
      "Name the carrier as it was measured, or add the recording that holds it");
}

void add_scale_remarks(PurityAnalysis& a, const std::vector<PurityScale>& scales,
                       const PuritySource& joint) {
  constexpr double kSameCarrierDb = 1.0;
  for (const PurityScale& scale : scales) {
    if (!scale.can_refer()) {
      a.remarks.push_back(
          {"no_carrier", Severity::caution,
           fmt::format("{}: it does not show the carrier, and that it was recorded at the gain of "
                       "{} is not known: it is left out.",
                       scale.source->name, joint.name),
           "State the recorder\u2019s full scale, or that all were recorded at one gain setting"});
    } else if (a.is_absolute && scale.is_own_carrier && !scale.is_power_given && a.carrier_dbm &&
               std::abs(scale.reference_dbm - *a.carrier_dbm) > kSameCarrierDb) {
      a.remarks.push_back(
          {"carrier_differs", Severity::caution,
           fmt::format("{}: its carrier is {} dBm, that of {} {} dBm: each line is relative to its "
                       "own.",
                       scale.source->name, number_text(scale.reference_dbm, 1), joint.name,
                       number_text(*a.carrier_dbm, 1)),
           "If a notch takes it down, give the carrier\u2019s power"});
    }
  }
}

void add_remarks(PurityAnalysis& a) {
  if (!a.mask.is_none() && !a.carrier_dbm && a.mask.needs_power())
    a.remarks.push_back({"power_unknown", Severity::caution,
                         "The mask depends on the carrier\u2019s power, which is not known: lines "
                         "are not judged by it.",
                         "Give the full scale of the recorder or the power"});
  if (!a.unjudged.empty())
    a.remarks.push_back({"not_all_judged", Severity::caution,
                         "Not all of the mask is judged: " + unjudged_text(a.unjudged) + ".",
                         "Measure what is missing, or use a mask that ends where you measure"});
  int harmless = 0;
  const double near = spurious_domain_hz(a.carrier_hz);
  for (const PurityLine& line : a.lines) {
    const std::string where = engineering_text(line.frequency_hz, "Hz", 6);
    const bool is_harmless = line.judgement && line.judgement->verdict == Verdict::pass;
    const bool is_doubted = !line.doubt.empty() && line.kind != LineKind::instrument;
    harmless += is_doubted && is_harmless ? 1 : 0;
    if (is_doubted && !is_harmless)
      a.remarks.push_back({"own_line", Severity::caution,
                           fmt::format("{}: it lies where {} would be.", where, line.doubt),
                           "Record again with another centre frequency"});
    if (line.kind == LineKind::spurious && line.judgement &&
        std::abs(line.frequency_hz - a.carrier_hz) < near &&
        line.judgement->verdict != Verdict::pass)
      a.remarks.push_back(
          {"near_carrier", Severity::note,
           fmt::format("{} is {} from the carrier: nearer than {} other limits than "
                       "those for spurious emissions may apply.",
                       where, engineering_text(std::abs(line.frequency_hz - a.carrier_hz), "Hz", 3),
                       engineering_text(near, "Hz", 3)),
           ""});
    if (line.is_bound && line.judgement && line.judgement->verdict != Verdict::pass)
      a.remarks.push_back({"floor_over_mask", Severity::caution,
                           fmt::format("The floor at {} is {} dBc: too high to see whether "
                                       "the mask is kept.",
                                       where, number_text(line.floor_dbc, 1)),
                           "Measure it with a smaller bandwidth, or notch the carrier"});
  }
  if (harmless > 0)
    a.remarks.push_back({"own_line", Severity::note,
                         fmt::format("{} {} where the recorder\u2019s own centre or a mirror image "
                                     "would be, and would pass even if the device made {}.",
                                     harmless, harmless == 1 ? "line lies" : "lines lie",
                                     harmless == 1 ? "it" : "them"),
                         ""});
}

}  // namespace

std::string line_kind_name(LineKind kind) {
  switch (kind) {
    case LineKind::carrier:
      return "carrier";
    case LineKind::harmonic:
      return "harmonic";
    case LineKind::spurious:
      return "spurious";
    case LineKind::instrument:
      return "instrument";
    case LineKind::suppressed_carrier:
      return "residual carrier";
    case LineKind::opposite_sideband:
      return "opposite sideband";
    case LineKind::wide:
      return "wide noise";
  }
  return "spurious";
}

std::string line_name(const PurityLine& line) {
  if (line.kind == LineKind::harmonic) return ordinal(line.harmonic) + " harmonic";
  return line.kind == LineKind::spurious ? "non-harmonic" : line_kind_name(line.kind);
}

bool PurityLine::is_unwanted() const {
  return kind == LineKind::harmonic || kind == LineKind::spurious || kind == LineKind::wide;
}

const PurityLine* PurityAnalysis::carrier() const {
  return !lines.empty() && lines.front().kind == LineKind::carrier ? &lines.front() : nullptr;
}

const PurityLine* PurityAnalysis::worst() const {
  const PurityLine* worst_line = nullptr;
  const auto comes_first = [](const PurityLine& a, const PurityLine& b) {
    if (a.judgement && b.judgement) return is_worse(*a.judgement, *b.judgement);
    if (a.judgement || b.judgement) return a.judgement.has_value();
    return a.level_dbc > b.level_dbc;
  };
  for (const PurityLine& line : lines) {
    if (line.is_unwanted() && (worst_line == nullptr || comes_first(line, *worst_line)))
      worst_line = &line;
  }
  return worst_line;
}

Verdict PurityAnalysis::verdict() const {
  if (mask.is_none()) return Verdict::not_taken;
  Verdict all = unjudged.empty() ? Verdict::pass : Verdict::incomplete;
  for (const PurityLine& line : lines) {
    if (line.judgement) all = worse(all, line.judgement->verdict);
  }
  return all;
}

std::optional<Judgement> PurityAnalysis::judgement() const {
  const PurityLine* line = worst();
  if (line == nullptr || !line->judgement) return std::nullopt;
  Judgement j = *line->judgement;
  j.verdict = verdict();
  return j;
}

PurityAnalysis assess_purity(const std::vector<PuritySource>& sources,
                             const PuritySettings& settings) {
  PurityAnalysis a;
  a.mask = settings.mask;
  const auto [joint, carrier] = joint_carrier_of(sources, settings.carrier_hz);
  if (carrier == nullptr) refuse_without_carrier(sources, settings.carrier_hz);
  a.carrier_hz = carrier->frequency_hz;
  a.is_absolute = joint->is_absolute;
  for (const PuritySource& s : sources) {
    a.inputs.push_back(s.name);
    if (!s.is_typed) a.spectra.push_back(s.spectrum);
    a.remarks.insert(a.remarks.end(), s.remarks.begin(), s.remarks.end());
    if (s.is_absolute != a.is_absolute)
      throw InputError(s.name, "",
                       "its levels and those of " + joint->name + " are not on one scale",
                       "Give the full scale in dBm for all of them");
  }
  const std::vector<PurityScale> scales = purity_scales(sources, settings, *joint, *carrier);
  const PurityScale& main = scales[static_cast<std::size_t>(joint - sources.data())];
  const double measured = carrier->level_dbm + main.loss_db(a.carrier_hz);
  if (a.is_absolute || settings.power_dbm) a.carrier_dbm = settings.power_dbm.value_or(measured);
  if (main.chain != nullptr && !settings.power_dbm) {
    a.carrier_contributions =
        evaluate_chain(*main.chain, {0.0, false, a.carrier_hz, std::nullopt}).contributions;
    a.carrier_contributions.push_back({"noise and reading", carrier->u_db, Scope::independent});
  }

  PurityLine reference;
  reference.frequency_hz = a.carrier_hz;
  reference.kind = LineKind::carrier;
  reference.harmonic = 1;
  reference.as_read_dbm = carrier->level_dbm;
  reference.correction_db = main.loss_db(a.carrier_hz);
  reference.level_dbm = measured;
  reference.level_dbc = measured - main.reference_dbm;
  reference.floor_dbc = carrier->floor_dbm + reference.correction_db - main.reference_dbm;
  reference.source = joint->name;
  reference.typed = carrier->typed;
  a.lines = merged_lines(scales, settings, a.carrier_hz, a.remarks);
  for (PurityLine& line : a.lines) judge_line(line, a.mask, a.carrier_hz, a.carrier_dbm);
  std::sort(a.lines.begin(), a.lines.end(), [](const PurityLine& x, const PurityLine& y) {
    return x.frequency_hz < y.frequency_hz;
  });
  a.lines.insert(a.lines.begin(), std::move(reference));
  a.unjudged = unjudged_ranges(a, scales);
  if (main.chain != nullptr && a.carrier_dbm) {
    // Each recording says how long it was keyed; a trace or a typed list does not.
    Drive drive{*a.carrier_dbm, false, a.carrier_hz, std::nullopt};
    for (const PuritySource& s : sources) {
      if (s.duration_s > 0.0)
        drive.key_down_s = std::max(drive.key_down_s.value_or(0.0), s.duration_s);
    }
    const ChainResult levels = evaluate_chain(*main.chain, drive);
    a.remarks.insert(a.remarks.end(), levels.remarks.begin(), levels.remarks.end());
  }
  if (!main.is_power_given)
    add_linearity_remark(a.remarks, recorder_linearity(settings.linearity_u_db, main.chain),
                         main.chain != nullptr);
  add_scale_remarks(a, scales, *joint);
  add_remarks(a);
  sort_remarks(a.remarks);
  return a;
}

std::optional<Figure> carrier_figure(const PurityAnalysis& a) {
  if (!a.carrier_dbm) return std::nullopt;
  return Figure{"carrier", "Carrier",       *a.carrier_dbm,
                "dBm",     "at the device", a.carrier_contributions};
}

Figure line_figure(const PurityLine& line) {
  Figure f;
  f.id = line.harmonic > 1 ? fmt::format("h{}", line.harmonic)
                           : fmt::format("{}_{:.0f}", line.kind == LineKind::wide ? "wide" : "spur",
                                         line.frequency_hz);
  f.label = line.harmonic > 1 ? fmt::format("Harmonic {}", line.harmonic)
                              : engineering_text(line.frequency_hz, "Hz", 6);
  f.value = line.level_dbc;
  f.unit = "dB";
  f.convention = kReCarrier;
  f.contributions = line_contributions(line, 1.0);
  f.bound = line.is_bound ? Bound::upper : Bound::none;
  return f;
}

void compare_attenuation(PurityAnalysis& first, const PuritySource& second, double added_db) {
  for (PurityLine& line : first.lines) {
    if (line.kind == LineKind::carrier || line.is_bound) continue;
    const auto same = std::find_if(second.readings.begin(), second.readings.end(),
                                   [&](const PurityReading& other) {
                                     return std::abs(other.frequency_hz - line.frequency_hz) <=
                                            2e-6 * line.frequency_hz + 10.0;
                                   });
    // Where the second take shows nothing, not even a floor, nothing is known.
    if (same == second.readings.end()) continue;
    const double fall = line.as_read_dbm - same->level_dbm;
    if (fall <= 1.5 * added_db) continue;
    line.kind = LineKind::instrument;
    line.judgement.reset();
    first.remarks.push_back(
        {"made_by_instrument", Severity::caution,
         fmt::format("{}: it fell by {} dB for {} dB more attenuation, so the instrument makes it.",
                     engineering_text(line.frequency_hz, "Hz", 6),
                     (same->is_bound ? "at least " : "") + number_text(fall, 1),
                     number_text(added_db, 1)),
         ""});
  }
  sort_remarks(first.remarks);
}

std::vector<FilterAdvice> advise_filter(const PurityAnalysis& a, double headroom) {
  std::vector<FilterNeed> needs;
  bool is_needed = false;
  for (const PurityLine& line : a.lines) {
    if (!line.limit_dbc || !line.judgement || line.frequency_hz <= a.carrier_hz * headroom)
      continue;
    needs.push_back({line.frequency_hz, line.level_dbc, *line.limit_dbc,
                     line.is_bound ? 0.0 : line_figure(line).expanded()});
    is_needed = is_needed || (line.judgement->verdict != Verdict::pass && !line.is_bound);
  }
  return is_needed ? filter_advice(a.carrier_hz, needs, headroom) : std::vector<FilterAdvice>{};
}

Result to_result(const PurityAnalysis& a) {
  Result r;
  r.method = "purity";
  r.inputs = a.inputs;
  r.curves = a.spectra;
  r.remarks = a.remarks;
  if (const auto carrier = carrier_figure(a)) r.figures.push_back(*carrier);
  for (const PurityLine& line : a.lines) {
    if (line.kind != LineKind::carrier) r.figures.push_back(line_figure(line));
  }
  if (const PurityLine* worst = a.worst()) {
    Figure f = line_figure(*worst);
    r.headline_id = f.id;
    if (worst->judgement) {
      f.contributions = line_contributions(*worst, worst->limit_carrier_share);
      f.id = "margin";
      f.label = "Least margin to the mask, " + f.label;
      f.value = worst->judgement->margin;
      f.convention = "to the mask";
      f.bound = worst->is_bound ? Bound::lower : Bound::none;
      r.headline_id = f.id;
      r.figures.push_back(f);
    }
  }
  return r;
}

}  // namespace heron
