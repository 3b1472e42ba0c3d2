#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/output.h"
#include "core/chain/chain_json.h"
#include "core/error.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "report/json.h"

namespace heron {
namespace {

struct ChainOptions {
  std::string file;
  double in_dbm = 0.0;
  double frequency_hz = 0.0;
  std::optional<double> key_down_s;
  std::string date;
  bool two_tone = false;
  bool json = false;
};

nlohmann::json or_null(const std::optional<double>& value) {
  return value ? finite_or_null(*value) : nlohmann::json(nullptr);
}

void print_table(const ChainResult& r) {
  fmt::print("{:<24}{:>10}{:>9}{:>10}{:>9}  {}\n", "input of", "dBm PEP", "u, dB", "rating",
             "margin", "binds");
  for (const ChainNode& n : r.nodes) {
    fmt::print("{:<24}{:>11}{:>9}{:>10}{:>9}  {}\n", n.name, number_text(n.level_dbm, 2),
               number_text(n.u_db, 2), n.rating_dbm ? number_text(*n.rating_dbm, 1) : "",
               n.margin_db ? number_text(*n.margin_db, 1, true) : "", n.limit);
  }
  fmt::print("total gain {} dB; {}", number_text(r.total_gain_db, 3),
             r.is_known_safe() ? "within every rating"
             : r.is_safe       ? "NOT KNOWN to be safe: a rating is missing"
                               : "NOT SAFE");
  if (r.max_key_down_s)
    fmt::print("; key-down from cold at most {} s ({})", number_text(*r.max_key_down_s, 1),
               r.binding);
  fmt::print("\n");
}

int run(const ChainOptions& o) {
  const Chain chain = aged(read_chain(o.file), o.date);
  const ChainResult r =
      evaluate_chain(chain, {o.in_dbm, o.two_tone, o.frequency_hz, o.key_down_s, {}, {}, {}});
  if (!o.json) {
    print_table(r);
    print_remarks(r.remarks);
    return kDone;
  }
  nlohmann::json out = common_json("chain", {o.file});
  out["nodes"] = nlohmann::json::array();
  for (const ChainNode& n : r.nodes) {
    out["nodes"].push_back(
        {{"name", n.name},
         {"level_dbm", n.level_dbm},
         {"u_db", n.u_db},
         {"rating_dbm", or_null(n.rating_dbm)},
         {"margin_db", or_null(n.margin_db)},
         {"limit", n.limit.empty() ? nlohmann::json(nullptr) : nlohmann::json(n.limit)},
         {"max_key_down_s", or_null(n.max_key_down_s)}});
  }
  out["total_gain_db"] = r.total_gain_db;
  out["safe"] = r.is_known_safe();
  out["unrated"] = r.unrated;
  out["max_key_down_s"] = or_null(r.max_key_down_s);
  Figure gain;
  gain.id = "total_gain";
  gain.label = "Gain of the chain";
  gain.value = r.total_gain_db;
  gain.unit = "dB";
  gain.contributions = r.contributions;
  out["figures"].push_back(to_json(gain));
  out["remarks"] = remarks_to_json(r.remarks);
  print_json(out);
  return kDone;
}

}  // namespace

CommandRun add_chain_command(CLI::App& app) {
  auto o = std::make_shared<ChainOptions>();
  CLI::App* c = app.add_subcommand("chain", "Levels, uncertainty and ratings along a hook-up");
  c->add_option("file", o->file, "Chain file (JSON)")->required();
  c->add_option("--in-dbm", o->in_dbm, "Level out of the device, dBm (peak envelope)")->required();
  c->add_option("--freq", o->frequency_hz, "Frequency, Hz")->required();
  c->add_option("--key-down", o->key_down_s, "Key-down time from cold, s")
      ->check(CLI::PositiveNumber);
  c->add_option("--date", o->date, "Day of use, for the age of calibrations (2026-03-14)");
  c->add_flag("--two-tone", o->two_tone, "The level is the PEP of two equal tones");
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron
