#include <CLI/CLI.hpp>
#include <cmath>
#include <fmt/format.h>
#include <memory>

#include "cli/frequency_output.h"
#include "cli/output.h"
#include "core/error.h"
#include "core/method/frequency/accuracy.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct ReferenceOptions {
  AccuracyPlan plan;
  AccuracyReading reading;
  std::string sideband = "usb";
  std::optional<double> tolerance_ppm;
  bool json = false;
};

int run(ReferenceOptions o) {
  o.plan.most_ppm = 1e6;  // whoever asks here has not mistyped a cell
  o.reading.label = "the reading";
  o.reading.is_upper = o.sideband == "usb";
  if (o.tolerance_ppm)
    o.plan.limit = Limit{"tolerance", Sense::within, *o.tolerance_ppm, "ppm", "", *o.tolerance_ppm};
  const Accuracy a = assess_accuracy({o.reading}, o.plan);
  if (!a.error)
    throw InputError("the reading", "", a.rows.front().refusal, "Compare the frequencies");
  const bool is_beat = o.plan.way != AccuracyWay::counter;
  const bool is_enough =
      is_sufficient(a.error->u(), o.tolerance_ppm.value_or(std::abs(a.error->value)));
  if (!o.json) {
    fmt::print("{} ppm, {} Hz: {}\n", figure_text(*a.error),
               number_text(*a.rows.front().error_hz, 3, true), error_words(*a.error));
    print_bands(*a.error, o.plan.bands_hz);
    print_remarks(a.remarks);
    return kDone;
  }
  json out = common_json("reference", {});
  out["error_hz"] = finite_or_null(*a.rows.front().error_hz);
  out["error_ppm"] = finite_or_null(a.error->value);
  out["u_ppm"] = finite_or_null(a.error->u());
  out["bands"] = bands_json(*a.error, o.plan.bands_hz);
  out["counter_sufficient"] = is_beat ? json(nullptr) : json(is_enough);
  out["figures"].push_back(to_json(*a.error));
  if (a.judgement) out["verdicts"].push_back(verdict_json(*a.judgement, *o.plan.limit, "error"));
  add_remarks(out, a.remarks);
  print_json(out);
  return kDone;
}

}  // namespace

CommandRun add_reference_command(CLI::App& app) {
  auto o = std::make_shared<ReferenceOptions>();
  CLI::App* c =
      app.add_subcommand("reference", "How far off a frequency reference is, on each band");
  AccuracyPlan& plan = o->plan;
  AccuracyReading& reading = o->reading;
  auto* nominal = c->add_option("--nominal", reading.expected_hz, "What it should be, Hz")
                      ->check(CLI::PositiveNumber);
  auto* measured = c->add_option("--measured", reading.read_hz, "What the counter shows, Hz")
                       ->check(CLI::PositiveNumber);
  nominal->needs(measured);
  measured->needs(nominal);
  c->add_option("--gate", plan.counter.gate_s, "Gate of the counter, s")
      ->check(CLI::PositiveNumber)
      ->capture_default_str();
  c->add_option("--timebase-ppm", plan.counter.timebase_ppm, "Limit of its timebase, ppm")
      ->check(CLI::NonNegativeNumber);
  c->add_option("--ageing-ppm", plan.counter.ageing_ppm_per_year,
                "Ageing of its timebase, ppm a year")
      ->check(CLI::NonNegativeNumber);
  c->add_option("--years", plan.counter.years, "Years since it was calibrated")
      ->check(CLI::NonNegativeNumber);
  auto* beat =
      c->add_option("--beat", reading.read_hz, "Tone heard, Hz")->check(CLI::NonNegativeNumber);
  auto* dial = c->add_option("--dial", reading.dial_hz, "Where the dial stands, Hz")
                   ->check(CLI::PositiveNumber);
  auto* carrier =
      c->add_option("--carrier", reading.expected_hz, "True frequency of the carrier, Hz")
          ->check(CLI::PositiveNumber);
  beat->needs(dial)->needs(carrier)->excludes(nominal);
  c->add_option("--sideband", o->sideband, "usb or lsb")
      ->check(CLI::IsMember({"usb", "lsb"}))
      ->capture_default_str();
  c->add_option("--beat-u", plan.tone_u_hz, "Standard uncertainty of the tone, Hz")
      ->check(CLI::NonNegativeNumber)
      ->capture_default_str();
  c->add_option("--source-ppm", plan.carrier_ppm, "How far off the carrier may be, ppm")
      ->check(CLI::NonNegativeNumber);
  c->add_option("--path-ppm", plan.path_ppm, "Standard uncertainty that the path adds, ppm")
      ->check(CLI::NonNegativeNumber);
  c->add_option("--bands", plan.bands_hz, "Frequencies to tell the error at, Hz")->delimiter(',');
  c->add_option("--tolerance-ppm", o->tolerance_ppm,
                "That it is judged by, and that the counter has to be good enough for; the error "
                "itself unless given")
      ->check(CLI::PositiveNumber);
  c->add_flag("--json", o->json, "One JSON object");
  return [o, beat, measured] {
    if (beat->count() > 0) o->plan.way = AccuracyWay::beat_note;
    if (beat->count() == 0 && measured->count() == 0) {
      fmt::print(
          stderr,
          "even-heron-cli: give --nominal and --measured, or --beat, --dial and --carrier\n");
      return static_cast<int>(kWrongUsage);
    }
    return run(*o);
  };
}

}  // namespace heron
