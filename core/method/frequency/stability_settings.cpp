#include "core/method/frequency/stability_settings.h"

#include <algorithm>
#include <array>

#include "core/method/frequency/drift_settings.h"
#include "core/method/frequency/frequency_fields.h"
#include "core/method/quantity_setting.h"
#include "core/method/result_json.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kPpbInPpm = 1e3;

struct EstimatorName {
  Estimator estimator;
  const char* id;
  const char* choice;
  const char* word;
};
constexpr std::array<EstimatorName, 5> kEstimators{
    {{Estimator::overlapping, "overlapping", "overlapping Allan (ADEV)", "overlapping ADEV"},
     {Estimator::allan, "allan", "Allan, not overlapping (ADEV)", "ADEV"},
     {Estimator::modified, "modified", "modified Allan (MDEV)", "MDEV"},
     {Estimator::hadamard, "hadamard", "Hadamard, blind to steady drift (HDEV)", "HDEV"},
     {Estimator::time, "time", "time deviation (TDEV)", "TDEV"}}};

const EstimatorName& estimator_of(const json& settings) {
  return named_or_first(
      kEstimators, own_settings(settings, kStabilitySettings).value("estimator", "overlapping"));
}

bool has_readings(const Evidence& evidence) {
  return std::any_of(evidence.steps.begin(), evidence.steps.end(), [](const EvidenceStep& s) {
    return !s.series.empty() || s.analysis != nullptr;
  });
}

}  // namespace

StabilityPlan stability_plan(const Evidence& evidence) {
  StabilityPlan plan;
  const json& from = own_settings(evidence.settings, kStabilitySettings);
  try {
    plan.estimator = estimator_of(evidence.settings).estimator;
    plan.reference = reference_from(from);
    plan.resolution_hz = number_from(from, "resolution_hz");
    plan.limit_from_s = number_from(from, "limit_from_s").value_or(plan.limit_from_s);
    plan.limit_to_s = number_from(from, "limit_to_s").value_or(plan.limit_to_s);
    plan.band_hz = number_from(from, "band_hz");
    plan.every_s = number_from(from, "every_s").value_or(plan.every_s);
    plan.length_s = number_from(from, "length_s").value_or(plan.length_s);
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  if (!has_readings(evidence) && evidence.companion != nullptr)
    plan.reference = drift_plan(*evidence.companion).reference;
  plan.limit = ppm_limit(evidence, Sense::at_most);
  if (plan.limit) {
    plan.limit->unit = "ppb";
    plan.limit->value *= kPpbInPpm;
    plan.limit->span = plan.limit->value;
  }
  return plan;
}

DriftRecord stability_record(const Evidence& evidence, const StabilityPlan& plan) {
  const bool is_own = has_readings(evidence) || evidence.companion == nullptr;
  return drift_record(is_own ? evidence : *evidence.companion, plan.reference);
}

json usual_stability_settings() {
  return {{"estimator", "overlapping"}, {"way", "counter"},         {"nominal_hz", nullptr},
          {"tone_hz", nullptr},         {"resolution_hz", nullptr}, {"limit_from_s", nullptr},
          {"limit_to_s", nullptr},      {"band_hz", nullptr},       {"every_s", nullptr},
          {"length_s", nullptr}};
}

std::string check_stability_settings(const json& settings) {
  const json& own = own_settings(settings, kStabilitySettings);
  const auto is_none = [&](const char* key) {
    const auto v = number_from(own, key);
    return v && !(*v > 0.0);
  };
  if (is_none("nominal_hz")) return "The nominal frequency must be more than 0.";
  if (is_none("every_s")) return "The time between two readings must be more than 0.";
  const double from = number_from(own, "limit_from_s").value_or(1.0);
  const double to = number_from(own, "limit_to_s").value_or(100.0);
  return from > to ? "The averaging times of the limit end before they begin." : "";
}

std::string stability_setting_words(const Evidence& evidence) {
  return estimator_of(evidence.settings).word;
}

std::vector<SettingField> stability_setting_fields() {
  constexpr const char* kLimited = "Limit";
  std::vector<SettingChoice> estimators;
  for (const EstimatorName& e : kEstimators) estimators.push_back({e.id, e.choice});
  std::vector<SettingField> fields{{.key = "estimator",
                                    .head = "Estimator",
                                    .hint = "How the scatter over an averaging time is worked out",
                                    .choices = estimators,
                                    .key_press = 'E'}};
  for (const SettingField& f : reference_fields("That of the drift record")) fields.push_back(f);
  const std::vector<SettingField> own{
      quantity_setting(
          "resolution_hz", "", "Resolution of a reading",
          "What the counter can tell apart in one gate: below its line nothing is seen.",
          Quantity::frequency, "Hz", "Its last digit", "0.01 Hz"),
      quantity_setting("band_hz", "", "Band", "At which the scatter is told in Hz.",
                       Quantity::frequency, "Hz", "Nominal", "5760 MHz"),
      quantity_setting("limit_from_s", kLimited, "From", "Averaging time.", Quantity::duration, "s",
                       "1 s, as usual", "1 s"),
      quantity_setting("limit_to_s", kLimited, "To", "Averaging time.", Quantity::duration, "s",
                       "100 s, as usual", "100 s")};
  fields.insert(fields.end(), own.begin(), own.end());
  for (const SettingField& f : log_fields("1 s, as usual", "60 min, as usual")) fields.push_back(f);
  return fields;
}

}  // namespace heron
