#include <QtTest>
#include <cmath>
#include <fmt/format.h>
#include <random>

#include "core/method/frequency/adjusting.h"
#include "core/method/frequency/drift_fit.h"
#include "core/method/frequency/frequency_log.h"
#include "core/method/frequency/lock_margin.h"
#include "core/method/measure/heard_tone.h"
#include "core/method/measure/reference_error.h"
#include "core/method/method.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "tests/core/said.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace frequency_test {

/// Reference error, adjusting, drift, lock: by closed forms, by records that are known, and by what
/// logs of a bench look like.
class FrequencyTest : public QObject {
  Q_OBJECT

  struct Warming {
    double amplitude_hz = 40.0;
    double tau_s = 600.0;
    double settled_hz = -3.0;
    double rate_hz_per_h = 0.0;
    double noise_hz = 0.2;
    double per_kelvin_hz = 0.0;
  };
  static std::vector<DriftSample> record(const Warming& w, double length_s, double step_s,
                                         std::mt19937_64& random, double outlier_share = 0.0) {
    NormalNumbers<double> gauss(0.0, 1.0);
    std::uniform_real_distribution<double> part(0.0, 1.0);
    std::vector<DriftSample> all;
    for (double t = 0.0; t <= length_s; t += step_s) {
      DriftSample s;
      s.seconds = t;
      s.error_hz = w.settled_hz + w.amplitude_hz * std::exp(-t / w.tau_s) +
                   w.rate_hz_per_h * t / 3600.0 + w.noise_hz * gauss(random);
      if (w.per_kelvin_hz != 0.0) {
        s.temperature_c = 22.0 + 4.0 * std::sin(t / 900.0);
        s.error_hz += w.per_kelvin_hz * (*s.temperature_c - 22.0);
      }
      // Propagation goes to both sides.
      if (part(random) < outlier_share) s.error_hz += 15.0 * gauss(random);
      all.push_back(s);
    }
    return all;
  }
  static FrequencyLog log_of(const std::string& text, double nominal_hz = 10e6) {
    return read_frequency_log(parse_csv(text, "log.csv"), nominal_hz);
  }
  static LockMargin margin(const char* text) {
    std::vector<LockStep> steps;
    for (const QString& one : QString(text).split(' ')) {
      const QChar c = one.back();
      steps.push_back({one.chopped(1).toDouble(), c == 'h'   ? LockState::held
                                                  : c == 'd' ? LockState::disturbed
                                                             : LockState::lost});
    }
    return find_lock_margin(steps);
  }

 private slots:
  /// Both sidebands of one receiver tell the same error with the right sign.
  void the_next_setting_is_on_the_line() {
    const Adjustment a =
        next_setting(std::vector<SettingPair>{{100, 9'999'990.0}, {110, 9'999'995.0}}, 10e6);
    QVERIFY(std::abs(a.slope_hz_per_step - 0.5) < 1e-12);
    QCOMPARE(a.next, 120LL);
    QVERIFY(std::abs(a.residual_hz) < 1e-9 && a.closest_hz == 0.25);
    const Adjustment odd =
        next_setting(std::vector<SettingPair>{{0, -10.0}, {10, -4.0}, {20, 2.0}}, 0.0);
    QCOMPARE(odd.next, 17LL);
    QVERIFY(std::abs(odd.exact - 50.0 / 3.0) < 1e-9);
    QVERIFY(std::abs(odd.residual_hz - 0.2) < 1e-9 && odd.u_slope_hz_per_step < 1e-9);
    QVERIFY(!refusal([] {
               next_setting(std::vector<SettingPair>{{5, 1.0}, {5, 2.0}}, 0.0);
             }).isEmpty());
    QVERIFY(!refusal([] {
               next_setting(std::vector<SettingPair>{{1, 1.0}, {2, -1.0}, {3, 1.0}, {4, -1.0}},
                            0.0);
             }).isEmpty());
  }

  void the_worked_example_of_a_warm_up() {
    std::mt19937_64 random(2);
    Warming w;
    w.noise_hz = 1e-4;
    const auto samples = record(w, 5400.0, 10.0, random);
    const DriftFit fit = fit_drift(samples);
    QVERIFY(fit.warm_up && !fit.second_warm_up);
    QVERIFY(std::abs(fit.warm_up->amplitude_hz - 40.0) < 1e-3);
    QVERIFY(std::abs(fit.warm_up->tau_s - 600.0) < 0.05);
    QVERIFY(std::abs(*fit.settle_s(samples, 5.0) - 600.0 * std::log(40.0 / 8.0)) < 0.5);
    QVERIFY(!fit.settle_s(samples, 1.0));  // it ends at -3 Hz
    QVERIFY(fit.settle_s(samples, 1.0, fit.final_error->value));
  }

  /// With outliers of propagation the parameters stay unbiased, and their u is that of their
  /// scatter.
  void outliers_move_nothing_data() {
    QTest::addColumn<double>("share");
    QTest::newRow("none") << 0.0;
    QTest::newRow("5 %") << 0.05;
  }
  void outliers_move_nothing() {
    QFETCH(double, share);
    const int draws = testing::draws(60);
    double mean_a = 0.0;
    double mean_tau = 0.0;
    double mean_end = 0.0;
    double pull = 0.0;
    double found = 0.0;
    for (int i = 0; i < draws; ++i) {
      std::mt19937_64 random(static_cast<std::uint64_t>(500 + i));
      const auto samples = record({}, 5400.0, 20.0, random, share);
      const DriftFit fit = fit_drift(samples);
      QVERIFY(fit.warm_up.has_value());
      mean_a += (fit.warm_up->amplitude_hz - 40.0) / draws;
      mean_tau += (fit.warm_up->tau_s - 600.0) / draws;
      const double off = fit.final_error->value + 3.0 - 40.0 * std::exp(-9.0);
      mean_end += off / draws;
      pull += std::pow(off / fit.final_error->u(), 2.0) / draws;
      found += static_cast<double>(fit.outliers()) / static_cast<double>(samples.size()) / draws;
    }
    const double root = std::sqrt(draws);
    QVERIFY2(std::abs(mean_a) < 4.0 * 0.12 / root, qPrintable(QString::number(mean_a)));
    QVERIFY2(std::abs(mean_tau) < 4.0 * 3.0 / root, qPrintable(QString::number(mean_tau)));
    QVERIFY2(std::abs(mean_end) < 4.0 * 0.05 / root, qPrintable(QString::number(mean_end)));
    // The mean of so many squares of normal deviates; u is an estimate itself.
    const double chance = 3.0 * std::sqrt(2.0 / draws);
    QVERIFY2(pull > 0.9 - chance && pull < 1.6 + chance, qPrintable(QString::number(pull)));
    // Most of them are far enough off to be told from the scatter.
    const double readings = 271.0 * draws;
    const double few = 3.0 * std::sqrt(share / readings);
    QVERIFY2(found > 0.93 * share - few && found < share + few + 0.01,
             qPrintable(QString::number(found)));
  }

  /// Plain scatter has no warm-up, and a slope is one only where it is clear.
  void nothing_is_found_in_scatter() {
    int wrong = 0;
    const int draws = testing::draws(60);
    for (int i = 0; i < draws; ++i) {
      std::mt19937_64 random(static_cast<std::uint64_t>(900 + i));
      Warming flat;
      flat.amplitude_hz = 0.0;
      const auto samples = record(flat, 7200.0, 30.0, random);
      const DriftFit fit = fit_drift(samples);
      wrong += fit.warm_up ? 1 : 0;
      QVERIFY(std::abs(fit.rate_per_h->value) < 5.0 * std::max(fit.rate_per_h->u(), 1e-6));
    }
    QVERIFY2(wrong <= std::max(1, draws / 20), qPrintable(QString::number(wrong)));
  }

  void rate_and_temperature_are_told_apart() {
    std::mt19937_64 random(8);
    Warming w;
    w.rate_hz_per_h = 2.0;
    w.per_kelvin_hz = 0.5;
    const auto samples = record(w, 14400.0, 20.0, random);
    const DriftFit fit = fit_drift(samples);
    QVERIFY(fit.warm_up && fit.per_kelvin_hz);
    QVERIFY(std::abs(fit.rate_per_h->value - 2.0) < 4.0 * fit.rate_per_h->u() + 1e-3);
    QVERIFY(std::abs(fit.per_kelvin_hz->value - 0.5) < 4.0 * fit.per_kelvin_hz->u());
    QVERIFY(fit.per_kelvin_hz->u() < 0.02 && fit.temperature_span_k > 7.9);
  }

  void few_readings_are_told_by_range_and_rate() {
    const std::vector<DriftSample> two{{0.0, 1.0}, {1800.0, 3.0}};
    const DriftFit fit = fit_drift(two);
    QVERIFY(fit.curve_hz.empty() && !fit.warm_up && !fit.final_error);
    QVERIFY(std::abs(fit.rate_per_h->value - 4.0) < 1e-12);
    QVERIFY(fit.least_hz == 1.0 && fit.most_hz == 3.0);
    QVERIFY(!fit_drift(std::vector<DriftSample>{{0.0, 1.0}}).rate_per_h);
    QVERIFY(!fit_drift(std::vector<DriftSample>{}).final_error);
    // Constant values are fitted without a fault.
    std::vector<DriftSample> same;
    for (int i = 0; i < 20; ++i) same.push_back({60.0 * i, 2.5});
    const DriftFit flat = fit_drift(same);
    QCOMPARE(flat.outliers(), std::size_t{0});
    QVERIFY(std::abs(flat.final_error->value - 2.5) < 1e-9);
  }

  void logs_of_a_bench_are_read_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<int>("kept");
    QTest::addColumn<QString>("code");
    const auto iso = [](const char* clock, int hz) {
      return QString("2026-10-25T%1,%2\n").arg(clock).arg(10'000'000 + hz);
    };
    QTest::newRow("plain") << "time_s,frequency_hz\n0,10000001\n10,10000002\n" << 2 << "";
    QTest::newRow("overflow lines")
        << "time_s;frequency_hz\n0;10000001\n10;OVERFLOW\n20;9.9E37\n30;10000002\n"
        << 2 << "no_reading";
    QTest::newRow("mixed nominal values")
        << "time_s,frequency_hz\n0,10000001\n10,5000000\n20,10000003\n"
        << 2 << "other_nominal";
    QTest::newRow("clock going back")
        << "time_s,frequency_hz\n0,10000001\n20,10000002\n15,10000003\n30,10000004\n"
        << 3 << "clock_back";
    QTest::newRow("the same time twice")
        << "time_s,frequency_hz\n0,10000001\n0,10000003\n10,10000004\n"
        << 2 << "same_time";
    QTest::newRow("daylight saving")
        << "time,frequency_hz\n" + iso("02:40:00", 1) + iso("02:50:00", 2) + iso("02:00:00", 3) +
               iso("02:10:00", 4)
        << 4 << "clock_changed";
    QTest::newRow("always the same")
        << "time_s,frequency_hz\n0,10000001\n10,10000001\n20,10000001\n"
        << 3 << "constant";
    QTest::newRow("no time") << "time,frequency_hz\nnoon,10000001\n2026-10-25T12:00:00Z,10000002\n"
                             << 1 << "no_time";
  }
  void logs_of_a_bench_are_read() {
    QFETCH(QString, text);
    QFETCH(int, kept);
    QFETCH(QString, code);
    const FrequencyLog log = log_of(text.toStdString());
    QCOMPARE(static_cast<int>(log.samples.size()), kept);
    QCOMPARE(log.remarks.empty(), code.isEmpty());
    QVERIFY(code.isEmpty() || has_remark(log.remarks, code.toStdString()));
    for (std::size_t i = 1; i < log.samples.size(); ++i)
      QVERIFY(log.samples[i].seconds > log.samples[i - 1].seconds);
    QCOMPARE(log.samples.front().seconds, 0.0);
  }
  void logs_without_anything_say_why() {
    QVERIFY(refusal([] { log_of("a,b\n1,2\n"); }).contains("time and frequency"));
    QVERIFY(refusal([] { log_of("time_s,frequency_hz\n0,5000000\n"); }).contains("0.1 %"));
    QVERIFY(!refusal([] { log_of("time_s,frequency_hz\n"); }).isEmpty());
    QVERIFY(std::abs(*seconds_of_iso("1970-01-02T01:00:00.5+01:00") - 86400.5) < 1e-6);
    QVERIFY(std::abs(*seconds_of_iso("2026-11-29 02:00") -
                     *seconds_of_iso("2026-11-29T02:00:00Z")) < 1e-6);
    for (const char* no : {"", "yesterday", "2026-13-01T00:00:00Z", "2026-02-30T00:00:00"})
      QVERIFY(!seconds_of_iso(no));
  }

  void lock_margin_counts_to_the_last_held_step() {
    LockMargin m = margin("0h 1h 2h 3l 2l 1h 0h");
    QCOMPARE(*m.lost_at_db, 3.0);
    QCOMPARE(*m.regained_at_db, 1.0);
    QCOMPARE(m.margin->value, 2.0);
    QCOMPARE(*m.hysteresis_db, 2.0);
    QVERIFY(m.judgement->verdict == Verdict::fail);
    m = margin("0h 3h 4h 5d 6d 7l 6d 5h");
    QCOMPARE(m.margin->value, 4.0);
    QCOMPARE(*m.lost_at_db, 5.0);  // disturbed is not held
    QVERIFY(m.judgement->verdict == Verdict::too_close && has_remark(m.remarks, "disturbed"));
    m = margin("0h 5h 10h");
    QVERIFY(m.margin->bound == Bound::lower && !m.lost_at_db &&
            has_remark(m.remarks, "never_lost"));
    QVERIFY(m.judgement->verdict == Verdict::pass);
    QVERIFY(margin("0h 1h").judgement->verdict == Verdict::too_close);  // nobody looked further
    m = margin("0l 1l");
    QVERIFY(!m.margin && has_remark(m.remarks, "never_held"));
    QVERIFY(has_remark(margin("0h 1l").remarks, "not_back"));
    QVERIFY(has_remark(margin("0h 1l 2h 3l").remarks, "held_again"));
  }

  /// Within 1.2 times the Cramer-Rao bound from 20 dB on, at any place between the bins.
  void a_tone_is_found_as_well_as_can_be_data() {
    QTest::addColumn<double>("snr_db");
    QTest::addColumn<bool>("is_complex");
    for (const double snr : {20.0, 40.0})
      for (const bool is_complex : {false, true})
        QTest::newRow(qPrintable(QString("%1 dB%2").arg(snr).arg(is_complex ? ", I and Q" : "")))
            << snr << is_complex;
  }
  void a_tone_is_found_as_well_as_can_be() {
    QFETCH(double, snr_db);
    QFETCH(bool, is_complex);
    constexpr double kRate = 8000.0;
    constexpr std::size_t kFrames = 6000;
    const double sigma =
        std::sqrt(0.5 * 0.5 / (is_complex ? 1.0 : 2.0) / std::pow(10.0, snr_db / 10.0));
    const int draws = testing::draws(120);
    double square = 0.0;
    double told = 0.0;
    for (int i = 0; i < draws; ++i) {
      std::mt19937_64 random(static_cast<std::uint64_t>(40 + i));
      NormalNumbers<double> gauss(0.0, 1.0);
      std::uniform_real_distribution<double> part(0.0, 1.0);
      const double hz = 600.0 + 1500.0 * part(random);
      const double phase = 6.28 * part(random);
      std::vector<std::complex<float>> x(kFrames);
      std::vector<float> real(kFrames);
      for (std::size_t k = 0; k < kFrames; ++k) {
        const double turn = 2.0 * M_PI * hz * static_cast<double>(k) / kRate + phase;
        const double side = sigma / std::sqrt(2.0);
        x[k] = {static_cast<float>(0.5 * std::cos(turn) + side * gauss(random)),
                static_cast<float>(0.5 * std::sin(turn) + side * gauss(random))};
        real[k] = static_cast<float>(0.5 * std::cos(turn) + sigma * gauss(random));
      }
      const HeardTones heard =
          hear_tone(is_complex ? memory_capture(x, kRate) : memory_capture(real, kRate), {});
      square += std::pow(heard.tones.front().frequency_hz - hz, 2.0) / draws;
      told += heard.tones.front().u_hz / draws;
    }
    const double n = static_cast<double>(kFrames);
    const double snr = std::pow(10.0, snr_db / 10.0);
    const double bound =
        kRate / (2.0 * M_PI) * std::sqrt((is_complex ? 6.0 : 12.0) / (snr * n * (n * n - 1.0)));
    const double found = std::sqrt(square);
    const double chance = 1.0 + 3.0 / std::sqrt(2.0 * draws);
    QVERIFY2(found < 1.2 * bound * chance,
             qPrintable(QString("%1 against %2 Hz").arg(found).arg(bound)));
    QVERIFY(told > bound / 1.2 && told < 1.2 * bound);
  }

  void a_tone_that_goes_away_is_missed_by_name() {
    constexpr double kRate = 8000.0;
    std::mt19937_64 random(4);
    NormalNumbers<double> gauss(0.0, 1e-3);
    std::vector<float> x(80000);
    for (std::size_t k = 0; k < x.size(); ++k) {
      const bool is_on = k < 32000 || k > 56000;
      x[k] = static_cast<float>(
          (is_on ? 0.3 * std::sin(2.0 * M_PI * 1000.25 * static_cast<double>(k) / kRate) : 0.0) +
          gauss(random));
    }
    const HeardTones heard = hear_tone(memory_capture(x, kRate), {std::nullopt, 1.0});
    QCOMPARE(heard.tones.size(), std::size_t{7});
    QVERIFY(has_remark(heard.remarks, "tone_lost"));
    for (const HeardTone& t : heard.tones) QVERIFY(std::abs(t.frequency_hz - 1000.25) < 1e-3);
    QVERIFY(!refusal([&] { hear_tone(memory_capture(x, kRate), {2500.0, 0.0}); }).isEmpty());
    QVERIFY(
        !refusal([&] { hear_tone(memory_capture(std::vector<float>(20), kRate), {}); }).isEmpty());
  }
};

HERON_TEST(FrequencyTest)

}  // namespace frequency_test

#include "frequency_test.moc"
