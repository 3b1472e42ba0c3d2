#include "core/method/purity/purity_lines.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/measure/recorder_linearity.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

/// A reading on its source's scale.
struct Candidate {
  PurityLine line;
  const PurityScale* scale = nullptr;
  double within_hz = 0.0;  ///< how far another reading of the same place may lie
};

std::vector<Contribution> path_contributions(const Chain& chain, double frequency_hz) {
  std::vector<Contribution> path =
      evaluate_chain(chain, {0.0, false, frequency_hz, std::nullopt}).contributions;
  const Part* recorder = recorder_of(chain);
  if (recorder != nullptr)
    std::erase_if(path, [&](const Contribution& c) { return c.source == recorder->name; });
  return path;
}

Contribution scale_contribution(const Chain* chain) {
  const Part* recorder = chain != nullptr ? recorder_of(*chain) : nullptr;
  if (recorder != nullptr && recorder->u_db > 0.0)
    return {"scale of " + recorder->name, recorder->u_db, Scope::common};
  return {kAssumedLevel, kAssumedU, Scope::common};
}

/// So near, as a share of the carrier's frequency, a hook-up errs at a line as it does at the
/// carrier: what it is off by leaves their ratio.
constexpr double kSamePathShare = 0.05;

bool is_same_path(const PurityScale& scale, double frequency_hz) {
  return scale.carrier != nullptr && scale.chain == scale.carrier_chain &&
         std::abs(frequency_hz / scale.carrier->frequency_hz - 1.0) <= kSamePathShare;
}

LineBudget budget_of(const PurityScale& scale, const PurityReading& reading,
                     const PuritySettings& settings) {
  LineBudget budget;
  if (!reading.is_bound)
    budget.line.push_back({"noise and reading of the line", reading.u_db, Scope::independent});
  const bool is_path_alike = is_same_path(scale, reading.frequency_hz);
  if (scale.chain != nullptr) {
    auto& path = is_path_alike ? budget.same_path : budget.line;
    for (const Contribution& c : path_contributions(*scale.chain, reading.frequency_hz))
      path.push_back(c);
  }
  if (scale.carrier != nullptr) {
    if (scale.carrier->u_db > 0.0)
      budget.carrier.push_back({"reading of the carrier", scale.carrier->u_db, Scope::independent});
    if (scale.carrier_chain != nullptr && !is_path_alike) {
      for (Contribution c : path_contributions(*scale.carrier_chain, scale.carrier->frequency_hz)) {
        c.source += ", at the carrier";
        budget.carrier.push_back(std::move(c));
      }
    }
  }
  budget.scale = scale_contribution(scale.chain);
  budget.linearity = recorder_linearity(settings.linearity_u_db, scale.chain).contribution();
  // A stated power is on no instrument's scale; without full scale all levels are ratios to it.
  if (scale.is_power_given) budget.fixed_share = 0.0;
  if (!scale.source->is_absolute) budget.fixed_share = 1.0;
  return budget;
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

Candidate candidate_of(const PurityScale& scale, const PurityReading& r,
                       const PuritySettings& settings, double carrier_hz) {
  const PuritySource& s = *scale.source;
  Candidate c;
  c.scale = &scale;
  c.within_hz = 4.0 * s.resolution_hz + 2e-6 * r.frequency_hz;
  PurityLine& line = c.line;
  line.frequency_hz = r.frequency_hz;
  line.as_read_dbm = r.level_dbm;
  line.correction_db = scale.loss_db(r.frequency_hz);
  line.level_dbm = r.level_dbm + line.correction_db;
  line.level_dbc = line.level_dbm - scale.reference_dbm;
  line.floor_dbc = r.floor_dbm + line.correction_db - scale.reference_dbm;
  if (!s.is_absolute && settings.power_dbm) line.level_dbm = *settings.power_dbm + line.level_dbc;
  line.is_bound = r.is_bound;
  line.doubt = r.doubt;
  line.source = s.name;
  line.typed = r.typed;
  line.harmonic = harmonic_number(r.frequency_hz, carrier_hz, s.resolution_hz);
  line.kind = r.is_wide           ? LineKind::wide
              : line.harmonic > 0 ? LineKind::harmonic
                                  : LineKind::spurious;
  if (r.is_wide) line.harmonic = 0;
  if (const auto kind = sideband_kind(r.frequency_hz, carrier_hz, s.resolution_hz,
                                      settings.suppressed_carrier_hz))
    line.kind = *kind;
  line.budget = budget_of(scale, r, settings);
  return c;
}

bool is_clear(const Candidate& c) {
  return !c.line.is_bound && c.line.doubt.empty();
}

double expanded(const Candidate& c) {
  return line_figure(c.line).expanded();
}

/// Whether another source would have shown a line of this level at this place.
bool could_see(const PurityScale& other, const PurityLine& line, double guard_db) {
  const auto from = other.sees_from_dbc(line.frequency_hz);
  return from && *from < line.level_dbc - guard_db;
}

/// One place as several sources saw it.
class LinePlace {
 public:
  explicit LinePlace(Candidate first) : seen_{std::move(first)} {}

  bool holds(const Candidate& c) const {
    const bool is_near = std::any_of(seen_.begin(), seen_.end(), [&](const Candidate& other) {
      return std::abs(other.line.frequency_hz - c.line.frequency_hz) <=
             std::max(other.within_hz, c.within_hz);
    });
    return is_near && std::none_of(seen_.begin(), seen_.end(),
                                   [&](const Candidate& other) { return other.scale == c.scale; });
  }
  void add(Candidate c) { seen_.push_back(std::move(c)); }

  /// What counts; nullopt where it was a recorder's own.
  std::optional<PurityLine> line(const std::vector<PurityScale>& scales,
                                 std::vector<Remark>& remarks) const {
    const Candidate* best = nullptr;
    for (const Candidate& c : seen_) {
      if (is_clear(c) && (best == nullptr || expanded(c) < expanded(*best))) best = &c;
    }
    if (best != nullptr) return clear_line(*best, scales, remarks);
    const Candidate* bound = nullptr;
    for (const Candidate& c : seen_) {
      if (c.line.is_bound && (bound == nullptr || c.line.level_dbc < bound->line.level_dbc))
        bound = &c;
    }
    for (const Candidate& c : seen_) {
      if (c.line.is_bound) continue;
      // Doubted where one recording put its centre: gone only where another could have seen it.
      const double guard = expanded(c);
      const bool is_contradicted =
          (bound != nullptr &&
           bound->line.level_dbc + expanded(*bound) < c.line.level_dbc - guard) ||
          std::any_of(scales.begin(), scales.end(), [&](const PurityScale& other) {
            return !has(other) && could_see(other, c.line, guard);
          });
      if (!is_contradicted && (best == nullptr || c.line.level_dbc > best->line.level_dbc))
        best = &c;
    }
    if (best != nullptr) return best->line;
    return bound != nullptr ? std::optional(bound->line) : std::nullopt;
  }

 private:
  bool has(const PurityScale& scale) const {
    return std::any_of(seen_.begin(), seen_.end(),
                       [&](const Candidate& c) { return c.scale == &scale; });
  }

  PurityLine clear_line(const Candidate& surest, const std::vector<PurityScale>& scales,
                        std::vector<Remark>& remarks) const {
    const Candidate* best = &surest;
    const Candidate* other = nullptr;
    for (const Candidate& c : seen_) {
      if (!is_clear(c) || &c == &surest) continue;
      if (std::abs(c.line.level_dbc - surest.line.level_dbc) <=
          std::hypot(expanded(c), expanded(surest)))
        continue;
      other = &c;
      if (c.line.level_dbc > best->line.level_dbc) best = &c;
    }
    const std::string where = engineering_text(best->line.frequency_hz, "Hz", 6);
    if (other != nullptr) {
      const Candidate& low = best == other ? surest : *other;
      remarks.push_back(
          {"sources_differ", Severity::caution,
           fmt::format("{}: {} dBc in {}, {} dBc in {}, more than their \u00b1 allows: the higher "
                       "one counts.",
                       where, number_text(best->line.level_dbc, 1), best->line.source,
                       number_text(low.line.level_dbc, 1), low.line.source),
           "Measure both again with the device settled"});
      return best->line;
    }
    for (const PurityScale& scale : scales) {
      const bool is_absent = std::none_of(seen_.begin(), seen_.end(), [&](const Candidate& c) {
        return c.scale == &scale && !c.line.is_bound;
      });
      if (!is_absent || !could_see(scale, best->line, 3.0 + expanded(*best))) continue;
      remarks.push_back(
          {"seen_once", Severity::note,
           fmt::format("{}: {} dBc in {}, and not in {}, which could have shown it.", where,
                       number_text(best->line.level_dbc, 1), best->line.source, scale.source->name),
           ""});
      break;
    }
    return best->line;
  }

  std::vector<Candidate> seen_;
};

}  // namespace

double PurityScale::carrier_width_hz() const {
  return 4.0 * source->resolution_hz;
}

double PurityScale::loss_db(double frequency_hz) const {
  return chain != nullptr ? -total_gain_db(*chain, frequency_hz) : 0.0;
}

std::optional<double> PurityScale::sees_from_dbc(double frequency_hz) const {
  if (!can_refer()) return std::nullopt;
  const auto from = source->sees_from_dbm(frequency_hz);
  if (!from) return std::nullopt;
  try {
    return *from + loss_db(frequency_hz) - reference_dbm;
  } catch (const InputError&) {
    return std::nullopt;  // what the hook-up loses there is not known
  }
}

std::vector<PurityScale> purity_scales(const std::vector<PuritySource>& sources,
                                       const PuritySettings& settings, const PuritySource& joint,
                                       const PurityReading& joint_carrier) {
  const auto chain_of = [&](const PuritySource& s) -> const Chain* {
    if (s.chain) return &*s.chain;
    return settings.chain ? &*settings.chain : nullptr;
  };
  std::vector<PurityScale> scales;
  for (const PuritySource& s : sources) {
    PurityScale scale;
    scale.source = &s;
    scale.chain = chain_of(s);
    scale.carrier = carrier_in(s, settings.carrier_hz);
    scale.carrier_chain = scale.chain;
    scale.is_own_carrier = scale.carrier != nullptr;
    const bool is_same_scale = s.is_absolute || s.is_typed || settings.is_same_gain;
    if (scale.carrier == nullptr && is_same_scale) {
      scale.carrier = &joint_carrier;
      scale.carrier_chain = chain_of(joint);
    }
    if (scale.carrier != nullptr) {
      const double loss = scale.carrier_chain != nullptr
                              ? -total_gain_db(*scale.carrier_chain, scale.carrier->frequency_hz)
                              : 0.0;
      scale.reference_dbm = scale.carrier->level_dbm + loss;
    }
    if (s.is_absolute && settings.power_dbm) {
      scale.is_power_given = true;
      scale.reference_dbm = *settings.power_dbm;
    }
    scales.push_back(scale);
  }
  return scales;
}

std::vector<PurityLine> merged_lines(const std::vector<PurityScale>& scales,
                                     const PuritySettings& settings, double carrier_hz,
                                     std::vector<Remark>& remarks) {
  std::vector<LinePlace> places;
  for (const PurityScale& scale : scales) {
    if (!scale.can_refer()) continue;
    for (const PurityReading& r : scale.source->readings) {
      const double own = scale.is_own_carrier ? scale.carrier->frequency_hz : carrier_hz;
      if (&r == scale.carrier || std::abs(r.frequency_hz - own) < scale.carrier_width_hz())
        continue;  // the carrier
      Candidate c = candidate_of(scale, r, settings, carrier_hz);
      const auto same = std::find_if(places.begin(), places.end(),
                                     [&](const LinePlace& place) { return place.holds(c); });
      if (same == places.end())
        places.emplace_back(std::move(c));
      else
        same->add(std::move(c));
    }
  }
  std::vector<PurityLine> lines;
  for (const LinePlace& place : places) {
    if (auto line = place.line(scales, remarks)) lines.push_back(std::move(*line));
  }
  return lines;
}

std::vector<Contribution> line_contributions(const PurityLine& line, double carrier_share) {
  const LineBudget& b = line.budget;
  const double share = b.fixed_share.value_or(carrier_share);
  std::vector<Contribution> out = b.line;
  const auto add = [&](Contribution c, double sensitivity) {
    c.u *= std::abs(sensitivity);
    if (c.u > 0.0) out.push_back(std::move(c));
  };
  for (const Contribution& c : b.carrier) add(c, share);
  for (const Contribution& c : b.same_path) add(c, 1.0 - share);
  add(b.scale, 1.0 - share);
  add(b.linearity, share);
  std::erase_if(out,
                [](const Contribution& c) { return c.u == 0.0 && !c.source.starts_with("noise"); });
  return out;
}

}  // namespace heron
