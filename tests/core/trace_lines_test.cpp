// Lines in analyser traces made for it: one sweep or many, flat, rising and stepped floors, humps.
#include <QtTest>
#include <functional>
#include <random>

#include "core/error.h"
#include "core/method/purity/purity_reading.h"
#include "core/quantity/levels.h"
#include "core/signal/noise_quantile.h"
#include "core/signal/normal_numbers.h"
#include "core/signal/trace_reader.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace trace_lines_test {

namespace {

struct Made {
  double rbw_hz = 30e3;
  int sweeps = 1;
  TraceDetector detector = TraceDetector::sample;
  std::vector<std::pair<double, double>> lines;  ///< Hz, dBm
  /// Mean noise in the filter, dBm.
  std::function<double(double)> floor = [](double) { return -90.0; };
  std::size_t points = 801;
  double from_hz = 1e6;
  double to_hz = 13e6;
};

/// Signal and noise through a Gaussian filter: noise of neighbouring points is drawn anew, as where
/// points stand half a filter apart or more.
SpectrumTrace trace_of(const Made& m, std::mt19937_64& random) {
  NormalNumbers<double> gauss(0.0, std::sqrt(0.5));
  SpectrumTrace t;
  t.name = "made";
  t.rbw_hz = m.rbw_hz;
  t.detector = m.detector;
  const double step = (m.to_hz - m.from_hz) / static_cast<double>(m.points - 1);
  for (std::size_t i = 0; i < m.points; ++i) {
    const double hz = m.from_hz + step * static_cast<double>(i);
    const double noise = std::sqrt(power_ratio_from_db(m.floor(hz)));
    double sum = 0.0;
    for (int k = 0; k < m.sweeps; ++k) {
      std::complex<double> v(noise * gauss(random), noise * gauss(random));
      for (const auto& [at, dbm] : m.lines)
        v += std::polar(std::sqrt(power_ratio_from_db(dbm + gaussian_skirt_db(hz - at, m.rbw_hz))),
                        6.28 * gauss(random));
      sum += m.detector == TraceDetector::log_average ? db_from_power_ratio(std::norm(v))
                                                      : std::norm(v);
    }
    t.frequency_hz.push_back(hz);
    t.level_dbm.push_back(m.detector == TraceDetector::log_average
                              ? sum / m.sweeps
                              : db_from_power_ratio(sum / m.sweeps));
  }
  return t;
}

bool has_line(const PuritySource& s, double hz, double within_hz) {
  return std::any_of(s.readings.begin(), s.readings.end(), [&](const PurityReading& r) {
    return !r.is_bound && !r.is_wide && std::abs(r.frequency_hz - hz) < within_hz;
  });
}

PuritySource read(const SpectrumTrace& t, double carrier_hz) {
  PurityReadingSettings how;
  how.carrier_hz = carrier_hz;
  return read_purity(t, how);
}

}  // namespace

class TraceLinesTest : public QObject {
  Q_OBJECT
 private slots:
  void quantiles_of_noise_are_those_of_drawn_noise() {
    std::mt19937_64 random(1);
    for (const int sweeps : {1, 2, 8, 40}) {
      std::gamma_distribution<double> mean(sweeps, 1.0 / sweeps);
      std::vector<double> drawn(200000);
      for (double& v : drawn) v = mean(random);
      std::sort(drawn.begin(), drawn.end());
      for (const double p : {0.16, 0.5, 0.84, 0.99, 0.999}) {
        const double there = drawn[static_cast<std::size_t>(p * drawn.size())];
        QVERIFY(std::abs(db_from_power_ratio(noise_quantile(sweeps, p) / there)) <
                (sweeps == 2 ? 0.25 : 0.12));
      }
    }
    for (const double p : {0.001, 0.05, 0.5, 0.9, 0.9999})
      QVERIFY(std::abs(0.5 * std::erfc(-normal_quantile(p) / std::numbers::sqrt2) - p) < 2e-4);
  }

  /// A floor is mean power, however it was averaged.
  void floors_are_mean_powers_data() {
    QTest::addColumn<int>("sweeps");
    QTest::addColumn<int>("detector");
    for (const int sweeps : {1, 4, 30}) {
      QTest::addRow("power, %d", sweeps)
          << sweeps << static_cast<int>(TraceDetector::power_average);
      QTest::addRow("log, %d", sweeps) << sweeps << static_cast<int>(TraceDetector::log_average);
    }
  }
  void floors_are_mean_powers() {
    QFETCH(int, sweeps);
    QFETCH(int, detector);
    std::mt19937_64 random(2);
    Made m;
    m.sweeps = sweeps;
    m.detector = static_cast<TraceDetector>(detector);
    double sum = 0.0;
    int count = 0;
    for (int round = 0; round < 20; ++round) {
      const SpectrumTrace t = trace_of(m, random);
      const TraceReader reader(t);
      for (double hz = 1.5e6; hz < 12.5e6; hz += 0.7e6) {
        sum += reader.floor_dbm(hz, {});
        ++count;
      }
    }
    // A single log sweep is a single sweep: its median is taken for that of 2.5 dB too high a mean.
    const double allowed =
        sweeps == 1 && detector == static_cast<int>(TraceDetector::log_average) ? 1.2 : 0.5;
    QVERIFY2(std::abs(sum / count + 90.0) < allowed, qPrintable(QString::number(sum / count)));
  }

  /// Noise alone: not one trace in thirty shows a line that is not there.
  void noise_makes_no_lines() {
    std::mt19937_64 random(3);
    for (const int sweeps : {1, 3, 20}) {
      int wrong = 0;
      for (int round = 0; round < draws(150); ++round) {
        Made m;
        m.sweeps = sweeps;
        m.detector = TraceDetector::power_average;
        m.lines = {{2e6, 0.0}};
        const PuritySource s = read(trace_of(m, random), 2e6);
        for (const PurityReading& r : s.readings) {
          // Places of harmonics are looked at one by one: see below.
          const bool is_harmonic = std::abs(std::remainder(r.frequency_hz, 2e6)) < 1e5;
          if (!r.is_bound && !r.is_wide && !is_harmonic) ++wrong;
        }
      }
      QVERIFY2(wrong <= 5, qPrintable(QString("%1 sweeps: %2").arg(sweeps).arg(wrong)));
    }
  }

  /// Beside a hump, on a pedestal, under a rising floor, beside a strong line: a spur well above
  /// what is beside it is found.
  void spurs_are_found_wherever_they_stand_data() {
    QTest::addColumn<int>("kind");
    QTest::newRow("flat") << 0;
    QTest::newRow("hump") << 1;
    QTest::newRow("pedestal") << 2;
    QTest::newRow("rising") << 3;
    QTest::newRow("strong line") << 4;
  }
  void spurs_are_found_wherever_they_stand() {
    QFETCH(int, kind);
    std::mt19937_64 random(5);
    std::uniform_real_distribution<double> place(3e6, 11e6);
    int found = 0;
    constexpr int kRounds = draws(100);
    for (int round = 0; round < kRounds; ++round) {
      Made m;
      const double spur = place(random);
      m.sweeps = 1 + round % 4;
      if (kind == 1)
        m.floor = [=](double f) { return -90.0 + (std::abs(f - spur - 6e5) < 4e5 ? 25.0 : 0.0); };
      if (kind == 2)
        m.floor = [=](double f) { return -90.0 + (std::abs(f - spur) < 8e5 ? 20.0 : 0.0); };
      if (kind == 3) m.floor = [](double f) { return -100.0 + 4.0 * f / 1e6; };
      const double base = m.floor(spur);
      m.lines = {{2e6, 0.0}, {spur, base + 22.0}};
      if (kind == 4) m.lines.push_back({spur + 8.0 * m.rbw_hz, base + 70.0});
      found += has_line(read(trace_of(m, random), 2e6), spur, 2.0 * m.rbw_hz) ? 1 : 0;
    }
    QVERIFY2(is_share(found, kRounds, 0.97), qPrintable(QString::number(found)));
  }

  /// A hump is named as what it is, with its density in the filter.
  void humps_are_wide_and_have_their_density() {
    std::mt19937_64 random(7);
    for (int round = 0; round < draws(40); ++round) {
      Made m;
      m.sweeps = 1 + round % 3;
      m.lines = {{2e6, 0.0}};
      m.floor = [](double f) { return -90.0 + 18.0 * std::exp(-std::pow((f - 8e6) / 7e5, 2)); };
      const PuritySource s = read(trace_of(m, random), 2e6);
      int humps = 0;
      for (const PurityReading& r : s.readings) {
        if (!r.is_wide) continue;
        ++humps;
        QVERIFY(std::abs(r.frequency_hz - 8e6) < 6e5);
        QVERIFY2(std::abs(r.level_dbm + 72.0) < 3.0, qPrintable(QString::number(r.level_dbm)));
      }
      QCOMPARE(humps, 1);
    }
  }

  /// Harmonics at and below the noise: what is called a figure is one, and bounds hold.
  void absent_harmonics_are_bounds_that_hold() {
    std::mt19937_64 random(11);
    std::uniform_real_distribution<double> level(-125.0, -82.0);
    int bounds = 0;
    int holding = 0;
    int absent = 0;
    int invented = 0;
    for (int round = 0; round < draws(300); ++round) {
      Made m;
      m.sweeps = round % 3 == 0 ? 1 : round % 3 == 1 ? 2 : 8;
      m.detector = TraceDetector::power_average;
      const double carrier = 1.31e6;
      m.lines = {{carrier, 0.0}};
      std::vector<double> truth;
      for (int n = 2; n <= 9; ++n) {
        truth.push_back(round % 2 == 0 ? level(random) : -200.0);
        m.lines.emplace_back(n * carrier, truth.back());
      }
      const PuritySource s = read(trace_of(m, random), carrier);
      for (int n = 2; n <= 9; ++n) {
        for (const PurityReading& r : s.readings) {
          if (r.is_wide || std::abs(r.frequency_hz - n * carrier) > 2e4) continue;
          const double is = truth[static_cast<std::size_t>(n - 2)];
          if (is < -150.0) {
            ++absent;
            invented += r.is_bound ? 0 : 1;
          }
          if (!r.is_bound) continue;
          ++bounds;
          holding += r.level_dbm >= is ? 1 : 0;
        }
      }
    }
    QVERIFY(absent > draws(1000) && bounds > draws(1000));
    QVERIFY2(is_share(absent - invented, absent, 0.98),
             qPrintable(QString("%1 of %2").arg(invented).arg(absent)));
    QVERIFY2(is_share(holding, bounds, 0.95),
             qPrintable(QString("%1 of %2").arg(holding).arg(bounds)));
  }

  /// Clear lines: the truth lies within twice their uncertainty 19 times in 20.
  void clear_lines_cover_the_truth() {
    std::mt19937_64 random(13);
    std::uniform_real_distribution<double> above(16.0, 40.0);
    int count = 0;
    int inside = 0;
    for (int round = 0; round < draws(400); ++round) {
      Made m;
      m.sweeps = 1 + round % 5;
      m.rbw_hz = 60e3;  // four points in the filter
      const double level = -90.0 + above(random);
      m.lines = {{2e6, 0.0}, {7e6 + 1e3 * (round % 15), level}};
      const PuritySource s = read(trace_of(m, random), 2e6);
      for (const PurityReading& r : s.readings) {
        if (r.is_bound || std::abs(r.frequency_hz - m.lines[1].first) > 5e4) continue;
        ++count;
        inside += std::abs(r.level_dbm - level) <= 2.0 * r.u_db ? 1 : 0;
      }
    }
    QVERIFY(count > draws(390));
    QVERIFY2(is_share(inside, count, 0.92), qPrintable(QString("%1 of %2").arg(inside).arg(count)));
  }

  void other_units_and_settings_are_read_or_refused() {
    const auto text = [](const std::string& head, const std::string& said = "") {
      std::string csv = said + head + "\n";
      for (int i = 1; i <= 10; ++i)
        csv += std::to_string(i * 1000) + "," + std::to_string(40 + i) + "\n";
      return csv;
    };
    const SpectrumTrace dbm = parse_trace(text("frequency_hz,level_dbm"), "a");
    const SpectrumTrace dbuv = parse_trace(text("frequency_hz,level_dbuv"), "b");
    const SpectrumTrace dbmv = parse_trace(text("frequency_hz,Amplitude (dBmV)"), "c");
    QVERIFY(std::abs(dbm.level_dbm[0] - dbuv.level_dbm[0] - 106.9897) < 1e-3);
    QVERIFY(std::abs(dbm.level_dbm[0] - dbmv.level_dbm[0] - 46.9897) < 1e-3);
    for (const char* head : {"frequency_hz,level_v", "frequency_hz,power_w"}) {
      bool is_refused = false;
      try {
        parse_trace(text(head), "d");
      } catch (const InputError& error) {
        is_refused = std::string(error.what()).find("unit") != std::string::npos;
      }
      QVERIFY2(is_refused, head);
    }
    const SpectrumTrace said = parse_trace(
        text("frequency_hz,level_dbm",
             "# rbw_hz: 1064.5\n# rbw_kind: noise\n# detector: log-average\n# averages: 16\n"),
        "e");
    QVERIFY(std::abs(*said.rbw_hz - 1000.0) < 1e-6);
    QCOMPARE(said.detector, TraceDetector::log_average);
    QCOMPARE(said.averages.value_or(0), 16);
    const SpectrumTrace again = parse_trace(trace_csv(said), "f");
    QCOMPARE(again.detector, TraceDetector::log_average);
    QCOMPARE(again.averages.value_or(0), 16);
  }
};

HERON_TEST(TraceLinesTest)

}  // namespace trace_lines_test

#include "trace_lines_test.moc"
