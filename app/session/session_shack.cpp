// Edits of what the shack holds: devices, evaluations, recordings.
#include "app/session/session.h"
#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/method/method.h"
#include "core/method/method_table.h"
#include "store/exchange.h"
#include "store/hookup.h"
#include "store/reading.h"

namespace heron {
namespace {

/// Every evaluation begins with one test, so that there is something to do on it.
void add_first_test(Shack& shack, Id evaluation) {
  Test t;
  t.evaluation_id = evaluation;
  const Characteristic& first = first_characteristic();
  t.characteristic = first.id;
  t.title = first.title;
  for (const SpecLine& line :
       device(shack, heron::evaluation(shack, evaluation).device_id).specification) {
    if (line.characteristic == t.characteristic) t.limit = line.limit;
  }
  const Id test = add_test(shack, t);
  const std::string step(find_method(first.id)->first_step);
  if (!step.empty()) add_step(shack, test, step);
}

}  // namespace

Id Session::add_device(const Device& device, const QString& first_evaluation) {
  auto id = std::make_shared<Id>(0);
  auto evaluation = std::make_shared<Id>(0);
  change_shack(
      tr("device %1").arg(qt_text(device.name)),
      [this, id, evaluation, device, title = first_evaluation.toStdString()] {
        if (*id != 0) {
          set_device_removed(*shack_, *id, false);
          return;
        }
        *id = heron::add_device(*shack_, device);
        if (title.empty()) return;
        *evaluation = heron::add_evaluation(*shack_, *id, title);
        add_first_test(*shack_, *evaluation);
      },
      [this, id] { set_device_removed(*shack_, *id, true); });
  return *evaluation;
}

void Session::set_device(Id id, const Device& device) {
  const Device before = heron::device(*shack_, id);
  change_shack(
      tr("device %1").arg(qt_text(before.name)),
      [this, id, device] { heron::set_device(*shack_, id, device); },
      [this, id, before] { heron::set_device(*shack_, id, before); });
}

void Session::remove_device(Id id) {
  const QString name = qt_text(device(*shack_, id).name);
  change_shack(
      tr("removal of %1").arg(name), [this, id] { set_device_removed(*shack_, id, true); },
      [this, id] { set_device_removed(*shack_, id, false); });
}

Id Session::add_evaluation(Id device, const QString& title) {
  auto id = std::make_shared<Id>(0);
  change_shack(
      tr("evaluation %1").arg(title),
      [this, id, device, title] {
        if (*id != 0) {
          set_evaluation_removed(*shack_, *id, false);
          return;
        }
        *id = heron::add_evaluation(*shack_, device, title.toStdString());
        add_first_test(*shack_, *id);
      },
      [this, id] { set_evaluation_removed(*shack_, *id, true); });
  return *id;
}

void Session::rename_evaluation(Id id, const QString& title) {
  const std::string before = evaluation(*shack_, id).title;
  change_shack(
      tr("name of %1").arg(qt_text(before)),
      [this, id, title] { set_evaluation_title(*shack_, id, title.toStdString()); },
      [this, id, before] { set_evaluation_title(*shack_, id, before); });
}

void Session::remove_evaluation(Id id) {
  const QString title = qt_text(evaluation(*shack_, id).title);
  change_shack(
      tr("removal of %1").arg(title), [this, id] { set_evaluation_removed(*shack_, id, true); },
      [this, id] { set_evaluation_removed(*shack_, id, false); });
}

Id Session::import_evaluation(const QString& name,
                              std::shared_ptr<const UnpackedEvaluation> unpacked) {
  auto added = std::make_shared<AddedEvaluation>();
  change_shack(
      tr("import of %1").arg(name),
      [this, added, unpacked = std::move(unpacked)] {
        if (added->evaluation != 0)
          set_added_removed(*shack_, *added, false);
        else
          *added = add_unpacked(*shack_, *unpacked);
      },
      [this, added] { set_added_removed(*shack_, *added, true); });
  return added->evaluation;
}

Id Session::attach(const Place& place, const StoredCapture& capture,
                   const AnalysisRecord& analysis) {
  struct Kept {
    Id step = 0;
    Id step_capture = 0;
    std::vector<Id> readings;
  };
  auto kept = std::make_shared<Kept>();
  // The recording may land after another test was opened: it belongs to the one it was dropped on.
  edit_test(
      place.test, tr("recording %1").arg(qt_text(capture.info.name)),
      [this, kept, place, capture, analysis] {
        if (kept->step_capture != 0) {
          if (place.step == 0) set_step_removed(*shack_, kept->step, false);
          set_step_capture_removed(*shack_, kept->step_capture, false);
          for (const Id id : kept->readings) set_reading_removed(*shack_, id, false);
          return;
        }
        Attachment attachment;
        attachment.added = place.added;
        const Id hookup = heron::test(*shack_, place.test).hookup_id;
        if (hookup != 0) attachment.hookup_version_id = latest_version(*shack_, hookup).id;
        const Id step = place.step != 0
                            ? place.step
                            : heron::add_step(*shack_, place.test, place.new_step.toStdString());
        const Id attached = attach_capture(*shack_, step, capture, attachment);
        save_result(*shack_, attached, analysis.method, analysis.record);
        if (hookup != 0) pin_records(*shack_, place.test);
        std::vector<Id> readings;
        for (const Reading& r : place.readings) readings.push_back(add_reading(*shack_, step, r));
        *kept = {step, attached, std::move(readings)};  // only when all are written
      },
      [this, kept, place] {
        set_step_capture_removed(*shack_, kept->step_capture, true);
        for (const Id id : kept->readings) set_reading_removed(*shack_, id, true);
        if (place.step == 0) set_step_removed(*shack_, kept->step, true);
      },
      false, place.batch);
  return kept->step_capture != 0 ? kept->step : 0;
}

void Session::add_readings(Id test, Id step, const QString& what,
                           const std::vector<Reading>& readings) {
  auto kept = std::make_shared<std::vector<Id>>();
  edit_test(
      test, what,
      [this, kept, step, readings] {
        for (const Id id : *kept) set_reading_removed(*shack_, id, false);
        if (!kept->empty()) return;
        std::vector<Id> added;
        for (const Reading& r : readings) added.push_back(add_reading(*shack_, step, r));
        *kept = std::move(added);  // only when all are written
      },
      [this, kept] {
        for (const Id id : *kept) set_reading_removed(*shack_, id, true);
      },
      false);
}

void Session::set_analysis(Id test, Id step_capture, const AnalysisRecord& analysis) {
  const auto before = load_result(*shack_, step_capture);
  edit_test(
      test, tr("measured part"),
      [this, test, step_capture, analysis] {
        save_result(*shack_, step_capture, analysis.method, analysis.record);
        pin_records(*shack_, test);
      },
      [this, step_capture, method = analysis.method, before] {
        if (before) save_result(*shack_, step_capture, method, *before);
      },
      false);
}

}  // namespace heron
