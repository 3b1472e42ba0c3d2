#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/output.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct GainOptions {
  double in_dbm = 0.0;
  double out_dbm = 0.0;
  double u_in_db = 0.5;
  double u_out_db = 0.5;
  bool json = false;
};

int run(const GainOptions& o) {
  Figure gain;
  gain.id = "conversion_gain";
  gain.label = "Conversion gain";
  gain.unit = "dB";
  gain.value = o.out_dbm - o.in_dbm;
  gain.contributions = {{"input level", o.u_in_db, Scope::common},
                        {"output level", o.u_out_db, Scope::common}};
  if (!o.json) {
    // Each step is shown, so that a slip is seen.
    fmt::print("{} dBm out \u2212 {} dBm in = {}\n", number_text(o.out_dbm, 1),
               number_text(o.in_dbm, 1), figure_text(gain));
    return kDone;
  }
  json out = common_json("conversion-gain", {});
  out["in_dbm"] = finite_or_null(o.in_dbm);
  out["out_dbm"] = finite_or_null(o.out_dbm);
  out["gain_db"] = finite_or_null(gain.value);
  out["u_db"] = finite_or_null(gain.u());
  out["figures"].push_back(to_json(gain));
  add_remarks(out, {});
  print_json(out);
  return kDone;
}

}  // namespace

CommandRun add_conversion_gain_command(CLI::App& app) {
  auto o = std::make_shared<GainOptions>();
  CLI::App* c = app.add_subcommand("conversion-gain", "From a receiver\u2019s input to its IF");
  const auto level = [](const char* name) { return CLI::Range(-300.0, 100.0, name); };
  c->add_option("--in-dbm", o->in_dbm, "Level at the input, dBm")->required()->check(level("dBm"));
  c->add_option("--out-dbm", o->out_dbm, "Level at the IF, dBm")->required()->check(level("dBm"));
  c->add_option("--u-in", o->u_in_db, "Standard uncertainty of the input level, dB")
      ->check(CLI::NonNegativeNumber)
      ->capture_default_str();
  c->add_option("--u-out", o->u_out_db, "Standard uncertainty of the output level, dB")
      ->check(CLI::NonNegativeNumber)
      ->capture_default_str();
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron
