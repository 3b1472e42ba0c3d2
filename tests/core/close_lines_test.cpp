#include "core/method/two_tone/close_lines.h"

#include <QtTest>
#include <random>

#include "core/quantity/levels.h"
#include "tests/core/made_analysis.h"
#include "tests/core/said.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace close_lines_test {

namespace {

/// Tones whose lower IM5 lies `apart_hz` from the image of the upper one.
TwoToneSignal beside_an_image(double apart_hz, double seconds) {
  TwoToneSignal s;
  s.f1_hz = 650.3;
  s.f2_hz = 3.0 * s.f1_hz - apart_hz;
  s.seconds = seconds;
  s.amplitude = 0.25;
  s.nonlinearity.coefficients = {-0.3, 1.5};
  s.image_dbc = -38.0;
  s.noise_dbfs = -60.0;
  return s;
}

double true_dbc(const TwoToneSignal& s, std::size_t k) {
  const auto truth = two_tone_amplitudes(s.nonlinearity, s.amplitude);
  return db_from_voltage_ratio(std::abs(truth[k] / truth[0]));
}

}  // namespace

class CloseLinesTest : public QObject {
  Q_OBJECT
 private slots:
  void a_product_beside_an_image_is_a_figure_where_the_record_parts_them_data() {
    QTest::addColumn<double>("apart_hz");
    QTest::addColumn<double>("seconds");
    QTest::newRow("14 Hz in 30 s") << 14.0 << 30.0;
    QTest::newRow("14 Hz in 0.6 s") << 14.0 << 0.6;
    QTest::newRow("2 Hz in 3 s") << 2.0 << 3.0;
    QTest::newRow("0.6 Hz in 8 s") << 0.6 << 8.0;
    QTest::newRow("40 Hz in 2 s") << 40.0 << 2.0;
  }
  void a_product_beside_an_image_is_a_figure_where_the_record_parts_them() {
    QFETCH(double, apart_hz);
    QFETCH(double, seconds);
    for (std::uint64_t seed = 1; seed <= 2; ++seed) {
      TwoToneSignal s = beside_an_image(apart_hz, seconds);
      s.seed = seed;
      const TwoToneAnalysis a = analyse(s);
      const TwoToneProduct* p = a.find(5, Side::lower);
      QVERIFY(p != nullptr);
      QVERIFY2(!p->is_bound, qPrintable(QString::number(p->level_dbc)));
      const double wrong = p->level_dbc - true_dbc(s, 2);
      QVERIFY2(std::abs(wrong) < 3.5 * p->u_db + 0.01,
               qPrintable(QString("%1 dB off, u %2").arg(wrong).arg(p->u_db)));
      QVERIFY2(p->u_db < 0.6, qPrintable(QString::number(p->u_db)));
    }
  }

  void nearer_than_four_over_the_record_it_is_a_bound_that_says_what_would_do() {
    const TwoToneSignal s = beside_an_image(1.0, 3.0);
    const TwoToneAnalysis a = analyse(s);
    const TwoToneProduct* p = a.find(5, Side::lower);
    QVERIFY(p->is_bound);
    QVERIFY(p->level_dbc > true_dbc(s, 2) - 0.01);
    QVERIFY(has_remark(a.remarks, "covered"));
    for (const Remark& r : a.remarks) {
      if (r.code == "covered")
        QVERIFY2(r.text.find("4.4 s of record") != std::string::npos, r.text.c_str());
    }
  }

  void a_drifting_pair_is_parted_too() {
    TwoToneSignal s = beside_an_image(25.0, 12.0);
    s.drift_hz = 3.0;
    const TwoToneAnalysis a = analyse(s);
    const TwoToneProduct* p = a.find(5, Side::lower);
    QVERIFY(!p->is_bound);
    QVERIFY2(std::abs(p->level_dbc - true_dbc(s, 2)) < 3.0 * p->u_db + 0.05,
             qPrintable(QString::number(p->level_dbc - true_dbc(s, 2))));
  }

  void a_carrier_that_is_not_quite_where_it_is_expected_does_not_pull() {
    // IM3 lower at 2 f1 - f2 = 20 Hz, the carrier at 1.7 Hz instead of 0.
    TwoToneSignal s;
    s.f1_hz = 900.0;
    s.f2_hz = 1780.0;
    s.seconds = 10.0;
    s.nonlinearity.coefficients = {-0.3};
    s.noise_dbfs = -70.0;
    auto x = generate_two_tone(s);
    for (std::size_t i = 0; i < x.size(); ++i)
      x[i] += std::complex<float>(
          std::polar(0.01, 2.0 * std::numbers::pi * 1.7 * static_cast<double>(i) / 48000.0));
    const TwoToneAnalysis a = analyse_two_tone(memory_capture(x, 48000.0));
    const TwoToneProduct* p = a.find(3, Side::lower);
    QVERIFY(p != nullptr && !p->is_bound);
    QVERIFY2(std::abs(p->level_dbc - true_dbc(s, 1)) < 3.0 * p->u_db + 0.02,
             qPrintable(QString::number(p->level_dbc - true_dbc(s, 1))));
  }

  void real_audio_with_a_product_folded_beside_a_tone() {
    // 2 f1 - f2 = -620 is heard at 620 Hz, 30 Hz from the lower tone.
    std::vector<float> audio;
    TwoToneSignal s;
    s.f1_hz = 650.0;
    s.f2_hz = 1920.0;
    s.seconds = 6.0;
    s.nonlinearity.coefficients = {-0.3};
    s.noise_dbfs = -80.0;
    for (const auto& v : generate_two_tone(s)) audio.push_back(v.real());
    const TwoToneAnalysis a = analyse_two_tone(memory_capture(audio, 48000.0));
    const TwoToneProduct* p = a.find(3, Side::lower);
    QVERIFY(p != nullptr && !p->is_bound);
    QVERIFY2(std::abs(p->level_dbc - true_dbc(s, 1)) < 3.0 * p->u_db + 0.02,
             qPrintable(QString::number(p->level_dbc - true_dbc(s, 1))));
  }

  void covers_the_truth_in_noise_data() {
    QTest::addColumn<double>("apart_hz");
    QTest::addColumn<double>("seconds");
    QTest::newRow("many segments") << 14.0 << 4.0;
    QTest::newRow("one segment") << 5.0 << 1.0;
  }
  void covers_the_truth_in_noise() {
    // The line alone against what it says of itself, at a level where noise matters.
    QFETCH(double, apart_hz);
    QFETCH(double, seconds);
    const double rate = 2000.0;
    const auto frames = static_cast<std::size_t>(seconds * rate);
    const double truth = 1e-4;  // power
    int inside = 0;
    int told = 0;
    constexpr int kDraws = draws(400);
    for (int draw = 0; draw < kDraws; ++draw) {
      std::mt19937_64 random(static_cast<std::uint64_t>(draw));
      std::uniform_real_distribution<double> phase(0.0, 6.28);
      const auto x = generate_sinusoids({{100.0, std::polar(0.01, phase(random))},
                                         {100.0 + apart_hz, std::polar(0.1, phase(random))}},
                                        rate, frames, seconds > 2.0 ? -25.0 : -32.0,
                                        static_cast<std::uint64_t>(draw) + 1);
      const auto line = measure_close_line(
          memory_capture(x, rate), [](double) { return 100.0; },
          {[&](double) { return 100.0 + apart_hz; }}, 6.0);
      QVERIFY(line.has_value());
      if (line->is_bound) continue;
      ++told;
      if (std::abs(line->power - truth) <= 2.0 * line->u_power) ++inside;
    }
    QVERIFY2(told > kDraws * 9 / 10, qPrintable(QString::number(told)));
    QVERIFY2(is_share_between(inside, told, 0.92, 0.98),
             qPrintable(QString("%1 of %2").arg(inside).arg(told)));
  }
};

HERON_LOOP_TEST(CloseLinesTest)

}  // namespace close_lines_test

#include "close_lines_test.moc"
