#include "core/method/phase_noise/reciprocal_settings.h"

#include "core/method/quantity_setting.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

using nlohmann::json;

}  // namespace

ReciprocalPlan reciprocal_plan(const Evidence& evidence) {
  ReciprocalPlan plan;
  const json& from = own_settings(evidence.settings, kReciprocalSettings);
  try {
    plan.interferer_dbm = number_from(from, "interferer_dbm");
    plan.mds_dbm = number_from(from, "mds_dbm");
    // Typed expanded.
    if (const auto u = number_from(from, "mds_u_db")) plan.u_mds_db = *u / 2.0;
    plan.bandwidth_hz = number_from(from, "bandwidth_hz").value_or(plan.bandwidth_hz);
    plan.offset_hz = number_from(from, "offset_hz").value_or(plan.offset_hz);
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  if (evidence.limit && evidence.limit->unit == "dB") plan.limit = evidence.limit;
  return plan;
}

json usual_reciprocal_settings() {
  return {{"interferer_dbm", nullptr},
          {"mds_dbm", nullptr},
          {"mds_u_db", nullptr},
          {"bandwidth_hz", nullptr},
          {"offset_hz", nullptr}};
}

std::string check_reciprocal_settings(const json& settings) {
  const json& own = own_settings(settings, kReciprocalSettings);
  for (const char* key : {"bandwidth_hz", "offset_hz"})
    if (const auto hz = number_from(own, key); hz && !(*hz > 0.0))
      return "Bandwidth and offset must be more than 0.";
  return "";
}

std::string reciprocal_setting_words(const Evidence& evidence) {
  const ReciprocalPlan plan = reciprocal_plan(evidence);
  return plan.interferer_dbm ? number_text(*plan.interferer_dbm, 0, true) + " dBm" : "not known";
}

std::vector<SettingField> reciprocal_setting_fields() {
  return {quantity_setting("interferer_dbm", "", "Strong signal",
                           "At the antenna socket: a level, or microvolts into 50 ohm.",
                           Quantity::level, "dBm", "Not known", "-73 dBm"),
          frequency_setting("offset_hz", "", "Neighbour at", "How far from the weak one.",
                            "20 kHz, as usual", "20 kHz", "Hz"),
          quantity_setting("mds_dbm", "Receiver", "Weak one",
                           "What is just heard without it: the level that doubles the noise.",
                           Quantity::level, "dBm", "Not known", "-142 dBm"),
          quantity_setting("mds_u_db", "Receiver", "\u00b1 of that", "Expanded.",
                           Quantity::uncertainty, "dB", "1 dB, as usual", "1 dB"),
          frequency_setting("bandwidth_hz", "Receiver", "Bandwidth", "Noise bandwidth.",
                            "500 Hz, as usual", "500 Hz", "Hz")};
}

LimitField reciprocal_limit(const Evidence&) {
  LimitField f;
  f.head = "Lost at most";
  f.hint = "How many decibels of the weak signal the strong one may cost.";
  f.label = "Limit";
  f.example = "6 dB";
  f.asked = Quantity::gain;
  f.unit = "dB";
  f.sense = Sense::at_most;
  f.is_depth = true;
  return f;
}

}  // namespace heron
