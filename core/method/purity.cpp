#include "core/method/purity.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/recorder_linearity.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

struct Seen {
  const PuritySource* source;
  const PurityReading* reading;
};

/// The carrier's reading. A typed list names it at its nominal frequency.
Seen carrier_of(const std::vector<PuritySource>& sources, double carrier_hz) {
  Seen best{nullptr, nullptr};
  for (const PuritySource& s : sources) {
    const PurityReading* r = carrier_in(s, carrier_hz);
    if (r != nullptr && (best.reading == nullptr || r->level_dbm > best.reading->level_dbm))
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
      fmt::format("nothing stands at {}{}", engineering_text(carrier_hz, "Hz", 6),
                  strongest == nullptr ? ""
                                       : ", the strongest line is at " +
                                             engineering_text(strongest->frequency_hz, "Hz", 8)),
      "Name the carrier as it was measured, or add the recording that holds it");
}

/// The same place seen twice: what one source saw clearly counts, and of two clear ones the one
/// with the lower floor.
bool is_better(const PurityReading& a, const PurityReading& b) {
  if (a.is_bound != b.is_bound) return !a.is_bound;
  if (a.is_bound) return a.level_dbm < b.level_dbm;
  if (a.doubt.empty() != b.doubt.empty()) return a.doubt.empty();
  return a.floor_dbm < b.floor_dbm;
}

std::vector<Seen> merged(const std::vector<PuritySource>& sources) {
  std::vector<Seen> out;
  for (const PuritySource& s : sources) {
    for (const PurityReading& r : s.readings) {
      const double within = 4.0 * s.resolution_hz + 2e-6 * r.frequency_hz;
      const auto same = std::find_if(out.begin(), out.end(), [&](const Seen& other) {
        return other.source != &s && std::abs(other.reading->frequency_hz - r.frequency_hz) <=
                                         std::max(within, 4.0 * other.source->resolution_hz);
      });
      if (same == out.end())
        out.push_back({&s, &r});
      else if (is_better(r, *same->reading))
        *same = {&s, &r};
    }
  }
  // Doubted where one recording put its centre, and absent where another looked at the same place:
  // it was the recorder's.
  std::erase_if(out, [&](const Seen& seen) {
    return !seen.reading->doubt.empty() &&
           std::any_of(sources.begin(), sources.end(), [&](const PuritySource& other) {
             return &other != seen.source && other.covers(seen.reading->frequency_hz);
           });
  });
  return out;
}

std::vector<Contribution> path_contributions(const Chain& chain, double frequency_hz) {
  std::vector<Contribution> path =
      evaluate_chain(chain, {0.0, false, frequency_hz, std::nullopt}).contributions;
  const Part* recorder = recorder_of(chain);
  if (recorder != nullptr)
    std::erase_if(path, [&](const Contribution& c) { return c.source == recorder->name; });
  return path;
}

/// The instrument's own scale: between two lines, or for the level of one where the carrier's power
/// is given.
Contribution scale_contribution(const PuritySettings& settings, const Chain* chain) {
  const Part* recorder = chain != nullptr ? recorder_of(*chain) : nullptr;
  if (settings.power_dbm) {
    if (recorder != nullptr && recorder->u_db > 0.0)
      return {"scale of " + recorder->name, recorder->u_db, Scope::common};
    return {kAssumedLevel, kAssumedU, Scope::common};
  }
  return recorder_linearity(settings.linearity_u_db, chain).contribution();
}

/// What does not cancel between a line and the carrier: both readings, the hook-up at both
/// frequencies, and the instrument's scale.
std::vector<Contribution> ratio_contributions(const PuritySettings& settings, const Chain* chain,
                                              double line_hz, double line_u,
                                              const Chain* carrier_chain, double carrier_hz,
                                              double carrier_u) {
  std::vector<Contribution> out{{"noise and reading of the line", line_u, Scope::independent}};
  const bool is_power_given = settings.power_dbm.has_value();
  if (carrier_u > 0.0 && !is_power_given)
    out.push_back({"reading of the carrier", carrier_u, Scope::independent});
  if (chain != nullptr) {
    for (const Contribution& c : path_contributions(*chain, line_hz)) out.push_back(c);
    if (!is_power_given && carrier_chain != nullptr) {
      for (Contribution c : path_contributions(*carrier_chain, carrier_hz)) {
        c.source += ", at the carrier";
        out.push_back(c);
      }
    }
  }
  out.push_back(scale_contribution(settings, chain));
  std::erase_if(out,
                [](const Contribution& c) { return c.u == 0.0 && !c.source.starts_with("noise"); });
  return out;
}

int harmonic_number(double frequency_hz, double carrier_hz, double resolution_hz) {
  const double n = std::round(frequency_hz / carrier_hz);
  if (n < 2.0 || n > 99.0) return 0;
  return std::abs(frequency_hz - n * carrier_hz) <= 4.0 * resolution_hz + 2e-6 * frequency_hz
             ? static_cast<int>(n)
             : 0;
}

/// Whether a line is the suppressed carrier or what mirrors the tone in it.
std::optional<LineKind> sideband_kind(double hz, double tone_hz, double resolution_hz,
                                      const std::optional<double>& dial_hz) {
  if (!dial_hz) return std::nullopt;
  // A dial is off by its reference, some parts in a million.
  const double within = 4.0 * resolution_hz + 5e-6 * *dial_hz;
  if (std::abs(hz - *dial_hz) <= within) return LineKind::suppressed_carrier;
  if (std::abs(hz - (2.0 * *dial_hz - tone_hz)) <= 2.0 * within) return LineKind::opposite_sideband;
  return std::nullopt;
}

void judge_line(PurityLine& line, const PurityAnalysis& a) {
  line.limit_dbc = mask_limit_dbc(a.mask, {a.carrier_hz, a.carrier_dbm}, line.frequency_hz);
  if (line.kind == LineKind::suppressed_carrier || line.kind == LineKind::opposite_sideband) {
    line.limit_dbc.reset();
    return;
  }
  if (!line.limit_dbc || line.kind == LineKind::instrument) return;
  line.judgement = judge(line_figure(line), Limit{a.mask.name, Sense::at_most, *line.limit_dbc,
                                                  "dB", kReCarrier, 20.0});
}

void add_remarks(PurityAnalysis& a) {
  if (!a.mask.is_none() && !a.carrier_dbm && a.mask.needs_power())
    a.remarks.push_back({"power_unknown", Severity::caution,
                         "The mask depends on the carrier\u2019s power, which is not known: lines "
                         "are not judged by it.",
                         "Give the full scale of the recorder or the power"});
  int harmless = 0;
  const double near = spurious_domain_hz(a.carrier_hz);
  for (const PurityLine& line : a.lines) {
    const std::string where = engineering_text(line.frequency_hz, "Hz", 6);
    const bool is_harmless = line.judgement && line.judgement->verdict == Verdict::pass;
    const bool is_doubted = !line.doubt.empty() && line.kind != LineKind::instrument;
    harmless += is_doubted && is_harmless ? 1 : 0;
    if (is_doubted && !is_harmless)
      a.remarks.push_back({"own_line", Severity::caution,
                           fmt::format("{}: it stands where {} would be.", where, line.doubt),
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
                           fmt::format("The floor at {} stands at {} dBc: too high to see whether "
                                       "the mask is kept.",
                                       where, number_text(line.floor_dbc, 1)),
                           "Take it with a smaller bandwidth, or notch the carrier"});
  }
  if (harmless > 0)
    a.remarks.push_back({"own_line", Severity::note,
                         fmt::format("{} {} where the recorder\u2019s own centre or a mirror image "
                                     "would be, and would pass even if the device made {}.",
                                     harmless, harmless == 1 ? "line stands" : "lines stand",
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
      return "suppressed carrier";
    case LineKind::opposite_sideband:
      return "opposite sideband";
  }
  return "spurious";
}

const PurityLine* PurityAnalysis::carrier() const {
  return !lines.empty() && lines.front().kind == LineKind::carrier ? &lines.front() : nullptr;
}

const PurityLine* PurityAnalysis::worst() const {
  const PurityLine* worst = nullptr;
  for (const PurityLine& line : lines) {
    if (line.kind != LineKind::harmonic && line.kind != LineKind::spurious) continue;
    if (worst == nullptr) {
      worst = &line;
      continue;
    }
    if (line.judgement.has_value() != worst->judgement.has_value()) {
      if (line.judgement) worst = &line;
      continue;
    }
    const bool is_worse = line.judgement ? line.judgement->margin < worst->judgement->margin
                                         : line.level_dbc > worst->level_dbc;
    if (is_worse) worst = &line;
  }
  return worst;
}

PurityAnalysis assess_purity(const std::vector<PuritySource>& sources,
                             const PuritySettings& settings) {
  PurityAnalysis a;
  a.mask = settings.mask;
  const Seen carrier = carrier_of(sources, settings.carrier_hz);
  if (carrier.reading == nullptr) refuse_without_carrier(sources, settings.carrier_hz);
  a.carrier_hz = carrier.reading->frequency_hz;
  a.is_absolute = carrier.source->is_absolute;
  for (const PuritySource& s : sources) {
    a.inputs.push_back(s.name);
    if (!s.is_typed) a.spectra.push_back(s.spectrum);
    a.remarks.insert(a.remarks.end(), s.remarks.begin(), s.remarks.end());
    if (s.is_absolute != a.is_absolute)
      throw InputError(s.name, "",
                       "its levels and those of " + carrier.source->name + " are not on one scale",
                       "Give the full scale in dBm for all of them");
  }
  const auto chain_of = [&](const PuritySource& s) -> const Chain* {
    if (s.chain) return &*s.chain;
    return settings.chain ? &*settings.chain : nullptr;
  };
  const auto loss_at = [&](const PuritySource& s, double f) {
    const Chain* chain = chain_of(s);
    return chain != nullptr ? -total_gain_db(*chain, f) : 0.0;
  };
  const Chain* carrier_chain = chain_of(*carrier.source);
  const double measured = carrier.reading->level_dbm + loss_at(*carrier.source, a.carrier_hz);
  if (a.is_absolute || settings.power_dbm) a.carrier_dbm = settings.power_dbm.value_or(measured);
  const double reference = a.is_absolute && settings.power_dbm ? *settings.power_dbm : measured;
  // A given power replaces the measured one only where both are on one scale.
  PuritySettings effective = settings;
  if (!a.is_absolute) effective.power_dbm.reset();
  if (carrier_chain != nullptr && !settings.power_dbm) {
    a.carrier_contributions =
        evaluate_chain(*carrier_chain, {0.0, false, a.carrier_hz, std::nullopt}).contributions;
    a.carrier_contributions.push_back(
        {"noise and reading", carrier.reading->u_db, Scope::independent});
  }

  for (const Seen& seen : merged(sources)) {
    const PurityReading& r = *seen.reading;
    PurityLine line;
    line.frequency_hz = r.frequency_hz;
    line.as_read_dbm = r.level_dbm;
    line.correction_db = loss_at(*seen.source, r.frequency_hz);
    line.level_dbm = r.level_dbm + line.correction_db;
    line.level_dbc = line.level_dbm - reference;
    line.floor_dbc = r.floor_dbm + line.correction_db - reference;
    line.is_bound = r.is_bound;
    line.doubt = r.doubt;
    line.source = seen.source->name;
    line.typed = r.typed;
    if (&r == carrier.reading) {
      line.kind = LineKind::carrier;
      line.harmonic = 1;
      line.doubt.clear();
    } else if (std::abs(r.frequency_hz - a.carrier_hz) < 4.0 * seen.source->resolution_hz) {
      continue;  // the carrier, seen once more
    } else {
      line.harmonic = harmonic_number(r.frequency_hz, a.carrier_hz, seen.source->resolution_hz);
      line.kind = line.harmonic > 0 ? LineKind::harmonic : LineKind::spurious;
      if (const auto kind = sideband_kind(r.frequency_hz, a.carrier_hz, seen.source->resolution_hz,
                                          settings.suppressed_carrier_hz))
        line.kind = *kind;
      if (!r.is_bound)
        line.contributions =
            ratio_contributions(effective, chain_of(*seen.source), r.frequency_hz, r.u_db,
                                carrier_chain, a.carrier_hz, carrier.reading->u_db);
      judge_line(line, a);
    }
    a.lines.push_back(std::move(line));
  }
  std::sort(a.lines.begin(), a.lines.end(), [](const PurityLine& x, const PurityLine& y) {
    if ((x.kind == LineKind::carrier) != (y.kind == LineKind::carrier))
      return x.kind == LineKind::carrier;
    return x.frequency_hz < y.frequency_hz;
  });
  if (carrier_chain != nullptr && a.carrier_dbm) {
    // Each recording says how long it was keyed; a trace or a typed list does not.
    Drive drive{*a.carrier_dbm, false, a.carrier_hz, std::nullopt};
    for (const PuritySource& s : sources) {
      if (s.duration_s > 0.0)
        drive.key_down_s = std::max(drive.key_down_s.value_or(0.0), s.duration_s);
    }
    const ChainResult levels = evaluate_chain(*carrier_chain, drive);
    a.remarks.insert(a.remarks.end(), levels.remarks.begin(), levels.remarks.end());
  }
  if (!effective.power_dbm)
    add_linearity_remark(a.remarks, recorder_linearity(settings.linearity_u_db, carrier_chain),
                         carrier_chain != nullptr);
  add_remarks(a);
  sort_remarks(a.remarks);
  return a;
}

Figure line_figure(const PurityLine& line) {
  Figure f;
  f.id = line.harmonic > 1 ? fmt::format("h{}", line.harmonic)
                           : fmt::format("spur_{:.0f}", line.frequency_hz);
  f.label = line.harmonic > 1 ? fmt::format("Harmonic {}", line.harmonic)
                              : engineering_text(line.frequency_hz, "Hz", 6);
  f.value = line.level_dbc;
  f.unit = "dB";
  f.convention = kReCarrier;
  f.contributions = line.contributions;
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
  if (a.carrier_dbm)
    r.figures.push_back({"carrier", "Carrier", *a.carrier_dbm, "dBm", "at the device",
                         a.carrier_contributions, Bound::none});
  for (const PurityLine& line : a.lines) {
    if (line.kind != LineKind::carrier) r.figures.push_back(line_figure(line));
  }
  if (const PurityLine* worst = a.worst()) {
    Figure f = line_figure(*worst);
    r.headline_id = f.id;
    if (worst->judgement) {
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
