#include "core/method/live_quantity.h"
#include "tests/instrument/run_stage.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace ladder_faults_test {

/// A ladder under way while its instruments fail: nothing that was taken is lost, RF is off, it is
/// said which one, and it goes on.
class LadderFaultsTest : public QObject {
  Q_OBJECT
 private slots:
  void every_fault_pauses_with_rf_off_and_goes_on_data() {
    QTest::addColumn<QString>("instrument");
    QTest::addColumn<int>("fault");
    QTest::addColumn<int>("after");
    for (const char* instrument : {"sampler", "generator"}) {
      for (const auto& [name, fault] : all_faults()) {
        // In the middle of the ladder.
        QTest::newRow(qPrintable(QString("%1 %2").arg(instrument, name)))
            << instrument << int(fault) << (QString(instrument) == "sampler" ? 14 : 9);
      }
    }
  }
  void every_fault_pauses_with_rf_off_and_goes_on() {
    QFETCH(QString, instrument);
    QFETCH(int, fault);
    QFETCH(int, after);
    Stage stage;
    stage.server.set_fault(instrument.toStdString(), static_cast<Fault>(fault), after, 1);
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over || stage.now() == RunState::Kind::paused, 60000);
    std::size_t before = stage.count();
    if (!stage.is_over) {
      QVERIFY(!stage.server.bench().is_keyed());
      QVERIFY2(QString::fromStdString(stage.instrument) == instrument, stage.what.c_str());
      QVERIFY(!stage.what.empty());
      QVERIFY(before < stage.plan.steps.size());
    } else {
      // Only an answer that nobody waited for may go wrong without a word: switching off is tried
      // twice.
      QCOMPARE(instrument, QString("generator"));
    }
    stage.go_on_to_the_end();
    QVERIFY(stage.is_complete);
    QVERIFY(!stage.server.bench().is_keyed());
    QCOMPARE(stage.taken.size(), stage.plan.steps.size());
    for (std::size_t i = 0; i < stage.taken.size(); ++i) QCOMPARE(stage.taken[i].index, i);
  }

  /// In the middle of the second sweep, and in what is asked after it.
  void every_fault_in_a_sweep_pauses_with_rf_off_and_goes_on_data() {
    QTest::addColumn<int>("fault");
    QTest::addColumn<int>("after");
    QTest::addColumn<QString>("query");
    for (const auto& [name, fault] : all_faults()) {
      // Who it is; and of each sweep whether it is set, without error, the trace, over range.
      for (const auto& [after, query] :
           {std::pair{5, "*OPC?"}, {7, "READ:TRAC?"}, {8, "STAT:OVER?"}})
        QTest::newRow(qPrintable(QString("%1 for %2").arg(name, query)))
            << int(fault) << after << QString(query);
    }
  }
  void every_fault_in_a_sweep_pauses_with_rf_off_and_goes_on() {
    QFETCH(int, fault);
    QFETCH(int, after);
    QFETCH(QString, query);
    Stage stage;
    stage.plan.stimulus.kind = RunStimulus::Kind::tone;
    stage.plan.stimulus.tones_hz.first = 1000.0;
    stage.plan.steps.clear();
    for (const int harmonic : {1, 2, 3}) {
      RunStep step;
      step.setting = std::to_string(harmonic);
      step.output_pep_dbm = 40.0;
      step.sweep = RunSweep{14.2e6 * harmonic - 50e3, 14.2e6 * harmonic + 50e3, 1e3, 501};
      stage.plan.steps.push_back(step);
    }
    stage.server.set_fault("spectrum_analyser", static_cast<Fault>(fault), after, 1);
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over || stage.now() == RunState::Kind::paused, 60000);
    QVERIFY2(!stage.is_over, "it did not notice");
    QCOMPARE(QString::fromStdString(stage.server.heard("spectrum_analyser").back()), query);
    QVERIFY(!stage.server.bench().is_keyed());
    QCOMPARE(stage.instrument, std::string("spectrum_analyser"));
    QVERIFY2(stage.what.size() > 20, stage.what.c_str());
    // What was taken before is kept, the faulty sweep is not.
    QCOMPARE(stage.count(), std::size_t{1});
    stage.go_on_to_the_end();
    QVERIFY(stage.is_complete);
    QVERIFY(!stage.server.bench().is_keyed());
    QCOMPARE(stage.taken.size(), std::size_t{3});
    double carrier = 0.0;
    for (std::size_t i = 0; i < 3; ++i) {
      const TakenStep& t = stage.taken[i];
      QCOMPARE(t.index, i);
      QVERIFY(t.trace.has_value() && t.samples.empty());
      QCOMPARE(t.trace->level_dbm.size(), std::size_t{501});
      const double most = *std::max_element(t.trace->level_dbm.begin(), t.trace->level_dbm.end());
      if (i == 0) carrier = most;
      // 10 W behind 50 dB, and harmonics far below it.
      QVERIFY(i == 0 ? std::abs(most + 10.0) < 2.5 : most < carrier - 35.0);
    }
  }

  void a_slow_sweep_is_waited_for() {
    Stage stage;
    stage.plan.stimulus.kind = RunStimulus::Kind::tone;
    stage.plan.steps.resize(1);
    stage.plan.watchdog_s = 1.0;
    // 100 kHz at 10 Hz: more than an hour of sweeping, some 20 s of this bench's fast time.
    stage.plan.steps[0].sweep = RunSweep{14.15e6, 14.25e6, 10.0, 501};
    // The third question of the sweep is the trace; its answer comes after the usual time-out.
    stage.server.set_fault("spectrum_analyser", Fault::late, 3, 1);
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over || stage.now() == RunState::Kind::paused, 60000);
    QVERIFY2(stage.is_complete, stage.what.c_str());
    QVERIFY(!stage.server.bench().is_keyed());
    QVERIFY(stage.taken[0].trace.has_value());
  }

  void a_pulled_sampler_waits_until_it_is_back() {
    Stage stage;
    stage.pulled_while_taking = "sampler";
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.now() == RunState::Kind::paused, 20000);
    QVERIFY(!stage.server.bench().is_keyed());
    const std::size_t kept = stage.count();
    QVERIFY(kept >= 1);
    // Going on without it only pauses again.
    stage.run.load()->resume();
    QTest::qWait(300);
    QTRY_VERIFY_WITH_TIMEOUT(stage.now() == RunState::Kind::paused, 20000);
    QCOMPARE(stage.count(), kept);
    stage.server.plug("sampler");
    stage.go_on_to_the_end();
    QVERIFY(stage.is_complete);
    QCOMPARE(stage.count(), stage.plan.steps.size());
  }

  void a_pulled_generator_is_said_to_be_possibly_on() {
    Stage stage;
    stage.pulled_while_taking = "generator";
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.now() == RunState::Kind::paused, 20000);
    {
      const std::scoped_lock lock(stage.mutex);
      QCOMPARE(stage.states.back().unconfirmed, std::vector<std::string>{"generator"});
    }
    // Going on is refused as long as nobody knows whether it is off.
    stage.run.load()->resume();
    QTest::qWait(300);
    QTRY_VERIFY_WITH_TIMEOUT(stage.now() == RunState::Kind::paused, 20000);
    QVERIFY(stage.count() < stage.plan.steps.size());
    stage.server.plug("generator");
    stage.go_on_to_the_end(true);
    QVERIFY(!stage.server.bench().is_keyed());
    QCOMPARE(stage.count(), stage.plan.steps.size());
  }

  void what_only_goes_along_is_left_out_once_it_fails() {
    Stage stage;
    stage.plan.watchdog_s = 3.5;  // less than its time-out and the rest together
    stage.server.set_fault("power_meter", Fault::silent, 2, 50);
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY(stage.is_complete);
    QVERIFY(!stage.server.bench().is_keyed());
    QCOMPARE(stage.taken.size(), stage.plan.steps.size());
    QVERIFY(find_reading(stage.taken[0].readings, kPowerMeter) != nullptr);
    QVERIFY(find_reading(stage.taken.back().readings, kPowerMeter) == nullptr);
    int told = 0;
    for (const TakenStep& t : stage.taken) {
      QVERIFY(!t.samples.empty());
      for (const std::string& c : t.cautions) told += c.find("without it") != std::string::npos;
    }
    QCOMPARE(told, 1);
  }

  void a_pad_that_gets_too_hot_while_it_is_looked_at_ends_the_step() {
    // 20 W PEP of two tones are 10 W: 2.8 s for a pad of 5 W, less than a slow sampler takes.
    Stage stage(1.0);
    stage.plan.chain.parts[0].max_input_w = 5.0;
    stage.plan.chain.parts[0].time_constant_s = 4.0;
    stage.plan.settle_s = 0.02;
    stage.plan.frames = 4800;
    stage.plan.steps.erase(stage.plan.steps.begin(), stage.plan.steps.begin() + 3);
    stage.server.set_slow("sampler", 0.6);
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over || stage.now() == RunState::Kind::paused, 30000);
    QVERIFY(!stage.is_over && !stage.server.bench().is_keyed());
    {
      const std::scoped_lock lock(stage.mutex);
      QVERIFY2(stage.what.find("power pad") != std::string::npos, stage.what.c_str());
    }
    // A sampler that is quick again lets it be taken, after a rest.
    stage.server.set_slow("sampler", 0.0);
    stage.go_on_to_the_end();
    QVERIFY(stage.is_complete);
    QCOMPARE(stage.count(), std::size_t{1});
  }
};

HERON_LOOP_TEST(LadderFaultsTest)

}  // namespace ladder_faults_test

#include "ladder_faults_test.moc"
