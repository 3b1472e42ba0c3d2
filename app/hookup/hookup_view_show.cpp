// What the hook-up editor shows of its scene; drafts and actions are in hookup_view.cpp.
#include <QHBoxLayout>
#include <QMenu>
#include <algorithm>
#include <cmath>

#include "app/hookup/hookup_view.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "app/widget/card.h"
#include "app/widget/caution_card.h"
#include "app/widget/tag.h"
#include "app/widget/words.h"
#include "core/chain/hookup_remarks.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "store/clock.h"
#include "store/device.h"

namespace heron {
namespace {

constexpr double kCautionFromDbm = 37.0;  // 5 W

}  // namespace

void HookupView::show_scene() {
  band_->set_scene(&scene_);
  diagram_->set_scene(&scene_);
  model_->set_scene(scene_, utc_now());
  table_->choose_row(scene_.chosen);
  show_survival();
  show_remarks();
  show_title();
  fill_which_menu();
}

void HookupView::show_title() {
  const bool read_only = session_.shack().is_read_only();
  title_->setText(hookup_ != 0 ? qt_text(version_.name) : tr("A first hook-up"));
  const bool is_draft = is_changed();
  tag_->setVisible(true);
  tag_->setText(is_draft ? tr("draft") : tr("version %1").arg(version_.number));
  const bool on_test =
      test_ != 0 && hookup_ != 0 && heron::test(session_.shack(), test_).hookup_id == hookup_;
  const bool is_unsafe = !scene_.result || !scene_.result->is_known_safe();
  const bool is_unrated = scene_.result && scene_.result->is_safe && is_unsafe;
  bool is_vouched = false;
  if (on_test && is_unsafe) {
    for (const Vouched& v : all_vouched(session_.shack(), test_))
      is_vouched =
          is_vouched || (v.version_id == version_.id && v.pep_dbm >= scene_.drive.pep_dbm - 0.005);
  }
  asks_override_ = !is_draft && on_test && is_unsafe && !is_vouched;
  primary_->setEnabled(!read_only && (scene_.result || !is_draft));
  if (is_draft) {
    primary_->setText(hookup_ == 0 ? tr("Save this hook-up\u2026") : tr("Use this chain"));
    const bool used = hookup_ != 0 && is_version_used(session_.shack(), version_.id);
    consequence_->setText(!scene_.result ? tr("It cannot be calculated yet")
                          : used
                              ? tr("Figures already measured keep version %1").arg(version_.number)
                              : tr("Kept for this and other tests"));
  } else if (test_ != 0 && !on_test) {
    primary_->setText(tr("Use it for this test"));
    consequence_->setText(tr("Its recordings are referred through it"));
  } else if (asks_override_) {
    primary_->setText(tr("Override, with your name\u2026"));
    consequence_->setText(is_unrated ? tr("A rating is missing: nothing is measured until then")
                          : scene_.result ? tr("Not safe: nothing is measured until then")
                                          : tr("Not known to be safe: nothing is measured"));
  } else {
    primary_->setText(test_ != 0 ? tr("Back to the test") : tr("Back"));
    consequence_->setText(is_vouched && is_unrated ? tr("Overridden by name")
                          : is_vouched             ? tr("Not safe, but overridden by name")
                          : is_unrated             ? tr("A rating is missing")
                          : is_unsafe              ? tr("Not safe at this drive")
                                                   : tr("Every part is within its rating"));
  }
  primary_->setAccessibleName(primary_->text());
  primary_->updateGeometry();
}

void HookupView::show_survival() {
  VerdictCardContent card;
  card.where = tr("Ratings");
  card.why = tr("Uncertainty of the level");
  card.unit = {};
  if (!scene_.result) {
    card.sentence = scene_.trouble;
    survival_->set_content(card);
    caution_->setVisible(scene_.drive.pep_dbm > kCautionFromDbm);
    return;
  }
  const ChainResult& r = *scene_.result;
  const double planned = scene_.drive.key_down_s.value_or(0.0);
  card.span = 120.0;
  if (r.max_key_down_s) {
    const double most = *r.max_key_down_s;
    const bool in_minutes = most >= 60.0;
    const QString text = qt_text(duration_text(std::floor(most)));
    card.value = text.section(' ', 0, 0);
    card.unit = in_minutes ? text.section(' ', 1) : tr("s");
    card.explanation = tr("of key-down, everything cold");
    card.explanation_short = card.explanation;
    card.limit = planned > 0.0
                     ? tr("planned %1").arg(qt_text(duration_text(planned)).remove(" min"))
                     : tr("planned: no time limit");
    card.mark.margin = planned > 0.0 ? most - planned : -card.span;
    card.mark.verdict = rating_verdict(r);
  } else if (!r.unrated.empty()) {
    card.value = tr("not known");
    card.word = tr("Not known");
    card.explanation = tr("A rating is missing");
    card.explanation_short = card.explanation;
    card.mark.verdict = Verdict::not_taken;
  } else {
    card.value = tr("any");
    card.unit = tr("time");
    card.explanation = tr("No part is over its rating");
    card.explanation_short = card.explanation;
    card.mark.verdict = rating_verdict(r);
    card.limit = planned > 0.0
                     ? tr("planned %1").arg(qt_text(duration_text(planned)).remove(" min"))
                     : tr("no time limit");
    card.mark.margin = r.is_safe ? 2.0 * card.span : -card.span;
  }
  card.sentence = qt_text(rating_sentence(scene_.chain, r, scene_.verdicts, scene_.drive));
  survival_->set_content(card);
  caution_->setVisible(scene_.drive.pep_dbm > kCautionFromDbm);
  caution_->set_words(
      tr("RF burns, and a hot load"),
      tr("%1 on an open connector burns skin. Key down only with every joint made; pads stay hot "
         "for minutes. Local codes and your licence come first.")
          .arg(qt_text(engineering_text(to_watt(Dbm{scene_.drive.pep_dbm}).value, "W", 3))));
}

void HookupView::show_remarks() {
  std::vector<Part> on_bench;
  for (const BenchEntry& entry : bench(session_.shack())) on_bench.push_back(entry.part());
  const std::vector<Remark> remarks =
      hookup_remarks(scene_.chain, scene_.result ? &*scene_.result : nullptr, on_bench,
                     scene_.swap ? &*scene_.swap : nullptr, utc_now());
  remarks_->set_remarks(remarks);
  remarks_->setVisible(!remarks.empty());
  suggestion_->setVisible(scene_.swap.has_value());
  take_over_->setVisible(differs_from_bench(scene_.chain, on_bench));
}

void HookupView::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  const int total = window()->width();
  drive_->show_understood(total >= 1280);
  for (QLabel* word : {at_word_, key_word_}) word->setVisible(total >= 1100);
  drive_->edit()->setFixedWidth(total < 1100 ? 84 : total < 1200 ? 72 : 84);
  frequency_->edit()->setFixedWidth(total < 1100 ? 88 : total < 1200 ? 78 : 90);
  key_down_->edit()->setFixedWidth(total < 1200 ? 52 : 64);
  table_->set_columns(total < 1100   ? std::vector<int>{124, 118, 0, -1, 68, 76, 92}
                      : total < 1200 ? std::vector<int>{130, 134, 0, -1, 72, 84, 96}
                                     : std::vector<int>{140, 134, 50, -1, 74, 104, 100});
  right_->setFixedWidth(right_column_width(total));
}

}  // namespace heron
