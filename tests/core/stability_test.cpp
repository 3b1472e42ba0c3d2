#include "core/method/frequency/stability.h"

#include <QElapsedTimer>
#include <QtTest>
#include <cmath>
#include <random>

#include "core/signal/normal_numbers.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;

namespace stability_test {

/// Scatter against averaging time, by the published set, by noise that is known, and by what goes
/// wrong in logs.
class StabilityTest : public QObject {
  Q_OBJECT

  /// The 1000-point set of NIST SP 1065.
  static std::vector<double> published() {
    std::vector<double> y;
    std::uint64_t n = 1234567890;
    for (int i = 0; i < 1000; ++i) {
      y.push_back(static_cast<double>(n) / 2147483647.0);
      n = 16807 * n % 2147483647;
    }
    return y;
  }
  static double value(const PhaseRecord& r, Estimator e, std::size_t m) {
    return r.at(e, m)->value;
  }
  static std::vector<double> white(std::size_t n, std::mt19937_64& random) {
    NormalNumbers<double> gauss(0.0, 1.0);
    std::vector<double> y(n);
    for (double& v : y) v = gauss(random);
    return y;
  }
  /// Fractional frequency of one kind of noise.
  static std::vector<double> noise(NoiseKind kind, std::size_t n, std::mt19937_64& random) {
    if (kind == NoiseKind::white_phase) {
      std::vector<double> x = white(n + 1, random);
      for (std::size_t i = 0; i < n; ++i) x[i] = x[i + 1] - x[i];
      x.pop_back();
      return x;
    }
    std::vector<double> y = white(n, random);
    if (kind == NoiseKind::walk)
      for (std::size_t i = 1; i < n; ++i) y[i] += y[i - 1];
    return y;
  }

 private slots:
  void the_published_set_comes_out_data() {
    QTest::addColumn<int>("estimator");
    QTest::addColumn<std::vector<double>>("values");  // for 1, 10, 100 s
    QTest::newRow("Allan") << static_cast<int>(Estimator::allan)
                           << std::vector{0.2922319, 0.09965736, 0.03897804};
    QTest::newRow("overlapping") << static_cast<int>(Estimator::overlapping)
                                 << std::vector{0.2922319, 0.09159953, 0.03241343};
    QTest::newRow("modified") << static_cast<int>(Estimator::modified)
                              << std::vector{0.2922319, 0.06172376, 0.02170921};
    QTest::newRow("time") << static_cast<int>(Estimator::time)
                          << std::vector{0.1687202, 0.3563623, 1.253382};
  }
  void the_published_set_comes_out() {
    QFETCH(int, estimator);
    QFETCH(std::vector<double>, values);
    const PhaseRecord r = PhaseRecord::of_frequency(published(), 1.0);
    std::size_t m = 1;
    for (const double v : values) {
      const double found = value(r, static_cast<Estimator>(estimator), m);
      QVERIFY2(std::abs(found / v - 1.0) < 5e-7, qPrintable(QString::number(found, 'g', 9)));
      m *= 10;
    }
  }

  void phase_and_frequency_say_the_same() {
    const std::vector<double> y = published();
    std::vector<double> x{0.0};
    for (const double v : y) x.push_back(x.back() + 0.25 * v);
    const PhaseRecord of_y = PhaseRecord::of_frequency(y, 0.25);
    const PhaseRecord of_x = PhaseRecord::of_phase(x, 0.25);
    for (const Estimator e : {Estimator::allan, Estimator::overlapping, Estimator::modified,
                              Estimator::time, Estimator::hadamard, Estimator::plain_hadamard})
      for (const std::size_t m : {1U, 7U, 64U})
        QVERIFY(std::abs(value(of_y, e, m) / value(of_x, e, m) - 1.0) < 1e-9);
  }

  /// A steady drift b makes an Allan deviation of b tau / sqrt 2, and no Hadamard deviation.
  void a_drift_is_seen_by_allan_and_not_by_hadamard() {
    std::vector<double> y(2000);
    for (std::size_t i = 0; i < y.size(); ++i) y[i] = 1e-9 * static_cast<double>(i);
    const PhaseRecord r = PhaseRecord::of_frequency(y, 1.0);
    for (const std::size_t m : {1U, 10U, 100U}) {
      QVERIFY(std::abs(value(r, Estimator::overlapping, m) /
                           (1e-9 * static_cast<double>(m) / std::sqrt(2.0)) -
                       1.0) < 1e-6);
      QVERIFY(value(r, Estimator::hadamard, m) < 1e-14);
    }
  }

  void gaps_are_left_out_and_change_nothing_else() {
    std::mt19937_64 random(5);
    std::vector<double> y = white(20000, random);
    const PhaseRecord whole = PhaseRecord::of_frequency(y, 1.0);
    for (std::size_t i = 4000; i < 4400; ++i) y[i] = std::nan("");
    for (std::size_t i = 100; i < y.size(); i += 701) y[i] = std::nan("");
    const PhaseRecord r = PhaseRecord::of_frequency(y, 1.0);
    QVERIFY(r.gaps() > 400);
    for (const std::size_t m : {1U, 8U, 64U}) {
      const auto with = r.at(Estimator::overlapping, m);
      const auto without = whole.at(Estimator::overlapping, m);
      QVERIFY(with->terms < without->terms);
      QVERIFY(std::abs(with->value / without->value - 1.0) < 0.08);
    }
    // Nothing but gaps, and too few samples, give no point rather than a wrong one.
    QVERIFY(!PhaseRecord::of_frequency(std::vector<double>(50, std::nan("")), 1.0)
                 .at(Estimator::overlapping, 1));
    QVERIFY(!PhaseRecord::of_frequency(std::vector<double>{1.0}, 1.0).at(Estimator::allan, 1));
    QVERIFY(!PhaseRecord::of_frequency(std::vector<double>{}, 1.0).at(Estimator::modified, 1));
    QCOMPARE(PhaseRecord::of_frequency(std::vector<double>{1.0, 2.0}, 1.0)
                 .at(Estimator::overlapping, 1)
                 ->terms,
             std::size_t{1});
  }

  void the_noise_is_named_data() {
    QTest::addColumn<int>("kind");
    QTest::newRow("white phase") << static_cast<int>(NoiseKind::white_phase);
    QTest::newRow("white frequency") << static_cast<int>(NoiseKind::white_frequency);
    QTest::newRow("walk") << static_cast<int>(NoiseKind::walk);
  }
  void the_noise_is_named() {
    QFETCH(int, kind);
    const auto wanted = static_cast<NoiseKind>(kind);
    int right = 0;
    constexpr int kDraws = 40;
    for (int i = 0; i < kDraws; ++i) {
      std::mt19937_64 random(static_cast<std::uint64_t>(100 + i));
      const PhaseRecord r = PhaseRecord::of_frequency(noise(wanted, 2000, random), 1.0);
      right += r.at(Estimator::overlapping, 8)->noise == wanted ? 1 : 0;
    }
    QVERIFY2(right >= kDraws - 4, qPrintable(QString::number(right)));
  }

  /// Degrees of freedom are those that the scatter of the estimates has: 2 E^2 / Var of the
  /// variance. White frequency at m = 1 is known in closed form as well.
  void degrees_of_freedom_are_those_of_the_scatter_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<int>("estimator");
    QTest::addColumn<int>("m");
    const auto row = [](const char* name, NoiseKind kind, Estimator e, int m) {
      QTest::newRow(name) << static_cast<int>(kind) << static_cast<int>(e) << m;
    };
    row("white phase, overlapping", NoiseKind::white_phase, Estimator::overlapping, 8);
    row("white phase, modified", NoiseKind::white_phase, Estimator::modified, 8);
    row("white frequency, Allan", NoiseKind::white_frequency, Estimator::allan, 8);
    row("white frequency, overlapping", NoiseKind::white_frequency, Estimator::overlapping, 8);
    row("white frequency, long", NoiseKind::white_frequency, Estimator::overlapping, 96);
    row("white frequency, Hadamard", NoiseKind::white_frequency, Estimator::hadamard, 8);
    row("walk, overlapping", NoiseKind::walk, Estimator::overlapping, 16);
    row("walk, modified", NoiseKind::walk, Estimator::modified, 16);
  }
  void degrees_of_freedom_are_those_of_the_scatter() {
    QFETCH(int, kind);
    QFETCH(int, estimator);
    QFETCH(int, m);
    const auto e = static_cast<Estimator>(estimator);
    constexpr std::size_t kSamples = 512;
    const int draws = testing::draws(4000);
    double mean = 0.0;
    double square = 0.0;
    for (int i = 0; i < draws; ++i) {
      std::mt19937_64 random(static_cast<std::uint64_t>(7000 + i));
      const PhaseRecord r =
          PhaseRecord::of_frequency(noise(static_cast<NoiseKind>(kind), kSamples, random), 1.0);
      const double v = std::pow(value(r, e, static_cast<std::size_t>(m)), 2.0);
      mean += v / draws;
      square += v * v / draws;
    }
    const double found = 2.0 * mean * mean / (square - mean * mean);
    const bool is_hadamard = e == Estimator::hadamard || e == Estimator::plain_hadamard;
    const double told =
        degrees_of_freedom(static_cast<NoiseKind>(kind), is_hadamard ? 3 : 2,
                           static_cast<std::size_t>(m), e == Estimator::modified,
                           e != Estimator::allan && e != Estimator::plain_hadamard, kSamples + 1);
    // A variance of a variance from so many draws scatters by 2 / sqrt n, some three times.
    const double tolerance = 8.0 / std::sqrt(draws) + 0.04;
    QVERIFY2(std::abs(told / found - 1.0) < tolerance,
             qPrintable(QString("%1 told, %2 found").arg(told).arg(found)));
  }

  /// The stated 68 % hold the truth as often as they say, two-sided.
  void intervals_hold_the_truth_as_often_as_they_say() {
    int inside = 0;
    const int draws = testing::draws(2000);
    for (int i = 0; i < draws; ++i) {
      std::mt19937_64 random(static_cast<std::uint64_t>(90000 + i));
      const PhaseRecord r = PhaseRecord::of_frequency(white(400, random), 1.0);
      const auto p = r.at(Estimator::overlapping, 16);
      const double truth = 1.0 / std::sqrt(16.0);
      inside += p->low <= truth && truth <= p->high ? 1 : 0;
    }
    const double share = static_cast<double>(inside) / draws;
    const double chance = 4.0 * std::sqrt(0.68 * 0.32 / draws);
    QVERIFY2(share > 0.65 - chance && share < 0.72 + chance, qPrintable(QString::number(share)));
  }

  void a_million_points_take_a_moment() {
    std::mt19937_64 random(3);
    const std::vector<double> y = white(1'000'000, random);
    QElapsedTimer timer;
    timer.start();
    const PhaseRecord r = PhaseRecord::of_frequency(y, 1.0);
    const auto averages = averages_of(Averages::octaves, r.samples());
    const auto points = r.at(Estimator::allan, averages);
    qInfo("all octaves of a million points: %lld ms", timer.elapsed());
    QCOMPARE(points.size(), averages.size());
    // White frequency falls as the root of the averages.
    for (const StabilityPoint& p : points) {
      if (p.degrees < 200.0) continue;
      QVERIFY(std::abs(p.value * std::sqrt(p.tau_s) - 1.0) < 4.0 / std::sqrt(2.0 * p.degrees));
    }
  }
};

HERON_TEST(StabilityTest)

}  // namespace stability_test

#include "stability_test.moc"
