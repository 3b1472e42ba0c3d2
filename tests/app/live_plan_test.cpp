#include "app/live/live_plan.h"

#include "core/method/purity/purity_settings.h"
#include "core/method/spread/spread_settings.h"
#include "store/hookup.h"
#include "store/taking.h"
#include "tests/app/live_window.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace live_plan_test {

namespace {

/// A shack with one test of a kind, on a hook-up, with a planned drive of 20 W at 14.2 MHz.
struct PlannedShack : MadeShack {
  Id id = 0;
  explicit PlannedShack(const char* characteristic, const QStringList& steps = {}) {
    Test t;
    t.evaluation_id = evaluation_id;
    t.characteristic = characteristic;
    t.title = "To be taken";
    t.hookup_id = add_hookup(*shack, "A", live_chain());
    t.drive = Drive{to_dbm(Watt{20.0}).value, true, 14.2e6, 10.0};
    id = add_test(*shack, t);
    for (const QString& label : steps) add_step(*shack, id, label.toStdString());
  }
  LoadedTest loaded() const { return load_test(*shack, id); }
  void set(const nlohmann::json& settings) { set_test_settings(*shack, id, settings); }
  LivePlan plan() const {
    const LoadedTest test = loaded();
    return live_plan(test, live_due(test));
  }
};

double watt(double dbm) {
  return to_watt(Dbm{dbm}).value;
}

}  // namespace

/// What would be asked of the instruments, without any.
class LivePlanTest : public QObject {
  Q_OBJECT
 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-plan-test")); }

  void a_ladder_goes_from_little_to_much_and_never_beyond() {
    PlannedShack made("two_tone", {"20 W", "2 W", "10 W"});
    const LivePlan plan = made.plan();
    QVERIFY(plan.refusal.what.isEmpty());
    QCOMPARE(plan.run.steps.size(), std::size_t{3});
    QCOMPARE(plan.labels, (std::vector<QString>{"2 W", "10 W", "20 W"}));
    for (std::size_t i = 1; i < 3; ++i)
      QVERIFY(*plan.run.steps[i].output_pep_dbm > *plan.run.steps[i - 1].output_pep_dbm);
    QCOMPARE(plan.run.stimulus.kind, RunStimulus::Kind::two_tone);
    QCOMPARE(plan.run.center_hz, 14.2e6);
    QVERIFY(watt(plan.run.most_output_dbm) > 20.0 && watt(plan.run.most_output_dbm) < 23.0);
    QCOMPARE(plan.run.most_generator_dbm, -15.0);
    // A step above the plan raises what may come out, and only that far.
    add_step(*made.shack, made.id, "25 W");
    QVERIFY(watt(made.plan().run.most_output_dbm) > 25.0);
    QVERIFY(watt(made.plan().run.most_output_dbm) < 29.0);
  }

  void a_power_ceiling_holds_for_live_runs_too() {
    PlannedShack made("two_tone", {"2 W", "10 W"});
    auto settings = test(*made.shack, made.id).settings;
    settings["ladder"] = {{"ceiling_dbm", to_dbm(Watt{12.0}).value}, {"ceiling_typed", "12 W"}};
    made.set(settings);
    QVERIFY(watt(made.plan().run.most_output_dbm) < 14.0);
  }

  void without_a_hookup_or_a_drive_there_is_no_plan() {
    PlannedShack made("two_tone", {"2 W"});
    QVERIFY(made.plan().refusal.what.isEmpty());
    const LoadedTest other = load_test(*made.shack, made.test_id);
    QVERIFY(!live_plan(other, {0}).refusal.what.isEmpty());
    QVERIFY(!live_plan(other, {0}).refusal.what_to_do.isEmpty());
    QVERIFY(!live_plan(LoadedTest(), {}).refusal.what.isEmpty());
    QVERIFY(live_due(LoadedTest()).empty());
  }

  void full_output_may_be_a_decibel_above_the_plan_and_is_looked_at_shortly() {
    PlannedShack made("two_tone", {"2 W"});
    const RunPlan run = full_output_plan(made.loaded());
    QCOMPARE(run.steps.size(), std::size_t{1});
    QVERIFY(run.steps[0].generator_dbm.has_value() && !run.steps[0].output_pep_dbm);
    QCOMPARE(run.stimulus.kind, RunStimulus::Kind::tone);
    QVERIFY(std::abs(run.most_output_dbm - to_dbm(Watt{20.0}).value - 1.0) < 1e-9);
    QVERIFY(static_cast<double>(run.frames) / run.rate_hz < 0.5);
    // At another rate as long as before.
    TakingSettings taking;
    taking.rate_hz = 192e3;
    made.set(with_taking_settings(test(*made.shack, made.id).settings, taking));
    const RunPlan faster = full_output_plan(made.loaded());
    QVERIFY(std::abs(static_cast<double>(faster.frames) / faster.rate_hz -
                     static_cast<double>(run.frames) / run.rate_hz) < 1e-3);
  }

  void harmonics_are_taken_beside_their_places_and_sweeps_over_their_range() {
    PlannedShack made("purity", {"14.2 MHz", "28.4 MHz"});
    QVERIFY2(!made.plan().refusal.what.isEmpty(), "a carrier on the dial is no tone");
    PurityTestSettings settings;
    settings.carrier_hz = 14.201e6;
    made.set(with_purity_settings(nlohmann::json::object(), settings));
    add_step(*made.shack, made.id, "Everything", std::pair{1.4e6, 78.1e6});
    add_step(*made.shack, made.id, "Nearly nothing", std::pair{14.0e6, 14.4e6});
    const LivePlan plan = made.plan();
    QVERIFY2(plan.refusal.what.isEmpty(), qPrintable(plan.refusal.what));
    QCOMPARE(plan.run.stimulus.kind, RunStimulus::Kind::tone);
    QCOMPARE(plan.run.stimulus.tones_hz.first, 1000.0);
    // Not on the line itself: the sampler's own centre stands there.
    for (std::size_t i = 0; i < 2; ++i) {
      const double place = 14.2e6 * static_cast<double>(i + 1);
      const double center = *plan.run.steps[i].center_hz;
      QVERIFY(std::abs(center - place) > 10e3 && std::abs(center - place) < 100e3);
    }
    QCOMPARE(plan.run.steps[2].sweep->from_hz, 1.4e6);
    QCOMPARE(plan.run.steps[2].sweep->to_hz, 78.1e6);
    for (std::size_t i = 2; i < 4; ++i) {
      const RunSweep& sweep = *plan.run.steps[i].sweep;
      const double spacing = (sweep.to_hz - sweep.from_hz) / static_cast<double>(sweep.points - 1);
      QVERIFY(spacing <= sweep.rbw_hz / 1.9);
      // A swept filter needs its time, and the pad has to stand it.
      QVERIFY(sweep.length_s() > 1.0 && sweep.length_s() < 60.0);
    }
    for (const RunStep& step : plan.run.steps)
      QCOMPARE(*step.output_pep_dbm, to_dbm(Watt{20.0}).value);
    for (const double carrier : {14.20005e6, 14.3e6}) {
      settings.carrier_hz = carrier;
      made.set(with_purity_settings(nlohmann::json::object(), settings));
      QVERIFY(!made.plan().refusal.what.isEmpty());
    }
  }

  void noise_over_drive_is_taken_in_one_go_and_over_settings_one_at_a_time() {
    PlannedShack drive("noise", {"5 W", "20 W"});
    const LivePlan plan = drive.plan();
    QCOMPARE(plan.run.steps.size(), std::size_t{2});
    QCOMPARE(plan.run.stimulus.kind, RunStimulus::Kind::notched_noise);
    QVERIFY(std::abs(watt(*plan.run.steps[0].output_pep_dbm) - 5.0) < 1e-6);
    PlannedShack settings("bandwidth", {"2.4 kHz", "2.4 kHz, compressed", "1.8 kHz"});
    QCOMPARE(live_due(settings.loaded()).size(), std::size_t{1});
    QCOMPARE(live_due(settings.loaded(), 2), std::vector<int>{2});
    const LivePlan one = settings.plan();
    QCOMPARE(one.labels, std::vector<QString>{"2.4 kHz"});
    // All settings at the planned drive.
    QVERIFY(std::abs(watt(*one.run.steps[0].output_pep_dbm) - 20.0) < 1e-6);
  }

  void a_recording_of_ones_own_is_played_by_hand() {
    PlannedShack made("noise", {"20 W"});
    SpreadSettings s;
    s.stimulus = SpreadStimulus::speech_noise;
    s.band_hz = {200.0, 3100.0};
    made.set(with_spread_settings(nlohmann::json::object(), s));
    QCOMPARE(made.plan().run.stimulus.kind, RunStimulus::Kind::speech_noise);
    QVERIFY(made.plan().run.stimulus.band_hz == s.band_hz);
    s.stimulus = SpreadStimulus::own_recording;
    made.set(with_spread_settings(nlohmann::json::object(), s));
    QVERIFY(made.plan().refusal.what.contains("own recording"));
    QVERIFY(made.plan().refusal.what_to_do.contains("Play it yourself"));
  }

  void wishes_hold_for_every_kind_data() {
    QTest::addColumn<QString>("kind");
    QTest::addColumn<double>("usual_s");
    QTest::newRow("two-tone") << "two_tone" << 4.0;
    QTest::newRow("purity") << "purity" << 1.05;
    QTest::newRow("noise") << "noise" << 8.0;
    QTest::newRow("bandwidth") << "bandwidth" << 8.0;
  }
  void wishes_hold_for_every_kind() {
    QFETCH(QString, kind);
    QFETCH(double, usual_s);
    PlannedShack made(kind.toUtf8().constData(), {"20 W"});
    QCOMPARE(taking_now(made.loaded()).length_s, usual_s);
    TakingSettings taking;
    taking.length_s = 2.5;
    taking.settle_s = 0.25;
    taking.most_drive_dbm = -21.0;
    made.set(with_taking_settings(test(*made.shack, made.id).settings, taking));
    const TakingNow now = taking_now(made.loaded());
    QCOMPARE(now.length_s, 2.5);
    const RunPlan run = live_plan(made.loaded(), {}).run;
    QCOMPARE(run.settle_s, 0.25);
    QCOMPARE(run.most_generator_dbm, -21.0);
    QVERIFY(std::abs(static_cast<double>(run.frames) / run.rate_hz - 2.5) < 1e-3);
    QCOMPARE(run.rate_hz, now.rate_hz);
  }
};

HERON_WINDOW_TEST(LivePlanTest)

}  // namespace live_plan_test

#include "live_plan_test.moc"
