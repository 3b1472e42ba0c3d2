#include "app/sheet/ladder_picture.h"

#include <cmath>

#include "app/theme/qt_text.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

/// The limit as the shown convention has it for equal tones.
std::optional<Limit> shown_limit(const TwoToneTest& t, const QString& convention) {
  if (!t.test.limit) return std::nullopt;
  return in_convention(*t.test.limit, convention.toStdString(), pep_over_one_tone(1.0).value);
}

QString watts(double dbm) {
  return qt_text(number_text(to_watt(Dbm{dbm}).value, 1));
}

}  // namespace

LadderPicture ladder_picture(const TwoToneTest& t, const QString& convention, int step,
                             bool can_edit) {
  LadderPicture picture;
  const std::vector<LadderStep> evidence = t.evidence();
  picture.traces = ladder_traces(evidence, convention.toStdString());
  picture.can_move_ceiling = can_edit;
  picture.y_title = convention == kRePep ? QObject::tr("dB relative to PEP, the worse side")
                                         : QObject::tr("dB relative to one tone, the worse side");
  if (const auto limit = shown_limit(t, convention)) {
    picture.limit_db = limit->value;
    picture.limit_words =
        QObject::tr("Limit %1")
            .arg(qt_text(limit_text(Limit{"", limit->sense, std::round(limit->value * 10.0) / 10.0,
                                          limit->unit, "", 20.0})));
  }
  for (const DominanceChange& change : t.ladder.dominance_changes) {
    const double w = to_watt(Dbm{change.crossing_dbm}).value;
    const double expanded = 2.0 * change.u_db / kDbPerRelativePower * w;
    picture.crossings.push_back(
        {change.crossing_dbm, 2.0 * change.u_db,
         QObject::tr("IM%1 overtakes IM%2 at %3 ± %4 W")
             .arg(change.to_order)
             .arg(change.from_order)
             .arg(qt_text(number_text(w, decimals_for(expanded, Rounding::compact))),
                  qt_text(number_text(expanded, decimals_for(expanded, Rounding::compact))))});
  }
  if (t.ladder.sweet_spot) picture.sweet_dbm = t.ladder.rows[*t.ladder.sweet_spot].output_dbm;
  if (t.ladder.quietest) picture.quiet_dbm = t.ladder.rows[*t.ladder.quietest].output_dbm;
  picture.ceiling_dbm = t.ladder_settings.ceiling_dbm;
  if (step >= 0 && step < static_cast<int>(t.outputs.size()) &&
      t.outputs[static_cast<std::size_t>(step)])
    picture.chosen_dbm = t.outputs[static_cast<std::size_t>(step)]->value;
  picture.driven = t.driven;
  picture.driven_words = QObject::tr("with %1 behind").arg(qt_text(t.amplifier_name));
  // What is driven was worked out in the limit's convention.
  const std::string worked = t.test.limit ? t.test.limit->convention : std::string(kRePep);
  if (convention.toStdString() != worked) {
    const double shift =
        convention == kRePep ? -pep_over_one_tone(1.0).value : pep_over_one_tone(1.0).value;
    for (DrivenPoint& p : picture.driven.points) {
      if (p.power_sum_db) *p.power_sum_db += shift;
      p.in_phase_db += shift;
    }
    for (DrivenComparison& m : picture.driven.measured) m.measured_db += shift;
  }
  if (picture.traces.empty()) {
    const bool has_analysis = std::any_of(t.analyses.begin(), t.analyses.end(),
                                          [](const auto& a) { return a && !a->products.empty(); });
    picture.empty_words =
        has_analysis
            ? QObject::tr(
                  "No step has an output yet: type it for each step, or give the hook-up a "
                  "recorder with a known full scale.")
            : QObject::tr(
                  "No step is measured yet: drop recordings here, or type readings into the grid.");
  }
  return picture;
}

LadderAdvice ladder_advice(const TwoToneTest& t) {
  const std::string convention = t.test.limit ? t.test.limit->convention : std::string(kRePep);
  return advise_ladder(ladder_traces(t.evidence(), convention), t.test.limit,
                       t.ladder_settings.ceiling_dbm, t.driven, t.amplifier_name);
}

QString comparison_words(const TwoToneTest& t, int step, int before, const QString& convention) {
  const auto& a = t.analyses[static_cast<std::size_t>(step)];
  const auto& b = t.analyses[static_cast<std::size_t>(before)];
  if (!a || !b || a->worst() == nullptr || b->worst() == nullptr || step == before) return {};
  Figure now = product_figure(*a, *a->worst(), convention.toStdString());
  Figure then = product_figure(*b, *b->worst(), convention.toStdString());
  // What both share cancels only where they were taken on the same hook-up.
  const auto on = [&](int i) {
    const auto& version = t.taken_on[static_cast<std::size_t>(i)];
    return version ? version->id : Id{0};
  };
  if (on(step) != on(before)) {
    for (Figure* figure : {&now, &then}) {
      for (Contribution& c : figure->contributions) c.scope = Scope::independent;
    }
  }
  const Figure change = difference(now, then);
  const QString label = qt_text(t.steps[static_cast<std::size_t>(before)].label);
  if (is_no_difference(change)) return QObject::tr("No difference to %1.").arg(label);
  const FormattedFigure f = format_figure(change, Rounding::compact, 1);
  QString size = qt_text(f.value);
  size.remove(QChar(0x2212)).remove('-');
  const QString u =
      f.uncertainty.empty() ? QString() : QString::fromUtf8(" ± ") + qt_text(f.uncertainty);
  return (change.value < 0.0 ? QObject::tr("%1%2 dB better than %3.")
                             : QObject::tr("%1%2 dB worse than %3."))
      .arg(size, u, label);
}

VerdictCardContent step_verdict(const TwoToneTest* t, int step, const QString& shown, int before) {
  VerdictCardContent content;
  content.unit = "dB";
  const TwoToneAnalysis* a = nullptr;
  const auto i = static_cast<std::size_t>(std::max(0, step));
  if (t != nullptr && i < t->steps.size()) {
    content.where = QObject::tr("At %1").arg(qt_text(t->steps[i].label));
    if (t->analyses[i]) a = &*t->analyses[i];
  }
  if (a == nullptr) {
    content.sentence = QObject::tr(
        "No figure yet. Record the two tones at this drive and drop the file on the sheet.");
    return content;
  }
  if (a->worst() == nullptr) {
    content.sentence = QObject::tr("No products could be measured. The remarks say why.");
    return content;
  }
  const std::string convention = shown.toStdString();
  const TwoToneProduct& worst = *a->worst();
  const FormattedFigure f =
      format_figure(product_figure(*a, worst, convention), Rounding::compact, 1);
  content.value = qt_text(f.value);
  content.bound = qt_text(f.bound);
  content.uncertainty = qt_text(f.uncertainty);
  const bool is_typed = a->capture.frames == 0 && a->rbw_hz == 0.0;
  content.explanation =
      is_typed ? QObject::tr("Worst: %1 order, typed, %2").arg(qt_text(ordinal(worst.order)), shown)
               : QObject::tr("Worst: %1 order, %2 side, %3")
                     .arg(qt_text(ordinal(worst.order)),
                          worst.side == Side::upper ? QObject::tr("upper") : QObject::tr("lower"),
                          shown);
  content.explanation_short = QObject::tr("Worst: %1, %2").arg(qt_text(product_name(worst)), shown);
  if (!t->test.limit) {
    content.sentence = QObject::tr("No limit is chosen, so nothing is judged: choose one above.");
  } else {
    const LadderRow& row = t->ladder.rows[i];
    Limit rounded = in_convention(*t->test.limit, convention, a->pep_over_tone_db());
    rounded.value = std::round(rounded.value * 10.0) / 10.0;
    content.limit = QObject::tr("limit %1").arg(qt_text(limit_text(rounded)));
    content.mark = {row.judgement.verdict, row.judgement.margin, row.judgement.expanded,
                    row.judgement.bound, std::nullopt};
    content.span = t->test.limit->span;
    content.sentence = qt_text(verdict_sentence(row.judgement, "dB"));
  }
  if (before >= 0 && before < static_cast<int>(t->steps.size()) && before != step) {
    const QString words = comparison_words(*t, step, before, shown);
    if (!words.isEmpty()) {
      content.sentence = words;
      if (t->test.limit)
        content.mark.before = t->ladder.rows[static_cast<std::size_t>(before)].judgement.margin;
    }
  }
  return content;
}

std::optional<VerdictCardContent> ceiling_verdict(const TwoToneTest& t, const QString& shown) {
  if (!t.ladder_settings.ceiling_dbm) return std::nullopt;
  const std::string convention = shown.toStdString();
  const auto at =
      worst_at(ladder_traces(t.evidence(), convention), *t.ladder_settings.ceiling_dbm, convention);
  if (!at) return std::nullopt;
  VerdictCardContent content;
  content.where = QObject::tr("At your ceiling, %1 W").arg(watts(*t.ladder_settings.ceiling_dbm));
  const FormattedFigure f = format_figure(at->figure, Rounding::compact, 1);
  content.value = qt_text(f.value);
  content.bound = qt_text(f.bound);
  content.uncertainty = qt_text(f.uncertainty);
  content.unit = "dB";
  content.explanation = QObject::tr("Worst: %1 order, %2%3")
                            .arg(qt_text(ordinal(at->order)), shown,
                                 at->is_between_steps ? QObject::tr(", between steps") : QString());
  content.explanation_short = QObject::tr("IM%1, between steps").arg(at->order);
  if (const auto limit = shown_limit(t, shown)) {
    Judgement j = judge(at->figure, *limit);
    const bool is_unread = at->unread_order && j.verdict == Verdict::pass;
    if (is_unread) j.verdict = Verdict::incomplete;
    content.mark = {j.verdict, j.margin, j.expanded, j.bound, std::nullopt};
    content.span = limit->span;
    Limit rounded = *limit;
    rounded.value = std::round(rounded.value * 10.0) / 10.0;
    content.limit = QObject::tr("limit %1").arg(qt_text(limit_text(rounded)));
    content.sentence = is_unread ? QObject::tr("IM%1 was not read there.").arg(*at->unread_order)
                                 : qt_text(verdict_sentence(j, "dB"));
    const LadderAdvice advice = ladder_advice(t);
    if (advice.at_limit && !advice.at_limit->is_surely_at_least)
      content.sentence += advice.at_limit->sure_dbm
                              ? QObject::tr(" It passes with certainty up to %1.")
                                    .arg(watts(*advice.at_limit->sure_dbm))
                              : QObject::tr(" No step passes with certainty.");
  } else {
    content.sentence = QObject::tr("No limit is chosen, so nothing is judged: choose one above.");
  }
  return content;
}

}  // namespace heron
