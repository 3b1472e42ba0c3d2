#include "core/method/reference_level.h"

#include <QtTest>
#include <random>

#include "core/signal/normal_numbers.h"
#include "tests/core/said.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace reference_level_test {

namespace {

/// Follows drive with 70 dB of gain up to 44.77 dBm, where a level control holds it; `knee` rounds
/// the corner.
double output_at(double drive_dbm, double knee) {
  const double linear = std::pow(10.0, (drive_dbm + 70.0 - 44.77) / 10.0);
  return 44.77 + 10.0 * std::log10(linear / std::pow(1.0 + std::pow(linear, knee), 1.0 / knee));
}

}  // namespace

class ReferenceLevelTest : public QObject {
  Q_OBJECT
 private slots:
  void the_search_ends_at_full_output_data() {
    QTest::addColumn<double>("knee");
    QTest::addColumn<double>("start");
    for (const double knee : {2.0, 4.0, 20.0}) {
      for (const double start : {-50.0, -33.3, -26.0})
        QTest::newRow(qPrintable(QString("knee %1 from %2").arg(knee).arg(start))) << knee << start;
    }
  }
  void the_search_ends_at_full_output() {
    QFETCH(double, knee);
    QFETCH(double, start);
    std::vector<DrivePoint> points{{start, output_at(start, knee), 0.002}};
    double highest = start;
    while (const auto next = next_drive_dbm(points, 0.0)) {
      // Never more than 3 dB above what is known.
      QVERIFY(*next <= highest + 3.0);
      highest = std::max(highest, *next);
      points.push_back({*next, output_at(*next, knee), 0.002});
      QVERIFY(points.size() < 40);
    }
    const auto full = find_full_output(points);
    QVERIFY(full.has_value());
    QVERIFY(full->slope < kFullOutputSlope);
    QVERIFY(full->u_drive_db < 0.2);
    // From there on 1 dB of drive gives less than 0.1 dB.
    double truth = -40.0;
    while (output_at(truth + 1.0, knee) - output_at(truth, knee) >= kFullOutputSlope)
      truth += 0.001;
    QVERIFY2(std::abs(full->drive_dbm - truth) <= 2.0 * full->u_drive_db,
             qPrintable(QString("%1 instead of %2").arg(full->drive_dbm).arg(truth)));
    const double output = output_at(truth, knee) + kFullOutputSlope / 2.0;
    QVERIFY(std::abs(full->output_dbm - output) <= 2.0 * full->u_output_db);
    QVERIFY(std::abs(full->drive_dbm - full->each_tone_dbm - 6.0206) < 1e-3);
    // It never drives far beyond what is needed.
    QVERIFY(highest < full->drive_dbm + 7.0);
  }

  /// Smooth limiters that hold or fall back, with noise: drive and level of the knee.
  void intervals_cover_the_truth_data() {
    QTest::addColumn<double>("order");
    QTest::addColumn<bool>("falls_back");
    for (const double order : {1.0, 2.0, 5.0}) {
      QTest::addRow("order %g", order) << order << false;
      QTest::addRow("order %g, falling back", order) << order << true;
    }
  }
  void intervals_cover_the_truth() {
    QFETCH(double, order);
    QFETCH(bool, falls_back);
    std::mt19937_64 random(static_cast<std::uint64_t>(10.0 * order) + (falls_back ? 1 : 0));
    std::uniform_real_distribution<double> any(0.0, 1.0);
    constexpr int kRuns = draws(40);
    int drives = 0;
    int outputs = 0;
    for (int run = 0; run < kRuns; ++run) {
      const double noise = 0.005 + 0.04 * any(random);
      NormalNumbers<double> gauss(0.0, noise);
      const double back = falls_back ? 0.02 + 0.1 * any(random) : 0.0;
      const double shift = any(random);
      const auto output = [&](double drive) {
        const double beyond = drive + 25.23 - shift - 8.0 / order;
        return output_at(drive - shift, order) - back * std::log1p(std::exp(1.5 * beyond)) / 1.5;
      };
      std::vector<DrivePoint> points;
      std::optional<double> next = -45.0 + 3.0 * any(random);
      while (next) {
        points.push_back({*next, output(*next) + gauss(random), noise});
        QVERIFY(points.size() < 80);
        next = next_drive_dbm(points, 5.0);
      }
      const auto full = find_full_output(points);
      QVERIFY(full.has_value() && !full->is_bound);
      double truth = -45.0;
      while (output(truth + 1.0) - output(truth) >= kFullOutputSlope) truth += 0.002;
      drives += std::abs(full->drive_dbm - truth) <= 2.0 * full->u_drive_db ? 1 : 0;
      outputs += std::abs(full->output_dbm - output(truth) - kFullOutputSlope / 2.0) <=
                         2.0 * full->u_output_db
                     ? 1
                     : 0;
    }
    QVERIFY2(is_share(drives, kRuns, 0.9), qPrintable(QString::number(drives)));
    QVERIFY2(is_share(outputs, kRuns, 0.9), qPrintable(QString::number(outputs)));
  }

  /// Full at the lowest drive already: a limit for the drive, and lower ones are asked for.
  void an_output_that_is_always_full_is_a_bound() {
    std::mt19937 random(9);
    NormalNumbers<double> gauss(0.0, 0.01);
    for (int run = 0; run < draws(40); ++run) {
      std::vector<DrivePoint> points;
      for (double d = -20.0; d <= -14.0; d += 1.0)
        points.push_back({d, 45.0 + gauss(random), 0.01});
      const auto full = find_full_output(points);
      QVERIFY(full.has_value());
      QVERIFY(full->is_bound && full->drive_dbm >= -20.0 && full->drive_dbm < -17.0);
      QVERIFY(std::abs(full->output_dbm - 45.0) <= 2.0 * full->u_output_db);
      QVERIFY(!full->too_little_dbm.has_value());
      for (const Figure& f : to_result(*full, {}).figures)
        QCOMPARE(f.bound, f.id == "full_output" ? Bound::none : Bound::upper);
      QCOMPARE(*next_drive_dbm(points, 0.0), -23.0);
    }
  }

  void order_and_repeats_do_not_matter() {
    std::vector<DrivePoint> points;
    for (double d = -34.0; d <= -18.0; d += 1.0) points.push_back({d, output_at(d, 8.0), 0.01});
    const auto sorted = find_full_output(points);
    std::mt19937 random(1);
    std::shuffle(points.begin(), points.end(), random);
    for (const DrivePoint& p : std::vector<DrivePoint>(points.begin(), points.begin() + 5))
      points.push_back(p);
    const auto shuffled = find_full_output(points);
    QVERIFY(sorted && shuffled);
    QVERIFY(std::abs(sorted->drive_dbm - shuffled->drive_dbm) < 1e-9);
  }

  void noise_does_not_end_it_early() {
    // Scatter of 0.05 dB must not pass for a plateau while the output still follows.
    std::mt19937 random(3);
    NormalNumbers<double> gauss(0.0, 0.05);
    for (int run = 0; run < draws(300); ++run) {
      std::vector<DrivePoint> rising;
      for (double d = -45.0; d <= -27.0; d += 1.0)
        rising.push_back({d, output_at(d, 20.0) + gauss(random), 0.05});
      QVERIFY(!find_full_output(rising).has_value());
    }
  }

  void an_output_that_never_stops_is_not_full() {
    std::vector<DrivePoint> points;
    for (double d = -50.0; d <= -30.0; d += 2.0) points.push_back({d, d + 70.0, 0.0});
    QVERIFY(!find_full_output(points).has_value());
    QVERIFY(!next_drive_dbm(points, -30.0).has_value());
    QCOMPARE(*next_drive_dbm(points, -29.0), -29.0);
    // An output that falls back with more drive is full as well.
    points = {{-30.0, 40.0, 0.0}, {-27.0, 43.0, 0.0}, {-24.0, 44.0, 0.0}, {-21.0, 43.6, 0.0}};
    QVERIFY(find_full_output(points).has_value());
  }

  void too_little_is_refused() {
    const std::vector<DrivePoint> two{{-30.0, 40.0, 0.0}, {-29.0, 41.0, 0.0}};
    QVERIFY(refusal([&] { find_full_output(two); }).contains("three"));
    const std::vector<DrivePoint> odd{
        {-30.0, 40.0, 0.0}, {-29.0, std::nan(""), 0.0}, {-28.0, 41.0, 0.0}};
    QVERIFY(refusal([&] { find_full_output(odd); }).contains("not a number"));
    QVERIFY(!next_drive_dbm({}, 0.0).has_value());
  }
};

HERON_TEST(ReferenceLevelTest)

}  // namespace reference_level_test

#include "reference_level_test.moc"
