#include "app/session/bench_edits.h"

#include <QCoreApplication>
#include <memory>

#include "app/theme/qt_text.h"
#include "core/error.h"
#include "store/clock.h"
#include "store/device.h"

namespace heron {
namespace {

QString tr(const char* text) {
  return QCoreApplication::translate("BenchEdits", text);
}

}  // namespace

Id BenchEdits::add_item(const BenchItem& item) {
  auto id = std::make_shared<Id>(0);
  Session& s = session_;
  s.change_shack(
      tr("%1 on the bench").arg(qt_text(item.part.name)),
      [&s, id, item] {
        if (*id == 0)
          *id = add_bench_item(s.shack(), item);
        else
          set_bench_item_removed(s.shack(), *id, false);
      },
      [&s, id] { set_bench_item_removed(s.shack(), *id, true); });
  return *id;
}

void BenchEdits::set_item(Id id, const BenchItem& item, const QString& what) {
  Session& s = session_;
  const BenchItem before = bench_entry(s.shack(), id).item;
  s.change_shack(
      what, [&s, id, item] { set_bench_item(s.shack(), id, item); },
      [&s, id, before] { set_bench_item(s.shack(), id, before); });
}

void BenchEdits::set_retired(Id id, bool retired) {
  Session& s = session_;
  s.change_shack(
      retired ? tr("retirement") : tr("return to the bench"),
      [&s, id, retired] { set_bench_item_retired(s.shack(), id, retired); },
      [&s, id, retired] { set_bench_item_retired(s.shack(), id, !retired); });
}

void BenchEdits::remove_item(Id id) {
  Session& s = session_;
  s.change_shack(
      tr("removal from the bench"), [&s, id] { set_bench_item_removed(s.shack(), id, true); },
      [&s, id] { set_bench_item_removed(s.shack(), id, false); });
}

int BenchEdits::add_items(const std::vector<BenchItem>& items, const QString& from) {
  auto ids = std::make_shared<std::vector<Id>>();
  Session& s = session_;
  s.change_shack(
      tr("bench from %1").arg(from),
      [&s, ids, items] {
        if (!ids->empty()) {
          for (const Id id : *ids) set_bench_item_removed(s.shack(), id, false);
          return;
        }
        for (const BenchItem& item : items) ids->push_back(add_bench_item(s.shack(), item));
      },
      [&s, ids] {
        for (const Id id : *ids) set_bench_item_removed(s.shack(), id, true);
      });
  return static_cast<int>(ids->size());
}

Id BenchEdits::add_hookup(const QString& name, const Chain& chain) {
  auto id = std::make_shared<Id>(0);
  Session& s = session_;
  s.change_shack(
      tr("hook-up %1").arg(name),
      [&s, id, name, chain] {
        if (*id == 0)
          *id = heron::add_hookup(s.shack(), name.toStdString(), chain);
        else
          set_hookup_removed(s.shack(), *id, false);
      },
      [&s, id] { set_hookup_removed(s.shack(), *id, true); });
  return *id;
}

void BenchEdits::rename_hookup(Id id, const QString& name) {
  Session& s = session_;
  std::string before;
  for (const Hookup& h : hookups(s.shack())) {
    if (h.id == id) before = h.name;
  }
  s.change_shack(
      tr("name of a hook-up"),
      [&s, id, name] { heron::rename_hookup(s.shack(), id, name.toStdString()); },
      [&s, id, before] { heron::rename_hookup(s.shack(), id, before); });
}

void BenchEdits::remove_hookup(Id id) {
  Session& s = session_;
  s.change_shack(
      tr("removal of a hook-up"), [&s, id] { set_hookup_removed(s.shack(), id, true); },
      [&s, id] { set_hookup_removed(s.shack(), id, false); });
}

void BenchEdits::save_hookup(Id id, const Chain& chain) {
  auto saved = std::make_shared<SavedChain>();
  Session& s = session_;
  s.change_shack(
      tr("parts of a hook-up"),
      [&s, id, chain, saved] { *saved = save_chain(s.shack(), id, chain); },
      [&s, saved] { unsave_chain(s.shack(), *saved); });
}

void BenchEdits::choose_hookup(Id test, Id hookup) {
  Session& s = session_;
  const Id before = heron::test(s.shack(), test).hookup_id;
  std::vector<Id> bare;
  for (const Step& step : steps(s.shack(), test)) {
    std::vector<StepCapture> all = step.repeats;
    if (step.capture) all.push_back(*step.capture);
    if (step.self_test) all.push_back(*step.self_test);
    for (const StepCapture& c : all) {
      if (c.hookup_version_id == 0) bare.push_back(c.id);
    }
  }
  s.change_test(
      test, tr("hook-up of a test"),
      [&s, test, hookup, bare] {
        set_test_hookup_id(s.shack(), test, hookup);
        if (hookup == 0) return;
        const Id version = latest_version(s.shack(), hookup).id;
        for (const Id capture : bare) set_step_capture_hookup(s.shack(), capture, version);
      },
      [&s, test, before, bare] {
        set_test_hookup_id(s.shack(), test, before);
        for (const Id capture : bare) set_step_capture_hookup(s.shack(), capture, 0);
      });
}

void BenchEdits::set_drive(Id test, const std::optional<Drive>& drive) {
  Session& s = session_;
  const auto before = heron::test(s.shack(), test).drive;
  auto pinned = std::make_shared<std::vector<PinnedRecord>>();
  s.change_test(
      test, tr("planned drive"),
      [&s, test, drive, pinned] {
        // Recordings that do not know their frequency keep the one they were referred at.
        *pinned = pin_records(s.shack(), test);
        set_test_drive(s.shack(), test, drive);
      },
      [&s, test, before, pinned] {
        set_test_drive(s.shack(), test, before);
        unpin_records(s.shack(), *pinned);
      });
}

void BenchEdits::take_on_present(Id test, Id step_capture, Id version_before) {
  Session& s = session_;
  const Id hookup = heron::test(s.shack(), test).hookup_id;
  const Id version = hookup != 0 ? latest_version(s.shack(), hookup).id : 0;
  s.change_test(
      test, tr("hook-up of a recording"),
      [&s, step_capture, version] { set_step_capture_hookup(s.shack(), step_capture, version); },
      [&s, step_capture, version_before] {
        set_step_capture_hookup(s.shack(), step_capture, version_before);
      });
}

bool BenchEdits::vouch_for(Id test, const Vouched& vouched) {
  Session& s = session_;
  if (const auto no = s.refusal(test)) {
    emit s.refused(no->what, no->what_to_do);
    return false;
  }
  try {
    s.shack().write_together([&] {
      vouch(s.shack(), test, vouched);
      const Test t = heron::test(s.shack(), test);
      add_journal_entry(s.shack(), evaluation(s.shack(), t.evaluation_id).device_id,
                        "Keyed into an unsafe hook-up for \u201c" + t.title +
                            "\u201d: " + vouched.why + " (" + vouched.by + ")");
    });
  } catch (const InputError& error) {
    emit s.refused(qt_text(error.what_happened()), qt_text(error.advice));
    return false;
  }
  s.reload();
  return true;
}

}  // namespace heron
