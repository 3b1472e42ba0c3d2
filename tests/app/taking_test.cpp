#include "store/taking.h"

#include "app/live/instruments_card.h"
#include "app/live/live_plan.h"
#include "app/session/test_edits.h"
#include "core/method/live_quantity.h"
#include "store/exchange.h"
#include "tests/app/live_window.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace taking_test {

/// How recordings are taken from live instruments, and of what.
class TakingTest : public QObject {
  Q_OBJECT
 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-taking-test")); }

  void an_amplifier_is_driven_by_the_transmitter_before_it() {
    LiveWindow window({"20 W", "45 W"}, 50.0, "HF amplifier");
    window.w().live_instruments()->set_time_factor(200.0);
    window.w().live_instruments()->use_simulation(true);
    window.w().show_bench();
    bool said = false;
    for (const QLabel* label : window.w().bench_view()->instruments()->findChildren<QLabel*>())
      said = said || label->text() == "an amplifier";
    QVERIFY(said);
    window.w().show_evaluation(window.made.evaluation_id, window.test_id);
    window.key_twice();
    QTRY_VERIFY_WITH_TIMEOUT(!window.live().is_running(), 40000);
    QTRY_VERIFY_WITH_TIMEOUT(!window.w().sheet()->is_busy(), 20000);
    QCOMPARE(window.taken(), 2);
    sim::SimWorld& bench = window.server().bench();
    QVERIFY(!bench.is_keyed());
    const auto amplifier = bench.amplifier();
    QVERIFY(amplifier.has_value());
    // 45 W of peak are far more than the transmitter alone could give.
    QVERIFY(bench.config().transmitter.full_pep_w < 40.0);
    for (const auto& [step, watt] : {std::pair{0, 20.0}, {1, 45.0}}) {
      QVERIFY(window.test().outputs[step].has_value());
      QVERIFY(std::abs(window.test().outputs[step]->value - to_dbm(Watt{watt}).value) < 0.35);
      QVERIFY(window.test().analyses[step]->worst() != nullptr);
    }
    QVERIFY(amplifier->temperature_c() > 22.01);
    // What the other instruments read is kept with each step, told, and undone with it.
    for (const Step& step : window.test().steps) {
      for (const char* quantity :
           {kSupplyVoltage, kSupplyCurrent, kTemperature, kPowerMeter, kGeneratorLevel}) {
        const Reading* r = find_reading(step.readings, quantity);
        QVERIFY2(r != nullptr, quantity);
        QVERIFY(r->source == ReadingSource::live && !r->instrument.empty() && !r->at.empty());
      }
    }
    QVERIFY(find_reading(window.test().steps[1].readings, kSupplyCurrent)->value > 1.0);
    const QString told = window.w().sheet()->readings()->read_along();
    QVERIFY2(told.contains(" V, ") && told.contains(QString::fromUtf8("°C")), qPrintable(told));
    window.w().session().undo_stack().undo();
    QVERIFY(find_reading(window.test().steps[1].readings, kSupplyCurrent) == nullptr);
    window.w().session().undo_stack().redo();
    QVERIFY(find_reading(window.test().steps[1].readings, kSupplyCurrent) != nullptr);
    // Another evaluation, another device: the same bench without it.
    LiveWindow other;
    other.w().live_instruments()->set_time_factor(200.0);
    other.w().live_instruments()->use_simulation(true);
    other.live().start(0);
    QTRY_VERIFY_WITH_TIMEOUT(!other.live().is_running(), 20000);
    QVERIFY(!other.server().bench().amplifier().has_value());
  }

  void wishes_are_asked_checked_kept_and_undone() {
    LiveWindow window;
    MethodSheet& sheet = *window.w().sheet();
    const auto now = [&] { return taking_now(window.w().session().loaded()); };
    const TakingNow usual = now();
    QString hint;
    answer_fields({"2 s", "96 kHz", "0.1 s", "-18 dBm"}, &hint);
    sheet.ask_taking();
    QVERIFY2(hint.isEmpty(), qPrintable(hint));
    QCOMPARE(now().length_s, 2.0);
    QCOMPARE(now().rate_hz, 96e3);
    QCOMPARE(now().settle_s, 0.1);
    QCOMPARE(now().most_drive_dbm, -18.0);
    const LivePlan plan = live_plan(window.w().session().loaded(), {0, 1});
    QCOMPARE(plan.run.frames, std::size_t{192000});
    QCOMPARE(plan.run.rate_hz, 96e3);
    QCOMPARE(plan.run.most_generator_dbm, -18.0);
    for (const auto& [typed, says] :
         {std::pair{QStringList{"2 s", "1 kHz", "0.1 s", "-18 dBm"}, "8 kHz"},
          {{"500 s", "10 MHz", "0.1 s", "-18 dBm"}, "less time"},
          {{"2 s", "96 kHz", "0.1 s", "50 dBm"}, "20 dBm"},
          {{"two", "96 kHz", "0.1 s", "-18 dBm"}, "two"}}) {
      hint.clear();
      answer_fields(typed, &hint);
      sheet.ask_taking();
      QVERIFY2(hint.contains(says), qPrintable(hint));
      QCOMPARE(now().rate_hz, 96e3);
    }
    window.w().session().undo_stack().undo();
    QCOMPARE(now().length_s, usual.length_s);
    QCOMPARE(now().most_drive_dbm, -15.0);
    window.w().session().undo_stack().redo();
    window.reopen();
    window.w().show_evaluation(window.made.evaluation_id, window.test_id);
    QCOMPARE(now().length_s, 2.0);
  }

  void steps_can_be_levels_of_the_generator() {
    LiveWindow window({"generator -34 dBm", "Generator -40 dBm"});
    window.w().live_instruments()->set_time_factor(200.0);
    window.w().live_instruments()->use_simulation(true);
    QCOMPARE(window.live().due(), (std::vector<int>{1, 0}));  // from little to much
    window.key_twice();
    QTRY_VERIFY_WITH_TIMEOUT(!window.live().is_running(), 20000);
    QTRY_VERIFY_WITH_TIMEOUT(!window.w().sheet()->is_busy(), 20000);
    QCOMPARE(window.taken(), 2);
    QVERIFY(!window.server().bench().is_keyed());
    // 6 dB of drive are some 6 dB of output, far below full.
    const double rise = window.test().outputs[0]->value - window.test().outputs[1]->value;
    QVERIFY2(std::abs(rise - 6.0) < 0.3, qPrintable(QString::number(rise)));
    for (const std::string& line : window.server().heard("generator")) {
      if (!line.starts_with("SOUR:POW")) continue;
      const double level = std::stod(line.substr(9));
      QVERIFY2(level == -34.0 || level == -40.0, line.c_str());
    }
  }

  void the_most_drive_is_never_exceeded() {
    LiveWindow window({"24 W"});
    window.w().live_instruments()->set_time_factor(200.0);
    window.w().live_instruments()->use_simulation(true);
    TakingSettings taking;
    taking.most_drive_dbm = -33.0;
    TestEdits(window.w().session())
        .set_settings("drive", with_taking_settings(window.test().test.settings, taking));
    window.key_twice();
    // 24 W need more: it says so, with RF off.
    QTRY_VERIFY_WITH_TIMEOUT(window.live().state().kind == RunState::Kind::paused, 20000);
    QVERIFY(!window.server().bench().is_keyed());
    QVERIFY2(
        QString::fromStdString(window.live().state().what).contains("the most that is allowed"),
        window.live().state().what.c_str());
    for (const std::string& line : window.server().heard("generator")) {
      if (line.starts_with("SOUR:POW")) QVERIFY2(std::stod(line.substr(9)) <= -33.0, line.c_str());
    }
    window.live().stop();
    QTRY_VERIFY_WITH_TIMEOUT(!window.live().is_running(), 10000);
    QCOMPARE(window.taken(), 0);
  }
};

HERON_WINDOW_TEST(TakingTest)

}  // namespace taking_test

#include "taking_test.moc"
