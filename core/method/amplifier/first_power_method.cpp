#include "core/method/amplifier/first_power_method.h"

#include <algorithm>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/amplifier/first_power.h"
#include "core/method/live_quantity.h"
#include "core/method/measure/whole_answer.h"
#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

/// "yes", or what was seen; "skip: why" leaves it out.
Reading read_check(const TypedField& field, const std::string& typed, const std::string&) {
  Reading r;
  r.quantity = field.quantity;
  r.typed = typed;
  r.value = 1.0;
  const std::string text = lower_case(normalised_typing(typed));
  constexpr std::size_t kLeastReason = 4;
  if (text == "no" || text == "open")
    throw InputError("\u201c" + typed + "\u201d", "", "it is not done",
                     "Type yes once it is, or skip: and why");
  if (text.starts_with("skip")) {
    const std::size_t reason = text.find_first_not_of(" :,-", 4);
    if (reason == std::string::npos || text.size() - reason < kLeastReason)
      throw InputError("\u201c" + typed + "\u201d", "", "skipping needs a reason",
                       "Type skip: and why");
    r.value = 0.0;
  }
  return r;
}

StepPlan plan_checks(const Evidence& evidence) {
  StepPlan plan;
  plan.words = "Plan the seven checks";
  plan.steps = usual_power_checks();
  plan.settings = evidence.settings;
  return plan;
}

std::string state_words(PowerCheck::State state) {
  switch (state) {
    case PowerCheck::State::open:
      return "open";
    case PowerCheck::State::skipped:
      return "skipped";
    case PowerCheck::State::done:
      return "checked";
    case PowerCheck::State::known:
      return "known";
  }
  return "";
}

TableCell state_cell(PowerCheck::State state) {
  TableCell cell{state_words(state)};
  if (state == PowerCheck::State::open) return cell;
  Judgement j;
  j.verdict = state == PowerCheck::State::skipped ? Verdict::too_close : Verdict::pass;
  cell.judgement = j;
  return cell;
}

Result evaluate_first_power(const Evidence& evidence) {
  Result r;
  r.method = "first_power";
  const std::vector<PowerCheck> checks = power_checks(evidence);
  ResultTable table;
  table.title = "First power";
  table.columns = {{"check", "Check", CellKind::name, 284, 0, 236},
                   {"known", "What is known", CellKind::text, -1},
                   {"words", "Said", CellKind::text, 160, 0, 130},
                   {"state", "State", CellKind::verdict, 104}};
  std::size_t seen = 0;
  std::size_t skipped = 0;
  std::size_t first_open = checks.size();
  for (std::size_t i = 0; i < checks.size(); ++i) {
    const PowerCheck& c = checks[i];
    const bool is_damaged = evidence.steps[i].is_damaged;
    table.rows.push_back({i,
                          {{c.label},
                           {c.known},
                           {c.words},
                           is_damaged ? TableCell{"damaged"} : state_cell(c.state)}});
    if (c.state == PowerCheck::State::open) {
      first_open = std::min(first_open, i);
    } else {
      ++seen;
    }
    if (c.state == PowerCheck::State::skipped) {
      ++skipped;
      r.remarks.push_back(
          {"skipped", Severity::caution, c.label + " was skipped: " + c.words + ".", ""});
    }
  }
  table.note = "Known: the hook-up or a reading says it. Local codes and your licence come first.";
  r.tables.push_back(std::move(table));
  if (seen == 0) return r;
  Answer a;
  a.figure.id = "checked";
  a.figure.label = "Checks";
  a.figure.value = static_cast<double>(seen);
  a.figure.unit = fmt::format("of {}", checks.size());
  a.head = "Seen to";
  a.where = "first power";
  a.label = first_open < checks.size() ? "next: " + checks[first_open].label : "nothing is open";
  Limit limit{"all",
              Sense::at_least,
              static_cast<double>(checks.size()),
              a.figure.unit,
              "",
              static_cast<double>(checks.size())};
  Judgement j;
  j.margin = static_cast<double>(seen) - static_cast<double>(checks.size());
  j.verdict = first_open < checks.size() ? Verdict::incomplete
              : skipped > 0              ? Verdict::too_close
                                         : Verdict::pass;
  a.judgement = j;
  a.limit = limit;
  a.margin_span = static_cast<double>(checks.size());
  a.sentence = first_open < checks.size()
                   ? "Nothing of this evaluation is keyed by the program until all are seen to."
               : skipped > 0 ? fmt::format("{} skipped, with a reason.", skipped)
                             : "Drive it from far below its rating upwards.";
  answer_all_steps(r, a, first_open < checks.size() ? first_open : 0, checks.size());
  r.step_figures.push_back({"all", a.figure, a.limit, a.judgement});
  return r;
}

}  // namespace

const Method& first_power_method() {
  static const Method method{
      .id = "first_power",
      .step_head = "Check",
      .step_example = "Fan runs",
      .fields = {{.quantity = kCheckReading,
                  .head = "Seen to",
                  .hint = "yes, or what was seen: \u201c28 V, limited to 4.5 A\u201d. To leave it "
                          "out: \u201cskip: no cover yet\u201d",
                  .width = 240,
                  .read = read_check},
                 {.quantity = kSupplyCurrent,
                  .head = "A",
                  .hint = "Quiescent current, read without drive",
                  .asked = Quantity::current,
                  .unit = "A",
                  .u_relative = 0.01,
                  .width = 70,
                  .live = kSupplyCurrent}},
      .caution =
          "Load first, then supply, then drive. RF burns, at UHF and above it harms eyes; the "
          "heatsink gets hot; from 50 V "
          "on the supply is dangerous to touch. Local codes and your licence come first; where "
          "mains or high voltage are "
          "open, leave it to licensed people.",
      .plan = plan_checks,
      .is_gate = true,
      .evaluate = evaluate_first_power};
  return method;
}

}  // namespace heron
