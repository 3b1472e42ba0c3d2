#include <QtTest>

#include "core/method/frequency/adjust_result.h"
#include "core/method/frequency/adjust_settings.h"
#include "core/method/frequency/hands_off.h"
#include "core/method/method.h"
#include "tests/core/made_log.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace adjust_test {

/// Turning a trimmer or a stepped setting with the counter beside it.
class AdjustTest : public QObject {
  Q_OBJECT

  struct Turn {
    bool is_tool;
    int seconds;
    double hz;
  };

  static Evidence turned(const std::vector<Turn>& turns, nlohmann::json more = {}) {
    Evidence e;
    e.settings["adjust"] = {{"nominal_hz", 20e6}, {"source_ppm", 0.01}, {"original", "3 o'clock"}};
    if (more.is_object()) e.settings["adjust"].update(more);
    e.limit = Limit{"need", Sense::within, 0.25, "ppm", "", 0.5};
    std::vector<double> values;
    for (const Turn& t : turns) {
      if (!values.empty()) {
        const auto at = values.size();
        e.events.push_back({static_cast<std::int64_t>(at),
                            QString("2026-03-02T06:%1:%2Z")
                                .arg(at / 60, 2, 10, QChar('0'))
                                .arg(at % 60, 2, 10, QChar('0'))
                                .toStdString(),
                            t.is_tool ? kToolOn : kHandsOff});
      }
      for (int i = 0; i < t.seconds; ++i) values.push_back(t.hz + 0.05 * (i % 2 ? 1 : -1));
    }
    e.steps = {
        logged({made_log(kCountedFrequency, "Hz", 1.0, static_cast<int>(values.size()),
                         [&](double t) { return 20e6 + values[static_cast<std::size_t>(t)]; })})};
    return e;
  }

  static EvidenceStep row(const char* label, double nominal_hz, std::optional<double> found_ppm,
                          std::optional<double> adjusted_ppm, std::optional<double> checked_ppm,
                          std::optional<double> setting = {}) {
    EvidenceStep s;
    s.label = label;
    s.conditions.push_back({"frequency", nominal_hz, "Hz"});
    if (setting) s.conditions.push_back({kSettingCondition, *setting, ""});
    const auto add = [&](ReadingRole role, const std::optional<double>& ppm) {
      if (!ppm) return;
      Reading r;
      r.quantity = kCountedFrequency;
      r.unit = "Hz";
      r.role = role;
      r.value = nominal_hz * (1.0 + 1e-6 * *ppm);
      s.readings.push_back(r);
    };
    add(ReadingRole::before, found_ppm);
    add(ReadingRole::at, adjusted_ppm);
    add(ReadingRole::after, checked_ppm);
    return s;
  }

 private slots:
  void what_is_read_under_the_tool_counts_for_nothing() {
    const Evidence e = turned({{false, 10, -8.0},
                               {true, 10, -6.0},
                               {false, 10, -5.0},
                               {true, 10, -1.2},
                               {false, 10, 0.0}});
    const Needle n = *evaluate_adjust(e).needle;
    QCOMPARE(n.state, Needle::State::hands_off);
    QVERIFY(std::abs(*n.value) < 0.1);
    QCOMPARE(n.state_words, std::string("Hands off"));
    QCOMPARE(n.stretches.size(), 5U);
    // Jumps of +1.0 and +1.2: learnt from two times.
    QVERIFY(n.facts[3].value.find("+1.1") == 0);
    QCOMPARE(n.stretches[2].word, std::string("jump +1.0"));
    QVERIFY(std::count_if(n.history.begin(), n.history.end(),
                          [](const Needle::Point& p) { return !p.is_counted; }) == 20);
  }

  void one_count_after_letting_go_is_not_what_was_before() {
    // Settled for 3 s, then one count: the stretch before the turn stood at -8.
    const Evidence e = turned({{false, 10, -8.0}, {true, 10, -6.0}, {false, 4, -5.0}});
    const Needle n = *evaluate_adjust(e).needle;
    QCOMPARE(n.state, Needle::State::hands_off);
    QVERIFY2(std::abs(*n.value + 5.0) < 0.2, qPrintable(QString::number(*n.value)));
  }

  void each_reading_is_of_one_stretch() {
    std::vector<DriftSample> samples;
    for (int i = 0; i < 30; ++i) samples.push_back({static_cast<double>(i), i < 10 ? 0.0 : 1.0});
    const HandsOff h = watch_hands(
        samples,
        std::vector<DriftRecord::Moment>{{10.0, kToolOn}, {10.0, kToolOn}, {20.0, kHandsOff}});
    QCOMPARE(h.stretches.size(), 3U);  // said twice is said once
    QVERIFY(!h.at(9.0).is_tool && h.at(10.0).is_tool && h.at(19.9).is_tool && !h.at(20.0).is_tool);
    QVERIFY(!h.at(-5.0).is_tool && !h.at(500.0).is_tool);
    QCOMPARE(h.stretches[0].counted, 10U);
    QCOMPARE(h.stretches[2].counted, 7U);  // the first three seconds do not
    QCOMPARE(*h.stretches[2].jump_hz, 0.0);
    QVERIFY(!h.finest_hz);
    QCOMPARE(watch_hands({}, {}).state, HandsOff::State::none);
  }

  void under_the_tool_it_says_where_to_aim() {
    const Evidence e =
        turned({{false, 10, -8.0}, {true, 10, -6.0}, {false, 10, -5.0}, {true, 10, -1.0}});
    const Needle n = *evaluate_adjust(e).needle;
    QCOMPARE(n.state, Needle::State::tool_on);
    QVERIFY(n.order.find("Aim at") == 0);
    QVERIFY(n.let_go_value && std::abs(*n.let_go_value - *n.value - 1.0) < 0.15);
    // The first seconds after it do not count yet.
    Evidence just = turned({{false, 10, -8.0}, {true, 10, -6.0}, {false, 2, -5.0}});
    QCOMPARE(evaluate_adjust(just).needle->state, Needle::State::settling);
    QCOMPARE(evaluate_adjust(just).needle->order, std::string("Wait"));
  }

  void zero_is_where_it_settles() {
    const Evidence e = turned({{false, 12, -2.6}}, {{"shift_hz", 1.8}, {"u_shift_hz", 0.6}});
    const Result r = evaluate_adjust(e);
    QVERIFY(std::abs(*r.needle->value + 0.8) < 0.1);
    QCOMPARE(*r.needle->reads_right, 1.8);
    QCOMPARE(r.needle->u_zero, 0.6);
    // -0.8 Hz of 20 MHz, with the shift's own uncertainty.
    const Figure& f = r.answers.front().figure;
    QVERIFY(std::abs(f.value + 0.04) < 0.005);
    QVERIFY(f.expanded() > 0.6 / 20.0);
    // By typing less than what is known of the source nobody is asked to turn.
    QCOMPARE(evaluate_adjust(turned({{false, 12, -2.6}}, {{"shift_hz", 1.8}, {"source_ppm", 0.1}}))
                 .needle->order,
             std::string("Leave it"));
    QVERIFY(r.needle->order.find("Up 0.8") == 0);
  }

  void the_drift_record_tells_what_is_left_of_the_warm_up() {
    Evidence drift;
    MadeWarmUp made;
    made.noise_ppm = 0.002;
    drift.settings["drift"] = {{"nominal_hz", 10e6}, {"source_ppm", 0.01}};
    drift.steps = {logged({made.log()})};
    Evidence e = turned({{false, 12, 0.0}}, {{"warm_s", 1000.0}});
    e.companion = std::make_shared<const Evidence>(drift);
    const AdjustPlan plan = adjust_plan(e);
    // 1.5 ppm exp(-2) are still to come down, of 20 MHz.
    QVERIFY2(std::abs(plan.shift_hz + 20.0 * 1.5 * std::exp(-2.0)) < 0.2,
             qPrintable(QString::number(plan.shift_hz)));
    QVERIFY(plan.is_shift_of_record && plan.u_shift_hz > 0.0);
    // What is typed comes first.
    e.settings["adjust"]["shift_hz"] = 1.0;
    QCOMPARE(adjust_plan(e).shift_hz, 1.0);
  }

  void it_stays_to_do_until_two_bands_are_checked() {
    Evidence e = turned({});
    e.steps = {row("test point", 20e6, -0.31, 0.02, 0.03)};
    Result r = evaluate_adjust(e);
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::incomplete);
    QVERIFY(has_remark(r.remarks, "recheck"));
    e.steps.push_back(row("again", 20e6, {}, {}, 0.04));
    QCOMPARE(evaluate_adjust(e).answers.front().judgement->verdict, Verdict::incomplete);
    e.steps.push_back(row("28.2 MHz", 28.2e6, {}, {}, 0.05));
    r = evaluate_adjust(e);
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::pass);
    QVERIFY(std::abs(r.answers.front().figure.value - 0.04) < 1e-6);
    QVERIFY(!has_remark(r.remarks, "recheck"));
    QVERIFY(r.answers.front().label.find("\u22120.31") != std::string::npos);
    QCOMPARE(r.tables.front().rows.size(), 3U);
    // Without a known source it is a change only.
    e.settings["adjust"]["source_ppm"] = nullptr;
    r = evaluate_adjust(e);
    QVERIFY(!r.answers.front().judgement && has_remark(r.remarks, "source_unknown"));
  }

  void a_shift_that_was_wrong_is_told() {
    Evidence e = turned({}, {{"shift_hz", 0.0}, {"u_shift_hz", 0.1}});
    e.steps = {row("test point", 20e6, -0.31, 0.0, 0.2), row("7.1 MHz", 7.1e6, {}, {}, 0.21)};
    QVERIFY(has_remark(evaluate_adjust(e).remarks, "shifted"));
  }

  void closing_the_case_last_time_shifts_zero_the_next_time() {
    Evidence e = turned({{false, 12, -2.6}});
    e.steps.push_back(row("test point", 20e6, -0.3, 0.05, 0.15));
    e.steps.push_back(row("28.2 MHz", 28.2e6, {}, 0.06, 0.18));
    const Result r = evaluate_adjust(e);
    QVERIFY(has_remark(r.remarks, "shift_of_check") && !has_remark(r.remarks, "no_shift"));
    // 0.10 and 0.12 ppm of 20 MHz: it will come up by 2.2 Hz.
    QVERIFY2(std::abs(*r.needle->value + 0.4) < 0.1, qPrintable(QString::number(*r.needle->value)));
    // What is typed comes first.
    e.settings["adjust"]["shift_hz"] = 0.0;
    QVERIFY(!has_remark(evaluate_adjust(e).remarks, "shift_of_check"));
  }

  void a_stepped_setting_is_done_after_power_off() {
    Evidence e = turned({}, {{"shift_hz", 0.0}});
    e.steps = {row("40", 20e6, -0.3, -0.125, {}, 40.0), row("41", 20e6, {}, -0.06, {}, 41.0),
               row("42", 20e6, {}, 0.005, 0.01, 42.0), row("28.2 MHz", 28.2e6, {}, {}, 0.01)};
    Result r = evaluate_adjust(e);
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::incomplete);
    QVERIFY(has_remark(r.remarks, "power_cycle") && !has_remark(r.remarks, "recheck"));
    QVERIFY(r.answers.front().sentence.find("switch off and on") != std::string::npos);
    e.settings["adjust"]["power_cycled"] = true;
    r = evaluate_adjust(e);
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::pass);
    QVERIFY(!has_remark(r.remarks, "not_kept"));
    // 1.3 Hz a step: it came back two settings lower.
    e.steps[2] = row("42", 20e6, {}, 0.005, -0.125, 42.0);
    r = evaluate_adjust(e);
    const auto kept = std::find_if(r.remarks.begin(), r.remarks.end(),
                                   [](const Remark& m) { return m.code == "not_kept"; });
    QVERIFY(kept != r.remarks.end());
    QVERIFY2(kept->text.find("\u22122.0 steps") != std::string::npos, kept->text.c_str());
  }

  void stepped_settings_say_which_is_next() {
    Evidence e = turned({});
    e.steps = {row("39", 20e6, {}, -0.19, {}, 39.0), row("40", 20e6, {}, -0.125, {}, 40.0),
               row("41", 20e6, {}, -0.06, {}, 41.0)};
    const Result r = evaluate_adjust(e);
    QCOMPARE(r.figure_cards.front().value, std::string("42"));
    QVERIFY(r.figure_cards.front().caption.find("+0.10 Hz") != std::string::npos);
    QVERIFY(!r.needle);
    QVERIFY(r.plots.front().has_points());
    // A setting that changes nothing is named.
    for (EvidenceStep& s : e.steps) s.readings.front().value = 20e6;
    QVERIFY(has_remark(evaluate_adjust(e).remarks, "settings"));
  }

  void what_is_not_written_down_is_asked_for() {
    Evidence e = turned({{false, 5, 0.0}}, {{"original", nullptr}});
    QVERIFY(has_remark(evaluate_adjust(e).remarks, "original"));
    e.settings["adjust"]["nominal_hz"] = nullptr;
    const Result r = evaluate_adjust(e);
    QVERIFY(has_remark(r.remarks, "nominal") && !r.needle && r.answers.empty());
    const auto& fields = find_method("adjust")->settings;
    const auto shift = std::find_if(fields.begin(), fields.end(),
                                    [](const SettingField& f) { return f.key == "shift_hz"; });
    QCOMPARE(shift->text.parse("\u22121.8 Hz").get<double>(), -1.8);
    QVERIFY(!refusal([&] { shift->text.parse("a bit"); }).isEmpty());
  }
};

HERON_TEST(AdjustTest)

}  // namespace adjust_test

#include "adjust_test.moc"
