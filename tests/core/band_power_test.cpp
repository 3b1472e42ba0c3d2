#include "core/method/measure/band_power.h"

#include <QtTest>
#include <random>

#include "core/method/spread/spectrum_width.h"
#include "core/quantity/figure.h"
#include "core/signal/normal_numbers.h"
#include "tests/test_program.h"

using namespace heron;

namespace band_power_test {

namespace {

constexpr std::size_t kBins = 4096;

/// A spectrum of `parts` parts over 4096 bins of 1 Hz, each bin as `power` says.
Spectrum made(std::size_t parts,
              const std::function<float(std::size_t part, std::size_t bin)>& power) {
  Spectrum s;
  s.sample_rate_hz = static_cast<double>(kBins);
  s.segment = kBins;
  s.is_complex = true;
  s.averages = parts * 16;
  s.statistics.k_eff = static_cast<double>(parts) * 10.0;
  s.power.assign(kBins, 0.0F);
  s.max_hold.assign(kBins, 0.0F);
  for (std::size_t j = 0; j < parts; ++j) {
    std::vector<float> part(kBins);
    for (std::size_t k = 0; k < kBins; ++k) {
      part[k] = power(j, k);
      s.power[k] += part[k] / static_cast<float>(parts);
      s.max_hold[k] = std::max(s.max_hold[k], part[k]);
    }
    s.slices.push_back(part);
    s.max_hold_slices.push_back(std::move(part));
  }
  return s;
}

}  // namespace

class BandPowerTest : public QObject {
  Q_OBJECT
 private slots:
  void bins_are_cut_where_the_edges_cut_them() {
    const Spectrum s = made(4, [](std::size_t, std::size_t) { return 1.0F; });
    std::mt19937 random(3);
    std::uniform_real_distribution<double> place(-1900.0, 1900.0);
    for (int i = 0; i < 500; ++i) {
      const double a = place(random);
      const double b = place(random);
      const auto [low, high] = std::minmax(a, b);
      // Flat: as much as it is wide, wherever in a bin the edges lie.
      QVERIFY(std::abs(band_power(s, s.power, low, high) - (high - low)) <
              1e-6 * (1.0 + high - low));
      // Parts add up to the whole.
      const double middle = std::lerp(low, high, 0.37);
      QVERIFY(std::abs(band_power(s, s.power, low, middle) + band_power(s, s.power, middle, high) -
                       band_power(s, s.power, low, high)) < 1e-6);
    }
    QCOMPARE(band_power(s, s.power, 100.0, 100.0), 0.0);
    QCOMPARE(band_power(s, s.power, 200.0, 100.0), 0.0);
    // Beyond its ends there is nothing.
    QVERIFY(std::abs(band_power(s, s.power, -1e9, 1e9) - static_cast<double>(kBins)) < 1e-6);
  }

  void the_coverage_factor_is_students() {
    // Two-sided 95.45 % (GUM, table G.2), within the stated 1 %.
    for (const auto& [freedom, k] : {std::pair{3.0, 3.31},
                                     {4.0, 2.87},
                                     {5.0, 2.65},
                                     {8.0, 2.37},
                                     {10.0, 2.28},
                                     {15.0, 2.18},
                                     {20.0, 2.13},
                                     {50.0, 2.05}})
      QVERIFY2(std::abs(coverage_factor(freedom) / k - 1.0) < 0.01,
               qPrintable(QString::number(coverage_factor(freedom))));
    QVERIFY(std::abs(coverage_factor(1e9) - 2.0) < 1e-6);
    for (double v = 1.0; v < 100.0; v += 0.5)
      QVERIFY(coverage_factor(v) > coverage_factor(v + 0.5));
  }

  void the_uncertainty_of_a_mean_is_that_of_its_parts() {
    // The mean of n parts has u = s / sqrt(n): leaving out one at a time must give just that.
    std::mt19937 random(7);
    NormalNumbers<float> gauss(10.0F, 1.0F);
    for (int run = 0; run < 20; ++run) {
      std::vector<float> level(16);
      for (float& v : level) v = gauss(random);
      const Spectrum s = made(16, [&](std::size_t j, std::size_t) { return level[j]; });
      const auto u = jackknife_u(s, Hold::average, [](TraceView t) {
        return std::vector<double>{static_cast<double>(t[5]), 3.0 * static_cast<double>(t[6]), 1.0};
      });
      QCOMPARE(u.size(), std::size_t{3});
      double mean = 0.0;
      for (const float v : level) mean += static_cast<double>(v) / 16.0;
      double squares = 0.0;
      for (const float v : level) squares += std::pow(static_cast<double>(v) - mean, 2);
      const double plain = std::sqrt(squares / 15.0 / 16.0);
      // Never less than for fifteen degrees of freedom, never three times as much.
      QVERIFY(u[0] >= plain * coverage_factor(15.0) / 2.0 * 0.999);
      QVERIFY(u[0] < 3.0 * plain);
      QVERIFY(std::abs(u[1] - 3.0 * u[0]) < 1e-3 * u[1]);
      QCOMPARE(u[2], 0.0);
    }
  }

  void rare_peaks_widen_it() {
    const auto u_of = [](float peak) {
      const Spectrum s = made(16, [&](std::size_t j, std::size_t) {
        return j == 3 ? peak : 1.0F + 0.1F * static_cast<float>(j % 2);
      });
      double squares = 0.0;
      double mean = 0.0;
      for (const auto& part : s.slices) mean += static_cast<double>(part[0]) / 16.0;
      for (const auto& part : s.slices) squares += std::pow(static_cast<double>(part[0]) - mean, 2);
      const double plain = std::sqrt(squares / 15.0 / 16.0);
      return jackknife_u(
                 s, Hold::average,
                 [](TraceView t) { return std::vector<double>{static_cast<double>(t[0])}; })[0] /
             plain;
    };
    // One part that makes nearly all of it is two degrees of freedom, not fifteen.
    QVERIFY(u_of(1.0F) < 1.2);
    QVERIFY(u_of(20.0F) > 1.5);
  }

  void too_few_parts_say_nothing() {
    const Spectrum s =
        made(2, [](std::size_t j, std::size_t) { return static_cast<float>(j + 1); });
    const auto u = jackknife_u(s, Hold::average, [](TraceView t) {
      return std::vector<double>{static_cast<double>(t[0]), 1.0};
    });
    QCOMPARE(u.size(), std::size_t{2});
    QVERIFY(std::isinf(u[0]) && std::isinf(u[1]));
  }

  void a_held_trace_leaves_out_the_highest_of_the_rest() {
    // Only one part reaches the maximum: without it the next one counts.
    const Spectrum s = made(4, [](std::size_t j, std::size_t) { return static_cast<float>(j); });
    std::vector<double> seen;
    jackknife_u(s, Hold::max, [&seen](TraceView t) {
      seen.push_back(static_cast<double>(t[9]));
      return std::vector<double>{seen.back()};
    });
    std::sort(seen.begin(), seen.end());
    QCOMPARE(seen, (std::vector<double>{2.0, 3.0, 3.0, 3.0}));
  }

  void the_floor_is_that_of_the_quiet_part_data() {
    QTest::addColumn<double>("signal_width");
    for (const double share : {0.02, 0.2, 0.5, 0.7})
      QTest::newRow(qPrintable(QString::number(share))) << share * static_cast<double>(kBins);
  }
  void the_floor_is_that_of_the_quiet_part() {
    QFETCH(double, signal_width);
    std::mt19937_64 random(11);
    // Bins of a mean over 10 independent spectra, floor 1, signal 30 dB above it.
    std::gamma_distribution<double> bin(10.0, 0.1);
    const Spectrum s = made(1, [&](std::size_t, std::size_t k) {
      const double f = static_cast<double>(k) - kBins / 2.0;
      return static_cast<float>(bin(random) * (std::abs(f) < signal_width / 2.0 ? 1000.0 : 1.0));
    });
    QVERIFY2(std::abs(quiet_floor(s, s.power) - 1.0) < 0.05,
             qPrintable(QString::number(quiet_floor(s, s.power))));
  }

  void widths_of_shapes_are_their_closed_forms_data() {
    QTest::addColumn<int>("shape");
    QTest::addColumn<double>("occupied");
    QTest::addColumn<double>("at_26");
    const double w = 1000.0;
    // A rectangle; a triangle (power): 0.5 % on each side lie in sqrt(0.01) of half its width.
    QTest::newRow("rectangle") << 0 << 0.99 * w << w;
    QTest::newRow("triangle") << 1 << w * (1.0 - std::sqrt(0.01))
                              << w * (1.0 - std::pow(10.0, -2.6));
  }
  void widths_of_shapes_are_their_closed_forms() {
    QFETCH(int, shape);
    QFETCH(double, occupied);
    QFETCH(double, at_26);
    // As the window of a transform shows them.
    const auto level = [shape](double f) {
      if (std::abs(f) >= 500.0) return 1e-9;
      return shape == 0 ? 1.0 : 1.0 - std::abs(f) / 500.0;
    };
    std::vector<std::pair<double, double>> kernel;
    double whole = 0.0;
    for (double x = -5.0; x <= 5.0; x += 0.05) {
      kernel.emplace_back(x, std::pow(window_response(WindowKind::blackman_harris_4, x), 2));
      whole += kernel.back().second;
    }
    const Spectrum s = made(1, [&](std::size_t, std::size_t k) {
      double sum = 0.0;
      for (const auto& [x, weight] : kernel)
        sum += weight / whole * level(static_cast<double>(k) - kBins / 2.0 + x);
      return static_cast<float>(sum);
    });
    const FrequencyRange all{-2048.0, 2047.0};
    const FrequencyRange found = occupied_in(s, s.power, 1e-9, 0.99, all);
    QVERIFY2(std::abs(found.second - found.first - occupied) < 2.0,
             qPrintable(QString::number(found.second - found.first)));
    QVERIFY(std::abs(found.second + found.first) < 2.0);
    const auto width = width_at_26(s, s.power, Hold::average, 1e-9, all, 1000.0);
    QVERIFY(width.has_value());
    QVERIFY2(std::abs(width->edges.second - width->edges.first - at_26) < 4.0,
             qPrintable(QString::number(width->edges.second - width->edges.first)));
    // A floor 20 dB down hides where it falls by 26 dB.
    QVERIFY(!width_at_26(s, s.power, Hold::average, 0.01, all, 1000.0));
  }
};

HERON_TEST(BandPowerTest)

}  // namespace band_power_test

#include "band_power_test.moc"
