// What the head of a sheet says, and what its primary action does; the rest of it is in sheet.cpp.
#include <QTimer>
#include <algorithm>

#include "app/live/live_instruments.h"
#include "app/live/live_ladder.h"
#include "app/live/live_plan.h"
#include "app/sheet/sheet.h"
#include "app/theme/qt_text.h"
#include "core/method/method_table.h"
#include "core/quantity/in_watts.h"

namespace heron {

void Sheet::refresh_head() {
  const PlannedTest* t = mine();
  const Test* about = t != nullptr ? &t->test : session_.waited_for();
  enable(t != nullptr);
  head_->title()->setText(about == nullptr ? tr("No test chosen") : qt_text(about->title));
  const Characteristic* c =
      about == nullptr ? &first_characteristic() : find_characteristic(about->characteristic);
  head_->question()->setText(c == nullptr ? QString() : qt_text(std::string(c->question)));
  show_age();
  if (t == nullptr) {
    if (about != nullptr) head_->consequence()->setText(tr("Reading its recordings\u2026"));
    return;
  }
  const bool is_read_only = session_.shack().is_read_only();
  QString action;
  QString consequence;
  bool is_possible = !is_read_only && !t->test.is_signed() && !queue_->is_busy();
  if (t->test.is_signed()) {
    action = tr("Signed off");
    consequence = tr("by %1").arg(qt_text(t->test.signed_by));
  } else if (const auto no = t->keying_obstacle(); !is_taken() && no && no->is_checklist) {
    action = tr("Finish the checks first");
    consequence = qt_text(t->open_gate_words);
  } else if (!is_taken() && no) {
    action = no->is_unknown ? tr("Complete the hook-up") : tr("Make the hook-up safe");
    consequence = (no->is_unknown ? tr("A rating or a loss is not known at %1")
                                  : tr("Not safe at %1: nothing is measured until then"))
                      .arg(qt_text(watts_text(t->test.drive->pep_dbm)));
  } else if (live_->is_running()) {
    action = tr("Measuring %1 of %2")
                 .arg(std::min(live_->taken() + 1, live_->count()))
                 .arg(live_->count());
    consequence = live_->is_keyed() ? tr("Esc switches RF off at once")
                  : session_.loaded()->method->event_noted != nullptr
                      ? tr("F8 marks an event; Esc stops, nothing is kept")
                      : tr("Esc stops it; what is recorded so far is not kept");
    is_possible = false;
  } else if (bench_->is_in_use()) {
    action = in_use_words();
    consequence = in_use_consequence();
    is_possible = false;
  } else if (may_take_live()) {
    const auto due = live_->due();
    const QString into = t->hookup ? qt_text(t->hookup->chain.parts.front().name) : QString();
    action = is_armed_ ? tr("Press Return to transmit") : take_words();
    if (is_armed_)
      consequence = tr("Esc cancels");
    else if (only_listens())
      consequence = tr("Nothing is keyed: listens for %1 s")
                        .arg(taking_now(session_.loaded()).length_s, 0, 'f', 0);
    else if (is_read_off(session_.loaded()))
      consequence = bench_->is_simulated()
                        ? tr("Levels to find: %1, rising from below").arg(due.size())
                        : tr("You move the level until it shows each; never transmit into the "
                             "generator");
    else if (is_listening(session_.loaded()))
      consequence = bench_->is_simulated()
                        ? (recipe_of(session_.loaded()).listen->at_if
                               ? tr("Bands to measure: %1, at two levels each")
                               : tr("Bands to hear: %1, from the level that is specified"))
                              .arg(due.size())
                        : tr("Asks to tune the receiver for each; never transmit into the "
                             "generator");
    else if (recipe_of(session_.loaded()).bypasses_device())
      consequence = tr("Keys each step into %1, first with the device bypassed; RF is off while "
                       "you switch")
                        .arg(into);
    else
      consequence = due.size() == 1
                        ? tr("Keys 1 step for about 5 s into %1").arg(into)
                        : tr("Keys %1 steps, about 5 s each, into %2").arg(due.size()).arg(into);
  } else if (!is_taken()) {
    action = add_words();
    consequence = add_consequence();
  } else {
    action = tr("Sign off this test");
    consequence = tr("Keeps figures and note as they are");
  }
  if (is_read_only) consequence = tr("This shack is open read-only");
  head_->cancel()->setVisible(is_armed_);
  primary()->setText(action);
  primary()->setAccessibleName(action);
  primary()->setEnabled(is_possible);
  primary()->updateGeometry();
  head_->consequence()->setText(consequence);
  refresh_part();
}

/// What keeps the figures for good is asked with its own button only: a key pressed once too often
/// must not come to that.
void Sheet::primary_by_key() {
  if (mine() != nullptr && is_taken() && !may_take_live())
    emit told(mine()->test.is_signed() ? tr("This test is signed off.")
                                       : tr("Nothing to measure or add. Sign off with the button, "
                                            "or from Ctrl K."));
  else
    primary_action();
}

void Sheet::primary_action() {
  const PlannedTest* t = mine();
  // Nobody keys or signs by what is just being replaced.
  if (t == nullptr || !primary()->isEnabled() || session_.is_waiting()) return;
  if (may_take_live())
    arm_or_take();
  else if (is_taken())
    ask_signature();
  else if (t->hookup_obstacle())
    emit hookup_asked();
  else if (t->open_gate != 0)
    emit test_asked(session_.evaluation_id(), t->open_gate);
  else
    add_evidence();
}

bool Sheet::may_take_live() const {
  const PlannedTest* t = mine();
  return t != nullptr && !t->test.is_signed() && t->may_be_keyed() && !live_->due().empty() &&
         live_->obstacle().what.isEmpty();
}

/// Keying needs two presses, so that no slip of a key puts power out.
void Sheet::arm_or_take() {
  constexpr int kArmedMs = 6000;
  // So weak a signal hurts nothing.
  if (only_listens() || is_listening(session_.loaded())) {
    live_->start();
    return;
  }
  if (!is_armed_) {
    is_armed_ = true;
    QTimer::singleShot(kArmedMs, this, [this] { disarm(); });
    refresh_head();
    primary()->setFocus(Qt::OtherFocusReason);
    return;
  }
  is_armed_ = false;
  live_->start();
}

bool Sheet::only_listens() const {
  return recipe_of(session_.loaded()).stimulus == RunRecipe::Stimulus::nothing;
}

bool Sheet::disarm() {
  const bool was = is_armed_;
  is_armed_ = false;
  if (was) refresh_head();
  return was;
}

}  // namespace heron
