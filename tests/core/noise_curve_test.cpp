// Curves of phase noise: what they add up to, how they compare, and where a family crosses.
#include <QtTest>
#include <cmath>

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

namespace noise_curve_test {

class NoiseCurveTest : public QObject {
  Q_OBJECT

  static NoiseCurve table(const std::vector<std::pair<double, double>>& points, double u = -1.0) {
    std::string text = u < 0.0 ? "offset_hz,l_dbc_hz\n" : "offset_hz,l_dbc_hz,u_db\n";
    for (const auto& [hz, db] : points)
      text += u < 0.0 ? fmt::format("{},{}\n", hz, db) : fmt::format("{},{},{}\n", hz, db, u);
    return noise_of_table(parse_csv(text, "curve.csv"));
  }

 private slots:
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

HERON_TEST(NoiseCurveTest)

}  // namespace noise_curve_test

#include "noise_curve_test.moc"
