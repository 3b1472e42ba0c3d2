#include "core/method/live_quantity.h"
#include "core/quantity/levels.h"
#include "tests/instrument/run_stage.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace level_run_test {

/// An amplifier behind a transmitter, or behind a generator, driven step by step: levels are read,
/// nothing is recorded.
class LevelRunTest : public QObject {
  Q_OBJECT

  static sim::SimConfig amplifier_bench() {
    sim::SimConfig c = Stage::config(200.0);
    c.amplifier.emplace();
    c.amplifier->droop_db_per_k = 0.0;
    c.is_meter_at_end = true;
    return c;
  }
  static void plan_passes(Stage& stage, const std::vector<double>& drives_dbm) {
    stage.plan.steps.clear();
    stage.plan.stimulus.kind = RunStimulus::Kind::tone;
    stage.plan.stimulus.tones_hz.first = 1000.0;
    stage.plan.is_read_by_meter = true;
    stage.plan.most_output_dbm = 52.0;
    stage.plan.most_generator_dbm = -10.0;
    stage.plan.start_generator_dbm = -60.0;
    stage.has_supply = true;
    // Rated for what the amplifier gives.
    stage.plan.chain.parts[0].max_input_w = 200.0;
    for (const ReadingRole role : {ReadingRole::before, ReadingRole::at, ReadingRole::after}) {
      for (std::size_t i = 0; i < drives_dbm.size(); ++i) {
        RunStep s;
        s.setting = QString("%1 dBm").arg(drives_dbm[i]).toStdString();
        s.levels = RunLevels{role, role != ReadingRole::at, false};
        if (role == ReadingRole::before) s.output_pep_dbm = drives_dbm[i];
        if (role != ReadingRole::before) s.after_step = stage.plan.steps.size() - drives_dbm.size();
        if (role != ReadingRole::at) s.most_output_dbm = 40.0;
        stage.plan.steps.push_back(s);
      }
    }
  }
  static double true_gain_db(double drive_dbm) {
    const sim::Amplifier truth(*amplifier_bench().amplifier);
    const double in = to_watt(Dbm{drive_dbm}).value;
    return to_dbm(Watt{truth.power_out_w(in, 14.2e6)}).value - drive_dbm;
  }

 private slots:
  void one_meter_reads_drive_and_output() {
    Stage stage(amplifier_bench());
    plan_passes(stage, {20.0, 27.0, 34.0, 37.0});
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY2(stage.is_complete, stage.what.c_str());
    QVERIFY(!stage.server.bench().is_keyed());
    QVERIFY(!stage.was_keyed_at_switch);
    QCOMPARE(stage.switches, 3);  // out, in, and out again
    QVERIFY(stage.last.is_bypassed);
    QCOMPARE(stage.taken.size(), std::size_t{12});
    const sim::SimTruth hidden = stage.server.bench().truth();
    double error_db = hidden.power_meter_error_db;
    error_db += hidden.part_error_db.at(stage.plan.chain.parts[0].name);
    for (std::size_t i = 0; i < 4; ++i) {
      const TakenStep& before = stage.taken[i];
      const TakenStep& at = stage.taken[4 + i];
      const TakenStep& after = stage.taken[8 + i];
      QCOMPARE(at.index, 4 + i);
      // The same level of the generator all three times, found with the device out of the line.
      QCOMPARE(at.generator_dbm, before.generator_dbm);
      QCOMPARE(after.generator_dbm, before.generator_dbm);
      QVERIFY(std::abs(before.pep_dbm - *stage.plan.steps[i].output_pep_dbm) < 0.31);
      // What meter and pad are off by cancels; the transmitter droops a little meanwhile.
      const double drive = 0.5 * (before.pep_dbm + after.pep_dbm);
      QVERIFY2(std::abs(at.pep_dbm - drive - true_gain_db(drive - error_db)) < 0.08,
               qPrintable(QString("%1 against %2")
                              .arg(at.pep_dbm - drive)
                              .arg(true_gain_db(drive - error_db))));
      QCOMPARE(*at.shown_dbm, at.pep_dbm - 50.0);
      QCOMPARE(at.shown_by, std::string("power_meter"));
      QVERIFY(at.keyed_s > 0.0 && at.rested_s >= 0.0);
      QVERIFY(at.samples.empty() && !at.trace);
      for (const ReadingRole role : {ReadingRole::before, ReadingRole::at}) {
        const Reading* volts = find_reading(at.readings, kSupplyVoltage, role);
        const Reading* amperes = find_reading(at.readings, kSupplyCurrent, role);
        QVERIFY(volts != nullptr && amperes != nullptr);
        const sim::Amplifier truth(*amplifier_bench().amplifier);
        const double out = truth.power_out_w(to_watt(Dbm{drive - error_db}).value, 14.2e6);
        QVERIFY2(std::abs(amperes->value - truth.current_a(out)) < 0.05,
                 qPrintable(QString("%1 A against %2 A at %3 W")
                                .arg(amperes->value)
                                .arg(truth.current_a(out))
                                .arg(out)));
        QVERIFY(std::abs(volts->value - truth.voltage_v(out)) < 0.02);
      }
      // Of the bypassed device the supply says nothing about the step.
      QVERIFY(before.readings.empty() && after.readings.empty());
    }
  }

  void a_step_that_must_not_be_keyed_ends_the_series() {
    Stage stage(amplifier_bench());
    plan_passes(stage, {20.0, 27.0, 34.0});
    stage.objection = [](std::size_t index) {
      return index == 5 ? std::string("the supply would stop") : std::string();
    };
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY(stage.is_complete);
    std::vector<std::size_t> indices;
    for (const TakenStep& t : stage.taken) indices.push_back(t.index);
    // Its second bypass reading would bracket nothing.
    QCOMPARE(indices, (std::vector<std::size_t>{0, 1, 2, 3, 4, 6, 7}));
    QCOMPARE(QString::fromStdString(stage.last.what), QString("34 dBm: the supply would stop"));
  }

  void who_stops_instead_of_switching_keeps_what_was_read() {
    Stage stage(amplifier_bench());
    plan_passes(stage, {20.0, 27.0});
    stage.start();
    QTRY_COMPARE_WITH_TIMEOUT(stage.now(), RunState::Kind::switching, 20000);
    QVERIFY(stage.last.to_bypass);
    QVERIFY(stage.last.rf == RfState::confirmed_off);
    QCOMPARE(stage.count(), std::size_t{0});
    stage.server.bench().set_bypassed(true);
    stage.run.load()->resume();
    QTRY_VERIFY_WITH_TIMEOUT(stage.count() == 2 && stage.now() == RunState::Kind::switching, 20000);
    QVERIFY(!stage.last.to_bypass);
    // A step that is skipped here does not say that anybody has switched.
    stage.run.load()->skip();
    QTRY_VERIFY_WITH_TIMEOUT(stage.last.step == 3 && stage.now() == RunState::Kind::switching,
                             20000);
    QVERIFY(!stage.server.bench().is_keyed());
    stage.run_thread.request_stop();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over, 20000);
    QVERIFY(!stage.is_complete);
    QVERIFY(stage.last.is_bypassed);
    QCOMPARE(stage.count(), std::size_t{2});
  }

  void a_generator_drives_it_directly_and_a_sampler_reads() {
    Stage stage(amplifier_bench());
    const double driver_db = stage.server.bench().config().driver_db;
    stage.plan.steps.clear();
    stage.plan.stimulus.kind = RunStimulus::Kind::carrier;
    stage.plan.stimulus.carrier_hz = stage.plan.center_hz;
    stage.plan.chain.parts[0].max_input_w = 200.0;
    stage.plan.most_output_dbm = 52.0;
    stage.plan.most_generator_dbm = 0.0;
    stage.plan.harmonics = 3;
    stage.has_supply = true;
    RunStep idle;
    idle.setting = "no drive";
    idle.levels = RunLevels{ReadingRole::at, false, true};
    stage.plan.steps.push_back(idle);
    for (const double drive : {20.0, 30.0, 35.0}) {
      RunStep s;
      s.setting = "step";
      s.levels = RunLevels{};
      s.generator_dbm = drive - driver_db;
      stage.plan.steps.push_back(s);
    }
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY2(stage.is_complete, stage.what.c_str());
    QCOMPARE(stage.switches, 0);
    QCOMPARE(stage.taken.size(), std::size_t{4});
    // Quiescent, with RF off.
    QVERIFY(!stage.taken[0].shown_dbm);
    const sim::Amplifier truth(*amplifier_bench().amplifier);
    QVERIFY(std::abs(find_reading(stage.taken[0].readings, kSupplyCurrent)->value -
                     truth.current_a(0.0)) < 0.01);
    const double saturated = truth.design().saturated_w;
    for (std::size_t i = 1; i < 4; ++i) {
      const TakenStep& t = stage.taken[i];
      const double drive = t.generator_dbm + driver_db;
      const double out_w = truth.power_out_w(to_watt(Dbm{drive}).value, 14.2e6);
      // Pad and sampler are off by what they are; 3 standard uncertainties.
      QVERIFY(std::abs(t.pep_dbm - to_dbm(Watt{out_w}).value) < 3.0 * std::hypot(0.5, 0.2));
      QCOMPARE(t.shown_by, std::string("sampler"));
      QCOMPARE(t.harmonics_dbc.size(), std::size_t{2});
      for (int n = 2; n <= 3; ++n) {
        const double expected = truth.design().harmonic_dbc[static_cast<std::size_t>(n - 2)] +
                                (n - 1) * 10.0 * std::log10(out_w / saturated);
        // The analyser's own noise stands beside the weakest.
        if (expected > -70.0)
          QVERIFY2(std::abs(t.harmonics_dbc[static_cast<std::size_t>(n - 2)] - expected) < 0.6,
                   qPrintable(QString("step %1: %2 dBc against %3")
                                  .arg(i)
                                  .arg(t.harmonics_dbc[static_cast<std::size_t>(n - 2)])
                                  .arg(expected)));
      }
    }
  }

  void harmonics_need_no_analyser() {
    Stage stage(amplifier_bench());
    stage.has_analyser = false;
    stage.plan.steps.resize(1);
    stage.plan.stimulus.kind = RunStimulus::Kind::carrier;
    stage.plan.stimulus.carrier_hz = stage.plan.center_hz;
    stage.plan.chain.parts[0].max_input_w = 200.0;
    stage.plan.most_output_dbm = 52.0;
    stage.plan.most_generator_dbm = 0.0;
    stage.plan.harmonics = 2;
    stage.plan.steps[0].levels = RunLevels{};
    stage.plan.steps[0].output_pep_dbm.reset();
    stage.plan.steps[0].generator_dbm = 32.0 - stage.server.bench().config().driver_db;
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY2(stage.is_complete, stage.what.c_str());
    const sim::Amplifier truth(*amplifier_bench().amplifier);
    const double out_w = truth.power_out_w(to_watt(Dbm{32.0}).value, 14.2e6);
    const double expected =
        truth.design().harmonic_dbc[0] + 10.0 * std::log10(out_w / truth.design().saturated_w);
    QVERIFY2(std::abs(stage.taken[0].harmonics_dbc.at(0) - expected) < 0.5,
             qPrintable(QString::number(stage.taken[0].harmonics_dbc.at(0))));
  }

  /// The meter that everything hangs on pauses the run with RF off; the supply only goes along.
  void an_instrument_that_goes_away_data() {
    QTest::addColumn<QString>("which");
    QTest::addColumn<bool>("pauses");
    QTest::newRow("power meter") << "power_meter" << true;
    QTest::newRow("supply") << "supply" << false;
  }
  void an_instrument_that_goes_away() {
    QFETCH(QString, which);
    QFETCH(bool, pauses);
    Stage stage(amplifier_bench());
    plan_passes(stage, {20.0, 27.0, 34.0});
    stage.pulled_at_step = 4;
    stage.pulled_while_taking = which.toStdString();
    stage.start();
    while (!stage.is_over && !QTest::currentTestFailed()) {
      QTRY_VERIFY_WITH_TIMEOUT(stage.is_over || stage.is_waiting(), 20000);
      if (stage.is_over) break;
      QVERIFY(!stage.server.bench().is_keyed());
      if (stage.now() == RunState::Kind::switching)
        stage.server.bench().set_bypassed(stage.last.to_bypass);
      else
        stage.server.plug(which.toStdString());
      if (stage.now() == RunState::Kind::paused) ++stage.pauses_met;
      {
        const std::scoped_lock lock(stage.mutex);
        stage.kind = RunState::Kind::setting;
      }
      stage.run.load()->resume();
    }
    QVERIFY(stage.is_complete);
    QVERIFY(stage.was_pulled);
    QCOMPARE(stage.pauses_met > 0, pauses);
    QCOMPARE(stage.taken.size(), std::size_t{9});
    const TakenStep& at = stage.taken[4];
    QCOMPARE(at.index, std::size_t{4});
    QCOMPARE(at.cautions.empty(), pauses);
  }
};

HERON_LOOP_TEST(LevelRunTest)

}  // namespace level_run_test

#include "level_run_test.moc"
