#include <QtTest>

#include "core/method/frequency/lock_result.h"
#include "core/method/frequency/lock_settings.h"
#include "core/method/frequency/tone_log.h"
#include "core/method/live_quantity.h"
#include "core/method/method.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace lock_test {

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

  /// A receiver beside it: its tone, with sidebands so far from it.
  static EvidenceStep heard(const char* label, double tone_hz, double sideband_dbc,
                            std::uint64_t seed) {
    std::vector<Sinusoid> lines{{tone_hz, 0.3}};
    if (sideband_dbc > -100.0)
      for (const double side : {-37.0, 37.0})
        lines.push_back({tone_hz + side, 0.3 * std::pow(10.0, sideband_dbc / 20.0)});
    EvidenceStep s;
    s.label = label;
    const auto open = memory_capture(generate_sinusoids(lines, 8000.0, 48000, -50.0, seed), 8000.0);
    s.analysis = read_tone_log(
        find_method("lock")->analyse(open, TakeContext{}, Progress(), std::stop_token()));
    return s;
  }

  void the_tone_of_a_receiver_tells_the_state() {
    Evidence e;
    e.settings["lock"] = {{"source_dbm", 3.3}, {"offset_hz", 12.0}, {"restored", true}};
    e.steps = {heard("0 dB, falling", 1000.0, -200.0, 1), heard("3 dB, falling", 1000.0, -200.0, 2),
               heard("6 dB, falling", 1000.0, -52.0, 3),  heard("7 dB, falling", 1000.0, -25.0, 4),
               heard("8 dB, falling", 1011.5, -200.0, 5), heard("5 dB, rising", 1000.0, -200.0, 6)};
    const auto* log = dynamic_cast<const ToneLog*>(e.steps[3].analysis.get());
    QVERIFY(log != nullptr && log->sideband);
    QVERIFY2(std::abs(log->sideband->level_dbc + 25.0) < 0.2,
             qPrintable(QString::number(log->sideband->level_dbc)));
    QVERIFY(std::abs(std::abs(log->sideband->offset_hz) - 37.0) < 1.0);
    QVERIFY(!dynamic_cast<const ToneLog*>(e.steps[0].analysis.get())->sideband);
    const Result r = evaluate_lock(e);
    QCOMPARE(r.answers.front().figure.value, 6.0);
    QVERIFY(has_remark(r.remarks, "sidebands") && has_remark(r.remarks, "disturbed"));
    const auto& lanes = r.plots.front().panels.front().states;
    QCOMPARE(lanes[0].cells.size(), 3U);
    QCOMPARE(lanes[0].cells[2].word, std::string("lost"));
    // No counter: nominal is not asked for, and nothing is left out.
    QVERIFY(!has_remark(r.remarks, "row"));
    // What somebody allows is theirs.
    e.settings["lock"]["sideband_dbc"] = -20.0;
    QCOMPARE(evaluate_lock(e).answers.front().figure.value, 7.0);
  }

  void the_level_follows_from_source_and_parts() {
    const auto& fields = find_method("lock")->settings;
    const auto between = std::find_if(fields.begin(), fields.end(),
                                      [](const SettingField& f) { return f.key == "between"; });
    QVERIFY(between != fields.end());
    Evidence e = run();
    auto& own = e.settings["lock"];
    own["source_dbm"] = nullptr;
    own["output_dbm"] = 13.0;
    own["between"] = between->text.parse("splitter, 4-way \u22126.6 dB\npad 3 dB: -3\n\nloss 0,1");
    QCOMPARE(own["between"].size(), 3U);
    QCOMPARE(own["between"][1]["name"], "pad 3 dB");
    own["between"] = between->text.parse(between->text.written(own["between"]));
    own["between"][2]["gain_db"] = -0.1;
    const Result r = evaluate_lock(e);
    QCOMPARE(r.level_plan.size(), 5U);
    QVERIFY(std::abs(r.level_plan[3].level->value - 3.3) < 1e-9);
    QVERIFY(r.level_plan[3].level->u() > r.level_plan[0].level->u());
    QCOMPARE(r.level_plan.back().verdict, Verdict::pass);
    QVERIFY(std::abs(*r.level_plan.back().place - 8.3 / 15.0) < 1e-9);
    QCOMPARE(evaluate_lock(run()).level_plan.size(), 0U);
    for (const char* wrong : {"pad", "-3 dB", "pad three"})
      QVERIFY(!refusal([&] { between->text.parse(wrong); }).isEmpty());
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

HERON_TEST(LockTest)

}  // namespace lock_test

#include "lock_test.moc"
