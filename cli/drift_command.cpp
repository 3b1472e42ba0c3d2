#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/frequency_output.h"
#include "cli/output.h"
#include "core/method/frequency/drift_fit.h"
#include "core/method/frequency/frequency_log.h"
#include "core/method/measure/reference_error.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct DriftOptions {
  std::string file;
  double nominal_hz = 0.0;
  std::optional<double> tolerance_hz;
  std::string settle_round = "nominal";
  std::vector<double> bands_hz;
  bool json = false;
};

json warm_up_json(const std::optional<WarmUp>& w) {
  if (!w) return nullptr;
  return {{"amplitude_hz", finite_or_null(w->amplitude_hz)},
          {"u_amplitude_hz", finite_or_null(w->u_amplitude_hz)},
          {"tau_s", finite_or_null(w->tau_s)},
          {"u_tau_s", finite_or_null(w->u_tau_s)}};
}

int run(const DriftOptions& o) {
  const FrequencyLog log = read_frequency_log(table_of(o.file), o.nominal_hz);
  const DriftFit fit = fit_drift(log.samples);
  std::vector<Remark> remarks = log.remarks;
  remarks.insert(remarks.end(), fit.remarks.begin(), fit.remarks.end());
  std::optional<double> settle_s;
  if (o.tolerance_hz && fit.final_error)
    settle_s = fit.settle_s(log.samples, *o.tolerance_hz,
                            o.settle_round == "final" ? fit.final_error->value : 0.0);
  const double last_hz = fit.final_error ? fit.final_error->value : log.samples.back().error_hz;
  Figure ppm;
  ppm.unit = "ppm";
  ppm.value = last_hz / o.nominal_hz * kPerMillion;
  if (fit.final_error)
    ppm.contributions = {
        {"drift", fit.final_error->u() / o.nominal_hz * kPerMillion, Scope::independent}};
  if (!o.json) {
    fmt::print("{} readings over {}, {} left out as outliers\n", log.samples.size(),
               duration_text(log.samples.back().seconds), fit.outliers());
    fmt::print("error at the end {}\n", fit.final_error ? figure_text(*fit.final_error)
                                                        : number_text(last_hz, 2, true) + " Hz");
    if (fit.warm_up)
      fmt::print("warm-up {} Hz, time constant {}\n",
                 number_text(fit.warm_up->amplitude_hz, 1, true),
                 duration_text(fit.warm_up->tau_s));
    if (settle_s) fmt::print("settled after {}\n", duration_text(*settle_s));
    if (fit.rate_per_h) fmt::print("drift {}\n", figure_text(*fit.rate_per_h));
    if (fit.per_kelvin_hz && fit.per_kelvin_hz->bound == Bound::none)
      fmt::print("{} of temperature\n", figure_text(*fit.per_kelvin_hz));
    print_bands(ppm, o.bands_hz);
    print_remarks(remarks);
    return kDone;
  }
  json out = common_json("drift", {o.file});
  out["final_hz"] = finite_or_null(last_hz);
  out["u_final_hz"] = fit.final_error ? finite_or_null(fit.final_error->u()) : json(nullptr);
  out["warm_up"] = warm_up_json(fit.warm_up);
  if (out["warm_up"].is_object()) out["warm_up"]["settle_s"] = number_or_null(settle_s);
  if (fit.second_warm_up) out["warm_up2"] = warm_up_json(fit.second_warm_up);
  out["settle_s"] = number_or_null(settle_s);
  out["rate_hz_per_h"] = value_or_null(fit.rate_per_h);
  out["u_rate_hz_per_h"] = fit.rate_per_h ? finite_or_null(fit.rate_per_h->u()) : json(nullptr);
  // A bound is among the figures only.
  const bool has_tempco = fit.per_kelvin_hz && fit.per_kelvin_hz->bound == Bound::none;
  out["tempco_ppm_per_c"] =
      has_tempco ? value_or_null(fit.per_kelvin_hz, kPerMillion / o.nominal_hz) : json(nullptr);
  out["u_tempco_ppm_per_c"] =
      has_tempco ? finite_or_null(fit.per_kelvin_hz->u() * kPerMillion / o.nominal_hz)
                 : json(nullptr);
  out["scatter_hz"] = finite_or_null(fit.scatter_hz);
  out["outliers"] = fit.outliers();
  json times = json::array();
  for (std::size_t i = 0; i < log.samples.size(); ++i)
    if (fit.is_outlier[i]) times.push_back(log.samples[i].seconds);
  out["outlier_times_s"] = times;
  out["bands"] = bands_json(ppm, o.bands_hz);
  for (const auto* f : {&fit.final_error, &fit.rate_per_h, &fit.per_kelvin_hz})
    if (*f) out["figures"].push_back(to_json(**f));
  add_remarks(out, remarks);
  print_json(out);
  return kDone;
}

}  // namespace

CommandRun add_drift_command(CLI::App& app) {
  auto o = std::make_shared<DriftOptions>();
  CLI::App* c = app.add_subcommand("drift", "Warm-up, drift and temperature coefficient of a log");
  c->add_option("file", o->file,
                "CSV with time_s or time, frequency_hz, and temperature_c if there is")
      ->required();
  c->add_option("--nominal", o->nominal_hz, "What it should be, Hz")
      ->required()
      ->check(CLI::PositiveNumber);
  c->add_option("--tolerance-hz", o->tolerance_hz, "Settled within so much")
      ->check(CLI::PositiveNumber);
  c->add_option("--settle-round", o->settle_round, "nominal or final")
      ->check(CLI::IsMember({"nominal", "final"}))
      ->capture_default_str();
  c->add_option("--bands", o->bands_hz, "Frequencies to tell the error at, Hz")->delimiter(',');
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron
