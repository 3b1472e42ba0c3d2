#include <QElapsedTimer>

#include "core/method/live_quantity.h"
#include "core/method/spread/noise_ratio.h"
#include "core/method/two_tone/two_tone.h"
#include "core/signal/memory_capture.h"
#include "tests/instrument/run_stage.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace ladder_run_test {

class LadderRunTest : public QObject {
  Q_OBJECT
 private slots:
  void a_ladder_is_taken_step_by_step() {
    Stage stage;
    QElapsedTimer timer;
    timer.start();
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY(stage.is_complete);
    QVERIFY(!stage.server.bench().is_keyed());
    QCOMPARE(stage.taken.size(), stage.plan.steps.size());
    for (std::size_t i = 0; i < stage.taken.size(); ++i) {
      const TakenStep& t = stage.taken[i];
      QCOMPARE(t.index, i);
      QVERIFY(std::abs(t.pep_dbm - *stage.plan.steps[i].output_pep_dbm) < 0.31);
      QVERIFY(find_reading(t.readings, kPowerMeter) != nullptr);
      QCOMPARE(find_reading(t.readings, kGeneratorLevel)->value, t.generator_dbm);
      for (const Reading& r : t.readings) {
        QCOMPARE(r.source, ReadingSource::live);
        QVERIFY(!r.unit.empty() && r.at.size() == 20 && !r.instrument.empty());
      }
      const TwoToneAnalysis a = analyse_two_tone(memory_capture(t.samples, 48000.0, t.info));
      QCOMPARE(a.tones.size(), std::size_t{2});
      QVERIFY(!a.products.empty());
      // The whole record's PEP agrees with the level check.
      QVERIFY(std::abs(a.pep_dbfs + t.full_scale_dbm + 50.0 - t.pep_dbm) < 0.3);
    }
    // RF is off between the steps: it was switched off at least once a step.
    const auto lines = stage.server.heard("generator");
    QVERIFY(std::count(lines.begin(), lines.end(), "OUTP OFF") >= 4);
  }

  /// A counter needs one tone and a gate that is known: it counts as key-down.
  void a_counter_is_read_where_it_means_something_data() {
    QTest::addColumn<bool>("is_one_tone");
    QTest::addColumn<bool>("is_kept");
    QTest::newRow("one tone") << true << true;
    QTest::newRow("two tones") << false << true;
    QTest::newRow("a search, of which nothing is kept") << true << false;
  }
  void a_counter_is_read_where_it_means_something() {
    QFETCH(bool, is_one_tone);
    QFETCH(bool, is_kept);
    Stage stage;
    stage.plan.steps.resize(1);
    stage.plan.reads_along = is_kept;
    if (is_one_tone) {
      stage.plan.stimulus.kind = RunStimulus::Kind::tone;
      stage.plan.stimulus.tones_hz.first = 1000.0;
    }
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY2(stage.is_complete, stage.what.c_str());
    const std::vector<std::string> heard = stage.server.heard("counter");
    const auto said = [&](const char* line) {
      return std::find(heard.begin(), heard.end(), line) != heard.end();
    };
    const Reading* r = find_reading(stage.taken[0].readings, kCountedFrequency);
    QCOMPARE(r != nullptr, is_one_tone && is_kept);
    QCOMPARE(said("SENS:FREQ:APER 1"), is_one_tone && is_kept);
    QCOMPARE(said("READ?"), is_one_tone && is_kept);
    QCOMPARE(stage.taken[0].readings.empty(), !is_kept);
    // The reference of the simulated transmitter is 0.83 ppm low.
    if (r != nullptr)
      QVERIFY2(std::abs(r->value - (14.2e6 * (1.0 - 0.83e-6) + 1000.0)) < 2.5,
               qPrintable(QString::number(r->value, 'f', 1)));
  }

  void stop_pause_and_panic_switch_off_at_once_data() {
    QTest::addColumn<QString>("how");
    for (const char* how : {"stop", "pause", "panic"}) QTest::newRow(how) << how;
  }
  void stop_pause_and_panic_switch_off_at_once() {
    QFETCH(QString, how);
    // Slow enough to be caught in the act.
    Stage stage(1.0);
    stage.plan.settle_s = 5.0;
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.server.bench().is_keyed(), 10000);
    QElapsedTimer timer;
    timer.start();
    if (how == "stop") stage.run_thread.request_stop();
    if (how == "pause") stage.run.load()->pause();
    if (how == "panic") stage.run.load()->drop_rf();
    QTRY_VERIFY_WITH_TIMEOUT(!stage.server.bench().is_keyed(), 2000);
    QVERIFY2(timer.elapsed() < 500, qPrintable(QString::number(timer.elapsed())));
    if (how != "stop") {
      QTRY_COMPARE(stage.now(), RunState::Kind::paused);
      stage.run_thread.request_stop();
    }
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over, 10000);
    QVERIFY(!stage.is_complete);
    QCOMPARE(stage.now(), RunState::Kind::stopped);
  }

  void what_the_plan_forbids_is_not_done() {
    // More than the device gives: the knee is named, and the step can be left out.
    Stage stage;
    stage.plan.steps[1].output_pep_dbm = 46.5;
    stage.plan.most_output_dbm = 47.0;
    stage.plan.chain.parts[0].max_input_w = 60.0;
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.now() == RunState::Kind::paused, 20000);
    QVERIFY2(stage.what.find("stops rising") != std::string::npos, stage.what.c_str());
    stage.run.load()->skip();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over, 20000);
    QCOMPARE(stage.count(), std::size_t{3});
  }

  void an_unsafe_step_is_never_keyed() {
    Stage stage;
    stage.plan.chain.parts[0].time_constant_s.reset();
    stage.plan.chain.parts[0].max_input_w = 1.0;
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.now() == RunState::Kind::paused, 20000);
    QVERIFY2(stage.what.find("is not rated for") != std::string::npos, stage.what.c_str());
    const auto lines = stage.server.heard("generator");
    QVERIFY(std::find(lines.begin(), lines.end(), "OUTP ON") == lines.end());
    stage.run_thread.request_stop();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over, 10000);
  }

  void other_places_are_sampled_at_the_level_found_at_the_carrier() {
    Stage stage;
    stage.plan.stimulus.kind = RunStimulus::Kind::tone;
    stage.plan.stimulus.tones_hz.first = 1000.0;
    stage.plan.rate_hz = 250e3;
    stage.plan.frames = 1U << 16U;
    stage.plan.steps.clear();
    for (const int harmonic : {1, 2, 3}) {
      RunStep step;
      step.setting = std::to_string(harmonic);
      step.output_pep_dbm = 43.0;
      step.center_hz = 14.2e6 * harmonic + 31e3;
      stage.plan.steps.push_back(step);
    }
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY(stage.is_complete);
    QCOMPARE(stage.taken.size(), std::size_t{3});
    std::vector<double> strongest;
    for (const TakenStep& t : stage.taken) {
      QCOMPARE(*t.info.center_hz, *stage.plan.steps[t.index].center_hz);
      QVERIFY(std::abs(t.pep_dbm - 43.0) < 0.4);
      double power = 0.0;
      for (const auto& v : t.samples) power += std::norm(v) / static_cast<double>(t.samples.size());
      strongest.push_back(10.0 * std::log10(power));
    }
    // The carrier is there, harmonics are far below it.
    QVERIFY(strongest[0] > strongest[1] + 30.0);
    QVERIFY(strongest[0] > strongest[2] + 30.0);
  }

  void noise_is_set_by_its_peak_and_shows_its_notch() {
    Stage stage;
    stage.plan.stimulus.kind = RunStimulus::Kind::notched_noise;
    stage.plan.frames = 6 * 48000;
    stage.plan.most_output_dbm = 48.0;
    stage.plan.steps.erase(stage.plan.steps.begin() + 2, stage.plan.steps.end());
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY(stage.is_complete);
    QCOMPARE(stage.taken.size(), std::size_t{2});
    for (const TakenStep& t : stage.taken) {
      QVERIFY(std::abs(t.pep_dbm - *stage.plan.steps[t.index].output_pep_dbm) < 1.6);
      NoiseRatioSettings settings;
      settings.threads = 1;
      const NoiseRatioAnalysis a =
          analyse_notched_noise(memory_capture(t.samples, 48000.0, t.info), settings);
      QVERIFY(a.ratio_db && *a.ratio_db > 20.0);
    }
  }

  void steps_are_appended_while_it_runs() {
    Stage stage;
    stage.plan.frames = 4800;
    stage.plan.steps.clear();
    RunStep first;
    first.setting = "first";
    first.generator_dbm = -42.0;
    stage.plan.steps.push_back(first);
    stage.append_below_dbm = -33.0;
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY(stage.is_complete);
    QCOMPARE(stage.taken.size(), std::size_t{4});
    for (std::size_t i = 1; i < stage.taken.size(); ++i) {
      QCOMPARE(stage.taken[i].generator_dbm, -42.0 + 3.0 * static_cast<double>(i));
      QVERIFY(stage.taken[i].pep_dbm > stage.taken[i - 1].pep_dbm + 2.0);
    }
  }

  void a_generator_slow_to_obey_is_waited_for() {
    // What the sampler hears before the generator has obeyed says nothing about the level.
    Stage stage(2000.0);
    stage.server.set_slow("generator", 0.03);
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over || stage.now() == RunState::Kind::paused, 60000);
    QVERIFY2(stage.is_complete, stage.what.c_str());
    for (const TakenStep& t : stage.taken)
      QVERIFY(std::abs(t.pep_dbm - *stage.plan.steps[t.index].output_pep_dbm) < 0.31);
  }

  void an_output_that_does_not_come_to_rest_is_not_taken() {
    Stage stage;
    stage.plan.steps.clear();
    RunStep step;
    step.setting = "as it is";
    step.generator_dbm = -30.0;
    stage.plan.steps.push_back(step);
    stage.server.bench().set_loose_connector(3.0);
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over || stage.now() == RunState::Kind::paused, 30000);
    QVERIFY(!stage.is_over && !stage.server.bench().is_keyed());
    {
      const std::scoped_lock lock(stage.mutex);
      QVERIFY2(stage.what.find("still moves by 3.0 dB") != std::string::npos, stage.what.c_str());
      QVERIFY(stage.what.find("loose connector") != std::string::npos);
    }
    QCOMPARE(stage.count(), std::size_t{0});
    // Tightened, it is taken.
    stage.server.bench().set_loose_connector(0.0);
    stage.go_on_to_the_end();
    QVERIFY(stage.is_complete);
    QCOMPARE(stage.count(), std::size_t{1});
  }

  void a_sampler_set_otherwise_than_the_hook_up_says_so() {
    Stage stage;
    stage.plan.steps.resize(1);
    stage.plan.chain.parts[1].full_scale_dbm = -10.0;
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY(stage.is_complete);
    const TakenStep& t = stage.taken[0];
    QCOMPARE(t.full_scale_dbm, 0.0);
    QVERIFY(!t.cautions.empty());
    QVERIFY2(t.cautions[0].find("the instrument\u2019s value is used") != std::string::npos,
             t.cautions[0].c_str());
    // Levels follow what the sampler says.
    QVERIFY(std::abs(t.pep_dbm - *stage.plan.steps[0].output_pep_dbm) < 0.31);
  }

  void a_warm_pad_rests() {
    Stage stage(2000.0);
    // 12 s at 20 W PEP into a pad of 2.5 W: cool again only after a while.
    stage.plan.frames = 12 * 48000;
    stage.plan.chain.parts[0].max_input_w = 2.5;
    stage.plan.steps.erase(stage.plan.steps.begin());
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over || stage.now() == RunState::Kind::paused, 60000);
    QVERIFY2(stage.is_complete, stage.what.c_str());
    const std::scoped_lock lock(stage.mutex);
    QVERIFY(std::any_of(stage.states.begin(), stage.states.end(), [](const RunState& s) {
      return s.kind == RunState::Kind::resting && s.seconds_left > 1.0 &&
             s.rf == RfState::confirmed_off;
    }));
  }
};

HERON_LOOP_TEST(LadderRunTest)

}  // namespace ladder_run_test

#include "ladder_run_test.moc"
