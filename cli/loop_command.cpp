#include <CLI/CLI.hpp>
#include <filesystem>
#include <fmt/format.h>
#include <memory>

#include "cli/frequency_output.h"
#include "cli/output.h"
#include "core/error.h"
#include "core/json_fields.h"
#include "core/method/phase_noise/loop_json.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/read_text.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct LoopOptions {
  std::string file;
  bool json = false;
};

int run(const LoopOptions& o) {
  constexpr std::uintmax_t kLargestFileMb = 4;
  const std::string name = std::filesystem::path(o.file).filename().string();
  const std::vector<LoopDesign> designs = parse_loops(read_text(o.file, kLargestFileMb), name);
  json out = common_json("loop", {o.file});
  out["loops"] = json::array();
  std::vector<Remark> remarks;
  for (const LoopDesign& d : designs) {
    const LoopFigures f = loop_figures(d);
    out["loops"].push_back({{"charge_pump_a", d.charge_pump_a},
                            {"crossover_hz", finite_or_null(f.crossover_hz)},
                            {"phase_margin_deg", finite_or_null(f.phase_margin_deg)},
                            {"peaking_db", number_or_null(f.peaking_db)},
                            {"peaking_hz", number_or_null(f.peaking_hz)},
                            {"closed_loop_3db_hz", number_or_null(f.closed_loop_3db_hz)}});
    if (!f.is_stable()) remarks.push_back(unstable_remark(d, f));
    for (const Remark& r : loop_remarks(d, f)) remarks.push_back(r);
    if (o.json) continue;
    fmt::print("{:>8}  crossover {}, phase margin {}\u00b0{}\n",
               engineering_text(d.charge_pump_a, "A", 3), frequency_text(f.crossover_hz),
               number_text(f.phase_margin_deg, 1),
               f.peaking_db ? ", peaking " + number_text(*f.peaking_db, 2) + " dB at " +
                                  frequency_text(*f.peaking_hz)
                            : std::string(": it does not lock"));
  }
  add_remarks(out, remarks);
  if (o.json)
    print_json(out);
  else
    print_remarks(remarks);
  return kDone;
}

}  // namespace

CommandRun add_loop_command(CLI::App& app) {
  auto o = std::make_shared<LoopOptions>();
  CLI::App* c = app.add_subcommand("loop", "What a charge-pump loop does");
  c->add_option("file", o->file,
                "JSON with charge_pump_a, kvco_hz_per_v, n and the filter\u2019s parts")
      ->required();
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron
