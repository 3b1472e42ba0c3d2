#include <QtTest>

#include "core/method/two_tone/two_tone.h"
#include "core/quantity/levels.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace two_tone_coverage_test {

/// Monte Carlo: value +- U covers the truth 92 to 98 % of the times, and a bound holds 92 % or
/// more.
class TwoToneCoverageTest : public QObject {
  Q_OBJECT
 private slots:
  void intervals_cover_the_truth_data() {
    QTest::addColumn<double>("noise_dbfs");
    QTest::addColumn<double>("seconds");
    QTest::newRow("strong lines") << -60.0 << 1.5;
    QTest::newRow("near the noise") << -34.0 << 1.5;
    QTest::newRow("short record") << -50.0 << 0.6;
  }
  void intervals_cover_the_truth() {
    QFETCH(double, noise_dbfs);
    QFETCH(double, seconds);
    TwoToneSignal s;
    s.sample_rate_hz = 16000.0;
    s.seconds = seconds;
    s.amplitude = 0.25;
    s.nonlinearity.coefficients = {-0.3, 0.1};
    s.noise_dbfs = noise_dbfs;
    const auto truth = two_tone_amplitudes(s.nonlinearity, s.amplitude);
    const double im3 = db_from_voltage_ratio(std::abs(truth[1] / truth[0]));
    TwoToneSettings settings;
    settings.threads = 1;
    int measured = 0;
    int covered = 0;
    for (int run = 0; run < draws(400); ++run) {
      s.seed = static_cast<std::uint64_t>(1000 + run);
      s.f1_hz = 650.0 + 0.017 * run;
      const TwoToneAnalysis a =
          analyse_two_tone(memory_capture(generate_two_tone(s), s.sample_rate_hz), settings);
      for (const Side side : {Side::lower, Side::upper}) {
        const TwoToneProduct* p = a.find(3, side);
        QVERIFY(p != nullptr);
        if (p->is_bound) continue;
        ++measured;
        covered += std::abs(p->level_dbc - im3) <= 2.0 * p->u_db ? 1 : 0;
      }
    }
    QVERIFY(measured > draws(600));
    QVERIFY2(is_share_between(covered, measured, 0.92, 0.98),
             qPrintable(QString("%1 of %2").arg(covered).arg(measured)));
  }

  void bounds_hold() {
    TwoToneSignal s;
    s.sample_rate_hz = 16000.0;
    s.seconds = 1.5;
    s.amplitude = 0.25;
    s.nonlinearity.coefficients = {-0.01};
    const auto truth = two_tone_amplitudes(s.nonlinearity, s.amplitude);
    const double im3 = db_from_voltage_ratio(std::abs(truth[1] / truth[0]));
    TwoToneSettings settings;
    settings.threads = 1;
    int bounds = 0;
    int held = 0;
    for (int run = 0; run < draws(300); ++run) {
      s.seed = static_cast<std::uint64_t>(run + 1);
      s.noise_dbfs = -42.0 - 0.01 * run;
      const TwoToneAnalysis a =
          analyse_two_tone(memory_capture(generate_two_tone(s), s.sample_rate_hz), settings);
      for (const Side side : {Side::lower, Side::upper}) {
        const TwoToneProduct* p = a.find(3, side);
        if (!p->is_bound) continue;
        ++bounds;
        held += p->level_dbc >= im3 ? 1 : 0;
      }
    }
    QVERIFY(bounds > draws(300));
    QVERIFY2(is_share(held, bounds, 0.92), qPrintable(QString("%1 of %2").arg(held).arg(bounds)));
  }
};

HERON_TEST(TwoToneCoverageTest)

}  // namespace two_tone_coverage_test

#include "two_tone_coverage_test.moc"
