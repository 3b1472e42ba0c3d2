#include "core/method/provisional.h"

#include <algorithm>
#include <fmt/format.h>

#include "core/method/method.h"
#include "core/method/place_name.h"

namespace heron {
namespace {

/// Those that count: what was read once more since is no longer rough.
std::vector<const Reading*> provisional_readings(const EvidenceStep& step) {
  std::vector<const Reading*> all;
  for (const Reading& r : step.readings)
    if (r.is_provisional && find_reading(step.readings, r.quantity, r.role) == &r)
      all.push_back(&r);
  return all;
}

/// Which steps hold a provisional reading, or all of them.
class ProvisionalSteps {
 public:
  ProvisionalSteps(const Method& method, const Evidence& evidence, const Result& result)
      : evidence_(evidence), result_(result), is_joint_(method.is_joint) {
    is_all_ = !provisional_reason(evidence.settings).empty();
    for (const EvidenceStep& step : evidence.steps)
      is_step_.push_back(!provisional_readings(step).empty());
    is_any_ = is_all_ || std::find(is_step_.begin(), is_step_.end(), true) != is_step_.end();
  }

  bool any() const { return is_any_; }
  bool all() const { return is_all_; }

  /// What of them all decides: any does.
  bool of_chosen(std::optional<std::size_t> chosen) const {
    if (!is_any_ || is_all_) return is_any_;
    const auto step = result_.step_of(chosen);
    return step ? *step < is_step_.size() && is_step_[*step] : true;
  }

  /// A row that belongs to no step stands on all of them only where they are judged together.
  bool of_row(std::optional<std::size_t> chosen) const {
    return is_all_ || (is_any_ && (chosen || is_joint_) && of_chosen(chosen));
  }

  /// By the name of a step, of an item, or else of the band that steps are called after.
  bool of_name(const std::string& name) const {
    if (!is_any_ || is_all_) return is_any_;
    bool is_known = false;
    for (std::size_t i = 0; i < result_.items.size(); ++i) {
      if (result_.items[i].name != name) continue;
      is_known = true;
      if (result_.items[i].step && of_chosen(i)) return true;
    }
    for (std::size_t i = 0; i < is_step_.size(); ++i) {
      if (evidence_.steps[i].label != name) continue;
      is_known = true;
      if (is_step_[i]) return true;
    }
    if (is_known) return false;
    const auto hz = named_frequency_hz(name);
    for (std::size_t i = 0; i < is_step_.size(); ++i)
      if (is_step_[i] && (!hz || named_frequency_hz(evidence_.steps[i].label) == hz)) return true;
    return false;
  }

 private:
  const Evidence& evidence_;
  const Result& result_;
  bool is_joint_;
  bool is_all_ = false;
  bool is_any_ = false;
  std::vector<bool> is_step_;
};

/// "Output, cold": a head without its unit.
std::string head_of(const Method& method, const Reading& reading) {
  for (const TypedField& f : method.fields) {
    if (f.quantity != reading.quantity || f.role != reading.role) continue;
    const std::string head(f.head);
    return head.substr(0, head.rfind(", "));
  }
  return "a reading";
}

Remark test_remark(const std::string& reason) {
  return {"provisional_test", Severity::note,
          "Provisional: " + reason + (reason.ends_with('.') ? "" : "."),
          "Repeat it before it is relied on"};
}

/// The first by name, the others by their number.
Remark readings_remark(const Method& method, const Evidence& evidence) {
  std::string first;
  std::size_t count = 0;
  for (const EvidenceStep& step : evidence.steps)
    for (const Reading* r : provisional_readings(step))
      if (count++ == 0) first = head_of(method, *r) + " at " + step.label;
  const std::string others = count == 1   ? std::string()
                             : count == 2 ? " and one more reading"
                                          : fmt::format(" and {} more readings", count - 1);
  return {"provisional_readings", Severity::note, "Provisional: " + first + others + ".",
          count == 1 ? "Read it again before it is relied on"
                     : "Read them again before they are relied on"};
}

void mark(std::optional<Judgement>& judgement, bool is_provisional) {
  if (judgement && is_provisional) judgement->is_provisional = true;
}

}  // namespace

std::string provisional_reason(const nlohmann::json& settings) {
  const auto found = settings.find(kProvisionalSettings);
  return found != settings.end() && found->is_string() ? found->get<std::string>() : std::string();
}

std::pair<bool, std::string> rough_typing(const std::string& typed) {
  const auto first = typed.find_first_not_of(' ');
  for (const std::string_view sign : {"~", "\u2248"}) {
    if (first == std::string::npos || typed.compare(first, sign.size(), sign) != 0) continue;
    const auto rest = typed.find_first_not_of(' ', first + sign.size());
    return {true, rest == std::string::npos ? std::string() : typed.substr(rest)};
  }
  return {false, typed};
}

std::string as_rough(const std::string& typed) {
  return "~ " + typed;
}

void mark_provisional(const Method& method, const Evidence& evidence, Result& result) {
  const ProvisionalSteps steps(method, evidence, result);
  if (!steps.any()) return;
  for (Answer& a : result.answers) {
    a.is_provisional = steps.of_chosen(a.step);
    mark(a.judgement, a.is_provisional);
  }
  for (StepFigure& f : result.step_figures) {
    f.is_provisional = steps.of_name(f.step);
    mark(f.judgement, f.is_provisional);
  }
  for (ResultTable& table : result.tables)
    for (ResultTable::Row& row : table.rows)
      for (TableCell& cell : row.cells)
        mark(cell.judgement, steps.of_row(row.step ? row.step : table.step));
  for (FigureCard& card : result.figure_cards) mark(card.judgement, steps.of_row(card.step));
  result.remarks.insert(result.remarks.begin(),
                        steps.all() ? test_remark(provisional_reason(evidence.settings))
                                    : readings_remark(method, evidence));
}

}  // namespace heron
