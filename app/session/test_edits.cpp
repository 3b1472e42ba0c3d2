#include "app/session/test_edits.h"

#include <algorithm>

#include "app/theme/qt_text.h"
#include "core/method/method_table.h"
#include "core/method/provisional.h"
#include "store/clock.h"
#include "store/device.h"
#include "store/step.h"

namespace heron {
namespace {

using Set = std::function<void(Shack&, Id)>;

/// Sets something of the shown test, and takes it back.
void change_shown(Session& s, const QString& text, const Set& set, const Set& before,
                  Session::EditRules rules = {}) {
  const Id id = s.test_id();
  s.change_test(
      id, text, [&s, id, set] { set(s.shack(), id); }, [&s, id, before] { before(s.shack(), id); },
      rules);
}

}  // namespace

void TestEdits::set_note(const QString& note) {
  Session& s = session_;
  const std::string before = s.on_disk().note;
  if (before == note.toStdString()) return;
  change_shown(
      s, s.tr("note"),
      [note](Shack& shack, Id id) { set_test_note(shack, id, note.toStdString()); },
      [before](Shack& shack, Id id) { set_test_note(shack, id, before); },
      {.typed_in = s.test_id()});
}

void TestEdits::set_convention(const QString& convention) {
  Session& s = session_;
  const std::string before = s.on_disk().convention;
  if (before == convention.toStdString()) return;
  // How a figure is shown does not alter it: allowed on a signed test.
  change_shown(
      s, s.tr("convention"),
      [convention](Shack& shack, Id id) {
        set_test_convention(shack, id, convention.toStdString());
      },
      [before](Shack& shack, Id id) { set_test_convention(shack, id, before); },
      {.even_if_signed = true});
}

void TestEdits::set_driving(Id amplifier_test, Id pair_test) {
  Session& s = session_;
  const Test t = s.on_disk();
  change_shown(
      s, s.tr("amplifier behind"),
      [amplifier_test, pair_test](Shack& shack, Id id) {
        set_test_driving(shack, id, amplifier_test, pair_test);
      },
      [a = t.amplifier_test_id, p = t.pair_test_id](Shack& shack, Id id) {
        set_test_driving(shack, id, a, p);
      });
}

void TestEdits::set_limit(const std::optional<Limit>& limit) {
  Session& s = session_;
  const std::optional<Limit> before = s.on_disk().limit;
  change_shown(
      s, s.tr("limit"), [limit](Shack& shack, Id id) { set_test_limit(shack, id, limit); },
      [before](Shack& shack, Id id) { set_test_limit(shack, id, before); });
}

void TestEdits::set_settings(const QString& what, const nlohmann::json& settings) {
  Session& s = session_;
  change_shown(
      s, what, [settings](Shack& shack, Id id) { set_test_settings(shack, id, settings); },
      [before = s.on_disk().settings](Shack& shack, Id id) {
        set_test_settings(shack, id, before);
      });
}

void TestEdits::accept(const std::optional<Acceptance>& acceptance) {
  nlohmann::json settings = session_.settings();
  if (acceptance)
    settings[kAcceptedSettings] = to_json(*acceptance);
  else
    settings.erase(kAcceptedSettings);
  set_settings(acceptance ? session_.tr("acceptance") : session_.tr("withdrawal of the acceptance"),
               settings);
}

void TestEdits::set_provisional(const QString& reason) {
  nlohmann::json settings = session_.settings();
  if (reason.isEmpty())
    settings.erase(kProvisionalSettings);
  else
    settings[kProvisionalSettings] = reason.toStdString();
  set_settings(session_.tr("provisional or not"), settings);
}

void TestEdits::set_hookup(const QString& words) {
  Session& s = session_;
  const std::string before = s.on_disk().hookup;
  change_shown(
      s, s.tr("path"),
      [words](Shack& shack, Id id) { set_test_hookup(shack, id, words.toStdString()); },
      [before](Shack& shack, Id id) { set_test_hookup(shack, id, before); });
}

void TestEdits::set_conditions(const QString& words) {
  Session& s = session_;
  const std::string before = s.on_disk().conditions;
  change_shown(
      s, s.tr("conditions"),
      [words](Shack& shack, Id id) { set_test_conditions(shack, id, words.toStdString()); },
      [before](Shack& shack, Id id) { set_test_conditions(shack, id, before); });
}

void TestEdits::keep_limit_as_specification() {
  Session& s = session_;
  if (!s.on_disk().limit) return;
  const Id id = heron::evaluation(s.shack(), s.on_disk().evaluation_id).device_id;
  const std::string kind = s.on_disk().characteristic;
  std::vector<Limit> before;
  for (const SpecLine& line : device(s.shack(), id).specification) {
    if (line.characteristic == kind) before.push_back(line.limit);
  }
  std::vector<Limit> after = before;
  after.push_back(*s.on_disk().limit);
  // It says what the device has to keep, not what this test found: allowed on a signed test.
  change_shown(
      s, s.tr("specification"),
      [id, kind, after](Shack& shack, Id) { set_specification(shack, id, kind, after); },
      [id, kind, before](Shack& shack, Id) { set_specification(shack, id, kind, before); },
      {.even_if_signed = true});
}

void TestEdits::sign(const QString& name) {
  Session& s = session_;
  const std::string at = utc_now();
  if (!s.shack().is_read_only() && s.shack().operator_name().empty()) {
    s.shack().set_operator_name(name.toStdString());
  }
  change_shown(
      s, s.tr("signature"),
      [name, at](Shack& shack, Id id) { sign_test(shack, id, name.toStdString(), at); },
      [](Shack& shack, Id id) { sign_test(shack, id, "", ""); }, {.even_if_signed = true});
}

void TestEdits::take_back_signature() {
  Session& s = session_;
  const Test before = s.on_disk();
  change_shown(
      s, s.tr("withdrawal of the signature"),
      [](Shack& shack, Id id) { sign_test(shack, id, "", ""); },
      [before](Shack& shack, Id) {
        sign_test(shack, before.id, before.signed_by, before.signed_at);
      },
      {.even_if_signed = true});
}

void TestEdits::add_test(const std::string& characteristic, const QString& title,
                         const QString& conditions) {
  Session& s = session_;
  Test t;
  t.evaluation_id = s.evaluation_id();
  t.characteristic = characteristic;
  t.title = title.toStdString();
  t.conditions = conditions.toStdString();
  const Method* method = find_method(characteristic);
  const std::string first_step(method != nullptr ? method->first_step : std::string_view());
  const Device d = device(s.shack(), heron::evaluation(s.shack(), s.evaluation_id()).device_id);
  for (const SpecLine& line : d.specification) {
    // One that is judged by a mask has its limit there.
    if (method != nullptr && method->limit != nullptr && line.characteristic == characteristic)
      t.limit = line.limit;
  }
  auto id = std::make_shared<Id>(0);
  change_shown(
      s, s.tr("test %1").arg(title),
      [id, t, first_step](Shack& shack, Id) {
        if (*id != 0) {
          set_test_removed(shack, *id, false);
          return;
        }
        *id = heron::add_test(shack, t);
        if (!first_step.empty()) heron::add_step(shack, *id, first_step);
      },
      [id](Shack& shack, Id) { set_test_removed(shack, *id, true); }, {.even_if_signed = true});
  if (*id != 0) s.show_test(*id);
}

void TestEdits::remove_test(Id test) {
  Session& s = session_;
  change_shown(
      s, s.tr("removal of a test"),
      [test](Shack& shack, Id) { set_test_removed(shack, test, true); },
      [test](Shack& shack, Id) { set_test_removed(shack, test, false); }, {.even_if_signed = true});
}

void TestEdits::rename_test(Id test, const QString& title) {
  Session& s = session_;
  const std::string before = heron::test(s.shack(), test).title;
  s.change_test(
      test, s.tr("name of %1").arg(qt_text(before)),
      [&s, test, title] { set_test_title(s.shack(), test, title.toStdString()); },
      [&s, test, before] { set_test_title(s.shack(), test, before); });
}

namespace {

std::vector<Id> order_of(const Session& s) {
  std::vector<Id> order;
  for (const Test& t : s.course()) order.push_back(t.id);
  return order;
}

}  // namespace

void TestEdits::duplicate_test(Id test, const QString& title) {
  Session& s = session_;
  Test copy = heron::test(s.shack(), test);
  copy.title = title.toStdString();
  copy.note.clear();
  if (copy.settings.is_object()) {
    copy.settings.erase(kAcceptedSettings);
    copy.settings.erase(kProvisionalSettings);
  }
  std::vector<std::string> labels;
  for (const Step& step : steps(s.shack(), test)) labels.push_back(step.label);
  const std::vector<Id> before = order_of(s);
  auto id = std::make_shared<Id>(0);
  s.change_shack(
      s.tr("test %1").arg(title),
      [&s, id, copy, labels, before, test] {
        if (*id != 0) {
          set_test_removed(s.shack(), *id, false);
          return;
        }
        *id = heron::add_test(s.shack(), copy);
        for (const std::string& label : labels) heron::add_step(s.shack(), *id, label);
        std::vector<Id> order = before;
        order.insert(std::find(order.begin(), order.end(), test) + 1, *id);
        set_test_order(s.shack(), order);
      },
      [&s, id] { set_test_removed(s.shack(), *id, true); });
  if (*id != 0) s.show_test(*id);
}

void TestEdits::swap_tests(Id test, Id beside) {
  Session& s = session_;
  const std::vector<Id> before = order_of(s);
  std::vector<Id> after = before;
  const auto a = std::find(after.begin(), after.end(), test);
  const auto b = std::find(after.begin(), after.end(), beside);
  if (a == after.end() || b == after.end()) return;
  std::iter_swap(a, b);
  s.change_shack(
      s.tr("order of the test plan"), [&s, after] { set_test_order(s.shack(), after); },
      [&s, before] { set_test_order(s.shack(), before); });
}

}  // namespace heron
