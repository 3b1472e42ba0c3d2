#include "core/method/amplifier/gain_run.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/amplifier/gain_settings.h"
#include "core/method/amplifier/gain_take.h"
#include "core/quantity/drive_label.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kToneHz = 1000.0;
constexpr double kOverPlanDb = 0.5;
constexpr double kKeyedS = 8.0;         // some searching, settling and reading
constexpr double kAtLimitShare = 0.98;  // a supply that limits holds its current within so much
constexpr double kMostSlope = 0.6;      // gain lost per dB of drive: beyond it nothing more comes

/// Gain at a harder drive: as it fell between the last two steps, not more than it was.
double gain_ahead_db(const Amplification& a, double input_dbm) {
  const DrivenRow& last = a.rows[a.rising.back()];
  if (a.rising.size() < 2) return last.gain->value;
  const DrivenRow& before = a.rows[a.rising[a.rising.size() - 2]];
  const double width = last.input->value - before.input->value;
  if (width < 0.05) return last.gain->value;
  const double slope = std::clamp((before.gain->value - last.gain->value) / width, 0.0, kMostSlope);
  return last.gain->value - slope * std::max(0.0, input_dbm - last.input->value);
}

/// By what the last step itself shows.
std::string reached(const DrivenRow& last, const GainSettings& s, const AmplifierPlan& plan) {
  if (s.stop_down_db && last.compression && last.compression->value >= *s.stop_down_db)
    return fmt::format("{} is {} dB down, {} dB are set", last.label,
                       number_text(last.compression->value, 1), number_text(*s.stop_down_db, 0));
  if (s.stop_sag_share && last.volts && plan.nominal_v &&
      last.volts->value < (1.0 - *s.stop_sag_share) * *plan.nominal_v)
    return fmt::format("at {} the supply sags to {} V of {} V", last.label,
                       number_text(last.volts->value, 1), number_text(*plan.nominal_v, 1));
  const double harmonic = std::max(last.second_dbc.value_or(-1e9), last.third_dbc.value_or(-1e9));
  if (s.stop_harmonic_dbc && harmonic > *s.stop_harmonic_dbc)
    return fmt::format("at {} a harmonic is at {} dBc, {} dBc are set", last.label,
                       number_text(harmonic, 1), number_text(*s.stop_harmonic_dbc, 1));
  if (plan.supply_limit_a && last.amperes &&
      last.amperes->value >= kAtLimitShare * *plan.supply_limit_a)
    return fmt::format("at {} the supply gives {} A of its {} A", last.label,
                       number_text(last.amperes->value, 2), number_text(*plan.supply_limit_a, 1));
  return "";
}

/// By what would come out, dBm.
std::string ahead(double output_dbm, const GainCase& of) {
  const Evidence& evidence = of.evidence;
  const Amplification& a = of.amplifier;
  const std::string out = watts_text(output_dbm);
  if (evidence.drive && output_dbm > evidence.drive->pep_dbm + kOverPlanDb)
    return fmt::format("about {} would come out, {} are planned", out,
                       watts_text(evidence.drive->pep_dbm));
  if (evidence.hookup && !evidence.hookup->parts.empty()) {
    const double hz = evidence.drive ? evidence.drive->frequency_hz : a.frequency_hz.value_or(0.0);
    const ChainResult chain = evaluate_chain(*evidence.hookup, {output_dbm, false, hz, kKeyedS});
    if (!chain.is_safe)
      return fmt::format("about {} would come out, which {} is not rated for", out,
                         chain.binding.empty() ? "the hook-up" : chain.binding);
  }
  if (!of.plan.supply_limit_a || !a.current) return "";
  const double amperes = a.current->at(to_watt(Dbm{output_dbm}).value).value;
  if (amperes <= *of.plan.supply_limit_a) return "";
  return fmt::format("it would draw about {} A, the supply stops at {} A", number_text(amperes, 1),
                     number_text(*of.plan.supply_limit_a, 1));
}

}  // namespace

RunRecipe run_gain(const Evidence& evidence) {
  const GainSettings s = gain_settings_from_json(evidence.settings);
  RunRecipe run;
  run.stimulus =
      s.is_driven_by_transmitter ? RunRecipe::Stimulus::tone : RunRecipe::Stimulus::carrier;
  run.tone_hz = kToneHz;
  run.over_plan_db = kOverPlanDb;
  run.length_s = 0.5;
  RunRecipe::Levels levels;
  levels.output = kOutputReading;
  levels.drive = kDriveReading;
  levels.u_db = kLevelU;
  levels.key_down = kKeyDownCondition;
  levels.rest = kRestCondition;
  if (s.reads_harmonics) levels.harmonics = {kSecondHarmonic, kThirdHarmonic};
  levels.bypass_loss_db = s.bypass_loss_db;
  if (!s.is_one_meter) {
    if (s.is_driven_by_transmitter) {
      run.refusal = "The level of a tone does not say what the transmitter puts out.";
      run.what_to_do =
          "Choose one meter for drive and output (More, How it is read): the drive is "
          "read with the device bypassed";
    } else if (!s.driver_gain_db) {
      run.refusal = "How hard the generator drives the device is not known.";
      run.what_to_do =
          "Say what lies between them (More, Automatic steps), or choose one meter for drive and "
          "output";
    }
    levels.drive_over_generator_db = s.driver_gain_db.value_or(0.0);
  }
  run.levels = std::move(levels);
  return run;
}

std::string stop_before(const GainCase& of, const std::string& step) {
  const auto drive = drive_of_label(step);
  if (!drive) return "";
  // Whatever else allows it: the input would be damaged.
  if (const auto& most = of.evidence.most_drive_dbm; most && *drive > *most + kSameDriveDb)
    return fmt::format("its card allows {} at the input", watts_text(*most));
  const Amplification& a = of.amplifier;
  if (a.rising.empty()) {
    const auto gain = of.plan.wanted_gain_db();
    return gain ? ahead(*drive + *gain, of) : "";
  }
  const DrivenRow& last = a.rows[a.rising.back()];
  // Measured again, or below what was measured already.
  if (*drive <= last.input->value + kSameDriveDb) return "";
  const std::string why = reached(last, of.settings, of.plan);
  return why.empty() ? ahead(*drive + gain_ahead_db(a, *drive), of) : why;
}

std::string stop_before_step(const Evidence& evidence, const std::string& step) {
  return stop_before(GainCase(evidence), step);
}

}  // namespace heron
