// Where all recordings of a test are one answer: its steps, how they are planned, and how an
// analyser takes them. The rest of the sheet is in method_sheet.cpp.
#include <QDate>
#include <QFileDialog>
#include <algorithm>
#include <limits>

#include "app/export/card_pdf.h"
#include "app/live/live_instruments.h"
#include "app/live/live_ladder.h"
#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "app/sheet/method_sheet.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/error.h"
#include "core/method/place_name.h"
#include "core/quantity/in_watts.h"

namespace heron {

void MethodSheet::fill_joint_menu(QMenu* menu, const GeneralTest& t) {
  if (reads_logs())
    add_log_actions(menu, t);
  else if (takes_recordings())
    menu->addAction(tr("Add recordings or traces\u2026"), this, &Sheet::ask_recordings);
  else if (!is_calculated())
    add_typed_actions(menu);
  for (const SettingField& field : t.method->settings) {
    if (field.is_evidence) add_setting(menu, field);
  }
  if (t.method->plan != nullptr) {
    const StepPlan plan = t.method->plan(t.evidence);
    menu->addAction(qt_text(plan.words), this, &MethodSheet::plan_steps)
        ->setEnabled(!plan.steps.empty() && t.steps.empty());
  }
  if (t.result.print_card)
    menu->addAction(tr("Save its card to lie beside the device, 85 \u00d7 54 mm\u2026"), this,
                    &MethodSheet::save_card);
  if (t.method->run != nullptr && t.method->run(t.evidence).sweep_hz)
    menu->addAction(tr("A sweep from the analyser"), this, &MethodSheet::ask_sweep)
        ->setEnabled(!live_->is_running() && bench_->answers(Role::spectrum_analyser) &&
                     live_->obstacle(std::numeric_limits<int>::max()).what.isEmpty());
  if (t.method->compares_tests) add_compare_menu(menu, t);
  if (!t.steps.empty()) menu->addSeparator();
  for (std::size_t i = 0; i < t.steps.size(); ++i) {
    const bool has = t.steps[i].capture.has_value();
    add_step_actions(
        menu->addMenu(qt_text(t.steps[i].label) + (has ? QString() : tr(", not measured"))), t, i);
  }
  add_record_actions(menu);
}

void MethodSheet::save_card() {
  const GeneralTest* t = session_.general();
  if (t == nullptr || !t->result.print_card) return;
  const PrintCard card = *t->result.print_card;
  QString path = QFileDialog::getSaveFileName(
      this, tr("Save the card"), device_name() + " " + qt_text(t->test.title) + ".pdf");
  if (path.isEmpty()) return;
  if (!path.endsWith(".pdf", Qt::CaseInsensitive)) path += ".pdf";
  QString date = QDate::currentDate().toString(Qt::ISODate);
  if (t->test.headline && !t->test.headline->taken_at.empty())
    date = qt_text(t->test.headline->taken_at.substr(0, 10));
  try {
    write_card_pdf(card, device_name(), date, path);
    emit told(tr("Saved %1. Print it at its own size").arg(path));
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
  }
}

bool MethodSheet::can_plan() const {
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->method->plan == nullptr || !t->steps.empty() || !t->result.items.empty() ||
      t->method->plan(t->evidence).steps.empty())
    return false;
  // What is typed needs no instruments.
  if (!takes_recordings() || t->method->is_typed_first) return true;
  return t->hookup && bench_->answers(Role::sampler) &&
         (only_listens() || bench_->answers(Role::generator));
}

void MethodSheet::plan_steps() {
  session_.settle();
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->method->plan == nullptr) return;
  const StepPlan plan = t->method->plan(t->evidence);
  if (!plan.steps.empty()) StepEdits(session_).plan_steps(plan);
}

void MethodSheet::ask_sweep() {
  const GeneralTest* t = session_.general();
  if (t == nullptr || !t->hookup || !t->test.drive) return;
  AskDialog dialog(tr("A sweep from the analyser"),
                   tr("Keys one tone at %1 into %2 while the analyser sweeps over carrier and "
                      "harmonics. Hot parts and open connectors burn: local codes and your licence "
                      "come first. Esc switches RF off at once.")
                       .arg(qt_text(watts_text(t->test.drive->pep_dbm)),
                            qt_text(t->hookup->chain.parts.front().name)),
                   {}, tr("Transmit"), {}, this);
  if (dialog.exec() == QDialog::Accepted) take_sweep();
}

void MethodSheet::take_sweep() {
  session_.settle();
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->method->run == nullptr) return;
  const RunRecipe recipe = t->method->run(t->evidence);
  if (!recipe.sweep_hz) return;
  const std::pair range = *recipe.sweep_hz;
  const auto same = std::find_if(t->steps.begin(), t->steps.end(),
                                 [&](const Step& s) { return swept_hz(s) == range; });
  auto step = static_cast<int>(same - t->steps.begin());
  if (same == t->steps.end()) {
    if (!recipe.settings.is_null())
      TestEdits(session_).set_settings(tr("carrier"), recipe.settings);
    if (StepEdits(session_).add_step(qt_text(sweep_name(range.first, range.second)), range) == 0)
      return;
    session_.settle();
    step = static_cast<int>(session_.general()->steps.size()) - 1;
  }
  live_->start(step);
}

void MethodSheet::ask_self_test(std::size_t step) {
  ask_more_attenuation(tr("Device or instrument?"),
                       qt_text(std::string(session_.general()->method->self_test_hint)),
                       static_cast<int>(step));
}

}  // namespace heron
