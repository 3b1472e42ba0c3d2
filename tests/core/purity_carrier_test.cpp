// A carrier that does not stand still, or whose top was cut off.
#include <QtTest>
#include <numbers>
#include <random>

#include "core/method/purity/purity_coverage.h"
#include "core/method/purity/purity_reading.h"
#include "core/quantity/levels.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "core/signal/trace_csv.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;

namespace purity_carrier_test {

using heron::testing::has_remark;

namespace {

constexpr double kRate = 192000.0;
constexpr double kCentreHz = 14.2e6;

struct Moving {
  double drift_hz = 0.0;      ///< over the whole recording
  double deviation_hz = 0.0;  ///< of a 3 Hz frequency modulation
  double spur_dbc = -50.0;
};

/// A carrier at +10 kHz and a line of the same transmitter 5 kHz above it.
CaptureOpener recording(const Moving& m, std::mt19937_64& random) {
  NormalNumbers<double> gauss(0.0, 1e-4);
  const std::size_t frames = 1U << 20U;
  const double seconds = static_cast<double>(frames) / kRate;
  std::vector<std::complex<float>> x(frames);
  double phase = 0.0;
  for (std::size_t i = 0; i < frames; ++i) {
    const double t = static_cast<double>(i) / kRate;
    const double f = 10e3 + m.drift_hz * (t / seconds - 0.5) +
                     m.deviation_hz * std::sin(2.0 * std::numbers::pi * 3.0 * t);
    phase += 2.0 * std::numbers::pi * f / kRate;
    const double spur = phase + 2.0 * std::numbers::pi * 5000.0 * t;
    const std::complex<double> v = std::polar(0.3, phase) +
                                   std::polar(0.3 * std::pow(10.0, m.spur_dbc / 20.0), spur) +
                                   std::complex(gauss(random), gauss(random));
    x[i] = std::complex<float>(v);
  }
  return memory_capture(std::move(x), kRate);
}

PuritySource read(const Moving& m, std::mt19937_64& random) {
  PurityReadingSettings settings;
  settings.carrier_hz = kCentreHz + 10e3;
  settings.center_hz = kCentreHz;
  return read_purity(recording(m, random), settings);
}

SpectrumTrace trace_of(double points_per_rbw, const std::function<double(double)>& level) {
  SpectrumTrace t;
  t.name = "made";
  t.rbw_hz = 10e3;
  const double spacing = *t.rbw_hz / points_per_rbw;
  for (int i = 0; i < 1001; ++i) {
    t.frequency_hz.push_back(kCentreHz + (i - 500) * spacing);
    t.level_dbm.push_back(level((i - 500) * spacing / *t.rbw_hz));
  }
  return t;
}

}  // namespace

class PurityCarrierTest : public QObject {
  Q_OBJECT
 private slots:
  void a_moving_carrier_keeps_its_level_and_is_named_data() {
    QTest::addColumn<double>("drift_hz");
    QTest::addColumn<double>("deviation_hz");
    for (const double drift : {0.0, 30.0, -120.0, 600.0})
      QTest::addRow("drift %g Hz", drift) << drift << 0.0;
    for (const double deviation : {40.0, 200.0})
      QTest::addRow("deviation %g Hz", deviation) << 0.0 << deviation;
  }
  void a_moving_carrier_keeps_its_level_and_is_named() {
    QFETCH(double, drift_hz);
    QFETCH(double, deviation_hz);
    std::mt19937_64 random(3);
    const PuritySource s = read({drift_hz, deviation_hz, -45.0}, random);
    const PurityReading* carrier = carrier_in(s, kCentreHz + 10e3);
    QVERIFY(carrier != nullptr);
    const double truth = 20.0 * std::log10(0.3);
    QVERIFY2(std::abs(carrier->level_dbm - truth) < 0.15,
             qPrintable(QString::number(carrier->level_dbm - truth)));
    // The other line keeps its ratio, and there is no third.
    const PurityReading* spur = nullptr;
    for (const PurityReading& r : s.readings) {
      if (&r == carrier || r.is_bound) continue;
      QVERIFY2(std::abs(r.frequency_hz - kCentreHz - 15e3) < 500.0,
               qPrintable(QString::number(r.frequency_hz - kCentreHz)));
      QVERIFY(spur == nullptr);
      spur = &r;
    }
    // Spread over hundreds of bins it is no line any more, and nobody says that it was not there.
    const bool may_hide = std::abs(drift_hz) > 500.0 || deviation_hz > 100.0;
    QVERIFY(spur != nullptr || may_hide);
    if (spur != nullptr)
      QVERIFY2(std::abs(spur->level_dbm - carrier->level_dbm + 45.0) < 0.4,
               qPrintable(QString::number(spur->level_dbm - carrier->level_dbm)));
    else
      QVERIFY(*s.sees_from_dbm(kCentreHz + 15e3) > truth - 45.0);
    QCOMPARE(has_remark(s.remarks, "carrier_drift"), drift_hz != 0.0);
    QCOMPARE(has_remark(s.remarks, "carrier_wide"), deviation_hz != 0.0);
  }

  /// Near a wandering carrier nothing is told apart, and below the last of a full list nothing was
  /// read: the mask is not all judged there.
  void what_a_wandering_carrier_hides_is_not_judged() {
    std::mt19937_64 random(17);
    const PuritySource s = read({0.0, 200.0, -45.0}, random);
    const double carrier = kCentreHz + 10e3;
    QVERIFY(!s.sees_from_dbm(carrier - 400.0) && !s.sees_from_dbm(carrier + 400.0));
    QVERIFY(s.sees_from_dbm(carrier + 30e3).has_value());
    Mask mask;
    mask.name = "near";
    MaskSegment near;
    near.from_hz = carrier + 300.0;
    near.to_hz = carrier + 2000.0;
    near.limit_dbc = -20.0;
    mask.segments = {near};
    PuritySettings settings;
    settings.carrier_hz = carrier;
    settings.mask = mask;
    QCOMPARE(assess_purity({s}, settings).verdict(), Verdict::incomplete);

    // A list that is full of stronger lines.
    std::vector<std::complex<float>> x(1U << 20U);
    NormalNumbers<double> gauss(0.0, 1e-6);
    std::vector<std::complex<double>> turn;
    for (int k = 0; k < 80; ++k)
      turn.push_back(std::polar(1.0, 2.0 * std::numbers::pi * (-80e3 + 1000.0 * k) / kRate));
    std::vector<std::complex<double>> line(turn.size(), 1e-3);
    double phase = 0.0;
    for (std::size_t i = 0; i < x.size(); ++i) {
      const double t = static_cast<double>(i) / kRate;
      phase += 2.0 * std::numbers::pi *
               (30e3 + 200.0 * std::sin(2.0 * std::numbers::pi * 3.0 * t)) / kRate;
      std::complex<double> v = std::polar(0.3, phase) + std::complex<double>{gauss(random), 0.0};
      for (std::size_t k = 0; k < line.size(); ++k) v += line[k] *= turn[k];
      x[i] = std::complex<float>(v);
    }
    PurityReadingSettings how;
    how.carrier_hz = kCentreHz + 30e3;
    how.center_hz = kCentreHz;
    const PuritySource full = read_purity(memory_capture(std::move(x), kRate), how);
    for (int k = 0; k < 80; ++k) {
      const double hz = kCentreHz - 80e3 + 1000.0 * k;
      const bool is_read =
          std::any_of(full.readings.begin(), full.readings.end(), [&](const PurityReading& r) {
            return !r.is_bound && std::abs(r.frequency_hz - hz) < 500.0;
          });
      const auto from = full.sees_from_dbm(hz);
      QVERIFY2(is_read || !from || *from >= -60.1, qPrintable(QString::number(k)));
    }
  }

  /// A strong line near the carrier is never taken for its drift.
  void two_lines_are_not_one_that_moves() {
    std::mt19937_64 random(13);
    std::uniform_real_distribution<double> any(0.0, 1.0);
    for (int round = 0; round < 12; ++round) {
      const double apart = 40.0 + 2500.0 * any(random) * any(random);
      const double below_db = 3.0 + 37.0 * any(random);
      NormalNumbers<double> gauss(0.0, 1e-4);
      std::vector<std::complex<float>> x(1U << 20U);
      for (std::size_t i = 0; i < x.size(); ++i) {
        const double t = 2.0 * std::numbers::pi * static_cast<double>(i) / kRate;
        x[i] = std::complex<float>(
            std::polar(0.3, 10e3 * t) +
            std::polar(0.3 * std::pow(10.0, -below_db / 20.0), (10e3 + apart) * t) +
            std::complex(gauss(random), gauss(random)));
      }
      PurityReadingSettings settings;
      settings.carrier_hz = kCentreHz + 10e3;
      settings.center_hz = kCentreHz;
      const PuritySource s = read_purity(memory_capture(std::move(x), kRate), settings);
      QVERIFY(!has_remark(s.remarks, "carrier_drift") && !has_remark(s.remarks, "carrier_wide"));
      QVERIFY2(std::any_of(s.readings.begin(), s.readings.end(),
                           [&](const PurityReading& r) {
                             return std::abs(r.frequency_hz - kCentreHz - 10e3 - apart) < 10.0 &&
                                    std::abs(r.level_dbm - 20.0 * std::log10(0.3) + below_db) < 0.3;
                           }),
               qPrintable(QString("%1 Hz, %2 dB").arg(apart).arg(below_db)));
    }
  }

  void noise_alone_is_no_wide_carrier() {
    std::mt19937_64 random(21);
    NormalNumbers<double> gauss(0.0, 1e-3);
    for (int round = 0; round < 4; ++round) {
      std::vector<std::complex<float>> x(1U << 19U);
      for (auto& v : x) v = {static_cast<float>(gauss(random)), static_cast<float>(gauss(random))};
      PurityReadingSettings settings;
      settings.carrier_hz = kCentreHz / 2.0;
      settings.center_hz = kCentreHz;
      const PuritySource s = read_purity(memory_capture(std::move(x), kRate), settings);
      QVERIFY(!has_remark(s.remarks, "carrier_drift") && !has_remark(s.remarks, "carrier_wide"));
    }
  }

  void a_trace_at_one_level_shows_no_line() {
    const SpectrumTrace t = trace_of(8.0, [](double) { return -10.0; });
    PurityReadingSettings settings;
    settings.carrier_hz = kCentreHz;
    const PuritySource s = read_purity(t, settings);
    QVERIFY(!has_remark(s.remarks, "flat_top"));
    QVERIFY(carrier_in(s, kCentreHz) == nullptr);
  }

  void a_recording_that_clips_is_named_in_its_remark() {
    std::vector<std::complex<float>> x(1U << 18U);
    for (std::size_t i = 0; i < x.size(); ++i) {
      const auto v =
          std::polar(2.0, 2.0 * std::numbers::pi * 10e3 * static_cast<double>(i) / kRate);
      x[i] = {static_cast<float>(std::clamp(v.real(), -0.5, 0.5)),
              static_cast<float>(std::clamp(v.imag(), -0.5, 0.5))};
    }
    CaptureInfo about;
    about.name = "third.wav";
    about.is_float = true;
    about.bits = 32;
    PurityReadingSettings settings;
    settings.carrier_hz = kCentreHz + 10e3;
    settings.center_hz = kCentreHz;
    const PuritySource s = read_purity(memory_capture(std::move(x), kRate, about), settings);
    const auto said = std::find_if(s.remarks.begin(), s.remarks.end(),
                                   [](const Remark& r) { return r.code == "clipping"; });
    QVERIFY(said != s.remarks.end());
    QVERIFY2(said->text.find("third.wav: ") == 0, said->text.c_str());
  }

  void a_top_that_was_cut_off_is_named() {
    std::mt19937_64 random(5);
    std::uniform_real_distribution<double> any(0.0, 1.0);
    NormalNumbers<double> gauss(0.0, 1.0);
    for (int round = 0; round < 60; ++round) {
      const double density = 4.0 + 20.0 * any(random);
      const double cut = 1.0 + 8.0 * any(random);
      const int kind = round % 3;
      // A Gaussian filter; one with a flat top (0.05 dB over a third of its width); one cut off.
      const SpectrumTrace t = trace_of(density, [&](double x) {
        const double noise = -80.0 + gauss(random);
        double line = -12.0 * x * x;
        if (kind == 1)
          line = std::abs(x) < 0.15 ? -0.04 * std::abs(x) / 0.15 : -12.0 * (x * x - 0.02);
        if (kind == 2) line = std::min(line, -cut);
        return std::max(noise, line);
      });
      PurityReadingSettings settings;
      settings.carrier_hz = kCentreHz;
      const PuritySource s = read_purity(t, settings);
      // Cut 1 dB down it is flat over 0.58 of the width.
      QVERIFY2(has_remark(s.remarks, "flat_top") == (kind == 2),
               qPrintable(QString("kind %1, %2 dB, %3 points").arg(kind).arg(cut).arg(density)));
    }
  }
};

HERON_LOOP_TEST(PurityCarrierTest)

}  // namespace purity_carrier_test

#include "purity_carrier_test.moc"
