#include "core/method/amplifier/gain_method.h"

#include "core/method/amplifier/gain_result.h"
#include "core/method/amplifier/gain_run.h"
#include "core/method/amplifier/gain_settings.h"
#include "core/method/amplifier/gain_take.h"
#include "core/method/live_quantity.h"
#include "core/method/usual_meter.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

LimitField compression_limit(const Evidence&) {
  LimitField f;
  f.head = "1 dB compression point, at least";
  f.hint =
      "Output at which gain is 1 dB below small-signal gain. Steps are judged by the expected gain "
      "and the rated "
      "output.";
  f.label = "Limit";
  f.example = "+47 dBm";
  f.asked = Quantity::level;
  f.unit = "dBm";
  return f;
}

/// From 15 dB below the rated drive on, closer where it bends.
StepPlan plan_drives(const Evidence& evidence) {
  StepPlan plan;
  const GainSettings s = gain_settings_from_json(evidence.settings);
  if (!s.rated_input_dbm) return plan;
  plan.words = "Plan the drive steps";
  plan.settings = evidence.settings;
  for (const double below : {15.0, 10.0, 6.0, 3.0, 1.5, 0.75, 0.0}) {
    const double w = to_watt(Dbm{*s.rated_input_dbm - below}).value;
    plan.steps.push_back(engineering_text(w, "W", 2));
  }
  return plan;
}

std::vector<TypedField> gain_fields() {
  using Kind = TypedField::Kind;
  constexpr auto kBefore = ReadingRole::before;
  constexpr auto kAfter = ReadingRole::after;
  const auto level = [](std::string_view quantity, ReadingRole role, std::string_view head,
                        std::string_view hint, std::string_view live, std::string_view csv,
                        int width) {
    return TypedField{.quantity = quantity,
                      .role = role,
                      .head = head,
                      .hint = hint,
                      .unit = "dBm",
                      .typed_unit = "dBm",
                      .u = kLevelU,
                      .width = width,
                      .live = live,
                      .csv = csv};
  };
  return {
      {.kind = Kind::condition,
       .quantity = kFrequencyCondition,
       .head = "Frequency",
       .hint = "Where it is driven; the planned one if nothing is typed",
       .asked = Quantity::frequency,
       .unit = "Hz",
       .typed_unit = "MHz",
       .width = 104,
       .csv = "frequency_hz"},
      level(kDriveReading, kBefore, "In",
            "Drive at the amplifier before the output is read; with one meter what it "
            "shows while the device is bypassed",
            {}, "pin_before_dbm|pin_dbm|pin_before_w|pin_w", 62),
      level(kOutputReading, ReadingRole::at, "Output",
            "As it is read: in W, dBm or V as chosen under Expected", kPowerMeter,
            "pout_dbm|pout_w", 86),
      level(kDriveReading, kAfter, "In after",
            "Drive once more afterwards: creep is found and corrected", {},
            "pin_after_dbm|pin_after_w", 92),
      {.quantity = kSupplyVoltage,
       .head = "V",
       .hint = "At the amplifier\u2019s terminals, driven",
       .asked = Quantity::voltage,
       .unit = "V",
       .u_relative = kVoltsU,
       .width = 46,
       .live = kSupplyVoltage,
       .csv = "v_dc"},
      {.quantity = kSupplyCurrent,
       .head = "A",
       .hint = "Supply current, driven; of a step without drive and output the quiescent current",
       .asked = Quantity::current,
       .unit = "A",
       .u_relative = kAmperesU,
       .width = 46,
       .live = kSupplyCurrent,
       .csv = "i_dc"},
      {.quantity = kSecondHarmonic,
       .head = "2nd, dBc",
       .hint = "Second harmonic relative to the carrier, at the device",
       .asked = Quantity::limit,
       .unit = "dB",
       .width = 68,
       .csv = "h2_dbc"},
      {.quantity = kThirdHarmonic,
       .head = "3rd, dBc",
       .hint = "Third harmonic relative to the carrier, at the device",
       .asked = Quantity::limit,
       .unit = "dB",
       .width = 68,
       .csv = "h3_dbc"},
      level(kSecondReading, ReadingRole::at, "Again", "The same output read in the second way", {},
            "pout_again_dbm|pout_again_w", 74),
      {.kind = Kind::condition,
       .quantity = kKeyDownCondition,
       .head = "Key-down",
       .hint = "How long it was driven",
       .asked = Quantity::duration,
       .unit = "s",
       .width = 92,
       .csv = "key_down_s"},
      {.kind = Kind::condition,
       .quantity = kRestCondition,
       .head = "Rest",
       .hint = "How long everything cooled before it was driven",
       .asked = Quantity::duration,
       .unit = "s",
       .width = 66,
       .csv = "rest_s"},
  };
}

}  // namespace

const Method& gain_method() {
  static const Method method{
      .id = "gain",
      .step_head = "Drive step",
      .step_example = "2 W",
      .fields = gain_fields(),
      .settings_key = kGainSettings,
      .settings = gain_setting_fields(),
      .usual_settings = usual_gain_settings,
      .setting_words = gain_setting_words,
      .check = check_gain_settings,
      .bare_unit = bare_gain_unit,
      .limit = compression_limit,
      .caution =
          "Load and pads rated, cover on, supply limited, low drive first. RF burns and harms "
          "eyes; the heatsink gets "
          "hot; from 50 V on the supply is dangerous too. Local codes and your licence come first.",
      .plan = plan_drives,
      .shows_linear_output = true,
      .compares_tests = true,
      .run = run_gain,
      .stop_before = stop_before_step,
      .evaluate = evaluate_gain};
  return method;
}

}  // namespace heron
