// What is done to a device while it is recorded, on the sheet of a method; the rest of it is in
// method_sheet.cpp.
#include <QKeyEvent>
#include <array>
#include <cmath>

#include "app/live/live_ladder.h"
#include "app/session/test_edits.h"
#include "app/sheet/method_sheet.h"
#include "app/theme/qt_text.h"
#include "core/error.h"

namespace heron {
namespace {

constexpr double kLeastS = 0.6;  // shorter than two frames nothing is told of it

}  // namespace

void MethodSheet::mark_event() {
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->method->event_noted == nullptr) {
    emit told(tr("F8 marks what is done to a device while a touch test is recorded."));
    return;
  }
  const auto now = live_->taking_s();
  if (!now) {
    emit told(
        tr("F8 marks an event while it is recorded. Afterwards drag over the picture instead."));
    return;
  }
  if (mark_) {
    end_mark(now->first);
    return;
  }
  mark_ = OpenMark{t->test.id, now->first, tr("event at %1 s").arg(now->first, 0, 'f', 0)};
  marked_to_s_ = now->second;
  emit told(tr("Event from %1 s on: 1 tap, 2 touch, 3 cable, 4 supply, 5 other. F8 ends it.")
                .arg(now->first, 0, 'f', 1));
}

/// While an event is open its kind is one key.
bool MethodSheet::name_mark(int key) {
  const std::array<QString, 5> kinds{tr("tap"), tr("touch"), tr("cable moved"),
                                     tr("supply changed"), tr("other")};
  if (!mark_ || key < Qt::Key_1 || key > Qt::Key_5) return false;
  mark_->words = kinds[static_cast<std::size_t>(key - Qt::Key_1)];
  emit told(tr("%1, from %2 s on. F8 ends it.").arg(mark_->words).arg(mark_->from_s, 0, 'f', 1));
  return true;
}

void MethodSheet::end_mark(double to_s) {
  const OpenMark mark = *std::exchange(mark_, std::nullopt);
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->test.id != mark.test) return;
  const auto tenth = [](double s) { return std::round(s * 10.0) / 10.0; };
  const double end_s = std::max(to_s, mark.from_s + kLeastS);
  try {
    TestEdits(session_).set_settings(
        mark.words, t->method->event_noted(t->evidence, tenth(mark.from_s), tenth(end_s),
                                           mark.words.toStdString()));
    emit told(tr("Noted: %1, %2 to %3 s")
                  .arg(mark.words)
                  .arg(mark.from_s, 0, 'f', 1)
                  .arg(end_s, 0, 'f', 1));
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
  }
}

/// What is still open when the recording ends lasted until then.
void MethodSheet::follow_marks() {
  if (mark_ && !live_->is_running()) end_mark(marked_to_s_);
}

}  // namespace heron
