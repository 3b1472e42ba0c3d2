#include <QtTest>
#include <random>

#include "core/error.h"
#include "core/quantity/levels.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "core/signal/shaped_noise.h"
#include "core/signal/welch.h"
#include "tests/test_program.h"

using namespace heron;

namespace spectrum_test {

namespace {

double sum_near(const Spectrum& s, double frequency_hz, int half_width) {
  const auto centre = static_cast<std::ptrdiff_t>(std::lround(s.position(frequency_hz)));
  double sum = 0.0;
  for (auto k = centre - half_width; k <= centre + half_width; ++k)
    sum += s.power[static_cast<std::size_t>(k)];
  return sum;
}

}  // namespace

class SpectrumTest : public QObject {
  Q_OBJECT
 private slots:
  void windows_have_their_noise_bandwidth() {
    QVERIFY(std::abs(enbw_bins(WindowKind::hann) - 1.5) < 5e-5);
    QVERIFY(std::abs(enbw_bins(WindowKind::blackman_harris_4) - 2.0044) < 5e-5);
    QVERIFY(std::abs(enbw_bins(WindowKind::flat_top) - 3.7702) < 5e-5);
    for (const auto kind : {WindowKind::rectangular, WindowKind::hann,
                            WindowKind::blackman_harris_4, WindowKind::flat_top}) {
      const auto w = make_window(kind, 1024);
      double sum = 0.0;
      double energy = 0.0;
      std::complex<double> shifted = 0.0;
      for (std::size_t i = 0; i < w.size(); ++i) {
        sum += w[i];
        energy += static_cast<double>(w[i]) * w[i];
        shifted += std::polar(static_cast<double>(w[i]),
                              2.0 * M_PI * 0.37 * (static_cast<double>(i) - 512.0) / 1024.0);
      }
      QVERIFY(std::abs(energy * 1024.0 / (sum * sum) - enbw_bins(kind)) < 1e-4);
      QVERIFY(std::abs(std::abs(shifted) / sum - window_response(kind, 0.37)) < 1e-3);
    }
  }

  void a_line_adds_up_to_its_power_wherever_it_lies() {
    for (double offset = 0.0; offset < 1.0; offset += 0.09) {
      const double f = (100.0 + offset) * 48000.0 / 1024.0;
      const auto iq = generate_sinusoids({{f, {0.3, 0.4}}}, 48000.0, 16384, -200.0, 1);
      WelchSettings settings;
      settings.segment = 1024;
      const Spectrum s = welch_spectrum(memory_capture(iq, 48000.0), settings);
      QVERIFY(std::abs(db_from_power_ratio(sum_near(s, f, 4) / 0.25)) < 0.001);
      std::vector<float> audio;
      for (const auto& v : iq) audio.push_back(v.real());
      const Spectrum r = welch_spectrum(memory_capture(audio, 48000.0), settings);
      QVERIFY(std::abs(db_from_power_ratio(sum_near(r, f, 4) / 0.25)) < 0.001);
    }
  }

  void noise_reads_its_density_and_scatters_as_foretold() {
    const auto iq = generate_sinusoids({}, 48000.0, 400000, -20.0, 7);
    for (const int parts : {2, 4}) {
      WelchSettings settings;
      settings.segment = 1024;
      settings.overlap_parts = parts;
      settings.log_average = true;
      settings.max_hold = true;
      const Spectrum s = welch_spectrum(memory_capture(iq, 48000.0), settings);
      double mean = 0.0;
      double log_mean = 0.0;
      for (std::size_t k = 0; k < 1024; ++k) {
        mean += s.power[k] / 1024.0;
        log_mean += db_from_power_ratio(s.log_average[k]) / 1024.0;
        QVERIFY(s.max_hold[k] > s.power[k]);
      }
      QVERIFY(std::abs(db_from_power_ratio(mean * 1024.0) + 20.0) < 0.05);
      // The log average of Gaussian noise reads 2.507 dB below its power average.
      QVERIFY(std::abs(db_from_power_ratio(mean) - log_mean - 2.507) < 0.05);
      double variance = 0.0;
      for (std::size_t k = 0; k < 1024; ++k)
        variance += std::pow(s.power[k] / mean - 1.0, 2) / 1024.0;
      const double expected = 1.0 / std::sqrt(s.statistics.k_eff);
      QVERIFY2(std::abs(std::sqrt(variance) / expected - 1.0) < 0.08,
               qPrintable(QString("%1 against %2").arg(std::sqrt(variance)).arg(expected)));
    }
  }

  void the_median_of_averaged_noise_is_corrected() {
    std::mt19937_64 random(9);
    for (const double k : {2.0, 8.0, 40.0}) {
      std::gamma_distribution<double> average(k, 1.0 / k);
      std::vector<double> draws(40001);
      for (double& d : draws) d = average(random);
      std::nth_element(draws.begin(), draws.begin() + 20000, draws.end());
      QVERIFY(std::abs(draws[20000] / median_over_mean(k) - 1.0) < 0.02);
    }
  }

  void threads_do_not_change_the_result() {
    const auto iq = generate_sinusoids({{1000.0, {0.1, 0.0}}}, 48000.0, 200001, -60.0, 3);
    WelchSettings settings;
    settings.segment = 4096;
    settings.threads = 1;
    const Spectrum one = welch_spectrum(memory_capture(iq, 48000.0), settings);
    settings.threads = 3;
    const Spectrum three = welch_spectrum(memory_capture(iq, 48000.0), settings);
    QVERIFY(one.power == three.power);
    QCOMPARE(one.averages, (200001U - 4096U) / 1024U + 1U);
  }

  void stopping_and_progress_are_heard() {
    const auto iq = generate_sinusoids({}, 48000.0, 400000, -20.0, 7);
    std::stop_source stop;
    double last = -1.0;
    WelchSettings settings;
    settings.segment = 1024;
    welch_spectrum(memory_capture(iq, 48000.0), settings,
                   [&](double p) { last = std::max(last, p); });
    QCOMPARE(last, 1.0);
    const auto run = [&] {
      welch_spectrum(
          memory_capture(iq, 48000.0), settings,
          [&](double p) {
            if (p > 0.3) stop.request_stop();
          },
          stop.get_token());
    };
    QVERIFY_EXCEPTION_THROWN(run(), Cancelled);
  }

  void shaped_noise_has_the_density_asked_for() {
    const auto density = [](double hz) { return 1e-6 / (1.0 + hz / 100.0); };
    const std::vector<float> x = shaped_noise(1U << 18U, 10e3, density, 3);
    WelchSettings settings;
    settings.segment = 1024;
    const Spectrum s = welch_spectrum(memory_capture(x, 10e3), settings);
    // Bins add up to the power of a line's amplitude squared: twice its mean square.
    double worst = 0.0;
    for (std::size_t from = 20; from + 40 < s.power.size(); from += 40) {
      double sum = 0.0;
      double truth = 0.0;
      for (std::size_t i = from; i < from + 40; ++i) {
        sum += s.power[i] / (2.0 * s.bin_hz());
        truth += density(s.frequency_hz(i));
      }
      worst = std::max(worst, std::abs(10.0 * std::log10(sum / truth)));
    }
    QVERIFY2(worst < 0.25, qPrintable(QString::number(worst)));
  }
};

HERON_TEST(SpectrumTest)

}  // namespace spectrum_test

#include "spectrum_test.moc"
