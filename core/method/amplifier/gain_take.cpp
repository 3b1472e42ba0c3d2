#include "core/method/amplifier/gain_take.h"

#include <algorithm>
#include <cmath>

#include "core/error.h"
#include "core/method/live_quantity.h"
#include "core/method/measure/path_level.h"
#include "core/method/meter_reading.h"
#include "core/quantity/drive_label.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kRepeatsU = 0.02;    // dB: the last digit of a hand-held meter
constexpr double kLinearityU = 0.03;  // dB: of one meter between two levels
constexpr double kBypassU = 0.05;     // dB: of the cable that stands for the device

/// Instruments' readings are referred to the device when they are kept.
bool is_read_at_its_place(const Reading& r) {
  return r.source == ReadingSource::typed || r.source == ReadingSource::imported;
}

/// From the device to the instrument. InputError where nobody can tell.
struct Path {
  Path(const Evidence& evidence, std::optional<double> frequency_hz) {
    if (!evidence.hookup || evidence.hookup->parts.empty())
      throw InputError("the hook-up", "", "it is not described",
                       "Describe it, or choose that attenuation is counted in");
    gain_db = total_gain_db(*evidence.hookup, frequency_hz.value_or(0.0));
    for (const Part& part : evidence.hookup->parts)
      if (!part.is_gain_known)
        throw InputError(part.name, "", "its loss is not entered", "Enter it on the bench");
    contributions = level_contributions(*evidence.hookup, frequency_hz.value_or(0.0));
  }
  double gain_db = 0.0;
  std::vector<Contribution> contributions;
};

/// A reading at the device. `at` says where somebody typed it; instruments are referred already.
/// InputError where it cannot be referred.
Figure at_device(const Reading& r, ReadAt at, const Evidence& evidence,
                 const std::optional<double>& frequency_hz, const GainSettings& s,
                 std::optional<double> expanded_db, const char* source, const char* label) {
  Figure f = to_figure(r, label);
  f.unit = "dBm";
  f.convention.clear();
  const double u = expanded_db ? *expanded_db / 2.0 : r.u;
  f.contributions = {{source, u, Scope::common}, {"one reading", kRepeatsU, Scope::independent}};
  // A power meter that was read live was referred as if it added nothing by itself.
  if (r.source == ReadingSource::live) f.value -= s.meter_offset_db.value_or(0.0);
  if (at == ReadAt::device || !is_read_at_its_place(r)) return f;
  const Path path(evidence, frequency_hz);
  f.value -= path.gain_db;
  for (const Contribution& c : path.contributions) f.contributions.push_back(c);
  if (at == ReadAt::power_meter) f.value -= s.meter_offset_db.value_or(0.0);
  if (at != ReadAt::power_meter) f.value += probe_loss(s.probe).value;
  return f;
}

}  // namespace

std::string step_refusal(const EvidenceStep& step, const Evidence& evidence,
                         const GainSettings& s) {
  const auto is_referred = [&](const Reading& r) {
    if (!is_read_at_its_place(r)) return false;
    const bool is_output =
        r.quantity == kOutputReading || (r.quantity == kDriveReading && s.is_one_meter);
    return (is_output && s.read_at != ReadAt::device) ||
           (r.quantity == kSecondReading && s.second_at && *s.second_at != ReadAt::device);
  };
  if (std::none_of(step.readings.begin(), step.readings.end(), is_referred)) return "";
  try {
    const Path path(evidence, step_frequency_hz(step, evidence.drive));
    return "";
  } catch (const InputError& error) {
    return "its level cannot be referred to the device: " + error.subject + ", " + error.reason;
  }
}

std::optional<Figure> drive_figure(const EvidenceStep& step, ReadingRole role,
                                   const Evidence& evidence, const GainSettings& s) {
  const Reading* r = find_reading(step.readings, kDriveReading, role);
  if (r == nullptr) return std::nullopt;
  if (!s.is_one_meter)
    return at_device(*r, ReadAt::device, evidence, step_frequency_hz(step, evidence.drive), s,
                     s.input_expanded_db, "drive level", "Drive");
  // One meter, one chain: what both are off by is the same.
  Figure f = at_device(*r, s.read_at, evidence, step_frequency_hz(step, evidence.drive), s,
                       s.output_expanded_db, "power meter", "Drive");
  f.value += s.bypass_loss_db;
  f.contributions.push_back({"bypass loss", kBypassU, Scope::common});
  f.contributions.push_back({"linearity of the meter", kLinearityU, Scope::common});
  return f;
}

std::optional<Figure> output_figure(const EvidenceStep& step, const Evidence& evidence,
                                    const GainSettings& s) {
  const Reading* r = find_reading(step.readings, kOutputReading);
  if (r == nullptr) return std::nullopt;
  return at_device(*r, s.read_at, evidence, step_frequency_hz(step, evidence.drive), s,
                   s.output_expanded_db, s.is_one_meter ? "power meter" : "output level", "Output");
}

std::optional<Figure> mean_figure(const EvidenceStep& step, const char* quantity,
                                  const char* label) {
  std::optional<Figure> mean;
  int count = 0;
  for (const ReadingRole role : {ReadingRole::before, ReadingRole::at, ReadingRole::after}) {
    const Reading* r = find_reading(step.readings, quantity, role);
    if (r == nullptr) continue;
    if (!mean)
      mean = to_figure(*r, label);
    else
      mean->value += r->value;
    ++count;
  }
  if (mean) mean->value /= count;
  return mean;
}

std::vector<DrivenStep> driven_steps(const Evidence& evidence) {
  const GainSettings s = gain_settings_from_json(evidence.settings);
  std::vector<DrivenStep> steps;
  for (const EvidenceStep& from : evidence.steps) {
    DrivenStep to;
    to.label = from.label;
    to.planned_dbm = drive_of_label(from.label);
    to.frequency_hz = step_frequency_hz(from, evidence.drive);
    to.refusal = step_refusal(from, evidence, s);
    if (!to.refusal.empty()) {
      steps.push_back(std::move(to));
      continue;
    }
    const auto before = drive_figure(from, ReadingRole::before, evidence, s);
    const auto at = drive_figure(from, ReadingRole::at, evidence, s);
    to.input_before = before ? before : at;
    to.input_after = drive_figure(from, ReadingRole::after, evidence, s);
    to.output = output_figure(from, evidence, s);
    if (const Reading* r = find_reading(from.readings, kSecondReading); r != nullptr && s.second_at)
      to.second_output = at_device(*r, *s.second_at, evidence, to.frequency_hz, s, std::nullopt,
                                   "second reading", "Output, read again");
    to.volts = mean_figure(from, kSupplyVoltage, "Supply");
    to.amperes = mean_figure(from, kSupplyCurrent, "Supply current");
    const auto value = [&](const char* quantity) -> std::optional<double> {
      const Reading* r = find_reading(from.readings, quantity);
      return r != nullptr ? std::optional(r->value) : std::nullopt;
    };
    to.second_dbc = value(kSecondHarmonic);
    to.third_dbc = value(kThirdHarmonic);
    to.temperature_c = value(kTemperature);
    if (const Condition* c = find_condition(from.conditions, kKeyDownCondition))
      to.key_down_s = c->value;
    if (const Condition* c = find_condition(from.conditions, kRestCondition)) to.rest_s = c->value;
    steps.push_back(std::move(to));
  }
  return steps;
}

std::string shown_words(double output_dbm, const Evidence& evidence, double frequency_hz) {
  const GainSettings s = gain_settings_from_json(evidence.settings);
  if (s.read_at == ReadAt::device) return "";
  std::optional<Path> path;
  try {
    path.emplace(evidence, frequency_hz);
  } catch (const InputError&) {
    return "";  // the step says so once it is read
  }
  double level = output_dbm + path->gain_db;
  if (s.read_at == ReadAt::power_meter)
    return number_text(level + s.meter_offset_db.value_or(0.0), 2, true) + " dBm";
  level -= probe_loss(s.probe).value;
  const VoltPd rms = to_pd(to_watt(Dbm{level}));
  return s.read_at == ReadAt::rms_volts ? engineering_text(rms.value, "V", 3) + " RMS"
                                        : engineering_text(peak_to_peak_volts(rms), "V", 3) + " pp";
}

}  // namespace heron
