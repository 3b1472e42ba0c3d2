#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/csv_cell.h"
#include "cli/frequency_output.h"
#include "cli/output.h"
#include "core/error.h"
#include "core/method/frequency/lock_margin.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct LockOptions {
  std::string file;
  LockNeed need;
  bool fail_on_verdict = false;
  bool json = false;
};

LockState state_of(const CsvTable& table, const CsvTable::Row& row) {
  const std::string word = lower_case(CsvTable::cell(row, table.column("locked")));
  for (const char* yes : {"1", "yes", "true", "locked", "held"})
    if (word == yes) return LockState::held;
  for (const char* no : {"0", "no", "false", "unlocked", "lost"})
    if (word == no) return LockState::lost;
  if (word == "disturbed") return LockState::disturbed;
  refuse_cell(table, row, "locked", "\u201c" + word + "\u201d is neither locked nor unlocked",
              "Write yes, no or disturbed");
}

int run(const LockOptions& o) {
  const CsvTable table = table_of(o.file);
  if (!table.column("attenuation_db") || !table.column("locked"))
    throw InputError(table.name, "line 1", "it has no columns attenuation_db and locked",
                     "Begin it with attenuation_db,locked,frequency_hz");
  std::vector<LockStep> steps;
  for (const CsvTable::Row& row : table.rows) {
    const auto attenuation = number_cell(table, row, "attenuation_db");
    if (!attenuation) refuse_cell(table, row, "attenuation_db", "it is empty", "Fill it in");
    steps.push_back({*attenuation, state_of(table, row), number_cell(table, row, "frequency_hz")});
  }
  if (steps.empty()) throw InputError(table.name, "", "it holds no step", "Add one a line");
  const LockMargin m = find_lock_margin(steps, o.need);
  const bool passed = m.judgement && m.judgement->verdict == Verdict::pass;
  if (o.json) {
    json out = common_json("lock-margin", {o.file});
    out["lost_at_db"] = number_or_null(m.lost_at_db);
    out["regained_at_db"] = number_or_null(m.regained_at_db);
    out["margin_db"] = value_or_null(m.margin);
    out["margin_bound"] =
        m.margin && m.margin->bound == Bound::lower ? json("lower") : json(nullptr);
    out["hysteresis_db"] = number_or_null(m.hysteresis_db);
    out["held_hz"] = number_or_null(m.held_hz);
    out["free_hz"] = number_or_null(m.free_hz);
    if (m.margin) out["figures"].push_back(to_json(*m.margin));
    if (m.judgement) {
      Limit limit{"needed", Sense::at_least, o.need.needed_db, "dB", "", 20.0};
      out["verdicts"].push_back(verdict_json(*m.judgement, limit, "margin"));
    }
    add_remarks(out, m.remarks);
    print_json(out);
  } else {
    fmt::print("margin {}\n", !m.margin ? std::string("none")
                                        : (m.margin->bound == Bound::lower ? "at least " : "") +
                                              number_text(m.margin->value, 1) + " dB");
    print_remarks(m.remarks);
  }
  return o.fail_on_verdict && !passed ? kVerdictNotPass : kDone;
}

}  // namespace

CommandRun add_lock_margin_command(CLI::App& app) {
  auto o = std::make_shared<LockOptions>();
  CLI::App* c =
      app.add_subcommand("lock-margin", "How much weaker an external reference may become");
  c->add_option("file", o->file,
                "CSV with attenuation_db,locked and frequency_hz if there is, in the order taken")
      ->required();
  c->add_option("--needed", o->need.needed_db, "Margin that passes, dB")->capture_default_str();
  c->add_option("--least", o->need.least_db, "Margin below which it fails, dB")
      ->capture_default_str();
  c->add_flag("--fail-on-verdict", o->fail_on_verdict, "Exit status 4 unless it passes");
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron
