#include <QtTest>
#include <map>

#include "core/error.h"
#include "core/method/phase_noise/noise_capture.h"
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
};

HERON_TEST(PhaseNoiseTest)

}  // namespace phase_noise_test

#include "phase_noise_test.moc"
