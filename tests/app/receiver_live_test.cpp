// A receiver between a generator and a voltmeter: heard, or its indicator brought to a reading, on
// the simulated bench and behind real ports.
#include "app/live/live_card.h"
#include "app/live/live_instruments.h"
#include "app/live/live_ladder.h"
#include "app/live/live_plan.h"
#include "app/session/step_edits.h"
#include "app/widget/figure_card.h"
#include "core/method/place_name.h"
#include "simbench/receiver.h"
#include "simbench/sim_server.h"
#include "tests/app/receiver_window.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace receiver_live_test {

class ReceiverLiveTest : public QObject {
  Q_OBJECT

  /// With its button, to the end: nothing fails, and RF is off.
  static void measure_all(ReceiverWindow& w) {
    QSignalSpy failed(&w.sheet(), &Sheet::failed);
    w.sheet().primary()->click();
    LiveLadder& run = *w.window->live_ladder();
    QTRY_VERIFY_WITH_TIMEOUT(run.is_running(), 5000);
    QTRY_VERIFY_WITH_TIMEOUT(!run.is_running(), 120000);
    QVERIFY2(failed.isEmpty(), qPrintable(failed.isEmpty() ? "" : failed[0][0].toString()));
    QCOMPARE(w.window->live_instruments()->rf(), std::optional(RfState::confirmed_off));
  }

 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-receiver-live-test")); }

  /// Generator and voltmeter of the simulated bench, nobody at the dial.
  void a_receiver_is_heard_live_on_all_bands() {
    ReceiverWindow w;
    LiveInstruments& bench = *w.window->live_instruments();
    bench.use_simulation(true);
    bench.set_time_factor(400.0);
    for (const char* step : {"7.1 MHz", "14.2 MHz", "24.94 MHz"})
      StepEdits(w.window->session()).add_step(step);
    w.set("bandwidth_hz", 2400.0);
    TestEdits(w.window->session()).set_limit(Limit{"own", Sense::at_most, -113.0, "dBm", "", 20.0});
    w.window->session().settle();
    QTRY_COMPARE(w.sheet().primary()->text(), QString("Measure all steps"));
    QSignalSpy told(&w.sheet(), &Sheet::failed);
    w.sheet().primary()->click();
    LiveLadder& run = *w.window->live_ladder();
    QTRY_VERIFY_WITH_TIMEOUT(run.is_running(), 5000);
    QTRY_VERIFY_WITH_TIMEOUT(!run.is_running(), 120000);
    QVERIFY2(told.isEmpty(), qPrintable(told.isEmpty() ? "" : told.front().front().toString()));
    QCOMPARE(bench.rf(), std::optional(RfState::confirmed_off));
    const Result& r = w.shown().result;
    QCOMPARE(r.answers.size(), 3U);
    QCOMPARE(r.answers.front().where, std::string("24.94 MHz"));
    const sim::ReceiverDesign truth;
    for (const StepFigure& f : r.step_figures) {
      if (f.figure.id != "noise_figure") continue;
      const double hz = *named_frequency_hz(f.step);
      for (const auto& band : truth.bands)
        if (hz > band.low_hz && hz < band.high_hz)
          QVERIFY2(
              std::abs(f.figure.value - band.noise_figure_db) < 1.5 * f.figure.expanded() + 0.5,
              qPrintable(QString::number(f.figure.value)));
    }
    // Every reading is kept as it was read, and can be typed over.
    const Reading* on = find_reading(w.shown().evidence.steps[0].readings, "audio_on");
    QVERIFY(on != nullptr && on->source == ReadingSource::live);
    QCOMPARE(QString::fromStdString(on->typed).count(' '), 6);
    QVERIFY(on->typed.ends_with("mV"));
    // Nothing is left to do: the button signs.
    QCOMPARE(w.sheet().primary()->text(), QString("Sign off this test"));
    // The second figure makes room while something is measured, and comes back though that was
    // stopped.
    FigureCardView& linear = *w.sheet().figure_card();
    QVERIFY(linear.isVisible() && linear.text().contains("Linear check"));
    run.start(0);
    QTRY_VERIFY_WITH_TIMEOUT(run.is_running() && !linear.isVisible(), 5000);
    run.stop();
    QTRY_VERIFY_WITH_TIMEOUT(!run.is_running(), 20000);
    QVERIFY(linear.isVisible());
    w.window->session().undo_stack().undo();
    QCOMPARE(w.shown().result.answers.size(), 2U);
    QCOMPARE(w.sheet().primary()->text(), QString("Measure this step"));
  }

  /// Generator and power meter: both levels, behind the probe that the simulated one has, too.
  void conversion_gain_is_read_live_on_the_simulated_bench() {
    ReceiverWindow w("conversion");
    LiveInstruments& bench = *w.window->live_instruments();
    bench.use_simulation(true);
    bench.set_time_factor(400.0);
    for (const char* step : {"14.175 MHz", "24.94 MHz"})
      StepEdits(w.window->session()).add_step(step);
    w.set("probe", 10.0);
    // Ten times over what the meter's own noise is, at the lower level on the deafer band, too.
    w.set("level_dbm", -38.0);
    QTRY_COMPARE(w.sheet().primary()->text(), QString("Measure all steps"));
    QVERIFY(w.sheet().head()->consequence()->text().contains("at two levels each"));
    measure_all(w);
    if (QTest::currentTestFailed()) return;
    const Result& r = w.shown().result;
    QCOMPARE(r.answers.size(), 2U);
    QCOMPARE(r.answers.front().where, std::string("24.94 MHz"));
    const sim::ReceiverDesign truth;
    const std::vector<double> expected = {truth.if_gain_db - 8.0, truth.if_gain_db + 1.5};
    for (std::size_t i = 0; i < 2; ++i)
      QVERIFY2(
          std::abs(r.answers[i].figure.value - expected[i]) < 1.5 * r.answers[i].figure.expanded(),
          qPrintable(QString::number(r.answers[i].figure.value)));
    for (const char* code : {"not_repeated", "compressed", "expanded", "compression_unseen"})
      QVERIFY(std::none_of(r.remarks.begin(), r.remarks.end(),
                           [&](const Remark& remark) { return remark.code == code; }));
    QCOMPARE(w.sheet().primary()->text(), QString("Sign off this test"));
    w.window->session().undo_stack().undo();
    QCOMPARE(w.shown().result.answers.size(), 1U);
  }

  void an_indicator_is_read_on_the_simulated_bench() {
    ReceiverWindow w("indicator");
    LiveInstruments& bench = *w.window->live_instruments();
    bench.use_simulation(true);
    bench.set_time_factor(400.0);
    w.sheet().plan_steps();
    w.shown();
    QTRY_COMPARE(w.sheet().primary()->text(), QString("Measure all steps"));
    QVERIFY(w.sheet().head()->consequence()->text().contains("rising from below"));
    measure_all(w);
    if (QTest::currentTestFailed()) return;
    const Result& r = w.shown().result;
    QCOMPARE(r.tables.front().rows.size(), 7U);
    // Where the simulated one shows S9, at 14.2 MHz in the middle of its band.
    sim::Receiver truth{sim::ReceiverDesign{}};
    truth.tune(14.2e6 - 1000.0);
    const double s9 = r.answers.front().shown->value;
    QVERIFY2(std::abs(truth.indicated(sim::Receiver::Signal{14.2e6, s9}) - 9.0) < 0.2,
             qPrintable(QString::number(s9)));
    QCOMPARE(w.sheet().primary()->text(), QString("Sign off this test"));
  }

  /// Instruments behind real ports: the level is moved by keys, and by the buttons.
  void somebody_moves_the_level_until_it_shows_that() {
    sim::SimConfig config;
    config.receiver = sim::ReceiverDesign{};
    sim::SimServer server(config);
    ReceiverWindow w("indicator");
    LiveInstruments& bench = *w.window->live_instruments();
    bench.connect_to(Role::generator, "Generator",
                     QString::fromStdString(server.address("generator")));
    for (const char* step : {"14.2 MHz, S5", "14.2 MHz, S9, attenuator 20 dB"})
      StepEdits(w.window->session()).add_step(step);
    w.shown();
    QTRY_COMPARE_WITH_TIMEOUT(w.sheet().primary()->text(), QString("Measure all steps"), 10000);
    w.sheet().primary()->click();
    LiveLadder& run = *w.window->live_ladder();
    LiveCard& card = *w.sheet().live_card();
    const auto is_at = [&run](RunState::Kind kind) { return run.state().kind == kind; };
    QTRY_VERIFY_WITH_TIMEOUT(is_at(RunState::Kind::switching), 20000);
    QCOMPARE(card.words(), QString("RF is off. Dial to 14.199 MHz USB, or 14.201 MHz LSB"));
    card.pause_button()->click();
    QTRY_VERIFY_WITH_TIMEOUT(is_at(RunState::Kind::moving), 20000);
    // From a unit below S5 on: -73 - 24 - 6 dBm.
    QCOMPARE(run.state().level_dbm, -103.0);
    QVERIFY(card.words() == "Now \u2212103.0 dBm: move it until the receiver shows S5");
    QVERIFY(server.bench().is_keyed());
    QTest::keyClick(&card, Qt::Key_Up);
    QTRY_COMPARE_WITH_TIMEOUT(run.state().level_dbm, -102.0, 10000);
    QTest::keyClick(&card, Qt::Key_Down, Qt::ShiftModifier);
    QTRY_COMPARE_WITH_TIMEOUT(run.state().level_dbm, -102.1, 10000);
    QTest::keyClick(&card, Qt::Key_Return);
    QTRY_VERIFY_WITH_TIMEOUT(is_at(RunState::Kind::switching), 20000);
    QVERIFY(!server.bench().is_keyed());
    QCOMPARE(w.shown().evidence.steps[0].readings.front().value, -102.1);
    // The attenuator is another hand.
    QVERIFY(card.words().endsWith("; switch in 20 dB"));
    card.pause_button()->click();
    QTRY_VERIFY_WITH_TIMEOUT(is_at(RunState::Kind::moving), 20000);
    QCOMPARE(run.state().level_dbm, -59.0);
    card.stop_button()->click();
    QTRY_VERIFY_WITH_TIMEOUT(!run.is_running(), 20000);
    QVERIFY(!server.bench().is_keyed());
    QVERIFY(w.shown().evidence.steps[1].readings.empty());
  }

  void on_a_real_bench_somebody_is_asked_to_tune() {
    ReceiverWindow w;
    for (const char* step : {"14.2 MHz", "somewhere"})
      StepEdits(w.window->session()).add_step(step);
    w.shown();
    const LoadedTest& test = w.window->session().loaded();
    QVERIFY(roles_needed(test) == (std::vector<Role>{Role::generator, Role::voltmeter}));
    const LivePlan plan = live_plan(test, {0});
    QVERIFY2(plan.refusal.what.isEmpty(), qPrintable(plan.refusal.what));
    QCOMPARE(plan.run.steps.front().prompt,
             std::string("Dial to 14.199 MHz USB, or 14.201 MHz LSB"));
    // Where the dial moves by itself nobody is asked.
    QVERIFY(live_plan(test, {0}, false).run.steps.front().prompt.empty());
    // A place that nobody knows is not heard.
    QVERIFY(live_plan(test, {1}).refusal.what.contains("somewhere"));
    w.set("mode", "am");
    w.set("depth", 80.0);
    const LivePlan am = live_plan(w.window->session().loaded(), {0});
    QCOMPARE(am.run.steps.front().prompt, std::string("Dial to 14.2 MHz, AM"));
    QVERIFY(am.run.steps.front().listen->am == std::pair(80.0, 1000.0));
    w.set("mode", "fm");
    QVERIFY(live_plan(w.window->session().loaded(), {0}).refusal.what.contains("quiets the noise"));
  }
};

HERON_WINDOW_TEST(ReceiverLiveTest)

}  // namespace receiver_live_test

#include "receiver_live_test.moc"
