#include <CLI/CLI.hpp>
#include <cmath>
#include <fmt/format.h>
#include <memory>

#include "cli/frequency_output.h"
#include "cli/noise_input.h"
#include "cli/output.h"
#include "core/error.h"
#include "core/method/phase_noise/noise_compare.h"
#include "core/method/phase_noise/noise_integral.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct NoiseOptions {
  std::vector<std::string> files;
  std::optional<double> carrier_hz;
  std::optional<double> center_hz;
  double multiply = 1.0;
  std::string floor;
  std::vector<std::string> ranges;
  int per_decade = 10;
  bool json = false;
};

json spur_json(const NoiseSpur& s) {
  return {{"offset_hz", s.offset_hz},
          {"level_dbc", finite_or_null(s.level_dbc)},
          {"rf_level_dbc", finite_or_null(s.rf_level_dbc())},
          {"kind", s.is_one_sided ? "one-sided" : "pm"},
          {"u_db", finite_or_null(s.u_db)}};
}

json carrier_json(const NoiseCurve& c) {
  json out = {{"frequency_hz", number_or_null(c.carrier_hz)}, {"rf_hz", number_or_null(c.rf_hz)}};
  if (c.level_dbfs) out["level_dbfs"] = finite_or_null(*c.level_dbfs);
  if (c.level_dbm) out["level_dbm"] = finite_or_null(*c.level_dbm);
  return out;
}

/// What the jitter is told from: the carrier before it was multiplied.
std::optional<double> carrier_of(const NoiseOptions& o, const NoiseCurve& before) {
  return o.carrier_hz ? o.carrier_hz : before.rf_hz;
}

json integral_json(const NoiseIntegral& i, const NoiseOptions& o, const NoiseCurve& curve,
                   std::optional<double> carrier_hz) {
  return {{"low_hz", i.low_hz},
          {"high_hz", i.high_hz},
          {"rms_rad", i.rms_rad},
          {"rms_deg", i.rms_deg()},
          {"jitter_s", carrier_hz ? json(i.jitter_s(*carrier_hz) / o.multiply) : json(nullptr)},
          {"residual_fm_hz", i.residual_fm_hz},
          {"u_rel", curve.has_u ? finite_or_null(i.u_rel) : json(nullptr)},
          {"bound", i.bound == Bound::upper ? json("upper") : json(nullptr)},
          {"with_spurs_rms_rad", i.with_spurs_rms_rad}};
}

json figure_json(const NoiseIntegral& i, const NoiseCurve& curve) {
  Figure f;
  f.id = "rms_phase";
  f.label = "RMS phase, " + frequency_text(i.low_hz) + " to " + frequency_text(i.high_hz);
  f.unit = "rad";
  f.value = i.rms_rad;
  f.bound = i.bound;
  if (curve.has_u)
    f.contributions = {{"scatter of the noise", i.u_rel * i.rms_rad, Scope::independent}};
  return to_json(f);
}

void print_curve(const NoiseCurve& c, const std::vector<NoiseIntegral>& integrals) {
  if (c.carrier_hz) fmt::print("carrier at {}\n", frequency_text(*c.carrier_hz));
  for (const CurvePoint& p : c.points)
    fmt::print("{:>12}  {}{:>8} dBc/Hz{}\n", frequency_text(p.offset_hz),
               p.bound == Bound::upper ? "\u2264 " : "  ", number_text(p.l_dbc_hz, 1),
               c.has_u ? "  \u00b1 " + number_text(2.0 * p.u_db, 1) : "");
  for (const NoiseSpur& s : c.spurs)
    fmt::print("line at {:>12}  {:>8} dBc{}\n", frequency_text(s.offset_hz),
               number_text(s.rf_level_dbc(), 1), s.is_one_sided ? ", on one side" : "");
  for (const NoiseIntegral& i : integrals)
    fmt::print("{} to {}: {} mrad = {}\u00b0 RMS, residual FM {} Hz\n", frequency_text(i.low_hz),
               frequency_text(i.high_hz), number_text(1e3 * i.rms_rad, 3),
               number_text(i.rms_deg(), 4), number_text(i.residual_fm_hz, 3));
}

int run(const NoiseOptions& o) {
  const NoiseCurve read = read_noise(o.files, o.per_decade, o.center_hz);
  NoiseCurve curve = read;
  if (!o.floor.empty()) curve = without_floor(curve, read_noise(files_in(o.floor), o.per_decade));
  if (o.multiply != 1.0) curve = multiplied(curve, o.multiply);
  std::vector<NoiseIntegral> integrals;
  if (o.ranges.empty()) integrals.push_back(integrate(curve, curve.low_hz(), curve.high_hz()));
  for (const std::string& range : o.ranges) {
    const auto [low, high] = range_from("--integrate", range);
    integrals.push_back(integrate(curve, low, high));
  }
  if (!o.json) {
    print_curve(curve, integrals);
    print_remarks(curve.remarks);
    return kDone;
  }
  json out = common_json("phase-noise", o.files);
  out["carrier"] = carrier_json(curve);
  out["curve"] = points_json(curve.points, curve.has_u);
  out["spurs"] = json::array();
  for (const NoiseSpur& s : curve.spurs) out["spurs"].push_back(spur_json(s));
  out["integrals"] = json::array();
  for (const NoiseIntegral& i : integrals) {
    out["integrals"].push_back(integral_json(i, o, curve, carrier_of(o, read)));
    out["figures"].push_back(figure_json(i, curve));
  }
  if (!curve.am.empty()) out["am_curve"] = points_json(curve.am, true);
  out["slopes"] = json::array();
  for (const NoiseSlope& s : slopes_of(curve))
    out["slopes"].push_back({{"low_hz", s.low_hz},
                             {"high_hz", s.high_hz},
                             {"db_per_decade", finite_or_null(s.db_per_decade)}});
  out["per_decade"] = curve.per_decade > 0 ? json(curve.per_decade) : json(nullptr);
  add_remarks(out, curve.remarks);
  print_json(out);
  return kDone;
}

}  // namespace

CommandRun add_phase_noise_command(CLI::App& app) {
  auto o = std::make_shared<NoiseOptions>();
  CLI::App* c = app.add_subcommand("phase-noise", "Noise of a carrier over the offset from it");
  c->add_option("files", o->files,
                "A recording of the carrier; a table offset_hz,l_dbc_hz; or an analyser\u2019s "
                "traces of it, a file a span")
      ->required();
  c->add_option("--carrier-hz", o->carrier_hz, "The carrier\u2019s radio frequency, for jitter")
      ->check(CLI::PositiveNumber);
  c->add_option("--center", o->center_hz, "Radio frequency at 0 Hz of a recording");
  c->add_option("--multiply", o->multiply, "As it is after a multiplication by N")
      ->check(CLI::PositiveNumber);
  c->add_option("--floor", o->floor, "The instrument\u2019s own noise, to be subtracted");
  c->add_option("--integrate", o->ranges, "Range of offsets LO,HI; may be given several times")
      ->allow_extra_args(false);
  add_bins_option(*c, o->per_decade);
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron
