#include <CLI/CLI.hpp>
#include <cmath>
#include <fmt/format.h>
#include <memory>

#include "cli/frequency_output.h"
#include "cli/output.h"
#include "core/method/frequency/reference_error.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct ReferenceOptions {
  double nominal_hz = 0.0;
  double measured_hz = 0.0;
  CounterSetting counter;
  BeatNote beat;
  std::string sideband = "usb";
  bool is_beat = false;
  std::vector<double> bands_hz;
  std::optional<double> tolerance_ppm;
  bool json = false;
};

int run(const ReferenceOptions& o) {
  BeatNote beat = o.beat;
  beat.is_upper = o.sideband == "usb";
  const Figure ppm =
      o.is_beat ? beat_error(beat) : counted_error(o.measured_hz, o.nominal_hz, o.counter);
  const double error_hz = o.is_beat ? beat_error_hz(beat) : o.measured_hz - o.nominal_hz;
  const double tolerance = o.tolerance_ppm.value_or(std::abs(ppm.value));
  const bool is_enough = is_sufficient(ppm.u(), tolerance);
  std::vector<Remark> remarks;
  if (!o.is_beat && !o.counter.timebase_ppm)
    remarks.push_back({"timebase_unknown", Severity::caution,
                       "How far off the counter's timebase may be is not known: this tells "
                       "changes, not accuracy.",
                       "Give --timebase-ppm"});
  if (!is_enough && !o.is_beat)
    remarks.push_back({"counter_not_sufficient", Severity::caution,
                       fmt::format("The counter's u, {} ppm, is more than a third of {} ppm.",
                                   number_text(ppm.u(), 3), number_text(tolerance, 3)),
                       "Use a longer gate or a better timebase"});
  if (!o.json) {
    fmt::print("{} ppm, {} Hz: {}\n", figure_text(ppm), number_text(error_hz, 3, true),
               error_words(ppm));
    print_bands(ppm, o.bands_hz);
    print_remarks(remarks);
    return kDone;
  }
  json out = common_json("reference", {});
  out["error_hz"] = finite_or_null(error_hz);
  out["error_ppm"] = finite_or_null(ppm.value);
  out["u_ppm"] = finite_or_null(ppm.u());
  out["bands"] = bands_json(ppm, o.bands_hz);
  out["counter_sufficient"] = o.is_beat ? json(nullptr) : json(is_enough);
  out["figures"].push_back(to_json(ppm));
  add_remarks(out, remarks);
  print_json(out);
  return kDone;
}

}  // namespace

CommandRun add_reference_command(CLI::App& app) {
  auto o = std::make_shared<ReferenceOptions>();
  CLI::App* c =
      app.add_subcommand("reference", "How far off a frequency reference is, on each band");
  auto* nominal = c->add_option("--nominal", o->nominal_hz, "What it should be, Hz")
                      ->check(CLI::PositiveNumber);
  auto* measured = c->add_option("--measured", o->measured_hz, "What the counter shows, Hz")
                       ->check(CLI::PositiveNumber);
  nominal->needs(measured);
  measured->needs(nominal);
  c->add_option("--gate", o->counter.gate_s, "Gate of the counter, s")
      ->check(CLI::PositiveNumber)
      ->capture_default_str();
  c->add_option("--timebase-ppm", o->counter.timebase_ppm, "Limit of its timebase, ppm")
      ->check(CLI::NonNegativeNumber);
  c->add_option("--ageing-ppm", o->counter.ageing_ppm_per_year,
                "Ageing of its timebase, ppm a year")
      ->check(CLI::NonNegativeNumber);
  c->add_option("--years", o->counter.years, "Years since it was calibrated")
      ->check(CLI::NonNegativeNumber);
  auto* beat =
      c->add_option("--beat", o->beat.tone_hz, "Tone heard, Hz")->check(CLI::NonNegativeNumber);
  auto* dial = c->add_option("--dial", o->beat.dial_hz, "Where the dial stands, Hz")
                   ->check(CLI::PositiveNumber);
  auto* carrier =
      c->add_option("--carrier", o->beat.carrier_hz, "True frequency of the carrier, Hz")
          ->check(CLI::PositiveNumber);
  beat->needs(dial)->needs(carrier)->excludes(nominal);
  c->add_option("--sideband", o->sideband, "usb or lsb")
      ->check(CLI::IsMember({"usb", "lsb"}))
      ->capture_default_str();
  c->add_option("--beat-u", o->beat.u_tone_hz, "Standard uncertainty of the tone, Hz")
      ->check(CLI::NonNegativeNumber);
  c->add_option("--carrier-u-ppm", o->beat.u_carrier_ppm,
                "Standard uncertainty of the carrier as it is heard, ppm")
      ->check(CLI::NonNegativeNumber);
  c->add_option("--dial-step", o->beat.dial_step_hz, "Step of the dial, Hz")
      ->check(CLI::NonNegativeNumber);
  c->add_option("--bands", o->bands_hz, "Frequencies to tell the error at, Hz")->delimiter(',');
  c->add_option("--tolerance-ppm", o->tolerance_ppm,
                "That the counter has to be good enough for; the error itself unless given")
      ->check(CLI::PositiveNumber);
  c->add_flag("--json", o->json, "One JSON object");
  return [o, beat, measured] {
    o->is_beat = beat->count() > 0;
    if (!o->is_beat && measured->count() == 0) {
      fmt::print(
          stderr,
          "even-heron-cli: give --nominal and --measured, or --beat, --dial and --carrier\n");
      return static_cast<int>(kWrongUsage);
    }
    return run(*o);
  };
}

}  // namespace heron
