#include <QtTest>
#include <map>

#include "core/csv_table.h"
#include "core/error.h"
#include "core/method/phase_noise/noise_capture.h"
#include "core/method/phase_noise/noise_compare.h"
#include "core/method/phase_noise/noise_family.h"
#include "core/method/phase_noise/noise_integral.h"
#include "core/method/phase_noise/noise_table.h"
#include "tests/core/made_noise.h"
#include "tests/core/said.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace phase_noise_test {

/// Phase noise from recordings of carriers whose noise is known.
class PhaseNoiseTest : public QObject {
  Q_OBJECT

  static QString at(const CurvePoint& p, double truth) {
    return QString("%1 Hz: %2 ± %3, truth %4")
        .arg(p.offset_hz)
        .arg(p.l_dbc_hz)
        .arg(p.u_db)
        .arg(truth);
  }

  struct Errors {
    std::vector<double> over_u;
    double worst_mean_db = 0.0;  ///< of a bin, over what chance allows it
  };
  static Errors errors_of(MadeNoise made, int recordings) {
    Errors all;
    struct Sum {
      double error = 0.0;
      double square = 0.0;
      int n = 0;
    };
    std::map<double, Sum> sums;
    for (int i = 0; i < recordings; ++i) {
      made.seed = 100 + static_cast<std::uint64_t>(i);
      const NoiseCurve c = noise_of_capture(made.open(), {10});
      for (const CurvePoint& p : c.points) {
        const double error = p.l_dbc_hz - made.mean_l(p.offset_hz, 10);
        all.over_u.push_back(error / p.u_db);
        Sum& s = sums[p.offset_hz];
        s.error += error;
        s.square += p.u_db * p.u_db;
        ++s.n;
      }
    }
    for (const auto& [hz, s] : sums) {
      const double chance = 3.5 * std::sqrt(s.square) / s.n;
      all.worst_mean_db =
          std::max(all.worst_mean_db, std::abs(s.error / s.n) - std::max(0.0, chance));
    }
    return all;
  }

  static const NoiseSpur* spur_at(const NoiseCurve& c, double hz) {
    for (const NoiseSpur& s : c.spurs)
      if (std::abs(s.offset_hz - hz) < 0.004 * hz + 0.5) return &s;
    return nullptr;
  }

  static NoiseCurve table(const std::vector<std::pair<double, double>>& points, double u = -1.0) {
    std::string text = u < 0.0 ? "offset_hz,l_dbc_hz\n" : "offset_hz,l_dbc_hz,u_db\n";
    for (const auto& [hz, db] : points)
      text += u < 0.0 ? fmt::format("{},{}\n", hz, db) : fmt::format("{},{},{}\n", hz, db, u);
    return noise_of_table(parse_csv(text, "curve.csv"));
  }

 private slots:
  void power_laws_are_read_without_bias_data() {
    QTest::addColumn<int>("law");
    QTest::addRow("white") << 0;
    QTest::addRow("flicker") << 1;
    QTest::addRow("white frequency") << 2;
    QTest::addRow("flicker frequency") << 3;
    QTest::addRow("walk") << 4;
    QTest::addRow("all") << 5;
  }
  void power_laws_are_read_without_bias() {
    QFETCH(int, law);
    MadeNoise made;
    made.frames = kFewDraws ? 60000 : 400000;
    double* const which[] = {&made.white, &made.flicker, &made.white_frequency,
                             &made.flicker_frequency, &made.walk};
    const double levels[] = {-110.0, -105.0, -95.0, -90.0, -85.0};
    for (int i = 0; i < 5; ++i)
      if (law == i || law == 5) *which[i] = levels[i];
    const Errors e = errors_of(made, draws(20));
    // The stated band is neither too narrow nor too wide.
    int inside = 0;
    for (const double one : e.over_u) inside += std::abs(one) < 1.96 ? 1 : 0;
    QVERIFY2(is_share_between(inside, static_cast<int>(e.over_u.size()), 0.92, 0.98),
             qPrintable(QString("%1 of %2").arg(inside).arg(e.over_u.size())));
    QVERIFY2(e.worst_mean_db < 0.2, qPrintable(QString::number(e.worst_mean_db)));
  }

  void five_decades_of_one_recording() {
    if (kFewDraws) QSKIP("long; the optimised build runs it");
    MadeNoise made;
    made.rate_hz = 400e3;
    made.frames = 24'000'000;  // a minute
    made.white = -135.0;
    made.white_frequency = -105.0;
    made.walk = -112.0;
    const NoiseCurve c = noise_of_capture(made.open(), {10});
    QVERIFY(c.low_hz() < 2.1 && c.high_hz() > 120e3);
    std::map<int, std::pair<double, double>> decades;
    for (const CurvePoint& p : c.points) {
      auto& [sum, weight] = decades[static_cast<int>(std::floor(std::log10(p.offset_hz) + 1e-6))];
      sum += (p.l_dbc_hz - made.mean_l(p.offset_hz, 10)) / (p.u_db * p.u_db);
      weight += 1.0 / (p.u_db * p.u_db);
    }
    for (const auto& [decade, sum] : decades) {
      const double error = sum.first / sum.second;
      QVERIFY2(
          std::abs(error) < std::max(0.02, 3.0 / std::sqrt(sum.second)) && std::abs(error) < 0.5,
          qPrintable(QString("decade %1: %2 dB").arg(decade).arg(error)));
    }
    // Above a hundred hertz a minute leaves almost nothing to chance.
    for (const CurvePoint& p : c.points)
      if (p.offset_hz > 300.0)
        QVERIFY2(std::abs(p.l_dbc_hz - made.mean_l(p.offset_hz, 10)) < 0.2 + 3.0 * p.u_db,
                 qPrintable(at(p, made.mean_l(p.offset_hz, 10))));
  }

  void additive_noise_is_half_phase() {
    MadeNoise made;
    made.added_dbfs = -40.0;
    made.frames = 200000;
    const NoiseCurve c = noise_of_capture(made.open(), {10});
    // N0 / (2 A^2): -40 - 50 - 3.01 + 7.96 dB.
    for (const CurvePoint& p : c.points)
      QVERIFY2(std::abs(p.l_dbc_hz + 85.05) < 0.1 + 4.0 * p.u_db, qPrintable(at(p, -85.05)));
    for (const CurvePoint& p : c.am)
      QVERIFY2(std::abs(p.l_dbc_hz + 85.05) < 0.1 + 4.0 * p.u_db, qPrintable(at(p, -85.05)));
    QVERIFY(std::abs(*c.level_dbfs - 20.0 * std::log10(0.4)) < 0.05);
    QVERIFY(std::abs(*c.carrier_hz - made.carrier_hz) < 0.1);
    QVERIFY(c.spurs.empty());
  }

  void lines_are_told_by_level_and_kind() {
    MadeNoise made;
    made.white = -120.0;
    made.white_frequency = -100.0;
    made.lines = {{100.0, -54.0},
                  {200.0, -63.0},
                  {1234.5, -80.0},
                  {9000.0, -75.0, true},
                  {20000.0, -70.0},
                  {30500.0, -85.0},
                  {777.0, -60.0, false, true}};
    const NoiseCurve c = noise_of_capture(made.open(), {20});
    for (const MadeNoise::Line& line : made.lines) {
      const NoiseSpur* s = spur_at(c, line.offset_hz);
      if (line.is_am) {
        QVERIFY(s == nullptr);
        continue;
      }
      QVERIFY2(s != nullptr, qPrintable(QString::number(line.offset_hz)));
      QCOMPARE(s->is_one_sided, line.is_one_sided);
      QVERIFY2(std::abs(s->rf_level_dbc() - line.level_dbc) < 0.1 + 2.0 * s->u_db,
               qPrintable(QString("%1: %2").arg(line.offset_hz).arg(s->rf_level_dbc())));
      QVERIFY(std::abs(s->offset_hz - line.offset_hz) < 0.002 * line.offset_hz);
    }
    QCOMPARE(c.spurs.size(), made.lines.size() - 1);
    // The curve runs through below them.
    for (const CurvePoint& p : c.points)
      QVERIFY2(std::abs(p.l_dbc_hz - made.mean_l(p.offset_hz, 20)) < 0.3 + 4.0 * p.u_db,
               qPrintable(at(p, made.mean_l(p.offset_hz, 20))));
    // Amplitude noise is a curve of its own, without its line.
    for (const CurvePoint& p : c.am) QVERIFY(p.l_dbc_hz < -185.0);
  }

  void noise_alone_has_no_lines() {
    int found = 0;
    for (int i = 0; i < draws(40); ++i) {
      MadeNoise made;
      made.frames = 60000;
      made.white = -110.0;
      made.white_frequency = -95.0;
      made.walk = -90.0;
      made.seed = 900 + static_cast<std::uint64_t>(i);
      found += static_cast<int>(noise_of_capture(made.open()).spurs.size());
    }
    QVERIFY2(found <= 1, qPrintable(QString::number(found)));
  }

  void drift_and_a_carrier_far_off_change_nothing() {
    MadeNoise made;
    made.white = -115.0;
    made.white_frequency = -100.0;
    made.drift_hz_per_s = 40.0;
    made.carrier_hz = -17654.3;
    const NoiseCurve c = noise_of_capture(made.open(), {10});
    QVERIFY(std::abs(*c.carrier_hz - (made.carrier_hz + 40.0 * 2.0)) < 1.0);
    QVERIFY(c.remarks.empty());
    for (const CurvePoint& p : c.points)
      QVERIFY2(std::abs(p.l_dbc_hz - made.mean_l(p.offset_hz, 10)) < 0.3 + 4.0 * p.u_db,
               qPrintable(at(p, made.mean_l(p.offset_hz, 10))));
    // Beyond the end of the span on one side nothing is known.
    QVERIFY(c.high_hz() < 0.9 * (50000.0 - 17654.3));
  }

  void real_audio_is_read_too() {
    MadeNoise made;
    made.rate_hz = 48000.0;
    made.frames = 480000;
    made.carrier_hz = 9000.0;
    // What lies beyond 0 Hz would fold back.
    made.white = -125.0;
    made.white_frequency = -90.0;
    made.lines = {{150.0, -40.0}};
    std::vector<float> audio;
    for (const auto& x : made.samples()) audio.push_back(x.real());
    const NoiseCurve c = noise_of_capture(memory_capture(audio, made.rate_hz), {10});
    QVERIFY(std::abs(*c.carrier_hz - 9000.0) < 0.1);
    QVERIFY(spur_at(c, 150.0) != nullptr);
    QVERIFY(std::abs(spur_at(c, 150.0)->level_dbc + 40.0) < 0.1);
    QVERIFY(c.high_hz() > 3000.0);
    for (const CurvePoint& p : c.points)
      QVERIFY2(std::abs(p.l_dbc_hz - made.mean_l(p.offset_hz, 10)) < 0.4 + 4.0 * p.u_db,
               qPrintable(at(p, made.mean_l(p.offset_hz, 10))));
  }

  void a_carrier_that_goes_is_left_out() {
    MadeNoise made;
    made.white = -110.0;
    made.white_frequency = -95.0;
    auto x = made.samples();
    // A tenth of it is noise, another stretch runs away.
    for (std::size_t i = 120000; i < 150000; ++i) x[i] *= 0.001F;
    NoiseCurve c = noise_of_capture(memory_capture(x, made.rate_hz), {10});
    QVERIFY(has_remark(c.remarks, "carrier_lost"));
    for (const CurvePoint& p : c.points)
      QVERIFY2(std::abs(p.l_dbc_hz - made.mean_l(p.offset_hz, 10)) < 0.4 + 4.0 * p.u_db,
               qPrintable(at(p, made.mean_l(p.offset_hz, 10))));
    for (std::size_t i = 150000; i < 300000; ++i) x[i] *= 0.001F;
    QVERIFY(refusal([&] { noise_of_capture(memory_capture(x, made.rate_hz)); }).contains("lost"));
  }

  void what_is_no_carrier_is_refused() {
    std::vector<std::complex<float>> noise(100000);
    std::mt19937_64 random(4);
    add_noise(noise, -20.0, random);
    QVERIFY(refusal([&] { noise_of_capture(memory_capture(noise, 1e5)); }).contains("no carrier"));
    std::vector<std::complex<float>> silent(100000);
    QVERIFY(!refusal([&] { noise_of_capture(memory_capture(silent, 1e5)); }).isEmpty());
    MadeNoise made;
    made.frames = 700;
    made.white = -100.0;
    QVERIFY(refusal([&] { noise_of_capture(made.open()); }).contains("700 samples"));
    MadeNoise edge;
    edge.frames = 60000;
    edge.carrier_hz = 49900.0;
    edge.white = -100.0;
    QVERIFY(refusal([&] { noise_of_capture(edge.open()); }).contains("too near the end"));
    std::stop_source stop;
    stop.request_stop();
    made.frames = 100000;
    QVERIFY_THROWS_EXCEPTION(Cancelled, noise_of_capture(made.open(), {}, {}, stop.get_token()));
  }

  void integrals_are_exact() {
    const NoiseIntegral flat = integrate(table({{1e3, -100}, {1e6, -100}}), 1e3, 1e6);
    QVERIFY(std::abs(flat.rms_rad - 14.135e-3) < 1e-6);
    QVERIFY(std::abs(flat.rms_deg() - 0.8099) < 1e-4);
    QVERIFY(std::abs(flat.jitter_s(5.76e9) - 0.3906e-12) < 1e-16);
    const NoiseIntegral falls = integrate(table({{1e3, -90}, {1e5, -130}}), 1e3, 1e5);
    QVERIFY(std::abs(falls.rms_rad - 1.4071e-3) < 1e-7);
    QVERIFY(std::abs(falls.residual_fm_hz - 14.07) < 0.005);
    // A slope of exactly -10 is a logarithm.
    const NoiseIntegral ten = integrate(table({{10, -80}, {1e4, -110}}), 10, 1e4);
    QVERIFY(std::abs(ten.rms_rad - std::sqrt(2.0 * 1e-7 * std::log(1e3))) < 1e-9);
    // Parts add up, whether cut at a point or between two.
    const NoiseCurve c = table({{10, -70}, {300, -95}, {1e4, -90}, {1e5, -120}}, 0.5);
    const auto square = [&](double a, double b) { return std::pow(integrate(c, a, b).rms_rad, 2); };
    QVERIFY(std::abs(square(10, 1e5) - square(10, 777) - square(777, 1e4) - square(1e4, 1e5)) <
            1e-12);
    QVERIFY(integrate(c, 10, 1e5).u_rel > 0.01 && integrate(c, 10, 1e5).u_rel < 0.06);
    QVERIFY(refusal([&] { integrate(c, 1, 1e4); }).contains("10 Hz to 100 kHz"));
    QVERIFY(!refusal([&] { integrate(c, 1e4, 10); }).isEmpty());
    // Half a lobe of a line is a modulation: 2 * 10^(L / 10).
    NoiseCurve with = table({{1e3, -100}, {1e6, -100}});
    with.spurs = {{1e4, -40.0}, {1e7, -10.0}};
    const NoiseIntegral lines = integrate(with, 1e3, 1e6);
    QVERIFY(std::abs(lines.with_spurs_rms_rad * lines.with_spurs_rms_rad -
                     lines.rms_rad * lines.rms_rad - 2e-4) < 1e-12);
    const auto slopes = slopes_of(table({{10, -60}, {100, -90}, {1000, -110}, {1e4, -110}}));
    QCOMPARE(slopes.size(), 3U);
    QVERIFY(std::abs(slopes[0].db_per_decade + 30.0) < 1e-9);
    QVERIFY(std::abs(slopes[1].db_per_decade + 20.0) < 1e-9);
    QVERIFY(std::abs(slopes[2].db_per_decade) < 1e-9);
  }

  void multiplication_raises_all_but_jitter() {
    NoiseCurve c = table({{1e3, -100}, {1e6, -100}});
    c.spurs = {{1e4, -60.0}};
    c.rf_hz = 1.44e9;
    const NoiseCurve four = multiplied(c, 4.0);
    QVERIFY(std::abs(four.points[0].l_dbc_hz + 100.0 - 12.041) < 1e-3);
    QVERIFY(std::abs(four.spurs[0].level_dbc + 60.0 - 12.041) < 1e-3);
    QCOMPARE(*four.rf_hz, 5.76e9);
    QVERIFY(std::abs(integrate(four, 1e3, 1e6).jitter_s(*four.rf_hz) -
                     integrate(c, 1e3, 1e6).jitter_s(*c.rf_hz)) < 1e-18);
  }

  void wrong_tables_name_their_line() {
    const auto wrong = [](const char* text) {
      return refusal([&] { noise_of_table(parse_csv(text, "curve.csv")); });
    };
    QVERIFY(wrong("offset_hz,level\n1,2\n").contains("l_dbc_hz"));
    QVERIFY(wrong("offset_hz,l_dbc_hz\n10,-80\nten,-90\n").contains("line 3"));
    QVERIFY(wrong("offset_hz,l_dbc_hz\n10,-80\n10,-90\n").contains("does not rise"));
    QVERIFY(wrong("offset_hz,l_dbc_hz\n0,-80\n10,-90\n").contains("above 0"));
    QVERIFY(wrong("offset_hz,l_dbc_hz,u_db\n10,-80,-1\n20,-90,1\n").contains("u_db"));
    QVERIFY(wrong("offset_hz,l_dbc_hz\n10,-80\n").contains("fewer than two"));
    const NoiseCurve khz =
        noise_of_table(parse_csv("offset_khz;l_dbc_hz\n0,1;-80\n1;-90,5\n", "c"));
    QCOMPARE(khz.points[0].offset_hz, 100.0);
    QCOMPARE(khz.points[1].l_dbc_hz, -90.5);
    QVERIFY(!khz.has_u);
  }

  void a_floor_is_taken_off_in_power() {
    const NoiseCurve c = table({{10, -80}, {100, -97}, {1000, -109.9}}, 0.2);
    const NoiseCurve floor = table({{10, -100}, {100, -100}, {1000, -110}}, 0.2);
    const NoiseCurve left = without_floor(c, floor);
    QVERIFY(std::abs(left.points[0].l_dbc_hz + 80.0436) < 1e-3);
    QCOMPARE(left.points[0].bound, Bound::none);
    QVERIFY(std::abs(left.points[1].l_dbc_hz + 100.0206) < 1e-3);
    QVERIFY(left.points[1].u_db > 0.35);
    // Half a tenth of a decibel over it is nothing that could be told from it.
    QCOMPARE(left.points[2].bound, Bound::upper);
    QVERIFY(left.points[2].l_dbc_hz < -109.9);
    QVERIFY(has_remark(left.remarks, "floor_near"));
    QCOMPARE(integrate(left, 10, 1000).bound, Bound::upper);
    QVERIFY(!refusal([&] { without_floor(c, table({{1e5, -100}, {1e6, -100}})); }).isEmpty());
  }

  void what_changed_is_said_in_ranges() {
    std::vector<std::pair<double, double>> before;
    std::vector<std::pair<double, double>> after;
    for (int k = 10; k <= 60; ++k) {
      const double hz = std::pow(10.0, k / 10.0);
      const double gain = hz < 8e3 ? 0.0 : hz < 12e3 ? 4.0 : hz < 250e3 ? 7.0 + (k % 3) : 0.5;
      before.emplace_back(hz, -90.0);
      after.emplace_back(hz, -90.0 - gain + 0.1 * (k % 2));
    }
    NoiseCurve b = table(before, 0.3);
    NoiseCurve a = table(after, 0.3);
    // A lone bin takes its neighbours' word.
    a.points[5].l_dbc_hz -= 3.0;
    for (NoiseCurve* curve : {&a, &b})
      for (CurvePoint& p : curve->points) p.line_hz = 10.0;
    b.spurs = {{48e3, -52.0}, {100.0, -54.0}};
    a.spurs = {{100.0, -54.2}, {5e3, -70.0}};
    const NoiseComparison c = compare_noise(b, a);
    QCOMPARE(c.ranges.size(), 3U);
    QCOMPARE(c.ranges[0].change, NoiseChange::none);
    QCOMPARE(c.ranges[1].change, NoiseChange::better);
    QVERIFY(std::abs(c.ranges[1].low_hz - 1e4) < 1.0);
    QVERIFY(c.ranges[1].delta_db_min < -8.8);
    QCOMPARE(c.lost.size(), 1U);
    QCOMPARE(c.lost[0].offset_hz, 48e3);
    QCOMPARE(c.gained.size(), 1U);
    QVERIFY(c.differences[5].is_significant);
    const QString words = QString::fromStdString(change_sentence(c));
    QVERIFY2(words.startsWith("better by 8 to 9 dB from 16 to 200 kHz"), qPrintable(words));
    QVERIFY2(words.contains("no difference below"), qPrintable(words));
    // Without uncertainties nothing is called.
    const NoiseComparison bare = compare_noise(table(before), table(after));
    QVERIFY(bare.ranges.empty() && has_remark(bare.remarks, "no_u"));
    QVERIFY(!bare.differences.front().has_u && !bare.differences.front().is_significant);
    QVERIFY(!refusal([&] { compare_noise(b, table({{1e7, -90}, {1e8, -90}})); }).isEmpty());
  }

  void unlike_bins_are_brought_together() {
    MadeNoise made;
    made.white = -110.0;
    made.white_frequency = -95.0;
    made.frames = 200000;
    const NoiseCurve fine = noise_of_capture(made.open(), {50});
    const NoiseCurve coarse = noise_of_capture(made.open(), {10});
    const NoiseComparison c = compare_noise(fine, coarse);
    QVERIFY(c.differences.size() > 25U);
    // The same recording: what is left is how bins are cut.
    for (const NoiseDifference& d : c.differences)
      QVERIFY2(std::abs(d.delta_db) < 0.4,
               qPrintable(QString("%1: %2").arg(d.offset_hz).arg(d.delta_db)));
    // The same again with other noise: no difference, nearly everywhere.
    int called = 0;
    int ranges = 0;
    for (int i = 0; i < draws(20); ++i) {
      MadeNoise again = made;
      again.seed = 500 + static_cast<std::uint64_t>(i);
      const NoiseComparison same = compare_noise(coarse, noise_of_capture(again.open(), {10}));
      for (const NoiseDifference& d : same.differences) called += d.is_significant ? 1 : 0;
      ranges += static_cast<int>(same.ranges.size()) - 1;
    }
    QVERIFY(called < draws(20) * static_cast<int>(c.differences.size()) / 10);
    QVERIFY2(ranges <= draws(20) / 5, qPrintable(QString::number(ranges)));
  }

  void a_family_crosses_at_its_pivot() {
    // More current: less noise within, more beyond 30 kHz.
    std::vector<FamilyMember> family;
    for (const double factor : {0.5, 1.0, 2.0}) {
      std::vector<std::pair<double, double>> points;
      for (int k = 20; k <= 60; ++k) {
        const double hz = std::pow(10.0, k / 10.0);
        const double lean = std::atan(std::log(hz / 30e3)) * 4.0;
        points.emplace_back(hz, -90.0 + std::log2(factor) * lean);
      }
      family.push_back({fmt::format("{} mA", factor), table(points, 0.1)});
    }
    const auto crossings = crossings_of(family);
    QCOMPARE(crossings.size(), 3U);
    for (const NoiseCrossing& c : crossings)
      QVERIFY2(std::abs(c.offset_hz - 30e3) < 1.5e3 && c.u_hz > 0.0,
               qPrintable(QString::number(c.offset_hz)));
    const auto pivot = pivot_of(crossings);
    QVERIFY(pivot && std::abs(pivot->offset_hz - 30e3) < 1.5e3);
    NoiseWeighting near;
    near.offset_hz = 1000.0;
    QVERIFY(weighted_noise(family[2].curve, near).value <
            weighted_noise(family[1].curve, near).value);
    // Within its scatter a curve crosses nothing.
    for (FamilyMember& m : family)
      for (CurvePoint& p : m.curve.points) p.u_db = 10.0;
    QVERIFY(crossings_of(family).empty() && !pivot_of({}));
    NoiseWeighting all;
    all.kind = NoiseWeighting::Kind::integrated;
    all.low_hz = 100.0;
    all.high_hz = 1e6;
    QCOMPARE(weighted_noise(family[0].curve, all).unit, std::string("rad"));
    all.low_hz = 1.0;
    QVERIFY(!refusal([&] { weighted_noise(family[0].curve, all); }).isEmpty());
  }

  void what_would_be_seen_is_found_and_what_would_not_is_not() {
    // Lines well over what a curve says it shows are found, lines well below are not.
    int found_above = 0;
    int found_below = 0;
    int told_above = 0;
    int told_below = 0;
    int lines = 0;
    for (std::uint64_t seed = 1; seed <= 12; ++seed) {
      MadeNoise made;
      made.frames = 200000;
      made.white = -110.0;
      made.white_frequency = -95.0;
      made.seed = seed;
      const NoiseCurve quiet = noise_of_capture(made.open());
      const double at[] = {230.0, 1700.0, 9100.0};
      for (const double side_db : {8.0, -20.0}) {
        made.lines.clear();
        for (const double hz : at) {
          const auto p = curve_at(quiet.points, hz);
          QVERIFY(p && p->line_hz > 0.0);
          const double edge = p->l_dbc_hz + 10.0 * std::log10(p->line_hz) + 6.0;
          made.lines.push_back({hz, edge + side_db});
        }
        const NoiseCurve c = noise_of_capture(made.open());
        for (const MadeNoise::Line& line : made.lines) {
          const NoiseSpur asked{line.offset_hz, line.level_dbc, 0.0, false};
          const bool is_found =
              std::any_of(c.spurs.begin(), c.spurs.end(),
                          [&](const NoiseSpur& s) { return is_same_line(s, asked); });
          const bool is_told = shows_line(quiet, asked);
          if (side_db > 0.0) {
            ++lines;
            found_above += is_found ? 1 : 0;
            told_above += is_told ? 1 : 0;
          } else {
            found_below += is_found ? 1 : 0;
            told_below += is_told ? 1 : 0;
          }
        }
      }
    }
    QCOMPARE(told_above, lines);
    QCOMPARE(told_below, 0);
    QVERIFY2(found_above >= lines - 1, qPrintable(QString::number(found_above)));
    QCOMPARE(found_below, 0);
  }
};

HERON_TEST(PhaseNoiseTest)

}  // namespace phase_noise_test

#include "phase_noise_test.moc"
