#include "report/section_parts.h"

#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/method_table.h"
#include "core/quantity/budget.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

/// The chain part by part: what it loses where it was used, and how well that is known.
void add_hookup(ReportSection& s, const PlannedTest& t,
                const std::optional<HookupVersion>& taken_on, double frequency) {
  const auto& on = taken_on ? taken_on : t.hookup;
  if (!on) {
    if (!t.test.hookup.empty()) s.conditions.emplace_back("Hook-up", t.test.hookup);
    return;
  }
  s.conditions.emplace_back("Hook-up", fmt::format("{}, version {}", on->name, on->number));
  for (const Part& part : on->chain.parts) {
    std::string words;
    try {
      if (!find_part_kind(part.kind)->ends_chain)
        words = number_text(part.gain.at(frequency, part.name), 2, true) + " dB";
    } catch (const InputError& error) {
      words = error.reason;
    }
    const double expanded = 2.0 * std::hypot(part.u_db, part.u_age_db);
    if (expanded > 0.0)
      words += (words.empty() ? "\u00b1 " : " \u00b1 ") + number_text(expanded, 2) + " dB";
    if (!part.calibration.date.empty())
      words += ", calibrated " + part.calibration.date.substr(0, 10);
    s.conditions.emplace_back("  " + part.name, words.empty() ? "no figures stated" : words);
  }
  if (t.test.drive)
    s.conditions.emplace_back(
        "Planned drive", fmt::format("{} at {}{}",
                                     t.test.drive->typed.empty()
                                         ? quantity_text(Quantity::level, t.test.drive->pep_dbm)
                                         : t.test.drive->typed,
                                     frequency_text(t.test.drive->frequency_hz),
                                     t.test.drive->key_down_s
                                         ? ", key down " + duration_text(*t.test.drive->key_down_s)
                                         : ""));
  for (const Vouched& v : t.vouched)
    s.conditions.emplace_back(
        "Over ratings, overridden",
        fmt::format("{} at {}: {} ({})", v.by, watts_text(v.pep_dbm), v.why, v.at.substr(0, 10)));
}

}  // namespace

ReportSection section_head(const PlannedTest& t, const std::optional<HookupVersion>& taken_on,
                           double frequency_hz) {
  ReportSection s;
  const Characteristic* c = find_characteristic(t.test.characteristic);
  s.title = t.test.title;
  s.question = c == nullptr ? "" : std::string(c->question);
  add_hookup(s, t, taken_on, frequency_hz);
  if (!t.test.conditions.empty()) s.conditions.emplace_back("Conditions", t.test.conditions);
  s.note = t.test.note;
  if (t.test.is_signed()) s.signature = t.test.signed_by + ", " + readable_time(t.test.signed_at);
  return s;
}

std::string budget_words(const Figure& figure) {
  std::string words;
  // The uncertainty of a level in dBm is a ratio.
  const std::string unit = difference_unit(figure.unit);
  for (const BudgetRow& row : budget_of(figure).rows)
    words += (words.empty() ? "" : "; ") +
             fmt::format("{} \u00b1 {} {}", row.name, number_text(row.expanded, 2), unit);
  return words;
}

}  // namespace heron
