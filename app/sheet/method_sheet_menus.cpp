// What the sheet of a method asks and offers; the rest of it is in method_sheet.cpp.
#include <QFileDialog>

#include "app/live/live_ladder.h"
#include "app/sheet/method_sheet.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/judge/limit.h"

namespace heron {
void MethodSheet::refresh_menus(const GeneralTest& t) {
  refresh_settings(t);
  refresh_limit_menu(t);
  QMenu* menu = more_->menu();
  menu->clear();
  const bool has_words = t.method->evidence_words != nullptr;
  more_->set_label(has_words ? tr("Source") : QString());
  more_->set_value(has_words ? qt_text(t.method->evidence_words(t.evidence)) : tr("More"));
  if (t.method->is_joint) {
    fill_joint_menu(menu, t);
    return;
  }
  menu->addAction(tr("Add a step\u2026"), this, &MethodSheet::ask_step);
  if (takes_recordings()) menu->addAction(tr("Add recordings\u2026"), this, &Sheet::ask_recordings);
  if (const auto at = step()) add_step_actions(menu, t, *at);
  menu->addAction(tr("Describe the conditions\u2026"), this, &Sheet::ask_conditions);
}

void MethodSheet::refresh_limit_menu(const GeneralTest& t) {
  if (t.method->mask != nullptr) {
    limit_->set_label(tr("Mask"));
    masks_->set_mask(t.method->mask(t.evidence), !session_.refusal(t.test.id).has_value());
    return;
  }
  limit_->set_label(tr("Limit"));
  limit_->setToolTip({});
  limit_->set_value(t.test.limit ? qt_text(limit_text(*t.test.limit)) : tr("none"));
  limit_->menu()->clear();
  limit_->menu()->addAction(tr("A limit\u2026"), this, &MethodSheet::ask_limit);
  limit_->menu()
      ->addAction(tr("Save this limit as the device\u2019s specification"), this,
                  [this] { session_.keep_limit_as_specification(); })
      ->setEnabled(t.test.limit.has_value());
  limit_->menu()->addAction(tr("No limit"), this, [this] { session_.set_limit(std::nullopt); });
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
                    [this, step] { session_.remove_capture(step); })
        ->setEnabled(has);
  }
  if (t.method->has_self_test) {
    menu->addAction(tr("Once more with more attenuation\u2026"), this,
                    [this, step] { ask_self_test(step); })
        ->setEnabled(has);
    if (t.steps[step].self_test)
      menu->addAction(tr("Remove the self-test"), this,
                      [this, step] { session_.remove_beside(step); });
  }
  menu->addAction(tr("Rename this step\u2026"), this, [this, step] {
    const GeneralTest& now = *session_.general();
    const auto label = ask(this, qt_text(now.method->step_head),
                           now.method->step_hint.empty() ? tr("A name for this step.")
                                                         : qt_text(now.method->step_hint),
                           tr("Name"), qt_text(now.steps[step].label), tr("Save"));
    if (label) session_.set_step_label(step, *label);
  });
  menu->addAction(tr("Remove this step"), this, [this, step] { session_.remove_step(step); });
}

void MethodSheet::ask_step() {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  const auto label = ask(this, tr("Add a step"), tr("A name that says what is set."), tr("Step"),
                         qt_text(t->method->step_example), tr("Add"), [](const QString& s) {
                           return s.isEmpty() ? tr("Type a name.") : QString();
                         });
  if (label) session_.add_step(*label);
}

void MethodSheet::ask_limit() {
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->method->limit == nullptr) return;
  const LimitField field = t->method->limit(t->evidence.settings);
  QuantityOptions options;
  if (field.asked == Quantity::power) options.default_unit = field.unit;
  const auto asked =
      ask_quantity(this, qt_text(field.head), qt_text(field.hint), qt_text(field.label),
                   qt_text(t->test.limit && !t->test.limit->typed.empty() ? t->test.limit->typed
                                                                          : field.example),
                   tr("Use it"), field.asked, options);
  if (asked) session_.set_limit(limit_of(field, asked->value, asked->typed.toStdString()));
}

}  // namespace heron
