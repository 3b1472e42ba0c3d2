#include "simbench/oscillator.h"

#include <QtTest>
#include <cmath>

#include "core/method/frequency/stability.h"
#include "simbench/sim_world.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::sim;

namespace oscillator_test {

/// The simulated crystal oscillator: what it does is what the methods are tested by.
class OscillatorTest : public QObject {
  Q_OBJECT

  static OscillatorDesign quiet() {
    OscillatorDesign d;
    d.white_frequency = d.flicker_frequency = d.walk = 0.0;
    d.settled_ppm = 0.21;
    return d;
  }
  /// Overlapping Allan deviation over m counts of a second.
  static double scatter(const OscillatorDesign& design, std::size_t m) {
    Oscillator o(design, 5);
    std::vector<double> y;
    for (int i = 0; i < 20000; ++i) {
      y.push_back(o.counted_hz(1.0) / design.nominal_hz - 1.0);
      o.live(1.0);
    }
    return PhaseRecord::of_frequency(y, 1.0).at(Estimator::overlapping, m)->value;
  }

 private slots:
  void it_warms_up_and_settles() {
    OscillatorDesign d = quiet();
    d.per_kelvin_ppm = d.ageing_ppm_per_day = 0.0;
    Oscillator o(d);
    QVERIFY(std::abs(o.counted_hz(1.0) - 10e6 * (1.0 + 1.71e-6)) < 1e-3);
    o.live(516.0);
    QVERIFY(std::abs(o.quiet_ppm() - (0.21 + 1.5 / M_E)) < 1e-9);
    QVERIFY(o.temperature_c() > 25.0 && o.temperature_c() < 26.5);
    o.live(1e5);
    QVERIFY(std::abs(o.quiet_ppm() - 0.21) < 1e-6);
  }

  void each_kind_of_noise_has_its_slope() {
    OscillatorDesign steady = quiet();
    steady.warm_up_ppm = steady.per_kelvin_ppm = steady.ageing_ppm_per_day = 0.0;
    struct Kind {
      double OscillatorDesign::* noise;
      double share_at_16;  // of what it is at 1 s
      double room;
    };
    for (const Kind& kind : {Kind{&OscillatorDesign::white_phase, 1.0 / 16.0, 0.25},
                             Kind{&OscillatorDesign::white_frequency, 0.25, 0.1},
                             Kind{&OscillatorDesign::flicker_frequency, 1.0, 0.3},
                             Kind{&OscillatorDesign::walk, 4.0, 0.25}}) {
      OscillatorDesign d = steady;
      d.*kind.noise = 1e-9;
      const double one = scatter(d, 1);
      const double many = scatter(d, 16);
      QVERIFY2(std::abs(std::log(one / 1e-9)) < 0.35, qPrintable(QString::number(one)));
      QVERIFY2(std::abs(std::log(many / one / kind.share_at_16)) < kind.room,
               qPrintable(QString::number(many / one)));
    }
  }

  void lock_is_lost_and_caught_again_with_hysteresis() {
    Oscillator o(quiet());
    o.set_reference(3.0);
    QCOMPARE(o.lock(), Oscillator::Lock::held);
    QVERIFY(std::abs(o.counted_hz(1.0) - 10e6) < 1e-2);
    o.set_reference(-5.5);
    QCOMPARE(o.lock(), Oscillator::Lock::disturbed);
    o.set_reference(-6.1);
    QCOMPARE(o.lock(), Oscillator::Lock::free);
    o.set_reference(-5.0);  // not yet: 2 dB more are needed
    QCOMPARE(o.lock(), Oscillator::Lock::free);
    o.set_reference(-3.9);
    QCOMPARE(o.lock(), Oscillator::Lock::held);
    o.set_reference(std::nullopt);
    QCOMPARE(o.lock(), Oscillator::Lock::free);
  }

  void the_counter_and_the_thermometer_look_at_it() {
    SimConfig config;
    config.oscillator = quiet();
    config.counter_timebase_ppm = 0.0;
    SimWorld world(config);
    const double counted = std::stod(*world.speak("counter", "READ?"));
    QVERIFY2(std::abs(counted - 10e6 * (1.0 + 1.6e-6)) < 2.0,
             qPrintable(QString::number(counted, 'f', 3)));
    QVERIFY(std::abs(std::stod(*world.speak("thermometer", "READ?")) - 21.0) < 0.2);
    // Through the step attenuator a reference catches it.
    world.set_reference(3.0);
    world.speak("step_attenuator", "INP:ATT 0");
    QTRY_VERIFY(std::abs(std::stod(*world.speak("counter", "READ?")) - 10e6) < 0.5);
    // Taken away nothing is counted any more.
    world.set_oscillator(std::nullopt);
    QVERIFY(std::stod(*world.speak("counter", "READ?")) > 1e30);
  }
};

HERON_LOOP_TEST(OscillatorTest)

}  // namespace oscillator_test

#include "oscillator_test.moc"
