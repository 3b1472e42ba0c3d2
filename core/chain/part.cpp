#include "core/chain/part.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

[[noreturn]] void refuse(const Part& part, const char* field, const std::string& why,
                         const std::string& what_to_do) {
  throw InputError("part \u201c" + part.name + "\u201d", field, why, what_to_do);
}

void require_positive(const Part& part, const char* field, const std::optional<double>& value) {
  if (value && !(std::isfinite(*value) && *value > 0.0))
    refuse(part, field, "it is not a number above 0", "Omit it if it is not known");
}

}  // namespace

const std::vector<PartKind>& part_kinds() {
  static const std::vector<PartKind> kinds = {
      {"attenuator", true, false}, {"load", true, false},      {"coupler", true, false},
      {"tap", true, false},        {"cable", true, false},     {"splitter", true, false},
      {"filter", true, false},     {"probe", true, false},     {"adapter", true, false},
      {"amplifier", false, false}, {"instrument", true, true}, {"device", true, true}};
  return kinds;
}

const PartKind* find_part_kind(const std::string& id) {
  const auto& kinds = part_kinds();
  const auto found =
      std::find_if(kinds.begin(), kinds.end(), [&](const PartKind& k) { return k.id == id; });
  return found == kinds.end() ? nullptr : &*found;
}

PartInSystem::PartInSystem(const Part& part, double ohm) : part_(part) {
  if (!part.network || std::abs(part.network->reference_ohm - ohm) <= 1e-6 * ohm) return;
  converted_ = part;
  converted_->network = part.network->referred_to(ohm);
  converted_->gain = converted_->network->gain("part \u201c" + part.name + "\u201d");
}

std::optional<double> Part::input_vswr(double frequency_hz) const {
  if (vswr || !network) return vswr;
  return network->input_vswr(frequency_hz);
}

std::optional<double> Part::output_vswr(double frequency_hz) const {
  if (vswr || !network) return vswr;
  return network->output_vswr(frequency_hz);
}

std::optional<double> peak_rating_dbm(const Part& part) {
  if (part.max_input_dbm || !part.max_input_w) return part.max_input_dbm;
  return to_dbm(Watt{kPeakOverAverage * *part.max_input_w}).value;
}

void check_part(const Part& part) {
  const PartKind* kind = find_part_kind(part.kind);
  if (kind == nullptr) {
    std::string known;
    for (const PartKind& k : part_kinds()) known += (known.empty() ? "" : ", ") + k.id;
    refuse(part, "kind", "\u201c" + part.kind + "\u201d is not known", "Use one of " + known);
  }
  // A few hundredths of a dB above zero are a measured cable, not gain.
  if (kind->is_passive && part.gain.largest_db() > 0.1) {
    refuse(part, "gain_db",
           fmt::format("a passive part cannot have {:.2f} dB of gain", part.gain.largest_db()),
           "Write a loss with a minus sign, or call it an amplifier");
  }
  if (!(std::isfinite(part.u_db) && part.u_db >= 0.0))
    refuse(part, "u_db", "it is not a number of 0 or more", "Give the standard uncertainty in dB");
  if (part.vswr && !(std::isfinite(*part.vswr) && *part.vswr >= 1.0))
    refuse(part, "vswr", "it is less than 1", "A perfect match is 1");
  require_positive(part, "max_input_w", part.max_input_w);
  require_positive(part, "time_constant_s", part.time_constant_s);
  if (part.time_constant_s && !part.max_input_w)
    refuse(part, "time_constant_s", "it is given without a continuous rating",
           "Give max_input_w too");
  if (part.max_input_dbm && !std::isfinite(*part.max_input_dbm))
    refuse(part, "max_input_dbm", "it is not a number", "Omit it if it is not known");
  if (part.best_input_dbm && !(part.best_input_dbm->first < part.best_input_dbm->second))
    refuse(part, "best_input_dbm", "its lower end is not below its upper end",
           "Give [lowest, highest] in dBm");
  if (part.full_scale_dbm && !std::isfinite(*part.full_scale_dbm))
    refuse(part, "full_scale_dbm", "it is not a number", "Omit it if it is not known");
  if (part.linearity_u_db && !(*part.linearity_u_db >= 0.0))
    refuse(part, "linearity_u_db", "it is not a number of 0 or more", "Omit it if it is not known");
  if (part.calibration.interval_months && !(*part.calibration.interval_months > 0.0))
    refuse(part, "interval_months", "it is not a number above 0", "Give the months between two");
  if (part.calibration.ageing_u_db_per_month && !(*part.calibration.ageing_u_db_per_month >= 0.0))
    refuse(part, "ageing_u_db_per_month", "it is not a number of 0 or more",
           "Omit it if it is not known");
  if (!part.calibration.date.empty() &&
      !months_between(part.calibration.date, part.calibration.date))
    refuse(part, "calibrated", "it is not a date", "Write it like 2026-03-14");
}

}  // namespace heron
