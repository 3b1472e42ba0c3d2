#include "app/session/shack_edits.h"

#include "app/theme/qt_text.h"
#include "core/method/method_table.h"
#include "store/exchange.h"
#include "store/step.h"

namespace heron {
namespace {

/// As somebody would add it, to be filled.
void add_planned_test(Shack& shack, Id evaluation, const Characteristic& first) {
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = first.id;
  t.title = first.test;
  const Method* method = find_method(first.id);
  // One that is judged by a mask has its limit there.
  const bool has_limit = method != nullptr && method->limit != nullptr;
  for (const SpecLine& line :
       device(shack, heron::evaluation(shack, evaluation).device_id).specification) {
    if (has_limit && line.characteristic == t.characteristic) t.limit = line.limit;
  }
  const Id test = add_test(shack, t);
  const std::string step(method != nullptr ? method->first_step : std::string_view());
  if (!step.empty()) add_step(shack, test, step);
}

}  // namespace

Id ShackEdits::add_device(const Device& device) {
  Session& s = session_;
  auto id = std::make_shared<Id>(0);
  s.change_shack(
      s.tr("device %1").arg(qt_text(device.name)),
      [&s, id, device] {
        if (*id != 0)
          set_device_removed(s.shack(), *id, false);
        else
          *id = heron::add_device(s.shack(), device);
      },
      [&s, id] { set_device_removed(s.shack(), *id, true); });
  return *id;
}

void ShackEdits::set_device(Id id, const Device& device) {
  Session& s = session_;
  const Device before = heron::device(s.shack(), id);
  s.change_shack(
      s.tr("device %1").arg(qt_text(before.name)),
      [&s, id, device] { heron::set_device(s.shack(), id, device); },
      [&s, id, before] { heron::set_device(s.shack(), id, before); });
}

bool ShackEdits::add_work(Id device, const Work& work, const std::string& at) {
  Session& s = session_;
  auto id = std::make_shared<Id>(0);
  s.change_shack(
      s.tr("work on %1").arg(qt_text(heron::device(s.shack(), device).name)),
      [&s, id, device, work, at] { *id = heron::add_work(s.shack(), device, work, at); },
      [&s, id] { drop_journal_entry(s.shack(), *id); });
  return *id != 0;
}

void ShackEdits::set_specification(Id device, const QString& what,
                                   const std::vector<SpecLine>& lines) {
  Session& s = session_;
  const std::vector<SpecLine> before = heron::device(s.shack(), device).specification;
  if (before == lines) return;
  s.change_shack(
      what, [&s, device, lines] { heron::set_specification(s.shack(), device, lines); },
      [&s, device, before] { heron::set_specification(s.shack(), device, before); });
}

void ShackEdits::set_retired(Id device, const std::string& at) {
  Session& s = session_;
  const Device now = heron::device(s.shack(), device);
  s.change_shack(
      at.empty() ? s.tr("%1 in use again").arg(qt_text(now.name))
                 : s.tr("retirement of %1").arg(qt_text(now.name)),
      [&s, device, at] { set_device_retired(s.shack(), device, at); },
      [&s, device, before = now.retired_at] { set_device_retired(s.shack(), device, before); });
}

void ShackEdits::set_photo(Id device, const std::string& content) {
  Session& s = session_;
  const std::string before = device_photo(s.shack(), device);
  s.change_shack(
      s.tr("photo of %1").arg(qt_text(heron::device(s.shack(), device).name)),
      [&s, device, content] { set_device_photo(s.shack(), device, content); },
      [&s, device, before] { set_device_photo(s.shack(), device, before); });
}

Id ShackEdits::add_outside_figure(const OutsideFigure& figure) {
  Session& s = session_;
  auto id = std::make_shared<Id>(0);
  s.change_shack(
      s.tr("figure from elsewhere"),
      [&s, id, figure] {
        if (*id != 0)
          set_outside_figure_removed(s.shack(), *id, false);
        else
          *id = heron::add_outside_figure(s.shack(), figure);
      },
      [&s, id] { set_outside_figure_removed(s.shack(), *id, true); });
  return *id;
}

void ShackEdits::remove_outside_figure(Id device, Id figure) {
  Session& s = session_;
  s.change_shack(
      s.tr("removal of a figure of %1").arg(qt_text(heron::device(s.shack(), device).name)),
      [&s, figure] { set_outside_figure_removed(s.shack(), figure, true); },
      [&s, figure] { set_outside_figure_removed(s.shack(), figure, false); });
}

void ShackEdits::remove_device(Id id) {
  Session& s = session_;
  const QString name = qt_text(device(s.shack(), id).name);
  s.change_shack(
      s.tr("removal of %1").arg(name), [&s, id] { set_device_removed(s.shack(), id, true); },
      [&s, id] { set_device_removed(s.shack(), id, false); });
}

Id ShackEdits::add_evaluation(Id device, const QString& title,
                              const std::vector<std::string>& characteristics) {
  Session& s = session_;
  auto id = std::make_shared<Id>(0);
  s.change_shack(
      s.tr("evaluation %1").arg(title),
      [&s, id, device, title, characteristics] {
        if (*id != 0) {
          set_evaluation_removed(s.shack(), *id, false);
          return;
        }
        *id = heron::add_evaluation(s.shack(), device, title.toStdString());
        for (const std::string& name : characteristics)
          if (const Characteristic* c = find_characteristic(name))
            add_planned_test(s.shack(), *id, *c);
        if (characteristics.empty()) add_planned_test(s.shack(), *id, first_characteristic());
      },
      [&s, id] { set_evaluation_removed(s.shack(), *id, true); });
  return *id;
}

void ShackEdits::rename_evaluation(Id id, const QString& title) {
  Session& s = session_;
  const std::string before = evaluation(s.shack(), id).title;
  s.change_shack(
      s.tr("name of %1").arg(qt_text(before)),
      [&s, id, title] { set_evaluation_title(s.shack(), id, title.toStdString()); },
      [&s, id, before] { set_evaluation_title(s.shack(), id, before); });
}

void ShackEdits::set_goal(Id evaluation, const QString& goal) {
  Session& s = session_;
  const std::string before = heron::evaluation(s.shack(), evaluation).goal;
  s.change_shack(
      s.tr("goal"),
      [&s, evaluation, goal] { set_evaluation_goal(s.shack(), evaluation, goal.toStdString()); },
      [&s, evaluation, before] { set_evaluation_goal(s.shack(), evaluation, before); });
}

void ShackEdits::end_evaluation(Id id, const std::optional<EvaluationEnd>& end) {
  Session& s = session_;
  const auto before = evaluation(s.shack(), id).end;
  s.change_shack(
      end ? s.tr("end of the evaluation") : s.tr("opening of the evaluation"),
      [&s, id, end] { set_evaluation_end(s.shack(), id, end); },
      [&s, id, before] { set_evaluation_end(s.shack(), id, before); });
}

void ShackEdits::remove_evaluation(Id id) {
  Session& s = session_;
  const QString title = qt_text(evaluation(s.shack(), id).title);
  s.change_shack(
      s.tr("removal of %1").arg(title), [&s, id] { set_evaluation_removed(s.shack(), id, true); },
      [&s, id] { set_evaluation_removed(s.shack(), id, false); });
}

Id ShackEdits::import_evaluation(const QString& name,
                                 std::shared_ptr<const UnpackedEvaluation> unpacked) {
  Session& s = session_;
  auto added = std::make_shared<AddedEvaluation>();
  s.change_shack(
      s.tr("import of %1").arg(name),
      [&s, added, unpacked = std::move(unpacked)] {
        if (added->evaluation != 0)
          set_added_removed(s.shack(), *added, false);
        else
          *added = add_unpacked(s.shack(), *unpacked);
      },
      [&s, added] { set_added_removed(s.shack(), *added, true); });
  return added->evaluation;
}

}  // namespace heron
