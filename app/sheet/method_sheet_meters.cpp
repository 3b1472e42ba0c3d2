// Reading meters for the chosen step while somebody keys by hand; the rest of the sheet is in
// method_sheet.cpp.
#include <algorithm>

#include "app/live/live_ladder.h"
#include "app/live/log_keeper.h"
#include "app/live/meter_watch.h"
#include "app/session/step_edits.h"
#include "app/sheet/method_sheet.h"
#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/method/live_quantity.h"
#include "core/method/meter_reading.h"
#include "core/method/method_table.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"

namespace heron {
namespace {

/// So far below the plan nothing is keyed.
constexpr double kNotKeyedDb = 25.0;

}  // namespace

void MethodSheet::connect_meters() {
  watching_->hide();
  connect(watching_, &TakingCard::stop_asked, watch_, &MeterWatch::stop);
  connect(watch_, &MeterWatch::progressed, watching_, &TakingCard::set_progress);
  connect(watch_, &MeterWatch::failed, this, &Sheet::failed);
  connect(watch_, &MeterWatch::looked, this, &MethodSheet::check_keyed);
  connect(watch_, &MeterWatch::read, this, &MethodSheet::keep_readings);
  connect(watch_, &MeterWatch::ended, watching_, &QWidget::hide);
  connect(watch_, &MeterWatch::ended, this, [this] { refresh_head(); });
  // What answers may have changed since.
  connect(more_->menu(), &QMenu::aboutToShow, this, [this] {
    if (const GeneralTest* t = session_.general()) refresh_menus(*t);
  });
}

bool MethodSheet::can_read(ReadingRole role) const {
  const GeneralTest* t = session_.general();
  if (t == nullptr || watch_->is_running() || live_->is_running() || log_->is_running())
    return false;
  const auto fields = live_fields(*t->method, role, t->evidence.settings);
  return std::any_of(fields.begin(), fields.end(),
                     [this](const TypedField* f) { return watch_->can_read(f->live); });
}

bool MethodSheet::reads_meters() const {
  const GeneralTest* t = session_.general();
  return t != nullptr && step() && can_read(ReadingRole::at);
}

void MethodSheet::add_meter_actions(QMenu* menu, const GeneralTest& t, std::size_t step) {
  if (live_fields(*t.method, ReadingRole::at, t.evidence.settings).empty()) return;
  const bool can = can_read(ReadingRole::at);
  menu->addAction(tr("Read the meters now"), this, [this] { read_meters({ReadingRole::at}); })
      ->setEnabled(can);
  if (t.method->hold_s == nullptr) return;
  menu->addAction(tr("Read the meters at the end of the key-down"), this,
                  [this] { read_meters({ReadingRole::after}); })
      ->setEnabled(can);
  const double hold_s = t.method->hold_s(t.evidence.steps[step]);
  menu->addAction(tr("Read them now and after %1").arg(qt_text(duration_text(hold_s))), this,
                  [this] { read_meters({ReadingRole::at, ReadingRole::after}); })
      ->setEnabled(can);
}

void MethodSheet::read_meters(const std::vector<ReadingRole>& roles) {
  const GeneralTest* t = session_.general();
  const auto at = step();
  if (t == nullptr || !at || !can_read(ReadingRole::at)) return;
  if (const auto no = session_.refusal(t->test.id)) {
    emit failed(no->what, no->what_to_do);
    return;
  }
  if (const auto obstacle = t->keying_obstacle();
      obstacle && (t->hookup || obstacle->is_checklist)) {
    emit failed(qt_text(obstacle->what), qt_text(obstacle->what_to_do));
    return;
  }
  const EvidenceStep& evidence = t->evidence.steps[*at];
  const double hold_s =
      roles.size() > 1 && t->method->hold_s != nullptr ? t->method->hold_s(evidence) : 0.0;
  if (t->planned && t->planned->max_key_down_s && *t->planned->max_key_down_s < hold_s) {
    emit failed(
        tr("%1 stands %2 of key-down from cold at the planned drive, not %3.")
            .arg(qt_text(t->planned->binding), qt_text(duration_text(*t->planned->max_key_down_s)),
                 qt_text(duration_text(hold_s))),
        tr("Type a shorter key-down for this step, or put a larger pad before it"));
    return;
  }
  std::vector<MeterWatch::Look> looks;
  for (const ReadingRole role : roles) {
    MeterWatch::Look look{role, {}};
    for (const TypedField* f : live_fields(*t->method, role, t->evidence.settings))
      look.quantities.emplace_back(f->live);
    looks.push_back(std::move(look));
  }
  watched_test_ = t->test.id;
  watched_step_ = t->steps[*at].id;
  const QString what = qt_text(t->steps[*at].label);
  watching_->begin(hold_s > 0.0 ? tr("%1: key down until the second reading").arg(what) : what, 0);
  watching_->show();
  watch_->start(what, looks, hold_s, step_frequency_hz(evidence, t->evidence.drive));
}

std::vector<Reading> MethodSheet::at_device(const std::vector<Reading>& shown) {
  const Shack& shack = session_.shack();
  const Method* method = find_method(test(shack, watched_test_).characteristic);
  if (method == nullptr) return {};
  const GeneralTest watched = load_evidence(shack, watched_test_, *method);
  const GeneralTest* t = &watched;
  const auto found = std::find_if(t->steps.begin(), t->steps.end(),
                                  [this](const Step& s) { return s.id == watched_step_; });
  if (found == t->steps.end()) return {};
  const auto frequency = step_frequency_hz(
      t->evidence.steps[static_cast<std::size_t>(found - t->steps.begin())], t->evidence.drive);
  if (!frequency && t->evidence.hookup) {
    emit failed(tr("The frequency of %1 is not known, so the loss of the hook-up is not either.")
                    .arg(qt_text(found->label)),
                tr("Type the frequency of this step, then read again"));
    return {};
  }
  std::vector<Reading> readings;
  for (const ReadingRole role : {ReadingRole::at, ReadingRole::after}) {
    for (const TypedField* f : live_fields(*t->method, role, t->evidence.settings)) {
      const Reading* r = find_reading(shown, std::string(f->live), role);
      if (r == nullptr) continue;
      try {
        readings.push_back(reading_of_field(*f, *r, t->evidence.hookup, frequency.value_or(0.0)));
      } catch (const InputError& error) {
        emit failed(qt_text(error.what_happened()), qt_text(error.advice));
        return {};
      }
      if (r->quantity != kPowerMeter || !t->test.drive ||
          readings.back().value > t->test.drive->pep_dbm - kNotKeyedDb)
        continue;
      emit failed(tr("%1 shows %2 dBm, that is %3 at the device: nothing is keyed.")
                      .arg(qt_text(r->instrument), qt_text(number_text(r->value, 1)),
                           qt_text(watts_text(readings.back().value))),
                  tr("Key the transmitter, then read again"));
      return {};
    }
  }
  return readings;
}

/// Nobody has to wait for a second look when the first says that nothing comes out.
void MethodSheet::check_keyed(const std::vector<Reading>& shown) {
  if (at_device(shown).empty()) watch_->stop();
}

/// They belong to the step that was watched, whatever is shown now.
void MethodSheet::keep_readings(const std::vector<Reading>& shown) {
  const std::vector<Reading> readings = at_device(shown);
  if (readings.empty()) return;
  StepEdits(session_).add_readings(watched_test_, watched_step_,
                                   tr("readings of %1").arg(watch_->what()), readings);
  emit told(tr("%1 is read: it need not stay keyed").arg(watch_->what()));
}

}  // namespace heron
