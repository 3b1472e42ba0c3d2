#include <QtTest>
#include <fmt/format.h>
#include <random>

#include "core/method/measure/measured_part.h"
#include "core/method/purity/purity_reading.h"
#include "core/method/spread/bandwidth.h"
#include "core/method/two_tone/two_tone.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "tests/core/said.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace keyed_parts_test {

namespace {

using Samples = std::vector<std::complex<float>>;

constexpr double kRate = 24000.0;
constexpr double kFloorDbfs = -62.0;

Samples noise(double seconds, double dbfs, std::uint64_t seed, double rate = kRate) {
  Samples x(static_cast<std::size_t>(std::lround(seconds * rate)));
  std::mt19937_64 random(seed);
  add_noise(x, dbfs, random);
  return x;
}

Samples silence(double seconds, double rate = kRate) {
  return Samples(static_cast<std::size_t>(std::lround(seconds * rate)));
}

/// Two tones with products, noise and keying edges of 5 ms.
Samples keyed(double seconds, std::uint64_t seed, double level_db = 0.0, double rate = kRate,
              double floor_dbfs = kFloorDbfs) {
  TwoToneSignal s;
  s.sample_rate_hz = rate;
  s.seconds = seconds;
  s.amplitude = 0.25;
  s.nonlinearity.coefficients = {-0.3, 0.1};
  s.seed = seed;
  Samples x = generate_two_tone(s);
  const auto edge = static_cast<std::size_t>(0.005 * rate);
  const auto gain = static_cast<float>(std::pow(10.0, level_db / 20.0));
  for (auto& v : x) v *= gain;
  for (std::size_t i = 0; i < edge; ++i) {
    const double part = (static_cast<double>(i) + 0.5) / static_cast<double>(edge);
    const auto w = static_cast<float>(0.5 - 0.5 * std::cos(std::numbers::pi * part));
    x[i] *= w;
    x[x.size() - 1 - i] *= w;
  }
  std::mt19937_64 random(seed);
  add_noise(x, floor_dbfs, random);
  return x;
}

Samples operator+(Samples a, const Samples& b) {
  a.insert(a.end(), b.begin(), b.end());
  return a;
}

TwoToneAnalysis analysed(const Samples& x, double rate = kRate, const TwoToneSettings& s = {}) {
  return analyse_two_tone(memory_capture(x, rate), s);
}

KeyedParts found(const Samples& x, double rate = kRate) {
  return find_keyed_parts(memory_capture(x, rate));
}

/// Every product that both could measure agrees within what both say about themselves.
QString disagreement(const TwoToneAnalysis& a, const TwoToneAnalysis& b) {
  if (a.products.empty() || b.products.empty()) return "no products";
  for (const TwoToneProduct& p : a.products) {
    const TwoToneProduct* q = b.find(p.order, p.side);
    if (q == nullptr) return "a product is missing";
    if (p.is_bound || q->is_bound) continue;
    const double allowed = 3.0 * std::hypot(p.u_db, q->u_db);
    if (std::abs(p.level_dbc - q->level_dbc) > allowed)
      return QString("%1: %2 against %3 dB, allowed %4")
          .arg(QString::fromStdString(product_name(p)))
          .arg(p.level_dbc)
          .arg(q->level_dbc)
          .arg(allowed);
  }
  const double apart = a.pep_dbfs - b.pep_dbfs;
  return std::abs(apart) < 0.01 ? QString() : QString("PEP differs by %1 dB").arg(apart);
}

std::string text_of(const std::vector<Remark>& remarks, const std::string& code) {
  for (const Remark& r : remarks) {
    if (r.code == code) return r.text;
  }
  return {};
}

}  // namespace

class KeyedPartsTest : public QObject {
  Q_OBJECT
 private slots:
  void what_stands_around_the_keying_changes_no_figure_data() {
    QTest::addColumn<int>("before");
    QTest::addColumn<int>("after");
    for (int before = 0; before < 5; ++before) {
      for (int after = 0; after < 5; ++after)
        QTest::addRow("%d-%d", before, after) << before << after;
    }
  }
  void what_stands_around_the_keying_changes_no_figure() {
    QFETCH(int, before);
    QFETCH(int, after);
    std::mt19937_64 random(static_cast<std::uint64_t>(17 * before + after));
    std::uniform_real_distribution<double> length(0.4, 5.0);
    const auto piece = [&](int kind, std::uint64_t seed) -> Samples {
      const double s = length(random);
      switch (kind) {
        case 1:
          return noise(s, kFloorDbfs, seed);
        case 2:
          return silence(s);
        case 3:
          return noise(0.6, kFloorDbfs, seed) + keyed(std::min(s, 3.0), seed + 1) +
                 noise(0.6, kFloorDbfs, seed + 2);
        case 4:
          return keyed(std::min(s, 3.0), seed, -6.0);
        default:
          return {};
      }
    };
    const Samples own = keyed(5.0, 3);
    const TwoToneAnalysis alone = analysed(own);
    const TwoToneAnalysis among = analysed(piece(before, 100) + own + piece(after, 200));
    const QString wrong = disagreement(alone, among);
    QVERIFY2(wrong.isEmpty(), qPrintable(wrong));
    if (before == 0 && after == 0) {
      QVERIFY(alone.parts->measured.length_s > 4.9);
    } else {
      QVERIFY(!among.remarks.empty());
    }
  }

  void finds_the_edges_at_any_rate_data() {
    QTest::addColumn<double>("rate");
    QTest::addColumn<double>("before");
    QTest::addColumn<double>("own");
    QTest::addColumn<double>("after");
    QTest::newRow("audio rate") << 12000.0 << 4.0 << 6.0 << 1.0;
    QTest::newRow("odd rate") << 11025.0 << 1.23 << 3.4 << 2.2;
    QTest::newRow("fast") << 400000.0 << 0.5 << 1.5 << 0.7;
    QTest::newRow("two seconds in a long time") << 8000.0 << 900.0 << 2.0 << 600.0;
    QTest::newRow("short") << 48000.0 << 0.3 << 0.4 << 0.3;
  }
  void finds_the_edges_at_any_rate() {
    QFETCH(double, rate);
    QFETCH(double, before);
    QFETCH(double, own);
    QFETCH(double, after);
    const Samples x = noise(before, kFloorDbfs, 1, rate) + keyed(own, 2, 0.0, rate) +
                      noise(after, kFloorDbfs, 3, rate);
    const KeyedParts p = found(x, rate);
    QCOMPARE(p.keyed.size(), std::size_t{1});
    QVERIFY(p.measured.start_s >= before);
    QVERIFY(p.measured.end_s() <= before + own);
    QVERIFY2(p.measured.length_s > 0.9 * own - 0.06,
             qPrintable(QString::number(p.measured.length_s)));
    QVERIFY(p.level_dbfs.size() <= 1000);
  }

  void never_measures_across_an_edge() {
    // Bursts with gaps, steps and ramps between them, in I/Q and as audio.
    std::mt19937_64 random(2026);
    const auto uniform = [&](double a, double b) {
      return std::uniform_real_distribution<double>(a, b)(random);
    };
    for (std::uint64_t turn = 0; turn < draws(60); ++turn) {
      Samples x;
      struct Edge {
        double start_s, end_s;
      };
      std::vector<Edge> steady;
      const auto now = [&] { return static_cast<double>(x.size()) / kRate; };
      const int pieces = 2 + static_cast<int>(turn % 4);
      for (int i = 0; i < pieces; ++i) {
        const std::uint64_t seed = 100 * turn + static_cast<std::uint64_t>(i);
        const double gap = std::pow(10.0, uniform(-1.5, 0.3));
        const Samples between = turn % 3 == 0 ? silence(gap) : noise(gap, kFloorDbfs, 7 * seed + 1);
        x = std::move(x) + between;
        const double start = now();
        // One after the other: the order of arguments is the compiler's.
        const double seconds = uniform(0.8, 3.0);
        const double level_db = uniform(-15.0, 0.0);
        Samples burst = keyed(seconds, seed, level_db);
        double ramp = 0.0;
        if (turn % 5 == 0) {  // fades in
          ramp = 0.3;
          const auto n = static_cast<std::size_t>(ramp * kRate);
          for (std::size_t k = 0; k < n; ++k)
            burst[k] *= static_cast<float>(k) / static_cast<float>(n);
        }
        x = std::move(x) + burst;
        steady.push_back({start + ramp, now()});
      }
      x = std::move(x) + noise(uniform(0.05, 2.0), kFloorDbfs, turn + 1);
      KeyedParts p;
      if (turn % 2 == 0) {
        p = found(x);
      } else {
        std::vector<float> audio;
        for (const auto& v : x) audio.push_back(v.real());
        p = find_keyed_parts(memory_capture(audio, kRate));
      }
      double longest = 0.0;
      bool is_inside = false;
      for (const Edge& e : steady) {
        longest = std::max(longest, e.end_s - e.start_s);
        // A linear fade is within a dB of its end for its last tenth; edges are found to a cell.
        is_inside = is_inside || (p.measured.start_s >= e.start_s - 0.1 * 0.3 - p.cell_s &&
                                  p.measured.end_s() <= e.end_s + 1e-9);
      }
      QString edges;
      for (const Edge& e : steady) edges += QString(" [%1 %2]").arg(e.start_s).arg(e.end_s);
      QVERIFY2(is_inside, qPrintable(QString("turn %1: %2 to %3 s of%4")
                                         .arg(turn)
                                         .arg(p.measured.start_s)
                                         .arg(p.measured.end_s())
                                         .arg(edges)));
      QVERIFY2(p.measured.length_s > 0.6 * longest,
               qPrintable(
                   QString("turn %1: %2 of %3 s").arg(turn).arg(p.measured.length_s).arg(longest)));
    }
  }

  void a_recording_keyed_from_end_to_end_is_measured_whole() {
    for (std::uint64_t seed = 1; seed <= 6; ++seed) {
      TwoToneSignal s;
      s.seconds = 3.0 + static_cast<double>(seed);
      s.noise_dbfs = -20.0 - 10.0 * static_cast<double>(seed);
      s.seed = seed;
      s.drift_hz = static_cast<double>(seed);
      const KeyedParts p = find_keyed_parts(memory_capture(generate_two_tone(s), 48000.0));
      QVERIFY(p.is_whole());
      QVERIFY(part_remarks(p).empty());
      // Nothing but noise, and nothing at all, are whole too.
      QVERIFY(found(noise(4.0, -30.0, seed)).is_whole());
    }
    QVERIFY(found(silence(3.0)).is_whole());
  }

  void a_slow_beat_is_no_keying() {
    // A carrier beats with the recorder's offset, and the level sways by some tenths of a decibel.
    for (const double beat_hz : {0.3, 0.9, 2.7, 8.0}) {
      for (const double depth : {0.02, 0.08}) {
        Samples x = keyed(8.0, 1);
        for (std::size_t i = 0; i < x.size(); ++i) {
          const double t = static_cast<double>(i) / kRate;
          x[i] *= static_cast<float>(1.0 + depth * std::sin(2.0 * std::numbers::pi * beat_hz * t));
        }
        const KeyedParts p = found(noise(2.0, kFloorDbfs, 5) + x);
        QVERIFY2(p.measured.length_s > 7.0,
                 qPrintable(
                     QString("%1 Hz, %2: %3 s").arg(beat_hz).arg(depth).arg(p.measured.length_s)));
        QCOMPARE(p.keyed.size(), std::size_t{1});
      }
    }
  }

  void tells_a_weak_signal_from_the_noise_of_a_wide_band() {
    // The tones carry a hundredth of the power: the level alone does not show them.
    const double rate = 200000.0;
    TwoToneSignal s;
    s.sample_rate_hz = rate;
    s.seconds = 3.0;
    s.amplitude = 0.002;
    Samples own = generate_two_tone(s);
    std::mt19937_64 random(5);
    add_noise(own, -31.0, random);
    const KeyedParts p = found(noise(4.0, -31.0, 6, rate) + own, rate);
    QVERIFY2(p.measured.start_s > 3.9 && p.measured.start_s < 4.4,
             qPrintable(QString::number(p.measured.start_s)));
    QVERIFY(p.measured.end_s() > 6.8);
  }

  void noise_louder_than_the_tones_is_not_what_is_measured() {
    const KeyedParts p = found(noise(6.0, -6.0, 1) + keyed(3.0, 2));
    QVERIFY(p.measured.start_s >= 6.0);
  }

  void stations_that_are_there_all_the_time_are_no_keying() {
    Samples x = noise(5.0, kFloorDbfs, 1) + keyed(3.0, 2) + noise(2.0, kFloorDbfs, 3);
    for (std::size_t i = 0; i < x.size(); ++i) {
      const double t = static_cast<double>(i) / kRate;
      x[i] += std::complex<float>(std::polar(0.1, 2.0 * std::numbers::pi * 7000.0 * t));
    }
    const KeyedParts p = found(x);
    QCOMPARE(p.keyed.size(), std::size_t{1});
    QVERIFY(p.measured.start_s >= 5.0 && p.measured.end_s() <= 8.0);
  }

  void says_where_the_level_steps_and_which_part_is_measured() {
    for (const double step : {-12.0, -6.1, -1.0, 0.8, 6.1, 13.0}) {
      const Samples x = keyed(5.0, 1) + keyed(4.0, 2, step);
      const MeasuredPart m = measured_part(memory_capture(x, kRate), std::nullopt);
      QCOMPARE(m.parts.keyed.size(), std::size_t{2});
      QVERIFY(m.parts.measured.end_s() <= 5.0 && m.parts.measured.length_s > 4.8);
      const std::string said = text_of(m.remarks, "level_step");
      QVERIFY2(said.find("the part before it is measured") != std::string::npos, said.c_str());
      QVERIFY2(said.find(fmt::format("{:.1f} dB", std::abs(step))) != std::string::npos,
               said.c_str());
    }
  }

  void says_when_it_was_keyed() {
    const MeasuredPart one = measured_part(
        memory_capture(noise(4.0, kFloorDbfs, 1) + keyed(6.0, 2), kRate), std::nullopt);
    const std::string said = text_of(one.remarks, "keyed_part");
    QVERIFY2(said.starts_with("Keyed from 4.0"), said.c_str());
    const MeasuredPart two =
        measured_part(memory_capture(noise(1.0, kFloorDbfs, 1) + keyed(2.0, 2) +
                                         noise(1.0, kFloorDbfs, 3) + keyed(4.0, 4),
                                     kRate),
                      std::nullopt);
    QVERIFY(text_of(two.remarks, "keyed_parts").starts_with("Keyed 2 times"));
    QVERIFY(two.parts.measured.start_s >= 4.0);
  }

  void leaves_out_settling_and_says_so_but_keeps_a_slow_drift() {
    Samples x = keyed(6.0, 1);
    for (std::size_t i = 0; i < x.size(); ++i) {
      const double t = static_cast<double>(i) / kRate;
      x[i] *= static_cast<float>(std::pow(10.0, 1.5 * std::exp(-t / 0.15) / 20.0));
    }
    const MeasuredPart settling =
        measured_part(memory_capture(noise(2.0, kFloorDbfs, 5) + x, kRate), std::nullopt);
    const double start = settling.parts.measured.start_s;
    QVERIFY2(start > 2.2 && start < 3.2, qPrintable(QString::number(start)));
    QVERIFY(has_remark(settling.remarks, "settling") || has_remark(settling.remarks, "level_step"));

    Samples slow = keyed(6.0, 1);
    for (std::size_t i = 0; i < slow.size(); ++i)
      slow[i] *= static_cast<float>(
          std::pow(10.0, -1.0 * static_cast<double>(i) / static_cast<double>(slow.size()) / 20.0));
    const MeasuredPart drift = measured_part(memory_capture(slow, kRate), std::nullopt);
    QVERIFY(drift.parts.measured.length_s > 5.8);
    QVERIFY(text_of(drift.remarks, "level_drift").find("falls by 0.9") != std::string::npos ||
            text_of(drift.remarks, "level_drift").find("falls by 1.0") != std::string::npos);
  }

  void a_part_that_somebody_chose_is_measured_as_it_is() {
    const Samples x = noise(2.0, kFloorDbfs, 1) + keyed(5.0, 2) + noise(2.0, kFloorDbfs, 3);
    TwoToneSettings s;
    s.part = TimeSpan{3.0, 2.0};
    const TwoToneAnalysis good = analysed(x, kRate, s);
    QVERIFY(good.parts->is_chosen);
    QVERIFY(good.parts->measured == (TimeSpan{3.0, 2.0}));
    QVERIFY(!has_remark(good.remarks, "part_not_keyed"));
    s.part = TimeSpan{1.0, 3.0};
    QVERIFY(has_remark(analysed(x, kRate, s).remarks, "part_not_keyed"));
    s.part = TimeSpan{30.0, 1.0};
    QVERIFY_THROWS_EXCEPTION(InputError, analysed(x, kRate, s));
  }

  void other_methods_measure_the_same_part() {
    const Samples own = keyed(5.0, 2);
    const Samples x = noise(3.0, kFloorDbfs, 1) + own + silence(2.0);
    const auto bare = analyse_bandwidth(memory_capture(own, kRate));
    const auto wide = analyse_bandwidth(memory_capture(x, kRate));
    QVERIFY(bare.occupied && wide.occupied);
    QVERIFY(std::abs(bare.occupied->width_hz() - wide.occupied->width_hz()) <=
            3.0 * std::hypot(bare.occupied->u_hz, wide.occupied->u_hz));
    PurityReadingSettings settings;
    settings.carrier_hz = 14.2e6 + 650.0;
    settings.center_hz = 14.2e6;
    const PuritySource a = read_purity(memory_capture(own, kRate), settings);
    const PuritySource b = read_purity(memory_capture(x, kRate), settings);
    const PurityReading* ca = carrier_in(a, settings.carrier_hz);
    const PurityReading* cb = carrier_in(b, settings.carrier_hz);
    QVERIFY(ca != nullptr && cb != nullptr);
    QVERIFY(std::abs(ca->level_dbm - cb->level_dbm) < 0.02);
  }

  void is_kept_with_the_record() {
    const KeyedParts p = found(noise(1.0, kFloorDbfs, 1) + keyed(2.0, 2, -3.0) + keyed(3.0, 4));
    const KeyedParts back = keyed_parts_of({{"parts", to_json(std::optional(p))}}).value();
    QVERIFY(back.measured == p.measured);
    QCOMPARE(back.keyed.size(), p.keyed.size());
    QVERIFY(back.chosen_stretch == p.chosen_stretch);
    QCOMPARE(back.level_dbfs.size(), p.level_dbfs.size());
    QVERIFY(std::abs(back.level_dbfs[10] - p.level_dbfs[10]) <= 0.051F);
  }
};

HERON_LOOP_TEST(KeyedPartsTest)

}  // namespace keyed_parts_test

#include "keyed_parts_test.moc"
