#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/frequency_output.h"
#include "cli/noise_input.h"
#include "cli/output.h"
#include "core/method/phase_noise/reciprocal.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct ReciprocalOptions {
  std::string file;
  ReciprocalCase how;
  int per_decade = 10;
  bool json = false;
};

int run(const ReciprocalOptions& o) {
  const NoiseCurve curve = read_noise(files_in(o.file), o.per_decade);
  const Reciprocal r = reciprocal_mixing(curve, o.how);
  Figure limit;
  limit.id = "limit_interferer";
  limit.label = "Strong signal whose noise equals the weak one";
  limit.unit = "dBm";
  limit.value = r.limit_interferer_dbm;
  // What is at most there leaves room for at least so much.
  if (r.bound == Bound::upper) limit.bound = Bound::lower;
  if (curve.has_u) limit.contributions = {{"phase noise", r.u_db, Scope::common}};
  json out = common_json("reciprocal", {o.file});
  out["figures"].push_back(to_json(limit));
  out["l_dbc_hz"] = finite_or_null(r.l_dbc_hz);
  out["noise_in_channel_dbm"] = number_or_null(r.noise_in_channel_dbm);
  out["desensitisation_db"] = number_or_null(r.desensitisation_db);
  out["limit_interferer_dbm"] = finite_or_null(r.limit_interferer_dbm);
  out["ratio_db"] = finite_or_null(r.ratio_db);
  out["bound"] = r.bound == Bound::upper ? json("lower") : json(nullptr);
  add_remarks(out, curve.remarks);
  if (o.json) {
    print_json(out);
    return kDone;
  }
  fmt::print("{} dBc/Hz there: {} dBm, {} dB above the weak one, doubles the noise\n",
             number_text(r.l_dbc_hz, 1), number_text(r.limit_interferer_dbm, 1, true),
             number_text(r.ratio_db, 1));
  if (r.desensitisation_db)
    fmt::print("{} dB are lost, noise in the channel {} dBm\n",
               number_text(*r.desensitisation_db, 1),
               number_text(*r.noise_in_channel_dbm, 1, true));
  print_remarks(curve.remarks);
  return kDone;
}

}  // namespace

CommandRun add_reciprocal_command(CLI::App& app) {
  auto o = std::make_shared<ReciprocalOptions>();
  CLI::App* c = app.add_subcommand(
      "reciprocal",
      "What a strong signal beside a weak one costs through an oscillator\u2019s noise");
  c->add_option("file", o->file, "A phase-noise curve, or what phase-noise reads")->required();
  c->add_option("--offset", o->how.offset_hz, "From the strong signal, Hz")
      ->required()
      ->check(CLI::PositiveNumber);
  c->add_option("--bandwidth", o->how.bandwidth_hz, "Noise bandwidth of the receiver, Hz")
      ->required()
      ->check(CLI::PositiveNumber);
  c->add_option("--mds-dbm", o->how.mds_dbm, "Level that doubles the receiver\u2019s noise, dBm")
      ->required();
  c->add_option("--interferer-dbm", o->how.interferer_dbm, "The strong signal, dBm");
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron
