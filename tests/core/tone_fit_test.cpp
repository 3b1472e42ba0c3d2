#include "core/signal/tone_fit.h"

#include <QtTest>
#include <random>

#include "core/quantity/levels.h"
#include "core/signal/normal_numbers.h"
#include "tests/test_program.h"

using namespace heron;

namespace tone_fit_test {

using Complex = std::complex<double>;

namespace {

constexpr double kRate = 48000.0;

struct Tone {
  double bins;
  double amplitude;
  double phase;
};

std::vector<Complex> record(const std::vector<Tone>& tones, std::size_t n, double noise_power,
                            bool real, std::mt19937_64& random) {
  NormalNumbers<double> gauss(0.0, std::sqrt(noise_power / (real ? 1.0 : 2.0)));
  std::vector<Complex> x(n);
  for (std::size_t i = 0; i < n; ++i) {
    for (const Tone& t : tones) {
      x[i] += std::polar(
          t.amplitude,
          2.0 * M_PI * t.bins * static_cast<double>(i) / static_cast<double>(n) + t.phase);
    }
    if (real)
      x[i] = {x[i].real() + gauss(random), 0.0};
    else
      x[i] += Complex(gauss(random), gauss(random));
  }
  return x;
}

}  // namespace

class ToneFitTest : public QObject {
  Q_OBJECT
 private slots:
  void amplitude_and_frequency_are_exact_without_noise() {
    std::mt19937_64 random(1);
    for (double offset = 0.0; offset < 1.0; offset += 0.13) {
      const auto x = record({{60.0 + offset, 0.25, 1.0}}, 1000, 0.0, false, random);
      const auto t = estimate_tones(x, kRate, 1, false);
      QVERIFY(std::abs(t[0].frequency_hz - (60.0 + offset) * 48.0) < 1e-6);
      QVERIFY(std::abs(db_from_voltage_ratio(std::abs(t[0].amplitude) / 0.25)) < 1e-6);
      QVERIFY(std::abs(std::arg(t[0].amplitude) - 1.0) < 1e-6);
    }
  }

  /// Bias below 0.01 dB and standard deviation within 1.2 of the Cramer-Rao bound (Rife and
  /// Boorstyn 1974): var A = noise / (2 n) for a complex tone, noise * 2 / n for a real one.
  void estimates_reach_the_cramer_rao_bound_data() {
    QTest::addColumn<double>("snr_db");
    QTest::addColumn<bool>("real");
    for (const double snr : {20.0, 40.0, 60.0}) {
      QTest::addRow("complex %g dB", snr) << snr << false;
      QTest::addRow("real %g dB", snr) << snr << true;
    }
  }
  void estimates_reach_the_cramer_rao_bound() {
    QFETCH(double, snr_db);
    QFETCH(bool, real);
    std::mt19937_64 random(42);
    std::uniform_real_distribution<double> place(20.0, 100.0);
    std::uniform_real_distribution<double> any(0.0, 6.28);
    constexpr std::size_t n = 512;
    constexpr int kRuns = 800;
    const double amplitude = 0.5;
    const double power = real ? amplitude * amplitude / 2.0 : amplitude * amplitude;
    const double noise = power * power_ratio_from_db(-snr_db);
    double sum_db = 0.0;
    double amplitude_square = 0.0;
    double frequency_square = 0.0;
    for (int i = 0; i < kRuns; ++i) {
      const double bins = place(random);
      const auto t = estimate_tones(
          record({{bins, amplitude, any(random)}}, n, noise, real, random), kRate, 1, real);
      sum_db += db_from_voltage_ratio(std::abs(t[0].amplitude) / amplitude);
      amplitude_square += std::pow(std::abs(t[0].amplitude) - amplitude, 2);
      frequency_square += std::pow(t[0].frequency_hz - bins * kRate / n, 2);
    }
    const double nn = static_cast<double>(n);
    const double bound_amplitude = std::sqrt(noise / (2.0 * nn) * (real ? 4.0 : 1.0));
    const double bound_frequency = kRate / (2.0 * M_PI) *
                                   std::sqrt(6.0 * noise * (real ? 4.0 : 1.0) /
                                             (amplitude * amplitude * nn * (nn * nn - 1.0)));
    QVERIFY(std::abs(sum_db / kRuns) < 0.01);
    QVERIFY(std::sqrt(amplitude_square / kRuns) < 1.2 * bound_amplitude);
    QVERIFY(std::sqrt(frequency_square / kRuns) < 1.2 * bound_frequency);
  }

  void tones_a_few_bins_apart_are_told_apart() {
    std::mt19937_64 random(8);
    std::uniform_real_distribution<double> place(60.0, 61.0);
    std::uniform_real_distribution<double> any(0.0, 6.28);
    for (const double gap : {2.0, 3.0, 5.0}) {
      double sum_1 = 0.0;
      double sum_2 = 0.0;
      constexpr int kRuns = 100;
      for (int i = 0; i < kRuns; ++i) {
        const double at = place(random);
        const auto t =
            estimate_tones(record({{at, 0.25, any(random)}, {at + gap, 0.125, any(random)}}, 1024,
                                  power_ratio_from_db(-52.0), false, random),
                           kRate, 2, false);
        sum_1 += db_from_voltage_ratio(std::abs(t[0].amplitude) / 0.25);
        sum_2 += db_from_voltage_ratio(std::abs(t[1].amplitude) / 0.125);
        QVERIFY(std::abs(t[1].frequency_hz - (at + gap) * kRate / 1024.0) < 1.0);
      }
      QVERIFY2(std::abs(sum_1 / kRuns) < 0.01, qPrintable(QString::number(sum_1 / kRuns)));
      QVERIFY2(std::abs(sum_2 / kRuns) < 0.01, qPrintable(QString::number(sum_2 / kRuns)));
    }
  }

  void stated_uncertainty_matches_the_scatter() {
    std::mt19937_64 random(21);
    int covered_amplitude = 0;
    int covered_frequency = 0;
    constexpr int kRuns = 600;
    for (int i = 0; i < kRuns; ++i) {
      const auto t =
          estimate_tones(record({{33.3, 0.5, 0.4}}, 400, 1e-3, false, random), kRate, 1, false);
      covered_amplitude +=
          std::abs(std::abs(t[0].amplitude) - 0.5) < 2.0 * t[0].u_amplitude ? 1 : 0;
      covered_frequency +=
          std::abs(t[0].frequency_hz - 33.3 * kRate / 400.0) < 2.0 * t[0].u_frequency_hz ? 1 : 0;
    }
    QVERIFY(covered_amplitude > 0.92 * kRuns && covered_amplitude < 0.98 * kRuns);
    QVERIFY(covered_frequency > 0.92 * kRuns && covered_frequency < 0.98 * kRuns);
  }
};

HERON_TEST(ToneFitTest)

}  // namespace tone_fit_test

#include "tone_fit_test.moc"
