// What the sheet of a method asks and offers; the rest of it is in method_sheet.cpp.
#include <QFileDialog>

#include "app/live/live_ladder.h"
#include "app/live/live_plan.h"
#include "app/session/bench_edits.h"
#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "app/sheet/method_sheet.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/judge/limit.h"

namespace heron {
void MethodSheet::refresh_menus(const GeneralTest& t) {
  refresh_settings(t);
  refresh_limit_menu(t);
  refresh_driving(t);
  QMenu* menu = more_->menu();
  menu->clear();
  const bool has_words = t.method->evidence_words != nullptr;
  more_->set_label(has_words ? tr("Source") : QString());
  more_->set_value(has_words ? qt_text(t.method->evidence_words(t.evidence)) : tr("More"));
  if (t.method->is_joint) {
    fill_joint_menu(menu, t);
    return;
  }
  if (t.method->log != nullptr) add_log_actions(menu, t);
  menu->addAction(tr("Add a step\u2026"), this, &MethodSheet::ask_step);
  if (takes_recordings()) menu->addAction(tr("Add recordings\u2026"), this, &Sheet::ask_recordings);
  if (is_typed()) add_file_action(menu);
  if (t.method->plan != nullptr && t.steps.empty()) {
    const StepPlan plan = t.method->plan(t.evidence);
    if (!plan.steps.empty()) menu->addAction(qt_text(plan.words), this, &MethodSheet::plan_steps);
  }
  if (const auto at = step()) add_step_actions(menu, t, *at);
  if (recipe_of(session_.loaded()).is_over_drives)
    menu->addAction(tr("Find maximum output with one tone\u2026"), this,
                    &MethodSheet::ask_full_output)
        ->setEnabled(!live_->is_running() && live_->full_output_obstacle().what.isEmpty());
  menu->addSeparator();
  for (const SettingField& field : t.method->settings) {
    if (field.is_evidence) add_setting(menu, field);
  }
  if (t.method->limit != nullptr) add_compare_menu(menu, t);
  menu->addAction(tr("Describe the conditions\u2026"), this, &Sheet::ask_conditions);
  add_standing_actions(menu);
}

/// With another test of its kind: of this device or of another.
void MethodSheet::add_compared_tests(QMenu* menu, const GeneralTest& t) {
  const Shack& shack = session_.shack();
  const auto compare_to = [this](const nlohmann::json& test) {
    nlohmann::json all = session_.settings();
    all[kComparedWith] = test;
    TestEdits(session_).set_settings(tr("comparison"), all);
  };
  menu->clear();
  menu->addAction(tr("nothing"), this, [compare_to] { compare_to(nullptr); });
  for (const Device& d : devices(shack)) {
    for (const Evaluation& e : evaluations(shack, d.id)) {
      for (const Test& other : tests(shack, e.id)) {
        if (other.id == t.test.id || other.characteristic != t.test.characteristic) continue;
        menu->addAction(
            tr("%1, %2: %3").arg(qt_text(d.name), qt_text(e.title), qt_text(other.title)), this,
            [compare_to, id = other.id] { compare_to(id); });
      }
    }
  }
  menu->setEnabled(menu->actions().size() > 1);
}

/// With the answer of another step.
void MethodSheet::add_compare_menu(QMenu* menu, const GeneralTest& t) {
  QMenu* compare = menu->addMenu(tr("Compare with"));
  compare->addAction(tr("nothing"), this, [this] { compare_with(-1); });
  if (t.method->compares_tests) {
    add_compared_tests(compare, t);
    return;
  }
  for (std::size_t i = 0; i < t.steps.size(); ++i) {
    if (static_cast<int>(i) == chosen_ || t.result.answer_at(i, view().toStdString()) == nullptr)
      continue;
    compare->addAction(qt_text(t.steps[i].label), this,
                       [this, i] { compare_with(static_cast<int>(i)); });
  }
  compare->setEnabled(compare->actions().size() > 1);
}

void MethodSheet::show_table_menu(const QPoint& at) {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  QMenu menu(this);
  menu.addAction(tr("Copy this row"), QKeySequence::Copy, table_, &FigureTable::copy_chosen);
  menu.addAction(tr("Copy the table"), table_, &FigureTable::copy_all);
  if (!is_joint()) {
    menu.addSeparator();
    menu.addAction(tr("Add a step\u2026"), this, &MethodSheet::ask_step);
    if (const auto chosen = step()) add_step_actions(&menu, *t, *chosen);
  }
  if (!more_->isVisible()) {
    menu.addSeparator();
    more_->menu()->setTitle(tr("More"));
    menu.addMenu(more_->menu());
  }
  menu.exec(table_->viewport()->mapToGlobal(at));
}

void MethodSheet::show_grid_menu(const QPoint& at) {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  const bool can_edit = !session_.refusal(t->test.id).has_value();
  const QModelIndexList chosen = grid_->selectionModel()->selectedIndexes();
  const auto is_rough = [this](const QModelIndex& i) { return evidence_->is_provisional(i); };
  QMenu menu(this);
  const auto add = [&](const QString& words, const QKeySequence& key, void (TypedGrid::*does)()) {
    menu.addAction(words, key, grid_, does)->setEnabled(can_edit);
  };
  menu.addAction(tr("Copy"), QKeySequence::Copy, grid_, &FigureTable::copy_chosen);
  add(tr("Paste"), QKeySequence::Paste, &TypedGrid::paste);
  add(tr("Fill down"), QKeySequence("Ctrl+D"), &TypedGrid::fill_down);
  add(tr("Empty"), QKeySequence(Qt::Key_Delete), &TypedGrid::empty_chosen);
  menu.addSeparator();
  QAction* rough = menu.addAction(tr("Provisional: to be read again"));
  rough->setCheckable(true);
  rough->setChecked(std::any_of(chosen.begin(), chosen.end(), is_rough));
  rough->setEnabled(can_edit && !evidence_->places(chosen).empty());
  connect(rough, &QAction::triggered, this, &MethodSheet::mark_readings);
  menu.exec(grid_->viewport()->mapToGlobal(at));
}

void MethodSheet::mark_readings(bool are_provisional) {
  StepEdits(session_).set_provisional(evidence_->places(grid_->selectionModel()->selectedIndexes()),
                                      are_provisional);
}

/// Limits are told with what they are relative to where that is not what is shown.
QString MethodSheet::limit_words(const Limit& limit, bool is_full) const {
  const GeneralTest& t = *session_.general();
  QString words = qt_text(limit_text(limit));
  if (is_full && !limit.name.empty()) words = qt_text(limit.name) + ", " + words;
  if (!t.method->conventions.empty() && (is_full || limit.convention != t.evidence.convention))
    words += QChar(' ') + qt_text(limit.convention);
  return words;
}

void MethodSheet::refresh_limit_menu(const GeneralTest& t) {
  if (t.method->mask != nullptr) {
    limit_->set_label(tr("Mask"));
    masks_->set_mask(t.method->mask(t.evidence), !session_.refusal(t.test.id).has_value());
    return;
  }
  limit_->set_label(tr("Limit"));
  limit_->setToolTip({});
  limit_->set_value(t.test.limit ? limit_words(*t.test.limit, false) : tr("none"));
  if (t.test.limit) limit_->setToolTip(limit_words(*t.test.limit, true));
  limit_->menu()->clear();
  const auto offer = [this](const Limit& limit) {
    limit_->menu()->addAction(limit_words(limit, true), this,
                              [this, limit] { TestEdits(session_).set_limit(limit); });
  };
  const Id of = evaluation(session_.shack(), t.test.evaluation_id).device_id;
  for (const SpecLine& line : device(session_.shack(), of).specification) {
    if (line.characteristic == t.test.characteristic) offer(line.limit);
  }
  if (t.method->limit != nullptr) {
    for (const Limit& limit : t.method->limit(t.evidence).usual) offer(limit);
  }
  limit_->menu()->addAction(tr("Another limit\u2026"), this, &MethodSheet::ask_limit);
  limit_->menu()
      ->addAction(tr("Save this limit as the device\u2019s specification"), this,
                  [this] { TestEdits(session_).keep_limit_as_specification(); })
      ->setEnabled(t.test.limit.has_value());
  limit_->menu()->addAction(tr("No limit"), this,
                            [this] { TestEdits(session_).set_limit(std::nullopt); });
}

void MethodSheet::add_step_actions(QMenu* menu, const GeneralTest& t, std::size_t step) {
  const int index = static_cast<int>(step);
  const bool has = t.steps[step].capture.has_value();
  if (t.method->run != nullptr) add_take_actions(menu, index);
  add_meter_actions(menu, t, step);
  if (takes_recordings()) {
    menu->addAction(has ? tr("Replace its recording\u2026") : tr("Add its recording\u2026"), this,
                    [this, index] {
                      const QString file = QFileDialog::getOpenFileName(this, tr("The recording"),
                                                                        {}, recording_filter());
                      if (!file.isEmpty()) queue_->replace(file, index);
                    });
    menu->addAction(tr("Remove the recording from this step"), this,
                    [this, step] { StepEdits(session_).remove_capture(step); })
        ->setEnabled(has);
  }
  if (t.method->has_repeats)
    menu->addAction(tr("Add a repeat of this step\u2026"), this,
                    [this, index] {
                      const QString file = QFileDialog::getOpenFileName(
                          this, tr("The same step once again"), {}, recording_filter());
                      if (!file.isEmpty()) queue_->add_beside(file, index, {});
                    })
        ->setEnabled(has);
  if (!t.method->self_test_hint.empty())
    menu->addAction(tr("Once more with more attenuation\u2026"), this,
                    [this, step] { ask_self_test(step); })
        ->setEnabled(has);
  if (t.steps[step].self_test || !t.steps[step].repeats.empty())
    menu->addAction(
        t.method->has_repeats ? tr("Remove self-test and repeats") : tr("Remove the self-test"),
        this, [this, step] { StepEdits(session_).remove_beside(step); });
  const auto& capture = t.steps[step].capture;
  if (capture && t.hookup && capture->hookup_version_id != t.hookup->id)
    menu->addAction(tr("It was recorded through the present hook-up"), this, [this, step] {
      const StepCapture& c = *session_.general()->steps[step].capture;
      BenchEdits(session_).take_on_present(session_.test_id(), c.id, c.hookup_version_id);
    });
  menu->addAction(tr("Rename this step\u2026"), this, [this, step] {
    const GeneralTest& now = *session_.general();
    const auto label = ask(this, qt_text(now.method->step_head),
                           now.method->step_hint.empty() ? tr("A name for this step.")
                                                         : qt_text(now.method->step_hint),
                           tr("Name"), qt_text(now.steps[step].label), tr("Save"));
    if (label) StepEdits(session_).set_step_label(step, *label);
  });
  menu->addAction(tr("Remove this step"), this,
                  [this, step] { StepEdits(session_).remove_step(step); });
}

void MethodSheet::ask_step() {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  const auto label = ask(this, tr("Add a step"), tr("A name that says what is set."), tr("Step"),
                         qt_text(t->method->step_example), tr("Add"), [](const QString& s) {
                           return s.isEmpty() ? tr("Type a name.") : QString();
                         });
  if (label) StepEdits(session_).add_step(*label);
}

void MethodSheet::ask_limit() {
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->method->limit == nullptr) return;
  const LimitField field = t->method->limit(t->evidence);
  QuantityOptions options;
  if (field.asked == Quantity::power) options.default_unit = field.unit;
  const auto asked =
      ask_quantity(this, qt_text(field.head), qt_text(field.hint), qt_text(field.label),
                   qt_text(t->test.limit && !t->test.limit->typed.empty() ? t->test.limit->typed
                                                                          : field.example),
                   tr("Use it"), field.asked, options);
  if (asked)
    TestEdits(session_).set_limit(limit_of(field, asked->value, asked->typed.toStdString()));
}

}  // namespace heron
