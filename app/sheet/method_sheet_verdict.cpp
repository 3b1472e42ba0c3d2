// The answer on the sheet of a method; the rest of it is in method_sheet.cpp.
#include "app/sheet/method_sheet.h"
#include "app/theme/qt_text.h"
#include "core/judge/limit.h"
#include "core/method/compare.h"
#include "core/quantity/format.h"

namespace heron {

void MethodSheet::refresh_verdict(const GeneralTest& t) {
  VerdictCardContent content;
  const Answer* a = shown_answer();
  const auto at = step();
  if (a != nullptr && !a->head.empty())
    content.where = qt_text(a->head);
  else if (at && !is_joint())
    content.where = tr("At %1").arg(qt_text(t.steps[*at].label));
  if (a == nullptr) {
    content.sentence =
        is_joint() ? tr("No figure yet: the remarks and the plot say what is missing.")
        : takes_recordings()
            ? (is_taken() ? tr("No figure could be calculated. The remarks say why.")
                          : tr("No figure yet: record this step and drop the file on the sheet."))
        : t.steps.empty() ? tr("No figure yet: type a step and its readings into the grid.")
                          : tr("No figure yet: type what was read at this step into the grid.");
    verdict_->set_content(content);
    return;
  }
  const Figure& shown = a->shown ? *a->shown : a->figure;
  const FormattedFigure f = format_figure(shown, Rounding::compact, 1);
  content.value = qt_text(f.value);
  content.bound = qt_text(f.bound);
  content.uncertainty = qt_text(f.uncertainty);
  const std::string unit = short_unit(shown);
  content.unit = qt_text(unit);
  const bool says_convention = shown.convention.empty() || unit != shown.unit;
  content.explanation = qt_text(a->label + (says_convention ? "" : ", " + shown.convention));
  content.explanation_short = qt_text(a->label);
  if (a->limit && a->judgement) {
    Limit limit = *a->limit;
    if (limit.unit == shown.unit) limit.unit = unit;
    content.limit = tr("limit %1").arg(qt_text(limit_text(limit)));
    content.mark = {a->judgement->verdict, a->judgement->margin, a->judgement->expanded,
                    a->judgement->bound, std::nullopt};
    content.span = a->margin_span;
  }
  content.is_provisional = a->is_provisional;
  content.sentence = qt_text(a->sentence);
  const Answer* before =
      compared_ >= 0 && compared_ != chosen_
          ? t.result.answer_at(static_cast<std::size_t>(compared_), view().toStdString())
          : nullptr;
  if (before != nullptr) {
    const auto on = [&](int i) {
      const auto& version = t.taken_on[static_cast<std::size_t>(i)];
      return version ? version->id : Id{0};
    };
    const Sense better = t.method->limit(t.evidence).sense;
    const std::string words = comparison_words(*a, *before, better, on(chosen_) == on(compared_));
    if (!words.empty()) content.sentence = qt_text(words);
    if (!words.empty() && before->judgement) content.mark.before = before->judgement->margin;
  }
  verdict_->set_content(content);
}

void MethodSheet::compare_with(int step) {
  compared_ = step;
  refresh();
}

void MethodSheet::show_budget() {
  const Answer* a = shown_answer();
  if (a == nullptr || a->figure.contributions.empty()) return;
  show_budget_of(a->figure, qt_text(a->where),
                 a->judgement ? std::optional(a->judgement->margin) : std::nullopt,
                 verdict_->mapTo(window(), QPoint(70, verdict_->height() - 8)));
}

}  // namespace heron
