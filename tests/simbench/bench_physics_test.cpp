#include <QtTest>
#include <set>

#include "simbench/audio_source.h"
#include "tests/simbench/made_bench.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::sim;
using namespace heron::testing;

namespace bench_physics_test {

namespace {

double higher(const Truth& truth, double lower_hz, double upper_hz) {
  return std::max(truth.dbm(lower_hz), truth.dbm(upper_hz));
}

}  // namespace

class BenchPhysicsTest : public QObject {
  Q_OBJECT
 private slots:
  void the_level_control_holds_the_peak() {
    SimWorld bench(bench_config(1));
    tell(bench, "generator", "SOUR:FUNC:TONE 1000");
    tell(bench, "generator", "OUTP ON");
    double previous = 0.0;
    std::vector<double> rise;
    for (double level = -40.0; level <= -14.0; level += 1.0) {
      tell(bench, "generator", "SOUR:POW " + std::to_string(level));
      const double dbm = 30.0 + db_from_power_ratio(bench.device().pep_w());
      if (level > -40.0) rise.push_back(dbm - previous);
      previous = dbm;
    }
    QVERIFY(std::abs(rise.front() - 1.0) < 0.05);
    QVERIFY(std::abs(rise.back()) < 0.02);
    QVERIFY(std::abs(previous - 44.77) < 0.5);
  }

  void orders_take_turns_over_drive() {
    SimWorld bench(bench_config(1));
    tell(bench, "generator", "SOUR:FUNC:DUAL 650,1850");
    tell(bench, "generator", "OUTP ON");
    std::vector<int> strongest;
    for (double level = -38.0; level <= -22.0; level += 0.5) {
      tell(bench, "generator", "SOUR:POW " + std::to_string(level));
      const Truth truth(bench);
      const double third = higher(truth, -550.0, 3050.0);
      const double fifth = higher(truth, -1750.0, 4250.0);
      const double seventh = higher(truth, -2950.0, 5450.0);
      strongest.push_back(third >= std::max(fifth, seventh) ? 3 : fifth >= seventh ? 5 : 7);
      // Far below full power the third order follows its law.
      if (level < -35.0) QCOMPARE(strongest.back(), 3);
    }
    QVERIFY(strongest.front() == 3 && std::set<int>(strongest.begin(), strongest.end()).size() > 1);
  }

  void no_audio_no_power() {
    SimWorld bench(bench_config(1));
    QVERIFY(!bench.is_keyed());
    const Samples x = take(bench, kDial, 48000.0, 4800);
    double power = 0.0;
    for (const auto& v : x) power += static_cast<double>(std::norm(v)) / 4800.0;
    QVERIFY(db_from_power_ratio(power) < -65.0);
    QCOMPARE(*bench.speak("counter", "READ?"), std::string("9.91E37"));
    QCOMPARE(*bench.speak("device", "KEYED?"), std::string("0"));
    tell(bench, "generator", "OUTP ON");
    tell(bench, "supply", "OUTP OFF");
    QVERIFY(!bench.is_keyed());
  }

  void it_heats_and_loses_gain() {
    SimWorld bench(bench_config(1));
    tell(bench, "generator", "SOUR:FUNC:TONE 1000;SOUR:POW -30");
    tell(bench, "generator", "OUTP ON");
    const double cold = bench.device().pep_w();
    for (int i = 0; i < 30; ++i) take(bench, kDial, 8000.0, 160000);  // ten minutes
    QVERIFY(bench.device().temperature_c() > 25.0);
    QVERIFY(bench.device().pep_w() < cold);
    tell(bench, "generator", "OUTP OFF");
    const double warm = bench.device().temperature_c();
    for (int i = 0; i < 60; ++i) take(bench, kDial, 8000.0, 160000);
    QVERIFY(bench.device().temperature_c() < warm - 1.0);
  }

  void a_limited_supply_bends_the_signal() {
    const auto worst = [](const char* limit) {
      SimWorld bench(bench_config(1));
      tell(bench, "supply", std::string("SOUR:CURR ") + limit);
      tell(bench, "generator", "SOUR:FUNC:DUAL 650,1850;SOUR:POW -24");
      tell(bench, "generator", "OUTP ON");
      const Truth truth(bench);
      return std::max(truth.dbm(-550.0), truth.dbm(3050.0)) - truth.dbm(650.0);
    };
    QVERIFY(worst("5") > worst("10") + 3.0);
  }

  void an_amplifier_compresses_and_makes_harmonics() {
    const Amplifier amplifier;
    const double small = 10.0 * std::log10(amplifier.power_out_w(0.01, 14.2e6) / 0.01);
    QVERIFY(std::abs(small - amplifier.gain_db(14.2e6)) < 0.05);
    QVERIFY(amplifier.power_out_w(1e3, 14.2e6) <= amplifier.design().saturated_w);
    QVERIFY(amplifier.gain_db(50e6) < amplifier.gain_db(12e6) - 1.0);
    // 2 W in a block of one tone: the block and the closed form agree.
    Samples x(100, std::complex<float>(std::sqrt(2.0F), 0.0F));
    amplifier.apply(x, 14.2e6, 1);
    QVERIFY(std::abs(static_cast<double>(std::norm(x[7])) - amplifier.power_out_w(2.0, 14.2e6)) <
            1e-3);
  }

  /// A supply that stops takes output away, sags on the way there, and its meters are the
  /// amplifier's.
  void an_amplifier_is_held_by_its_supply() {
    AmplifierDesign design;
    const Amplifier free(design);
    design.supply_limit_a = 3.0;
    const Amplifier held(design);
    for (const double in : {0.01, 0.5, 2.0, 10.0, 100.0}) {
      const double out = held.power_out_w(in, 14.2e6);
      QVERIFY(held.current_a(out) <= 3.0 + 1e-9);
      QVERIFY(out <= free.power_out_w(in, 14.2e6) + 1e-9);
    }
    QVERIFY(std::abs(held.power_out_w(0.01, 14.2e6) / free.power_out_w(0.01, 14.2e6) - 1.0) < 0.01);
    QVERIFY(held.current_a(held.most_w()) > 2.99);
    SimWorld bench(bench_config(1));
    bench.set_amplifier(design);
    tell(bench, "generator", "SOUR:FUNC:TONE 1000;SOUR:POW -20");
    tell(bench, "generator", "OUTP ON");
    const double amperes = std::stod(*bench.speak("supply", "MEAS:CURR?"));
    const double volts = std::stod(*bench.speak("supply", "MEAS:VOLT?"));
    QVERIFY(amperes > 2.5 && amperes <= 3.0);
    QVERIFY(std::abs(volts - (design.supply_v - design.supply_ohm * amperes)) < 0.01);
  }

  // A taking starts its filters before time zero; the noise goes round there as it does later.
  void noise_goes_round_on_both_sides_of_time_zero() {
    constexpr double kTurnS = 262144.0 / 16000.0;
    std::mt19937_64 random(23);
    std::uniform_real_distribution<double> start(-3.0 * kTurnS, 3.0 * kTurnS);
    std::vector<double> starts{0.0, -1e-18, -1e-9, -kTurnS, kTurnS, -0.37, -5e-4};
    for (int i = 0; i < 40; ++i) starts.push_back(start(random));
    for (const auto kind : {AudioSignal::Kind::notched_noise, AudioSignal::Kind::speech_noise}) {
      AudioSignal signal;
      signal.kind = kind;
      for (const double s : starts) {
        Samples here(3000);
        Samples later(3000);
        analytic_audio(signal, {}, s, 48000.0, here);
        analytic_audio(signal, {}, s + 4.0 * kTurnS, 48000.0, later);
        double power = 0.0;
        double apart = 0.0;
        for (std::size_t i = 0; i < here.size(); ++i) {
          power += static_cast<double>(std::norm(here[i]));
          apart += static_cast<double>(std::norm(here[i] - later[i]));
        }
        QVERIFY2(power > 0.0 && std::isfinite(power), qPrintable(QString::number(s)));
        QVERIFY2(apart < 1e-4 * power, qPrintable(QString::number(s)));
      }
    }
  }

  void the_same_seed_gives_the_same_bench() {
    const SimWorld a(bench_config(5));
    const SimWorld b(bench_config(5));
    const SimWorld c(bench_config(6));
    QCOMPARE(a.truth().part_error_db.at("power pad"), b.truth().part_error_db.at("power pad"));
    QVERIFY(a.truth().sampler_error_db != c.truth().sampler_error_db);
  }
};

HERON_TEST(BenchPhysicsTest)

}  // namespace bench_physics_test

#include "bench_physics_test.moc"
