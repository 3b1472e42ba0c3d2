#include "core/method/acceptance.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/result_json.h"
#include "core/quantity/format.h"

namespace heron {

using nlohmann::json;

json to_json(const Acceptance& a) {
  return {{"by", a.by}, {"reason", a.reason}, {"at", a.at}, {"margin", a.margin}};
}

std::optional<Acceptance> acceptance_of(const json& settings) {
  const auto found = settings.find(kAcceptedSettings);
  if (found == settings.end() || found->is_null()) return std::nullopt;
  try {
    Acceptance a{found->at("by"), found->at("reason"), found->at("at"), found->at("margin")};
    if (a.by.empty() || a.reason.empty() || !std::isfinite(a.margin))
      refuse_damaged("an acceptance has no name, reason or margin");
    return a;
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
}

bool can_be_accepted(const Judgement& j) {
  return j.verdict == Verdict::fail || j.verdict == Verdict::too_close;
}

namespace {

/// Wherever the same figure stands once more.
void accept_the_same(const Answer& answer, Result& result) {
  for (StepFigure& f : result.step_figures)
    if (f.judgement && f.figure.id == answer.figure.id && f.figure.value == answer.figure.value)
      f.judgement->verdict = Verdict::accepted;
  for (ResultTable& table : result.tables)
    for (ResultTable::Row& row : table.rows) {
      if (!answer.step || row.step != answer.step) continue;
      for (std::size_t c = 0; c < row.cells.size(); ++c) {
        TableCell& cell = row.cells[c];
        if (!cell.judgement || cell.judgement->margin != answer.judgement->margin) continue;
        cell.judgement->verdict = Verdict::accepted;
        if (table.columns[c].kind == CellKind::verdict) cell.text = verdict_word(Verdict::accepted);
      }
    }
}

}  // namespace

void apply_acceptance(const Acceptance& a, Result& result) {
  if (result.answers.empty() || !result.answers.front().judgement) return;
  Answer& answer = result.answers.front();
  Judgement& j = *answer.judgement;
  if (!can_be_accepted(j)) return;
  const std::string unit = answer.limit ? answer.limit->unit : std::string("dB");
  const int decimals =
      j.expanded > 0.0 ? std::min(2, decimals_for(j.expanded, Rounding::compact)) : 1;
  const auto away = [&](double margin) {
    return with_unit(number_text(std::abs(margin), decimals), unit) +
           (margin < 0.0 ? " outside" : " inside");
  };
  if (j.margin < a.margin - j.expanded) {
    result.remarks.insert(result.remarks.begin(),
                          {"no_longer_accepted", Severity::caution,
                           fmt::format("{} accepted {} the limit: it is {} now.", a.by,
                                       away(a.margin), away(j.margin)),
                           "Accept it again, or mend it"});
    return;
  }
  j.verdict = Verdict::accepted;
  accept_the_same(answer, result);
  answer.sentence = fmt::format("{} the limit, accepted by {}.", away(j.margin), a.by);
  result.remarks.insert(
      result.remarks.begin(),
      {"accepted", Severity::note,
       fmt::format("Accepted by {} on {}, {} the limit: {}{}", a.by, a.at.substr(0, 10),
                   away(a.margin), a.reason, a.reason.ends_with('.') ? "" : "."),
       ""});
}

}  // namespace heron
