#include <QtTest>

#include "core/method/frequency/lock_result.h"
#include "core/method/frequency/lock_settings.h"
#include "core/method/live_quantity.h"
#include "core/method/method.h"
#include "tests/core/said.h"

using namespace heron;
using namespace heron::testing;

/// A run of attenuation before a reference input, as the sheet judges it.
class LockTest : public QObject {
  Q_OBJECT

  static EvidenceStep step(const std::string& label, const std::vector<double>& counted,
                           const char* state = "") {
    EvidenceStep s;
    s.label = label;
    for (const double hz : counted) {
      Reading r;
      r.quantity = kCountedFrequency;
      r.unit = "Hz";
      r.value = 10e6 + hz;
      r.source = ReadingSource::live;
      s.readings.push_back(r);
    }
    if (*state != 0) {
      const auto& fields = find_method("lock")->fields;
      s.readings.push_back(read_typed(fields.back(), state));
    }
    return s;
  }

  static Evidence run(bool is_restored = true) {
    Evidence e;
    e.settings["lock"] = {{"nominal_hz", 10e6},  {"source_dbm", 3.3}, {"lowest_dbm", -5.0},
                          {"highest_dbm", 10.0}, {"offset_hz", 12.0}, {"restored", is_restored}};
    for (int db = 0; db <= 12; ++db) {
      const double wide = db < 9 ? 0.001 : db < 11 ? 0.05 : 0.4;
      const double off = db < 11 ? 0.0 : 4.0 + db - 11;
      e.steps.push_back(step(std::to_string(db) + " dB, falling", {off - wide, off, off + wide}));
    }
    for (int db = 11; db >= 0; --db) {
      const double off = db > 7 ? 8.0 : 0.0;
      e.steps.push_back(step(std::to_string(db) + " dB, rising", {off, off + 0.001, off - 0.001}));
    }
    return e;
  }

 private slots:
  void the_last_held_step_counts() {
    const Result r = evaluate_lock(run());
    const Answer& a = r.answers.front();
    QCOMPARE(a.figure.value, 8.0);  // 9 and 10 dB are disturbed
    QCOMPARE(a.judgement->verdict, Verdict::pass);
    QVERIFY(a.label.find("\u22124.7 dBm") != std::string::npos);
    QVERIFY(has_remark(r.remarks, "disturbed") && has_remark(r.remarks, "hysteresis"));
    QVERIFY(!has_remark(r.remarks, "restore"));
    QCOMPARE(r.figure_cards.front().judgement->verdict, Verdict::pass);
    // The lanes: held, disturbed, lost; and back.
    const auto& lanes = r.plots.front().panels.front().states;
    QCOMPARE(lanes.size(), 2U);
    QCOMPARE(lanes[0].cells.size(), 3U);
    QCOMPARE(lanes[0].cells[1].word, std::string("disturbed"));
    QCOMPARE(lanes[0].cells[1].from, 8.5);
    QCOMPARE(lanes[1].cells.size(), 2U);
    QCOMPARE(lanes[1].cells[0].to, 7.5);
  }

  void it_is_unfinished_until_the_offset_is_restored() {
    const Result r = evaluate_lock(run(false));
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::incomplete);
    QVERIFY(has_remark(r.remarks, "restore"));
  }

  void rows_near_a_change_are_told() {
    const ResultTable t = evaluate_lock(run()).tables.front();
    std::vector<std::string> added;
    for (const auto& row : t.rows) added.push_back(row.cells.front().text);
    QCOMPARE(added.front(), std::string("0"));
    QCOMPARE(added.back(), std::string("12"));
    QVERIFY(std::find(added.begin(), added.end(), "8") != added.end());
    QVERIFY(std::find(added.begin(), added.end(), "3") == added.end());
    for (const auto& row : t.rows) QCOMPARE(row.cells.size(), t.columns.size());
  }

  void states_by_eye_need_no_counter() {
    Evidence e;
    e.settings["lock"] = {{"source_dbm", 0.0}};
    e.steps = {step("0 dB", {}, "held"), step("2 dB", {}, "h"), step("4 dB", {}, "lost"),
               step("1 dB", {}, "held")};
    const Result r = evaluate_lock(e);
    QCOMPARE(r.answers.front().figure.value, 2.0);
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::fail);  // below 3 dB
    QVERIFY(!refusal([&] { step("3 dB", {}, "maybe"); }).isEmpty());
  }

  void one_count_a_step_shows_no_scatter() {
    Evidence e;
    e.settings["lock"] = {{"nominal_hz", 10e6}, {"offset_hz", 12.0}, {"restored", true}};
    e.steps = {step("0 dB", {0.0}), step("6 dB", {0.01}), step("8 dB", {11.0})};
    const Result r = evaluate_lock(e);
    QCOMPARE(r.answers.front().figure.value, 6.0);
    QVERIFY(has_remark(r.remarks, "no_scatter"));
    QVERIFY(has_remark(r.remarks, "not_back"));
  }

  void what_is_wrong_is_named() {
    Evidence e;
    e.settings["lock"] = {{"source_dbm", 12.0}, {"highest_dbm", 10.0}, {"lowest_dbm", -5.0}};
    e.steps = {step("cable off", {0.0}), step("0 dB", {0.0}), step("2 dB", {}, "held")};
    const Result r = evaluate_lock(e);
    QVERIFY(has_remark(r.remarks, "level_high"));
    QCOMPARE(std::count_if(r.remarks.begin(), r.remarks.end(),
                           [](const Remark& m) { return m.code == "row"; }),
             2);
    QCOMPARE(r.answers.size(), 3U);
    // Before anything is read the offset is asked for.
    Evidence none;
    QVERIFY(has_remark(evaluate_lock(none).remarks, "offset_first"));
    QCOMPARE(find_method("lock")->plan(none).steps.size(), 33U);
  }

  void never_held_is_a_fail() {
    Evidence e;
    e.steps = {step("0 dB", {}, "disturbed"), step("3 dB", {}, "lost")};
    const Result r = evaluate_lock(e);
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::fail);
    QVERIFY(has_remark(r.remarks, "never_held"));
  }
};

QTEST_APPLESS_MAIN(LockTest)
#include "lock_test.moc"
