#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/frequency_output.h"
#include "cli/noise_input.h"
#include "cli/output.h"
#include "core/method/phase_noise/noise_compare.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct CompareOptions {
  std::string before;
  std::string after;
  int per_decade = 10;
  bool json = false;
};

json lines_json(const std::vector<NoiseSpur>& lines) {
  json all = json::array();
  for (const NoiseSpur& s : lines)
    all.push_back({{"offset_hz", s.offset_hz}, {"level_dbc", finite_or_null(s.level_dbc)}});
  return all;
}

int run(const CompareOptions& o) {
  const NoiseCurve before = read_noise(files_in(o.before), o.per_decade);
  const NoiseCurve after = read_noise(files_in(o.after), o.per_decade);
  const NoiseComparison c = compare_noise(before, after);
  if (!o.json) {
    for (const NoiseDifference& d : c.differences)
      fmt::print("{:>12}  {:>7} dB{}{}\n", frequency_text(d.offset_hz),
                 number_text(d.delta_db, 1, true),
                 d.has_u ? "  \u00b1 " + number_text(2.0 * d.u_db, 1) : "",
                 d.is_significant ? ""
                 : d.is_bound()   ? "  hidden"
                                  : "  no difference");
    const std::string words = change_sentence(c);
    if (!words.empty()) fmt::print("{}\n", words);
    for (const NoiseCurve* curve : {&before, &after}) print_remarks(curve->remarks);
    print_remarks(c.remarks);
    return kDone;
  }
  json out = common_json("phase-noise-compare", {o.before, o.after});
  out["difference"] = json::array();
  for (const NoiseDifference& d : c.differences)
    out["difference"].push_back(
        {{"offset_hz", d.offset_hz},
         {"delta_db", finite_or_null(d.delta_db)},
         {"u_db", d.has_u ? finite_or_null(d.u_db) : json(nullptr)},
         {"significant", d.has_u ? json(d.is_significant) : json(nullptr)}});
  out["ranges"] = json::array();
  for (const NoiseRange& r : c.ranges)
    out["ranges"].push_back({{"low_hz", r.low_hz},
                             {"high_hz", r.high_hz},
                             {"verdict", change_word(r.change)},
                             {"delta_db_min", finite_or_null(r.delta_db_min)},
                             {"delta_db_max", finite_or_null(r.delta_db_max)}});
  out["spurs_gained"] = lines_json(c.gained);
  out["spurs_lost"] = lines_json(c.lost);
  out["sentence"] = change_sentence(c);
  for (const NoiseCurve* curve : {&before, &after}) add_remarks(out, curve->remarks);
  add_remarks(out, c.remarks);
  print_json(out);
  return kDone;
}

}  // namespace

CommandRun add_noise_compare_command(CLI::App& app) {
  auto o = std::make_shared<CompareOptions>();
  CLI::App* c = app.add_subcommand("phase-noise-compare", "What a change did to phase noise");
  c->add_option("before", o->before, "A recording, a table, or several spans A,B,C")->required();
  c->add_option("after", o->after, "The same of the other state")->required();
  add_bins_option(*c, o->per_decade);
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron
