#include "core/method/amplifier/response_method.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/error.h"
#include "core/method/amplifier/band_markers.h"
#include "core/method/amplifier/gain_method.h"
#include "core/method/amplifier/gain_take.h"
#include "core/method/amplifier/response_result.h"
#include "core/method/live_quantity.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

using nlohmann::json;

LimitField least_gain(const Evidence&) {
  LimitField f;
  f.head = "Gain, at least";
  f.hint = "In every band that is marked, at the lowest drive.";
  f.label = "Limit";
  f.example = "13 dB";
  f.asked = Quantity::gain;
  f.unit = "dB";
  return f;
}

json usual_response_settings() {
  json all = usual_gain_settings();
  all[kBandsKey] = json::array();
  all[kSlopeKey] = nullptr;
  return all;
}

std::string band_words(const Evidence& evidence) {
  const auto bands = response_bands(evidence);
  if (bands.empty()) return "none";
  return bands.size() == 1 ? bands.front().name : std::to_string(bands.size()) + " marked";
}

std::vector<SettingField> response_setting_fields() {
  using Kind = SettingField::Kind;
  std::vector<SettingField> all = {
      {.kind = Kind::text,
       .key = kBandsKey,
       .head = "Bands",
       .hint = "A line each: name, from, to, such as \u201c20 m 14.0 to 14.35 MHz\u201d. Nothing: "
               "the amateur bands that "
               "the sweep touches; your licence decides.",
       .text = {.parse = [](const std::string& text) { return to_json(parse_bands(text)); },
                .written = [](const json& kept) { return bands_text(bands_from_json(kept)); },
                .understood =
                    [](const json& kept) {
                      return kept.empty() ? std::string("the usual bands")
                                          : std::to_string(kept.size()) +
                                                (kept.size() == 1 ? " band" : " bands");
                    }}},
      {.kind = Kind::quantity,
       .key = kSlopeKey,
       .head = "Slope over a band, at most",
       .hint = "Highest less lowest gain inside each band.",
       .asked = Quantity::gain,
       .unit = "dB",
       .none = "No limit of the slope",
       .example = "1.5 dB"}};
  static constexpr std::array<std::string_view, 7> kShared{"read_by",           "probe",
                                                           "meter_offset_db",   "one_meter",
                                                           "bypass_loss_db",    "input_expanded_db",
                                                           "output_expanded_db"};
  for (SettingField& field : gain_setting_fields()) {
    if (std::find(kShared.begin(), kShared.end(), field.key) != kShared.end())
      all.push_back(std::move(field));
  }
  return all;
}

/// Both ends and the middle of each band, and as far beyond the outermost ones.
StepPlan plan_points(const Evidence& evidence) {
  StepPlan plan;
  const auto bands = response_bands(evidence);
  if (bands.empty()) return plan;
  plan.words = "Plan points over the bands";
  plan.settings = evidence.settings;
  std::vector<double> places;
  for (const BandMarker& b : bands)
    for (const double share : {0.0, 0.5, 1.0}) places.push_back(b.from_hz + share * b.width_hz());
  std::sort(places.begin(), places.end());
  const double beyond = bands.size() == 1 ? bands.front().width_hz() / 2.0 : 0.1 * places.back();
  if (places.front() > beyond) places.insert(places.begin(), places.front() - beyond);
  places.push_back(places.back() + beyond);
  for (const double hz : places) plan.steps.push_back(megahertz_text(std::round(hz / 1e3) * 1e3));
  return plan;
}

std::vector<TypedField> response_fields() {
  static constexpr std::array<std::string_view, 5> kShared{
      kFrequencyCondition, kDriveReading, kOutputReading, kSupplyVoltage, kSupplyCurrent};
  std::vector<TypedField> fields;
  for (const TypedField& f : gain_method().fields) {
    if (std::find(kShared.begin(), kShared.end(), f.quantity) != kShared.end()) fields.push_back(f);
  }
  fields.front().hint = "Where it is driven; nothing is needed where the step is called by it";
  return fields;
}

json band_typed(const Evidence& evidence, const TypedCell& cell) {
  json all = evidence.settings;
  if (!all[kGainSettings].is_object()) all[kGainSettings] = usual_response_settings();
  std::vector<BandMarker> bands = shown_bands(evidence);
  if (cell.span)
    bands.push_back({"New", cell.span->first, cell.span->second});
  else
    bands = with_typed_band(std::move(bands), cell.row, cell.column, cell.typed);
  all[kGainSettings][kBandsKey] = to_json(bands);
  return all;
}

}  // namespace

const Method& response_method() {
  static const Method method{.id = "response",
                             .step_head = "Point",
                             .step_example = "1296 MHz",
                             .fields = response_fields(),
                             .settings_key = kGainSettings,
                             .settings = response_setting_fields(),
                             .usual_settings = usual_response_settings,
                             .setting_words = band_words,
                             .check = check_gain_settings,
                             .bare_unit = bare_gain_unit,
                             .limit = least_gain,
                             .caution =
                                 "Off the amateur bands nothing may radiate: closed load, cover "
                                 "on. Where output drops the heatsink runs "
                                 "hotter. Local codes and your licence come first.",
                             .companion = "gain",
                             .is_joint = true,
                             .plan = plan_points,
                             .cell_typed = band_typed,
                             .evaluate = evaluate_response};
  return method;
}

}  // namespace heron
