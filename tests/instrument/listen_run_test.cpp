#include <cmath>

#include "core/method/measure/audio_ratio.h"
#include "core/quantity/levels.h"
#include "tests/instrument/run_stage.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace listen_run_test {

/// A receiver between a generator and a voltmeter, band by band.
class ListenRunTest : public QObject {
  Q_OBJECT

  static sim::SimConfig receiver_bench(sim::ReceiverDesign design = {}) {
    sim::SimConfig c;
    c.time_factor = 400.0;
    Part pad;
    pad.name = "pad";
    pad.kind = "attenuator";
    pad.gain = Gain(-20.0);
    c.chain.parts.push_back(pad);
    c.receiver = std::move(design);
    return c;
  }
  static void plan_bands(Stage& stage, const std::vector<double>& bands_hz) {
    stage.plan.steps.clear();
    stage.plan.chain = {};
    stage.plan.most_generator_dbm = -10.0;
    for (const double hz : bands_hz) {
      RunStep s;
      s.setting = QString("%1 MHz").arg(hz / 1e6).toStdString();
      s.listen = RunListen{hz, -93.0, -33.0};
      stage.plan.steps.push_back(s);
    }
    stage.tune = [&stage](std::size_t i, double moved_hz) {
      stage.was_keyed_at_switch = stage.was_keyed_at_switch || stage.server.bench().is_keyed();
      stage.server.bench().set_dial(stage.plan.steps[i].listen->frequency_hz - 1000.0 + moved_hz);
    };
  }
  /// Gain from the readings of a step at its IF, and how much less there is 10 dB lower.
  static std::pair<double, double> gain_of(const TakenStep& taken, double pad_db) {
    const double high = db_of_mean(taken.at_if->shown) - (taken.generator_dbm - pad_db);
    const double low = db_of_mean(taken.at_if->lower) - (taken.at_if->lower_generator_dbm - pad_db);
    return {high, low - high};
  }
  static double db_of_mean(const std::vector<double>& dbm) {
    double sum = 0.0;
    for (const double one : dbm) sum += power_ratio_from_db(one);
    return db_from_power_ratio(sum / static_cast<double>(dbm.size()));
  }
  static double rise_db(const HeardStep& heard) {
    return audio_level(heard.on, false).db - audio_level(heard.off, false).db;
  }

 private slots:
  /// By a power meter, and by an analyser at the IF: gain of the design within what instruments
  /// are off by; the second level shows compression where there is some.
  void the_level_at_its_if_is_read_at_two_levels() {
    for (const bool has_analyser : {false, true}) {
      sim::ReceiverDesign design;
      Stage stage(receiver_bench(design));
      plan_bands(stage, {14.175e6, 24.94e6});
      for (RunStep& s : stage.plan.steps) {
        s.listen->first_dbm = -30.0;
        s.listen->at_if = RunListen::AtIf{};
        if (has_analyser) s.listen->at_if->if_hz = design.if_hz;
      }
      stage.start();
      stage.go_on_to_the_end();
      QVERIFY2(stage.is_complete, stage.what.c_str());
      QVERIFY(!stage.server.bench().is_keyed());
      QCOMPARE(stage.taken.size(), std::size_t{2});
      const std::vector<double> expected = {design.if_gain_db + 1.5, design.if_gain_db - 8.0};
      for (std::size_t i = 0; i < 2; ++i) {
        const auto [gain, compression] = gain_of(stage.taken[i], 20.0);
        QVERIFY2(std::abs(gain - expected[i]) < 2.5, qPrintable(QString::number(gain)));
        QVERIFY2(std::abs(compression) < 0.5, qPrintable(QString::number(compression)));
      }
      QVERIFY(std::abs(gain_of(stage.taken[0], 20.0).first - gain_of(stage.taken[1], 20.0).first -
                       9.5) < 0.6);
    }
    sim::ReceiverDesign hard;
    hard.if_most_dbm = -13.0;
    Stage stage(receiver_bench(hard));
    plan_bands(stage, {14.175e6});
    RunListen& harder = *stage.plan.steps.front().listen;
    harder.first_dbm = -30.0;
    harder.most_dbm = -20.0;
    harder.at_if = RunListen::AtIf{};
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY2(stage.is_complete, stage.what.c_str());
    const sim::SimTruth truth = stage.server.bench().truth();
    const double there = -50.0 + truth.generator_error_db + truth.part_error_db.at("pad") +
                         hard.if_gain_db + 1.5 - hard.if_most_dbm;
    const auto lost_db = [](double db) {
      const double share = power_ratio_from_db(db);
      return db_from_power_ratio(std::tanh(share) / share);
    };
    const double expected = lost_db(there - 10.0) - lost_db(there);
    QVERIFY(expected > 0.3);
    const double compression = gain_of(stage.taken.front(), 20.0).second;
    QVERIFY2(std::abs(compression - expected) < 0.15,
             qPrintable(QString("%1 for %2, %3").arg(compression).arg(expected).arg(there)));
  }

  void each_band_is_heard_at_a_level_that_tells() {
    Stage stage(receiver_bench());
    plan_bands(stage, {3.65e6, 7.1e6, 14.2e6, 24.94e6});
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY2(stage.is_complete, stage.what.c_str());
    QVERIFY(!stage.server.bench().is_keyed());
    QVERIFY(!stage.was_keyed_at_switch);
    QCOMPARE(stage.pauses_met, 0);
    QCOMPARE(stage.taken.size(), std::size_t{4});
    const sim::SimTruth hidden = stage.server.bench().truth();
    for (const TakenStep& taken : stage.taken) {
      const HeardStep& heard = *taken.heard;
      QCOMPARE(heard.off.size(), std::size_t{6});
      QCOMPARE(heard.on.size(), std::size_t{6});
      QCOMPARE(heard.half.size(), std::size_t{6});
      QVERIFY(!heard.is_deaf);
      const double hz = stage.plan.steps[taken.index].listen->frequency_hz;
      sim::Receiver truth{sim::ReceiverDesign{}};
      truth.tune(hz - 1000.0);
      const auto at = truth.audio(
          sim::Receiver::Signal{hz, taken.generator_dbm - 20.0 + hidden.generator_error_db});
      const double true_rise = db_from_power_ratio(1.0 + std::pow(at.tone_v / at.noise_v, 2.0));
      QVERIFY2(true_rise > 6.0 && true_rise < 14.0, qPrintable(QString::number(true_rise)));
      // Six readings of each, with 0.16 dB of scatter.
      QVERIFY2(std::abs(rise_db(heard) - true_rise) < 0.6,
               qPrintable(QString("%1 against %2").arg(rise_db(heard)).arg(true_rise)));
      const double half = audio_level(heard.half, false).db - audio_level(heard.off, false).db;
      QVERIFY(std::abs(*sn_of_sn_n(rise_db(heard)) - *sn_of_sn_n(half) - 6.02) < 1.5);
    }
    // Nothing whistles there.
    for (const TakenStep& taken : stage.taken) {
      QCOMPARE(taken.heard->beside.size(), std::size_t{13});
      for (const auto& [moved_hz, volts] : taken.heard->beside) {
        const double over = 20.0 * std::log10(volts) - audio_level(taken.heard->off, false).db;
        QVERIFY(std::abs(over) < 1.2);
      }
    }
    // The weakest band needed the most.
    QVERIFY(stage.taken[3].generator_dbm > stage.taken[2].generator_dbm + 5.0);
  }

  void a_dead_band_is_told_and_the_run_goes_on() {
    sim::ReceiverDesign design;
    design.bands[4].is_dead = true;
    Stage stage(receiver_bench(design));
    plan_bands(stage, {14.2e6, 7.1e6});
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY2(stage.is_complete, stage.what.c_str());
    QVERIFY(stage.taken[0].heard->is_deaf);
    QVERIFY(stage.taken[0].heard->half.empty());
    QCOMPARE(stage.taken[0].generator_dbm, -33.0);
    QVERIFY(!stage.taken[1].heard->is_deaf);
  }

  void a_birdie_is_met_on_its_way() {
    Stage stage(receiver_bench());
    plan_bands(stage, {10.12e6});
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY2(stage.is_complete, stage.what.c_str());
    const HeardStep& heard = *stage.taken.front().heard;
    // At 10.1213 MHz: a pitch of 2300 Hz at the step, out of the filter at both ends of the scan.
    QVERIFY(audio_level(heard.off, false).db - 20.0 * std::log10(heard.beside.front().second) >
            6.0);
    QVERIFY(audio_level(heard.off, false).db - 20.0 * std::log10(heard.beside.back().second) > 6.0);
  }

  /// Where a station stands beside, no level helps: it pauses and says what may be wrong.
  void a_ratio_that_stays_is_told() {
    sim::ReceiverDesign design;
    design.agc_from_dbm = -140.0;  // regulates its own noise away
    Stage stage(receiver_bench(design));
    plan_bands(stage, {14.2e6});
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_waiting() || stage.is_over, 30000);
    QCOMPARE(stage.now(), RunState::Kind::paused);
    QVERIFY2(stage.what.find("AGC") != std::string::npos || stage.what.find("(S+N)/N") == 0,
             stage.what.c_str());
    QVERIFY(!stage.server.bench().is_keyed());
    stage.run_thread.request_stop();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over, 20000);
  }

  void somebody_is_asked_to_tune_with_rf_off() {
    Stage stage(receiver_bench());
    plan_bands(stage, {7.1e6, 14.2e6});
    stage.tune = nullptr;
    for (RunStep& s : stage.plan.steps) s.prompt = "Tune to " + s.setting;
    stage.start();
    for (const double hz : {7.1e6, 14.2e6}) {
      QTRY_VERIFY_WITH_TIMEOUT(stage.now() == RunState::Kind::switching, 30000);
      QVERIFY(stage.last.prompt.find("Tune to ") == 0);
      QVERIFY(!stage.server.bench().is_keyed());
      stage.server.bench().set_dial(hz - 1000.0);
      {
        const std::scoped_lock lock(stage.mutex);
        stage.kind = RunState::Kind::setting;
      }
      stage.run.load()->resume();
    }
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over, 30000);
    QVERIFY2(stage.is_complete, stage.what.c_str());
    QCOMPARE(stage.taken.size(), std::size_t{2});
  }

  /// The carrier stays, its modulation is switched, both at the level that tells.
  void in_am_the_modulation_is_switched() {
    sim::ReceiverDesign design;
    design.is_am = true;
    Stage stage(receiver_bench(design));
    plan_bands(stage, {7.1e6, 14.2e6});
    for (RunStep& s : stage.plan.steps) s.listen->am = std::pair(30.0, 1000.0);
    stage.tune = [&stage](std::size_t i, double moved_hz) {
      stage.server.bench().set_dial(stage.plan.steps[i].listen->frequency_hz + moved_hz);
    };
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY2(stage.is_complete, stage.what.c_str());
    QVERIFY(!stage.server.bench().is_keyed());
    QCOMPARE(stage.taken.size(), std::size_t{2});
    for (const TakenStep& taken : stage.taken) {
      sim::Receiver truth{design};
      const double hz = stage.plan.steps[taken.index].listen->frequency_hz;
      truth.tune(hz);
      const double dbm =
          taken.generator_dbm - 20.0 + stage.server.bench().truth().generator_error_db;
      const auto on = truth.audio(sim::Receiver::Signal{hz, dbm, 0.3, 1000.0});
      const auto off = truth.audio(sim::Receiver::Signal{hz, dbm, 0.0, 1000.0});
      QVERIFY(off.tone_v < 1e-3 * off.noise_v);
      // m squared times the carrier over twice the noise of one sideband.
      const double sn_db = dbm + 20.0 * std::log10(0.3) - truth.noise_dbm() - 3.0103;
      QVERIFY(std::abs(20.0 * std::log10(on.tone_v / on.noise_v) - sn_db) < 0.3);
      const double true_rise = db_from_power_ratio(1.0 + power_ratio_from_db(sn_db));
      QVERIFY2(std::abs(rise_db(*taken.heard) - true_rise) < 0.6,
               qPrintable(QString("%1 against %2").arg(rise_db(*taken.heard)).arg(true_rise)));
      QVERIFY(true_rise > 6.0 && true_rise < 14.0);
    }
  }

  static void plan_readings(Stage& stage, const std::vector<double>& units) {
    plan_bands(stage, std::vector<double>(units.size(), 14.2e6));
    for (std::size_t i = 0; i < units.size(); ++i) {
      RunListen& listen = *stage.plan.steps[i].listen;
      listen.shown = units[i];
      listen.shows = QString("S%1").arg(units[i]).toStdString();
    }
  }

  void an_indicator_is_brought_to_each_reading() {
    Stage stage(receiver_bench());
    plan_readings(stage, {3.0, 9.0, 12.0});
    stage.shown = [&stage] { return stage.server.bench().indicated(); };
    stage.start();
    stage.go_on_to_the_end();
    QVERIFY2(stage.is_complete, stage.what.c_str());
    QVERIFY(!stage.server.bench().is_keyed());
    QCOMPARE(stage.taken.size(), std::size_t{3});
    sim::Receiver truth{sim::ReceiverDesign{}};
    truth.tune(14.2e6 - 1000.0);
    for (const TakenStep& taken : stage.taken) {
      const double error_db = stage.server.bench().truth().generator_error_db;
      const double shown =
          truth.indicated(sim::Receiver::Signal{14.2e6, taken.generator_dbm - 20.0 + error_db});
      QVERIFY2(std::abs(shown - stage.plan.steps[taken.index].listen->shown) < 0.03,
               qPrintable(QString::number(shown)));
      QVERIFY(taken.heard->off.empty());
    }
  }

  /// More than is allowed would be needed: it says so, RF off.
  void a_reading_that_is_out_of_reach_pauses() {
    Stage stage(receiver_bench());
    plan_readings(stage, {20.0});
    stage.shown = [&stage] { return stage.server.bench().indicated(); };
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_waiting() || stage.is_over, 30000);
    QCOMPARE(stage.now(), RunState::Kind::paused);
    QVERIFY2(stage.what.find("does not show S20 at \u221233.0 dBm") != std::string::npos,
             stage.what.c_str());
    QVERIFY(!stage.server.bench().is_keyed());
    stage.run_thread.request_stop();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over, 20000);
  }

  void somebody_moves_the_level_and_says_when_it_is_there() {
    Stage stage(receiver_bench());
    plan_readings(stage, {5.0, 9.0});
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.now() == RunState::Kind::moving, 30000);
    const auto level = [&stage] {
      const std::scoped_lock lock(stage.mutex);
      return stage.last.kind == RunState::Kind::moving ? stage.last.level_dbm : 99.0;
    };
    QCOMPARE(level(), -93.0);
    QVERIFY(stage.server.bench().is_keyed());
    stage.run.load()->move_level(0, 3.0);
    QTRY_COMPARE_WITH_TIMEOUT(level(), -90.0, 20000);
    stage.run.load()->move_level(0, -0.5);
    QTRY_COMPARE_WITH_TIMEOUT(level(), -90.5, 20000);
    // Never more than is allowed.
    stage.run.load()->move_level(0, 500.0);
    QTRY_COMPARE_WITH_TIMEOUT(level(), -33.0, 20000);
    stage.run.load()->take_level(0);
    QTRY_COMPARE_WITH_TIMEOUT(stage.count(), std::size_t{1}, 20000);
    QCOMPARE(stage.taken.front().generator_dbm, -33.0);
    // RF goes off at once in the middle of it, and the reading begins anew.
    QTRY_VERIFY_WITH_TIMEOUT(level() < 90.0 && stage.last.step == 1, 20000);
    // Return pressed once too often takes no second one, nor does it move.
    stage.run.load()->take_level(0);
    stage.run.load()->move_level(0, 5.0);
    QTest::qWait(300);
    QCOMPARE(stage.count(), std::size_t{1});
    QCOMPARE(level(), -93.0);
    stage.run.load()->drop_rf();
    QTRY_COMPARE_WITH_TIMEOUT(stage.now(), RunState::Kind::paused, 20000);
    QVERIFY(!stage.server.bench().is_keyed());
    stage.run.load()->resume();
    QTRY_VERIFY_WITH_TIMEOUT(level() < 90.0, 20000);
    stage.run_thread.request_stop();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over, 20000);
    QVERIFY(!stage.server.bench().is_keyed());
    QCOMPARE(stage.count(), std::size_t{1});
  }

  void a_voltmeter_that_fails_switches_rf_off() {
    Stage stage(receiver_bench());
    plan_bands(stage, {7.1e6, 14.2e6});
    stage.pulled_while_taking = "voltmeter";
    stage.pulled_at_step = 1;
    stage.start();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_waiting() || stage.is_over, 30000);
    QCOMPARE(stage.now(), RunState::Kind::paused);
    QCOMPARE(stage.instrument, std::string("voltmeter"));
    QVERIFY(!stage.server.bench().is_keyed());
    QCOMPARE(stage.count(), std::size_t{1});  // what was heard is kept
    stage.run_thread.request_stop();
    QTRY_VERIFY_WITH_TIMEOUT(stage.is_over, 20000);
    QVERIFY(!stage.server.bench().is_keyed());
  }
};

HERON_LOOP_TEST(ListenRunTest)

}  // namespace listen_run_test

#include "listen_run_test.moc"
