#include "core/method/spread/bandwidth.h"

#include <QtTest>
#include <random>

#include "core/judge/verdict.h"
#include "core/method/measure/ssb_suppression.h"
#include "core/method/spread/noise_ratio.h"
#include "core/method/two_tone/two_tone.h"
#include "core/quantity/levels.h"
#include "core/signal/fft.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "tests/core/said.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace bandwidth_test {

namespace {

using Samples = std::vector<std::complex<float>>;

/// Complex Gaussian noise with the given density (re 1 per Hz) at each frequency.
Samples shaped_noise(double rate, std::size_t frames, std::uint64_t seed,
                     const std::function<double(double)>& density) {
  std::mt19937_64 random(seed);
  NormalNumbers<double> gauss(0.0, std::sqrt(0.5));
  Fft fft(frames, true, PlanEffort::quick);
  const auto in = fft.input();
  for (std::size_t k = 0; k < frames; ++k) {
    const double bin = rate / static_cast<double>(frames);
    // A forward transform turns the sense of frequencies round.
    const double f = -(k < frames / 2 ? static_cast<double>(k)
                                      : static_cast<double>(k) - static_cast<double>(frames)) *
                     bin;
    const double a = std::sqrt(density(f) * bin);
    in[2 * k] = static_cast<float>(a * gauss(random));
    in[2 * k + 1] = static_cast<float>(a * gauss(random));
  }
  fft.run();
  return {fft.output().begin(), fft.output().end()};
}

std::function<double(double)> flat(double from, double to, double level, double floor) {
  return [=](double f) { return f > from && f < to ? level : floor; };
}

}  // namespace

class BandwidthTest : public QObject {
  Q_OBJECT
 private slots:
  void flat_noise_occupies_its_fraction_data() {
    QTest::addColumn<double>("rate");
    QTest::addColumn<double>("from");
    QTest::addColumn<double>("to");
    QTest::addColumn<double>("floor");
    QTest::newRow("fills half") << 48000.0 << -12000.0 << 12000.0 << 0.0;
    QTest::newRow("beside the centre") << 48000.0 << 300.0 << 2700.0 << 1e-6;
    QTest::newRow("narrow in a wide recording") << 500000.0 << 20300.0 << 22700.0 << 1e-4;
    QTest::newRow("20 dB above the floor") << 48000.0 << -1500.0 << 1500.0 << 1e-2;
    QTest::newRow("an odd rate") << 37337.0 << -9000.0 << -4000.0 << 1e-5;
  }
  void flat_noise_occupies_its_fraction() {
    QFETCH(double, rate);
    QFETCH(double, from);
    QFETCH(double, to);
    QFETCH(double, floor);
    const Samples x = shaped_noise(rate, 1U << 21U, 7, flat(from, to, 1e-6, 1e-6 * floor));
    const double width = to - from;
    for (const double fraction : {0.99, 0.9}) {
      BandwidthSettings settings;
      settings.fraction = fraction;
      const BandwidthAnalysis a = analyse_bandwidth(memory_capture(x, rate), settings);
      QVERIFY(a.occupied.has_value());
      const double error = a.occupied->width_hz() - fraction * width;
      QVERIFY2(std::abs(error) < 2.0 * a.occupied->u_hz + 0.004 * width,
               qPrintable(QString("%1 Hz off, u %2").arg(error).arg(a.occupied->u_hz)));
      QVERIFY(a.occupied->u_hz < 0.03 * width);
      QVERIFY(std::abs((a.occupied->lower_hz + a.occupied->upper_hz) / 2.0 - (from + to) / 2.0) <
              0.01 * width);
      if (floor > 1e-3) {
        QVERIFY(!a.x26.has_value());
        QVERIFY(has_remark(a.remarks, "floor_26"));
      } else {
        QVERIFY(a.x26.has_value());
        QVERIFY(std::abs(a.x26->width_hz() - width) < 0.03 * width);
      }
    }
  }

  void intervals_cover_the_truth() {
    // Lobe-shaped noise: density (1 - |f|/B) has its 0.5 % points at B (1 - sqrt(0.01)).
    constexpr double kHalf = 3000.0;
    const double truth = 2.0 * kHalf * (1.0 - std::sqrt(0.01));
    int covered = 0;
    constexpr int kRuns = draws(150);
    BandwidthSettings settings;
    settings.threads = 1;
    for (int run = 0; run < kRuns; ++run) {
      const Samples x = shaped_noise(
          24000.0, 1U << 16U, 100 + static_cast<std::uint64_t>(run),
          [](double f) { return std::max(1e-10, 1e-6 * (1.0 - std::abs(f) / kHalf)); });
      const BandwidthAnalysis a = analyse_bandwidth(memory_capture(x, 24000.0), settings);
      QVERIFY(a.occupied.has_value());
      covered += std::abs(a.occupied->width_hz() - truth) <= 2.0 * a.occupied->u_hz ? 1 : 0;
    }
    QVERIFY2(is_share_between(covered, kRuns, 0.90, 0.99), qPrintable(QString::number(covered)));
  }

  /// Steep, Gaussian and speech-like spectra: the -26 dB width lies within its interval.
  void widths_26_dB_down_cover_the_truth_data() {
    QTest::addColumn<int>("shape");
    QTest::addColumn<int>("hold");
    for (const int hold : {0, 1}) {
      QTest::addRow("brick wall, %s", hold == 0 ? "average" : "max") << 0 << hold;
      QTest::addRow("Gaussian, %s", hold == 0 ? "average" : "max") << 1 << hold;
      QTest::addRow("speech, %s", hold == 0 ? "average" : "max") << 2 << hold;
    }
  }
  void widths_26_dB_down_cover_the_truth() {
    QFETCH(int, shape);
    QFETCH(int, hold);
    constexpr double kSigma = 500.0;
    const auto density = [shape](double f) {
      if (shape == 0) return std::abs(f) < 1500.0 ? 1e-6 : 1e-12;
      if (shape == 1) return std::max(1e-12, 1e-6 * std::exp(-f * f / (2.0 * kSigma * kSigma)));
      // Flat to 500 Hz, then 12 dB for each kHz, and steep at 2700 Hz.
      if (f < 300.0 || f > 2700.0) return 1e-12;
      return 1e-6 * std::pow(10.0, -1.2 * std::max(0.0, f - 500.0) / 1000.0);
    };
    const double truth = shape == 0   ? 3000.0
                         : shape == 1 ? 2.0 * kSigma * std::sqrt(2.0 * std::log(398.107))
                                      : 500.0 + 2600.0 / 1.2 - 300.0;
    int covered = 0;
    constexpr int kRuns = draws(30);
    BandwidthSettings settings;
    settings.hold = hold == 0 ? Hold::average : Hold::max;
    double mean = 0.0;
    double u = 0.0;
    for (int run = 0; run < kRuns; ++run) {
      const Samples x =
          shaped_noise(24000.0, 1U << 18U, 900 + static_cast<std::uint64_t>(run), density);
      const BandwidthAnalysis a = analyse_bandwidth(memory_capture(x, 24000.0), settings);
      QVERIFY(a.x26.has_value());
      const double error = a.x26->width_hz() - truth;
      mean += error / kRuns;
      u += a.x26->u_hz / kRuns;
      covered += std::abs(error) <= 2.0 * a.x26->u_hz ? 1 : 0;
    }
    QVERIFY2(
        is_share(covered, kRuns, 0.86),
        qPrintable(
            QString("%1 of %2, mean %3 Hz, u %4 Hz").arg(covered).arg(kRuns).arg(mean).arg(u)));
  }

  /// What is no part of the signal is left out where a channel is told, and named where not.
  void what_does_not_belong_is_left_out_or_named() {
    const auto with = [](const std::function<void(Samples&)>& change,
                         const BandwidthSettings& how = {}) {
      Samples x = shaped_noise(48000.0, 1U << 18U, 31, flat(600.0, 3000.0, 1e-6, 1e-12));
      change(x);
      return analyse_bandwidth(memory_capture(x, 48000.0), how);
    };
    const auto line = [](double hz, double amplitude) {
      return [=](Samples& x) {
        for (std::size_t i = 0; i < x.size(); ++i)
          x[i] += std::complex<float>(std::polar(
              amplitude, 2.0 * std::numbers::pi * hz * static_cast<double>(i) / 48000.0));
      };
    };
    const auto other = [](double from, double to, double level) {
      return [=](Samples& x) {
        const Samples more = shaped_noise(48000.0, 1U << 18U, 77, flat(from, to, level, 0.0));
        for (std::size_t i = 0; i < x.size(); ++i) x[i] += more[i];
      };
    };
    BandwidthSettings channel;
    channel.channel_hz = 3000.0;
    channel.middle_hz = 1800.0;
    constexpr double kTruth = 2376.0;
    const auto is_right = [&](const BandwidthAnalysis& a) {
      return a.occupied && std::abs(a.occupied->width_hz() - kTruth) < 40.0;
    };
    const auto plain = with([](Samples&) {});
    QVERIFY(is_right(plain));
    for (const char* code :
         {"centre_spike", "image", "several_signals", "few_lines", "range_cuts", "band_edge"})
      QVERIFY2(!has_remark(plain.remarks, code), code);

    const auto spike = line(0.0, 0.02);
    QVERIFY(is_right(with(spike)) && has_remark(with(spike).remarks, "centre_spike"));
    QVERIFY(is_right(with(spike, channel)));
    const auto image = other(-3000.0, -600.0, 2e-8);
    QVERIFY(has_remark(with(image).remarks, "image"));
    QVERIFY(is_right(with(image, channel)));
    // The image lies within the occupied bandwidth where no channel is named.
    QVERIFY(with(image).occupied->width_hz() > 5000.0);
    const auto neighbour = other(12000.0, 14400.0, 1e-6);
    QVERIFY(has_remark(with(neighbour).remarks, "several_signals"));
    QVERIFY(is_right(with(neighbour, channel)));
    BandwidthSettings cut;
    cut.search_hz = std::pair(-5000.0, 2000.0);
    const auto inside = with([](Samples&) {}, cut);
    QVERIFY(has_remark(inside.remarks, "range_cuts") && inside.occupied->is_cut);
    const auto noise_from = [](double from, double to) {
      return analyse_bandwidth(memory_capture(
          shaped_noise(48000.0, 1U << 18U, 5, flat(from, to, 1e-6, 1e-12)), 48000.0));
    };
    const auto at_the_edge = noise_from(18000.0, 23500.0);
    QVERIFY(has_remark(at_the_edge.remarks, "band_edge"));
    // What may go on beyond keeps to no limit, and breaks one that it is beyond already.
    Limit limit{"", Sense::at_most, 8000.0, "Hz", "average", 1000.0};
    const Result result = to_result(at_the_edge);
    QCOMPARE(judge(*result.headline(), limit).verdict, Verdict::incomplete);
    limit.value = 3000.0;
    QCOMPARE(judge(*result.headline(), limit).verdict, Verdict::fail);
    QVERIFY(has_remark(noise_from(-18000.0, 18000.0).remarks, "even_band"));
    QVERIFY(!has_remark(noise_from(-9000.0, 18000.0).remarks, "even_band"));
    TwoToneSignal tones;
    tones.seconds = 5.0;
    tones.noise_dbfs = -80.0;
    tones.nonlinearity.coefficients = {-0.3};
    QVERIFY(has_remark(analyse_bandwidth(memory_capture(generate_two_tone(tones), 48000.0)).remarks,
                       "few_lines"));
  }

  /// A wall at the channel's edge: what the transform carries over it is no power beside it.
  void the_edge_of_the_channel_is_not_power_beside_it() {
    std::mt19937_64 random(8);
    for (int round = 0; round < 12; ++round) {
      const double width = std::uniform_real_distribution<double>(2000.0, 4000.0)(random);
      const double shoulder_db = std::uniform_real_distribution<double>(-60.0, -20.0)(random);
      const double shoulder = 1e-6 * power_ratio_from_db(shoulder_db);
      const Samples x = shaped_noise(48000.0, 1U << 18U, random(), [&](double f) {
        const double a = std::abs(f - 1000.0);
        return a < width / 2.0 ? 1e-6 : a < 1.5 * width ? shoulder : 1e-13;
      });
      BandwidthSettings settings;
      settings.channel_hz = width;
      settings.middle_hz = 1000.0;
      const BandwidthAnalysis a = analyse_bandwidth(memory_capture(x, 48000.0), settings);
      for (const AdjacentPower& p : a.adjacent) {
        if (std::abs(p.offset_hz) > 1.5 * width) continue;
        const QString said = QString("%1 dB: %2 +- %3, bound %4")
                                 .arg(shoulder_db)
                                 .arg(p.ratio_db)
                                 .arg(2.0 * p.u_db)
                                 .arg(p.is_bound);
        if (p.is_bound)
          QVERIFY2(p.ratio_db > shoulder_db, qPrintable(said));
        else
          QVERIFY2(std::abs(p.ratio_db - shoulder_db) < 3.0 * p.u_db, qPrintable(said));
        QVERIFY2(p.ratio_db < std::max(shoulder_db, -34.5) + 2.5, qPrintable(said));
      }
    }
  }

  void power_beside_the_channel() {
    // A channel with shoulders of a known density.
    const Samples x = shaped_noise(48000.0, 1U << 20U, 3, [](double f) {
      if (std::abs(f) < 1500.0) return 1e-6;
      return f > 0.0 && f < 6000.0 ? 1e-9 : 1e-13;
    });
    BandwidthSettings settings;
    settings.channel_hz = 3000.0;
    settings.adjacent_hz = 2000.0;
    settings.offsets_hz = {3500.0};
    const BandwidthAnalysis a = analyse_bandwidth(memory_capture(x, 48000.0), settings);
    QCOMPARE(a.adjacent.size(), std::size_t{2});
    QCOMPARE(a.adjacent[0].offset_hz, -3500.0);
    const AdjacentPower& upper = a.adjacent[1];
    QVERIFY(!upper.is_bound);
    QVERIFY2(std::abs(upper.ratio_db - (-30.0 + db_from_power_ratio(2.0 / 3.0))) < 3.0 * upper.u_db,
             qPrintable(QString::number(upper.ratio_db)));
    QVERIFY(upper.u_db < 0.3);
    QVERIFY(a.adjacent[0].ratio_db < -65.0);
    // A channel that is told stays where it is, and says so where the signal is not in it.
    settings.middle_hz = 0.0;
    const BandwidthAnalysis told = analyse_bandwidth(memory_capture(x, 48000.0), settings);
    QCOMPARE(told.channel_middle_hz, 0.0);
    QVERIFY(!has_remark(told.remarks, "channel_misses"));
    QVERIFY(std::abs(told.adjacent[1].ratio_db - upper.ratio_db) < 0.5);
    settings.middle_hz = 3000.0;
    QVERIFY(has_remark(analyse_bandwidth(memory_capture(x, 48000.0), settings).remarks,
                       "channel_misses"));
    settings.middle_hz = 23500.0;
    QVERIFY(refusal([&] {
              analyse_bandwidth(memory_capture(x, 48000.0), settings);
            }).contains("beyond the recording"));
    settings.middle_hz.reset();
    settings.offsets_hz = {-3500.0, 30000.0};
    const BandwidthAnalysis b = analyse_bandwidth(memory_capture(x, 48000.0), settings);
    QCOMPARE(b.adjacent.size(), std::size_t{1});
    QVERIFY(has_remark(b.remarks, "window_outside"));
  }

  void max_hold_is_never_below_the_average() {
    const Samples x = shaped_noise(48000.0, 1U << 18U, 5, flat(-1500.0, 1500.0, 1e-6, 1e-12));
    BandwidthSettings settings;
    settings.hold = Hold::max;
    const BandwidthAnalysis a = analyse_bandwidth(memory_capture(x, 48000.0), settings);
    QCOMPARE(a.average.y.size(), a.max_hold.y.size());
    for (std::size_t i = 0; i < a.average.y.size(); ++i) QVERIFY(a.max_hold.y[i] >= a.average.y[i]);
    QVERIFY(has_remark(a.remarks, "max_hold"));
    QVERIFY(a.occupied.has_value());
  }

  void what_carries_no_signal_is_not_measured() {
    const Samples noise = shaped_noise(48000.0, 1U << 17U, 1, flat(-1e6, 1e6, 1e-9, 1e-9));
    const BandwidthAnalysis a = analyse_bandwidth(memory_capture(noise, 48000.0));
    QVERIFY(!a.occupied.has_value());
    QVERIFY(has_remark(a.remarks, "nothing_found"));
    QVERIFY(to_result(a).figures.empty());
    const BandwidthAnalysis silent =
        analyse_bandwidth(memory_capture(Samples(1U << 16U, {0.0F, 0.0F}), 48000.0));
    QVERIFY(!silent.occupied.has_value());
    BandwidthSettings settings;
    settings.fraction = 1.5;
    QVERIFY(refusal([&] {
              analyse_bandwidth(memory_capture(noise, 48000.0), settings);
            }).contains("1.5"));
    QVERIFY(refusal([&] {
              analyse_bandwidth(memory_capture(Samples(64), 48000.0));
            }).contains("short"));
  }

  void a_far_signal_is_left_out_and_said() {
    Samples x = shaped_noise(48000.0, 1U << 18U, 2, [](double f) {
      if (std::abs(f) < 1200.0) return 1e-6;
      return f > 15000.0 && f < 15300.0 ? 5e-7 : 1e-12;
    });
    BandwidthSettings settings;
    settings.search_hz = std::pair(-4000.0, 4000.0);
    const BandwidthAnalysis a = analyse_bandwidth(memory_capture(x, 48000.0), settings);
    QVERIFY(a.occupied.has_value());
    QVERIFY(std::abs(a.occupied->width_hz() - 2376.0) < 30.0);
  }

  void noise_power_ratio_is_what_was_put_in_data() {
    QTest::addColumn<double>("ratio_db");
    QTest::addColumn<double>("floor_db");
    QTest::addColumn<bool>("is_lower");
    QTest::newRow("clear") << 32.0 << -80.0 << false;
    QTest::newRow("lower sideband") << 25.0 << -80.0 << true;
    QTest::newRow("floor close to the notch") << 30.0 << -33.0 << false;
  }
  void noise_power_ratio_is_what_was_put_in() {
    QFETCH(double, ratio_db);
    QFETCH(double, floor_db);
    QFETCH(bool, is_lower);
    NoiseRatioSettings settings;
    settings.carrier_hz = 2000.0;
    settings.sideband = is_lower ? Sideband::lower : Sideband::upper;
    int covered = 0;
    constexpr int kRuns = draws(40);
    for (std::uint64_t seed = 1; seed <= kRuns; ++seed) {
      const Samples x = shaped_noise(24000.0, 1U << 18U, seed, [&](double f) {
        const double audio = is_lower ? 2000.0 - f : f - 2000.0;
        const double floor = power_ratio_from_db(floor_db);
        if (audio < 300.0 || audio > 2700.0) return 1e-6 * floor;
        const bool notched = audio > 1250.0 && audio < 1750.0;
        return 1e-6 * (floor + (notched ? power_ratio_from_db(-ratio_db) : 1.0));
      });
      const NoiseRatioAnalysis a = analyse_notched_noise(memory_capture(x, 24000.0), settings);
      QVERIFY(a.ratio_db.has_value());
      QVERIFY(!a.is_bound);
      covered += std::abs(*a.ratio_db - ratio_db) <= 2.0 * a.u_db ? 1 : 0;
    }
    QVERIFY2(is_share(covered, kRuns, 0.87), qPrintable(QString::number(covered)));
  }

  void a_notch_full_of_floor_is_a_bound() {
    const Samples x = shaped_noise(24000.0, 1U << 17U, 1, [](double f) {
      const bool notched = f > 1250.0 && f < 1750.0;
      return f > 300.0 && f < 2700.0 && !notched ? 1e-6 : 1e-9;
    });
    const NoiseRatioAnalysis a = analyse_notched_noise(memory_capture(x, 24000.0), {});
    QVERIFY(a.is_bound);
    QVERIFY(*a.ratio_db > 30.0);
    QVERIFY(to_result(a).headline()->bound == Bound::lower);
    NoiseRatioSettings wrong;
    wrong.sideband = Sideband::lower;
    QVERIFY(has_remark(analyse_notched_noise(memory_capture(x, 24000.0), wrong).remarks,
                       "no_notched_noise"));
    wrong.carrier_hz = 20000.0;
    QVERIFY(refusal([&] {
              analyse_notched_noise(memory_capture(x, 24000.0), wrong);
            }).contains("band"));
  }

  void carrier_and_opposite_sideband_are_told_in_both_conventions() {
    const double rate = 48000.0;
    const double amplitude = 0.2;
    const auto line = [&](double f, double dbc) {
      return Sinusoid{f, amplitude * voltage_ratio_from_db(dbc)};
    };
    // Carrier at 4 kHz, tones of 650 and 1850 Hz below it: lower sideband.
    const Samples x = generate_sinusoids({line(3350.0, 0.0), line(2150.0, 0.0), line(4000.0, -52.0),
                                          line(4650.0, -46.0), line(5850.0, -61.0)},
                                         rate, 1U << 18U, -80.0, 1);
    SsbSettings settings;
    settings.carrier_hz = 4000.0;
    for (const bool named : {false, true}) {
      if (named) settings.tones_hz = {650.0, 1850.0};
      const SsbSuppression a = measure_ssb_suppression(memory_capture(x, rate), settings);
      QVERIFY(a.sideband == Sideband::lower);
      QCOMPARE(a.unwanted.size(), std::size_t{3});
      QVERIFY(std::abs(a.pep_over_tone_db - 6.02) < 0.01);
      QVERIFY(std::abs(a.unwanted[0].level_dbc + 52.0) < 0.1);
      const Result r = to_result(a);
      const auto figure = [&](const std::string& id) {
        for (const Figure& f : r.figures) {
          if (f.id == id) return f;
        }
        return Figure{};
      };
      QVERIFY(std::abs(figure("opposite_1_pep").value + 52.02) < 0.1 ||
              std::abs(figure("opposite_2_pep").value + 52.02) < 0.1);
      QVERIFY(std::abs(figure("carrier_pep").value + 58.02) < 0.1);
      QCOMPARE(figure("carrier_pep").convention, std::string(kRePep));
      QCOMPARE(figure("carrier").convention, std::string(kReOneTone));
      QVERIFY(!has_remark(a.remarks, "recorder_symmetry"));
    }
    settings.carrier_hz = 0.0;
    settings.tones_hz.clear();
    QVERIFY(has_remark(measure_ssb_suppression(memory_capture(x, rate), settings).remarks,
                       "recorder_symmetry"));
    const Samples quiet = shaped_noise(rate, 1U << 16U, 1, flat(-1e6, 1e6, 1e-9, 1e-9));
    QVERIFY(has_remark(measure_ssb_suppression(memory_capture(quiet, rate), settings).remarks,
                       "no_tones"));
  }
};

HERON_TEST(BandwidthTest)

}  // namespace bandwidth_test

#include "bandwidth_test.moc"
