#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/output.h"
#include "core/method/two_tone/tone_pair.h"
#include "report/json.h"

namespace heron {
namespace {

struct TonePairOptions {
  std::vector<double> tones;
  std::vector<double> passband{300.0, 2700.0};
  bool json = false;
};

int run(const TonePairOptions& o) {
  const double f1 = std::min(o.tones[0], o.tones[1]);
  const double f2 = std::max(o.tones[0], o.tones[1]);
  if (!(f1 > 0.0) || f1 == f2 || o.passband[0] >= o.passband[1]) {
    fmt::print(
        stderr,
        "even-heron-cli: name two different tones above 0 Hz and a passband from low to high\n");
    return kWrongUsage;
  }
  const auto collisions = tone_pair_collisions(f1, f2);
  const std::string trouble = tone_pair_trouble(f1, f2, o.passband[0], o.passband[1]);
  const auto suggestions = suggest_tone_pairs(o.passband[0], o.passband[1]);
  if (o.json) {
    nlohmann::json out = common_json("tone-pair", {});
    out["usable"] = collisions.empty() && trouble.empty();
    out["trouble"] = trouble.empty() ? nlohmann::json(nullptr) : nlohmann::json(trouble);
    out["collisions"] = nlohmann::json::array();
    for (const ToneCollision& c : collisions) {
      out["collisions"].push_back(
          {{"product", c.product}, {"audio", c.audio}, {"distance_hz", c.distance_hz}});
    }
    out["suggestions"] = suggestions;
    print_json(out);
    return kDone;
  }
  fmt::print("{:g} and {:g} Hz: {}\n", f1, f2,
             collisions.empty() && trouble.empty() ? "usable" : "not usable");
  if (!trouble.empty()) fmt::print("  {}\n", trouble);
  for (const ToneCollision& c : collisions) fmt::print("  {} falls on {}\n", c.product, c.audio);
  fmt::print("Pairs without coincidences:\n");
  for (const auto& [a, b] : suggestions) fmt::print("  {:g} and {:g} Hz\n", a, b);
  return kDone;
}

}  // namespace

CommandRun add_tone_pair_command(CLI::App& app) {
  auto o = std::make_shared<TonePairOptions>();
  CLI::App* command =
      app.add_subcommand("tone-pair", "Whether two audio tones suit a two-tone test");
  command->add_option("tones", o->tones, "F1,F2 in Hz")->required()->expected(2)->delimiter(',');
  command->add_option("--passband", o->passband, "LO,HI in Hz that the transmitter passes")
      ->expected(2)
      ->delimiter(',');
  command->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron
