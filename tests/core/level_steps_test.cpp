#include "core/signal/level_steps.h"

#include <QtTest>
#include <random>

#include "core/quantity/levels.h"
#include "core/signal/normal_numbers.h"
#include "tests/test_program.h"

using namespace heron;

namespace level_steps_test {

namespace {

/// A staircase of levels, each so many cells long, with a scatter from cell to cell in dB.
struct Staircase {
  std::vector<double> levels_db;
  std::vector<std::size_t> cells;
  std::vector<double> power;

  Staircase(std::mt19937_64& random, double scatter_db, std::size_t steps, double least_step_db) {
    std::uniform_int_distribution<std::size_t> length(80, 400);
    std::uniform_real_distribution<double> more(0.0, 15.0);
    NormalNumbers<double> scatter(0.0, scatter_db);
    double level = -40.0;
    for (std::size_t i = 0; i < steps; ++i) {
      levels_db.push_back(level);
      cells.push_back(length(random));
      for (std::size_t k = 0; k < cells.back(); ++k)
        power.push_back(power_ratio_from_db(level + (scatter_db > 0.0 ? scatter(random) : 0.0)));
      level += (i % 2 == 0 ? 1.0 : -1.0) * (least_step_db + more(random));
    }
  }
};

std::vector<double> scaled(std::vector<double> power, double by) {
  for (double& p : power) p *= by;
  return power;
}

std::size_t covered(const std::vector<LevelStretch>& stretches) {
  std::size_t at = 0;
  for (const LevelStretch& s : stretches) {
    if (s.first != at || s.count == 0) return 0;
    at += s.count;
  }
  return at;
}

}  // namespace

class LevelStepsTest : public QObject {
  Q_OBJECT
 private slots:
  void a_staircase_is_cut_where_it_steps_data() {
    QTest::addColumn<double>("scatter_db");
    QTest::addColumn<double>("least_step_db");
    QTest::newRow("without scatter") << 0.0 << 0.5;
    QTest::newRow("little scatter") << 0.05 << 1.0;
    QTest::newRow("some scatter") << 0.2 << 2.0;
    QTest::newRow("much scatter") << 0.6 << 5.0;
  }
  void a_staircase_is_cut_where_it_steps() {
    QFETCH(double, scatter_db);
    QFETCH(double, least_step_db);
    for (std::uint64_t seed = 1; seed <= 40; ++seed) {
      std::mt19937_64 random(seed);
      const Staircase made(random, scatter_db, 1 + seed % 7, least_step_db);
      const auto found = level_stretches(made.power);
      QCOMPARE(covered(found), made.power.size());
      QCOMPARE(found.size(), made.cells.size());
      std::size_t first = 0;
      for (std::size_t i = 0; i < found.size(); ++i) {
        const auto away =
            std::abs(static_cast<double>(found[i].first) - static_cast<double>(first));
        QVERIFY2(
            away <= 2.0,
            qPrintable(QString("seed %1: cut %2 is %3 cells away").arg(seed).arg(i).arg(away)));
        const double level = db_from_power_ratio(found[i].power);
        QVERIFY(std::abs(level - made.levels_db[i]) < 0.05 + 1.0 * scatter_db);
        QVERIFY(found[i].scatter_db < 0.05 + 1.5 * scatter_db);
        first += made.cells[i];
      }
    }
  }

  void one_level_is_one_stretch_however_it_scatters() {
    for (const double scatter_db : {0.0, 0.01, 0.3, 1.0, 3.0}) {
      for (std::uint64_t seed = 1; seed <= 30; ++seed) {
        std::mt19937_64 random(seed);
        const Staircase made(random, scatter_db, 1, 1.0);
        QCOMPARE(level_stretches(made.power).size(), std::size_t{1});
      }
    }
  }

  /// Exponential powers, as narrow noise has them in short cells.
  void noise_of_any_averaging_is_one_stretch() {
    for (const int averages : {4, 16, 64, 400}) {
      for (std::uint64_t seed = 1; seed <= 20; ++seed) {
        std::mt19937_64 random(seed);
        std::gamma_distribution<double> power(averages, 1.0 / averages);
        std::vector<double> cells(600);
        for (double& p : cells) p = 1e-6 * power(random);
        QCOMPARE(level_stretches(cells).size(), std::size_t{1});
      }
    }
  }

  void a_drift_is_no_step() {
    for (const double range_db : {0.5, 2.0, 6.0, -3.0}) {
      for (const double scatter_db : {0.01, 0.1}) {
        std::mt19937_64 random(9);
        NormalNumbers<double> scatter(0.0, scatter_db);
        std::vector<double> cells(1500);
        for (std::size_t i = 0; i < cells.size(); ++i)
          cells[i] = power_ratio_from_db(-20.0 + scatter(random) +
                                         range_db * static_cast<double>(i) / 1500.0);
        QVERIFY2(level_stretches(cells).size() == 1,
                 qPrintable(QString("%1 dB, %2 dB").arg(range_db).arg(scatter_db)));
      }
    }
  }

  void gain_and_direction_change_nothing() {
    for (std::uint64_t seed = 1; seed <= 15; ++seed) {
      std::mt19937_64 random(seed);
      const Staircase made(random, 0.1, 4, 2.0);
      const auto found = level_stretches(made.power);
      for (const double by : {1e-6, 0.25, 100.0}) {
        const auto other = level_stretches(scaled(made.power, by));
        QCOMPARE(other.size(), found.size());
        for (std::size_t i = 0; i < found.size(); ++i) {
          QCOMPARE(other[i].first, found[i].first);
          QVERIFY(std::abs(other[i].power / found[i].power - by) < 1e-9 * by);
        }
      }
      std::vector<double> back(made.power.rbegin(), made.power.rend());
      const auto mirrored = level_stretches(back);
      QCOMPARE(mirrored.size(), found.size());
      for (std::size_t i = 0; i < found.size(); ++i) {
        const LevelStretch& m = mirrored[found.size() - 1 - i];
        const double away = static_cast<double>(back.size() - m.first - m.count) -
                            static_cast<double>(found[i].first);
        QVERIFY(std::abs(away) <= 1.0);
      }
    }
  }

  void silence_and_next_to_nothing_are_handled() {
    QVERIFY(level_stretches({}).empty());
    QCOMPARE(level_stretches(std::vector<double>{1.0}).size(), std::size_t{1});
    QCOMPARE(level_stretches(std::vector<double>(500, 0.0)).size(), std::size_t{1});
    // What lies below the least bit of any recorder is equally silent.
    std::vector<double> cells(300, 0.0);
    for (std::size_t i = 100; i < 200; ++i) cells[i] = 1e-18;
    QCOMPARE(level_stretches(cells).size(), std::size_t{1});
    for (std::size_t i = 100; i < 200; ++i) cells[i] = 1e-3;
    const auto burst = level_stretches(cells);
    QCOMPARE(burst.size(), std::size_t{3});
    QCOMPARE(burst[1].first, std::size_t{100});
    QCOMPARE(burst[1].count, std::size_t{100});
  }

  void the_scatter_is_that_of_the_neighbours_and_steps_do_not_raise_it() {
    for (const double sigma : {0.05, 0.5, 2.0}) {
      std::mt19937_64 random(4);
      NormalNumbers<double> scatter(0.0, sigma);
      std::vector<double> db(4000);
      for (double& v : db) v = -30.0 + scatter(random);
      QVERIFY(std::abs(neighbour_scatter(db) / sigma - 1.0) < 0.06);
      for (std::size_t i = 1000; i < db.size(); ++i) db[i] += 25.0;
      for (std::size_t i = 3000; i < db.size(); ++i) db[i] -= 40.0;
      QVERIFY(std::abs(neighbour_scatter(db) / sigma - 1.0) < 0.06);
    }
    QCOMPARE(neighbour_scatter({}), 0.0);
    QCOMPARE(neighbour_scatter(std::vector<double>{-3.0}), 0.0);
  }

  void cells_are_joined_until_they_are_quiet_enough_but_never_too_long() {
    std::mt19937_64 random(8);
    const auto noise = [&](int averages, std::size_t cells) {
      std::gamma_distribution<double> power(averages, 1.0 / averages);
      std::vector<double> out(cells);
      for (double& p : out) p = power(random);
      return out;
    };
    QCOMPARE(cells_to_join(std::vector<double>(1000, 0.5), 0.005), std::size_t{1});
    QCOMPARE(cells_to_join(noise(1000, 4000), 0.005), std::size_t{1});
    const std::size_t speech = cells_to_join(noise(8, 4000), 0.005);
    QVERIFY2(speech >= 8 && speech <= 64, qPrintable(QString::number(speech)));
    // A quarter of a second is the longest, and some cells have to be left.
    QVERIFY(cells_to_join(noise(1, 16000), 0.005) * 0.005 <= 0.25);
    QCOMPARE(cells_to_join(noise(1, 100), 0.005), std::size_t{1});
    QCOMPARE(cells_to_join(noise(1, 4000), 0.2), std::size_t{1});
  }
};

HERON_LOOP_TEST(LevelStepsTest)

}  // namespace level_steps_test

#include "level_steps_test.moc"
