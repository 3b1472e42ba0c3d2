#include "core/method/measure/line_power.h"

#include <QtTest>
#include <random>

#include "core/method/measure/tone_finder.h"
#include "core/method/two_tone/tone_track.h"
#include "core/quantity/levels.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace line_power_test {

namespace {

constexpr double kRate = 16000.0;

Spectrum spectrum_of(const std::vector<Sinusoid>& lines, double noise_dbfs, std::uint64_t seed,
                     std::size_t frames = 40000) {
  WelchSettings settings;
  settings.segment = 2048;
  settings.threads = 1;
  return welch_spectrum(
      memory_capture(generate_sinusoids(lines, kRate, frames, noise_dbfs, seed), kRate), settings);
}

}  // namespace

class LinePowerTest : public QObject {
  Q_OBJECT
 private slots:
  void power_does_not_depend_on_the_place_between_bins() {
    std::mt19937_64 random(2);
    std::uniform_real_distribution<double> place(-6000.0, 6000.0);
    for (int i = 0; i < 60; ++i) {
      const double f = place(random);
      const LinePower line = measure_line(spectrum_of({{f, {0.1, 0.0}}}, -90.0, 3), f, 4, {});
      QVERIFY(!line.is_bound);
      QVERIFY2(std::abs(db_from_power_ratio(line.power / 0.01)) < 0.005,
               qPrintable(QString::number(f)));
    }
  }

  void the_noise_under_a_line_is_its_density() {
    const double per_rbw = -40.0 + db_from_power_ratio(2.0044 * 2048.0 / 2048.0 / 2048.0 * 1.0);
    double sum = 0.0;
    for (std::uint64_t seed = 1; seed <= 40; ++seed) {
      sum +=
          measure_line(spectrum_of({{1000.0, {0.1, 0.0}}}, -40.0, seed), 1000.0, 4, {}).noise_rbw /
          40.0;
    }
    QVERIFY2(std::abs(db_from_power_ratio(sum) - per_rbw) < 0.1,
             qPrintable(QString::number(db_from_power_ratio(sum))));
  }

  void a_strong_neighbour_is_not_taken_for_noise() {
    const std::vector<Sinusoid> lines{
        {1000.0, {0.01, 0.0}}, {1120.0, {0.5, 0.0}}, {880.0, {0.5, 0.0}}};
    const LineSpan others[] = {{1120.0, 4}, {880.0, 4}};
    const LinePower line = measure_line(spectrum_of(lines, -70.0, 4), 1000.0, 4, others);
    QVERIFY(std::abs(db_from_power_ratio(line.power / 1e-4)) < 0.05);
    QVERIFY(std::abs(db_from_power_ratio(line.noise_rbw) -
                     (-70.0 + db_from_power_ratio(2.0044 / 2048.0))) < 1.5);
  }

  /// Means and scatter over many records: the subtraction is unbiased, the stated u is the scatter.
  void subtraction_is_unbiased_and_u_is_the_scatter_data() {
    QTest::addColumn<double>("level_dbfs");
    for (const double level : {-20.0, -55.0, -66.0, -76.0})
      QTest::addRow("%g dBFS", level) << level;
  }
  void subtraction_is_unbiased_and_u_is_the_scatter() {
    QFETCH(double, level_dbfs);
    const double power = power_ratio_from_db(level_dbfs);
    double sum = 0.0;
    double square = 0.0;
    double stated = 0.0;
    constexpr int kRuns = draws(300);
    for (int i = 0; i < kRuns; ++i) {
      const double f = 1000.0 + 0.05 * i;
      const LinePower line = measure_line(spectrum_of({{f, {std::sqrt(power), 0.0}}}, -40.0,
                                                      100 + static_cast<std::uint64_t>(i), 20000),
                                          f, 4, {});
      sum += line.power / kRuns;
      square += std::pow(line.power - power, 2) / kRuns;
      stated += line.u_power / kRuns;
    }
    const double scatter = std::sqrt(square);
    QVERIFY(std::abs(sum - power) < 4.0 * scatter / std::sqrt(kRuns));
    // A few draws say little of a scatter.
    if (kFewDraws) return;
    QVERIFY2(stated / scatter > 0.85 && stated / scatter < 1.2,
             qPrintable(QString::number(stated / scatter)));
  }

  void a_bound_is_given_where_the_line_drowns() {
    int bounds_low = 0;
    int bounds_high = 0;
    for (std::uint64_t seed = 1; seed <= 60; ++seed) {
      bounds_low +=
          measure_line(spectrum_of({{1000.0, {std::sqrt(1e-8), 0.0}}}, -40.0, seed), 1000.0, 4, {})
                  .is_bound
              ? 1
              : 0;
      bounds_high +=
          measure_line(spectrum_of({{1000.0, {std::sqrt(1e-6), 0.0}}}, -40.0, seed), 1000.0, 4, {})
                  .is_bound
              ? 1
              : 0;
    }
    QCOMPARE(bounds_low, 60);
    QCOMPARE(bounds_high, 0);
  }

  void lines_are_found_strongest_first_and_noise_is_none() {
    const auto lines = find_lines(
        spectrum_of({{-3000.0, {0.1, 0.0}}, {500.0, {0.3, 0.0}}, {2500.3, {0.01, 0.0}}}, -60.0, 5));
    QCOMPARE(lines.size(), 3U);
    QVERIFY(std::abs(lines[0].frequency_hz - 500.0) < 1.0);
    QVERIFY(std::abs(lines[1].frequency_hz + 3000.0) < 1.0);
    QVERIFY(std::abs(lines[2].frequency_hz - 2500.3) < 1.0);
    int false_alarms = 0;
    for (std::uint64_t seed = 1; seed <= 30; ++seed)
      false_alarms += static_cast<int>(find_lines(spectrum_of({}, -40.0, seed)).size());
    QVERIFY(false_alarms == 0);
  }

  void mains_lines_are_known_by_frequency() {
    for (const double f : {50.0, -100.0, 60.0, 120.0, 150.3, 400.0}) QVERIFY(is_mains_line(f, 0.5));
    for (const double f : {0.0, 55.0, 450.0, 650.0, 1850.0}) QVERIFY(!is_mains_line(f, 0.5));
  }

  void the_track_follows_a_drift() {
    TwoToneSignal s;
    s.seconds = 6.0;
    s.drift_hz = 9.0;
    s.noise_dbfs = -60.0;
    const ToneTrack track =
        track_tones(memory_capture(generate_two_tone(s), s.sample_rate_hz), 650.0, 1850.0, 16);
    QCOMPARE(track.f1_hz.size(), 16U);
    QVERIFY(std::abs(track.range_of(1, 0) - 9.0) < 0.3);
    // Both drift together: their difference stays.
    QVERIFY(track.range_of(-1, 1) < 0.05);
    QVERIFY(std::abs(track.middle_of(-1, 1) - 1200.0) < 0.02);
    QVERIFY(std::abs(track.middle_of(1, 0) - 654.5) < 0.3);
  }
};

HERON_TEST(LinePowerTest)

}  // namespace line_power_test

#include "line_power_test.moc"
