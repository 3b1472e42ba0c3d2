#include <QtTest>
#include <random>

#include "core/method/two_tone/two_tone.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "tests/core/said.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace two_tone_recorder_test {

namespace {

constexpr double kRate = 48000.0;

struct Made {
  double f1_hz = 0.0;
  double f2_hz = 0.0;
  double im3_dbc = 0.0;
  double im5_dbc = 0.0;
  std::vector<Sinusoid> lines;

  double truth(const TwoToneProduct& p) const { return p.order == 3 ? im3_dbc : im5_dbc; }
};

/// Two tones of `tone_dbfs` with products of random level and phase.
Made made_with(double f1, double f2, double tone_dbfs, std::mt19937_64& random) {
  std::uniform_real_distribution<double> any(0.0, 1.0);
  Made m;
  m.f1_hz = f1;
  m.f2_hz = f2;
  m.im3_dbc = -30.0 - 30.0 * any(random);
  m.im5_dbc = m.im3_dbc - 10.0;
  const auto add = [&](double hz, double dbc) {
    m.lines.push_back(
        {hz, std::polar(std::pow(10.0, (tone_dbfs + dbc) / 20.0), 6.2832 * any(random))});
  };
  add(f1, 0.0);
  add(f2, 0.0);
  add(2 * f1 - f2, m.im3_dbc);
  add(2 * f2 - f1, m.im3_dbc);
  add(3 * f1 - 2 * f2, m.im5_dbc);
  add(3 * f2 - 2 * f1, m.im5_dbc);
  return m;
}

struct Coverage {
  int figures = 0;
  int inside = 0;
  int bounds = 0;
  int hold = 0;

  void add(const TwoToneAnalysis& a, const Made& m) {
    for (const TwoToneProduct& p : a.products) {
      if (p.order > 5) continue;
      (p.is_bound ? bounds : figures) += 1;
      if (p.is_bound)
        hold += p.level_dbc >= m.truth(p) ? 1 : 0;
      else
        inside += std::abs(p.level_dbc - m.truth(p)) <= 2.0 * p.u_db ? 1 : 0;
    }
  }
  QString text() const {
    return QString("%1 of %2 inside, %3 of %4 bounds hold")
        .arg(inside)
        .arg(figures)
        .arg(hold)
        .arg(bounds);
  }
};

}  // namespace

/// What a recorder adds by itself: rounding, and mirror images.
class TwoToneRecorderTest : public QObject {
  Q_OBJECT
 private slots:
  void coarse_rounding_is_in_figures_and_bounds_data() {
    QTest::addColumn<double>("tone_dbfs");
    QTest::addColumn<bool>("repeats");
    QTest::newRow("-36 dBFS, any frequencies") << -36.0 << false;
    QTest::newRow("-66 dBFS, any frequencies") << -66.0 << false;
    QTest::newRow("-51 dBFS, repeating after 10 ms") << -51.0 << true;
    QTest::newRow("-66 dBFS, repeating after 10 ms") << -66.0 << true;
  }
  void coarse_rounding_is_in_figures_and_bounds() {
    QFETCH(double, tone_dbfs);
    QFETCH(bool, repeats);
    std::mt19937_64 random(17);
    std::uniform_real_distribution<double> near(-10.0, 10.0);
    CaptureInfo about;
    about.is_float = false;
    about.bits = 16;
    TwoToneSettings settings;
    settings.highest_order = 5;
    Coverage c;
    for (int round = 0; round < draws(24); ++round) {
      const double f1 = repeats ? 700.0 : 650.0 + near(random);
      const double f2 = repeats ? 1900.0 : 1850.0 + near(random);
      const Made m = made_with(f1, f2, tone_dbfs, random);
      auto x = generate_sinusoids(m.lines, kRate, 192000, -300.0, 1);
      const double step = std::ldexp(1.0, -15);
      for (auto& v : x)
        v = {static_cast<float>(std::round(v.real() / step) * step),
             static_cast<float>(std::round(v.imag() / step) * step)};
      const TwoToneAnalysis a = analyse_two_tone(memory_capture(x, kRate, about), settings);
      c.add(a, m);
      QCOMPARE(has_remark(a.remarks, "rounding"), tone_dbfs < -40.0);
    }
    QVERIFY2(is_share(c.inside, c.figures, 0.88), qPrintable(c.text()));
    QVERIFY2(c.bounds == 0 || is_share(c.hold, c.bounds, 0.93), qPrintable(c.text()));
    QVERIFY2(c.figures > 0, qPrintable(c.text()));
  }

  /// With f2 = 3 f1 the images of the tones stand on IM3 and IM5: the weaker sum says what the
  /// image can be in the stronger.
  void an_image_on_a_product_is_known_from_the_other_image() {
    std::mt19937_64 random(4);
    std::uniform_real_distribution<double> any(0.0, 1.0);
    Coverage c;
    for (int round = 0; round < draws(24); ++round) {
      const double f1 = 600.0 + 20.0 * any(random);
      const double f2 = 3.0 * f1 + 0.2 * any(random);
      Made m = made_with(f1, f2, -20.0, random);
      m.im5_dbc = m.im3_dbc - 25.0;
      for (const std::size_t im5 : {4U, 5U}) m.lines[im5].amplitude *= std::pow(10.0, -15.0 / 20.0);
      const double image_dbc = m.im3_dbc - 8.0 - 20.0 * any(random);
      for (const double f : {f1, f2})
        m.lines.push_back(
            {-f, std::polar(std::pow(10.0, (-20.0 + image_dbc) / 20.0), 6.2832 * any(random))});
      const auto x = generate_sinusoids(m.lines, kRate, 192000, -90.0, random());
      TwoToneSettings settings;
      settings.highest_order = 5;
      settings.tones_hz = std::pair(f1, f2);
      const TwoToneAnalysis a = analyse_two_tone(memory_capture(x, kRate), settings);
      c.add(a, m);
      const TwoToneProduct* lower = a.find(3, Side::lower);
      QVERIFY(lower != nullptr);
      // An image 18 dB below leaves a figure.
      if (image_dbc < m.im3_dbc - 18.0) QVERIFY(!lower->is_bound);
    }
    QVERIFY2(is_share(c.inside, c.figures, 0.9), qPrintable(c.text()));
    QVERIFY2(is_share(c.hold, c.bounds, 0.9), qPrintable(c.text()));
  }
};

HERON_LOOP_TEST(TwoToneRecorderTest)

}  // namespace two_tone_recorder_test

#include "two_tone_recorder_test.moc"
