#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/csv_cell.h"
#include "cli/frequency_output.h"
#include "cli/output.h"
#include "core/error.h"
#include "core/method/frequency/adjusting.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct AdjustOptions {
  std::string file;
  double target_hz = 0.0;
  bool json = false;
};

int run(const AdjustOptions& o) {
  const CsvTable table = table_of(o.file);
  if (!table.column("setting") || !table.column("frequency_hz"))
    throw InputError(table.name, "line 1", "it has no columns setting and frequency_hz",
                     "Begin it with setting,frequency_hz");
  std::vector<SettingPair> pairs;
  for (const CsvTable::Row& row : table.rows) {
    const auto setting = number_cell(table, row, "setting");
    const auto hz = number_cell(table, row, "frequency_hz");
    if (setting && hz) pairs.push_back({*setting, *hz});
  }
  const Adjustment a = next_setting(pairs, o.target_hz);
  if (!o.json) {
    fmt::print("next setting {} (exactly {}), {} Hz a step; it leaves {} Hz\n", a.next,
               number_text(a.exact, 2), number_text(a.slope_hz_per_step, 4, true),
               number_text(a.residual_hz, 2, true));
    return kDone;
  }
  json out = common_json("adjust", {o.file});
  out["next_setting"] = a.next;
  out["next_setting_exact"] = finite_or_null(a.exact);
  out["u_setting"] = finite_or_null(a.u_exact);
  out["predicted_hz"] = finite_or_null(a.predicted_hz);
  out["slope_hz_per_step"] = finite_or_null(a.slope_hz_per_step);
  out["residual_hz"] = finite_or_null(a.residual_hz);
  out["closest_possible_hz"] = finite_or_null(a.closest_hz);
  print_json(out);
  return kDone;
}

}  // namespace

CommandRun add_adjust_command(CLI::App& app) {
  auto o = std::make_shared<AdjustOptions>();
  CLI::App* c = app.add_subcommand("adjust", "Where to set a stepped frequency adjustment");
  c->add_option("file", o->file, "CSV with setting,frequency_hz")->required();
  c->add_option("--target", o->target_hz, "Wanted frequency, Hz")->required();
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron
