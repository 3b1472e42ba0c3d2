// Which two lines are the tones, in bands that hold others too; and what may be said of products
// that fall where nothing can be measured.
#include "core/method/two_tone/pair_choice.h"

#include <QtTest>
#include <random>

#include "core/judge/verdict.h"
#include "core/method/two_tone/two_tone.h"
#include "core/quantity/levels.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "tests/core/said.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace pair_choice_test {

namespace {

using Samples = std::vector<std::complex<float>>;

TwoToneSignal tones(std::uint64_t seed) {
  TwoToneSignal s;
  s.seconds = 4.0;
  s.amplitude = 0.1;
  s.nonlinearity.coefficients = {-3.0, 10.0};  // IM3 some 30 dB down
  s.noise_dbfs = -70.0;
  s.seed = seed;
  return s;
}

void add_line(Samples& x, double rate, double hz, double amplitude) {
  const double turn = 2.0 * std::numbers::pi * hz / rate;
  for (std::size_t i = 0; i < x.size(); ++i)
    x[i] += std::complex<float>(std::polar(amplitude, turn * static_cast<double>(i)));
}

bool has_pair(const TwoToneAnalysis& a, double f1, double f2) {
  return a.tones.size() == 2 && std::abs(a.tones[0].frequency_hz - f1) < 2.0 &&
         std::abs(a.tones[1].frequency_hz - f2) < 2.0;
}

}  // namespace

class PairChoiceTest : public QObject {
  Q_OBJECT
 private slots:
  /// Other carriers up to 10 dB stronger than the tones: the right pair, or none with a word; never
  /// products of a wrong one.
  void other_carriers_do_not_take_the_tones_place() {
    std::mt19937_64 random(3);
    std::uniform_real_distribution<double> place(-20000.0, 20000.0);
    std::uniform_real_distribution<double> stronger(-4.0, 10.0);
    int right = 0;
    int unsure = 0;
    constexpr int kRounds = draws(60);
    for (int round = 0; round < kRounds; ++round) {
      const TwoToneSignal s = tones(random());
      Samples x = generate_two_tone(s);
      for (int k = 1 + round % 3; k > 0; --k) {
        double hz = place(random);
        if (std::abs(hz - 1250.0) < 4500.0) hz += 9500.0;
        add_line(x, s.sample_rate_hz, hz, 0.1 * voltage_ratio_from_db(stronger(random)));
      }
      const TwoToneAnalysis a = analyse_two_tone(memory_capture(x, s.sample_rate_hz));
      if (has_pair(a, 650.0, 1850.0)) {
        ++right;
        continue;
      }
      ++unsure;
      QVERIFY2(a.products.empty(), qPrintable(QString::number(round)));
      QVERIFY(has_remark(a.remarks, "pair_ambiguous") || has_remark(a.remarks, "one_tone"));
      QVERIFY(a.worst() == nullptr);
    }
    QVERIFY2(is_share(right, kRounds, 0.9),
             qPrintable(QString("%1 right, %2 unsure").arg(right).arg(unsure)));
  }

  /// Clean lines of like strength tell nothing: all of them are offered.
  void what_cannot_be_told_apart_is_offered() {
    Samples x = generate_sinusoids({{-3000.0, 0.1}, {1000.0, 0.1}, {2600.0, 0.1}}, 48000.0,
                                   4U * 48000U, -70.0, 5);
    const TwoToneAnalysis a = analyse_two_tone(memory_capture(x, 48000.0));
    QVERIFY(has_remark(a.remarks, "pair_ambiguous"));
    QVERIFY(a.products.empty());
    QVERIFY2(a.remarks.front().text.find("1000 and 2600 Hz") != std::string::npos,
             a.remarks.front().text.c_str());
    TwoToneSettings named;
    named.tones_hz = std::pair(1003.0, 2590.0);  // near enough
    QVERIFY(has_pair(analyse_two_tone(memory_capture(x, 48000.0), named), 1000.0, 2600.0));
  }

  /// Tones asked for have to stand there.
  void asked_tones_are_found_within_reach_or_refused() {
    std::mt19937_64 random(7);
    std::uniform_real_distribution<double> off(-400.0, 400.0);
    const TwoToneSignal s = tones(9);
    const Samples x = generate_two_tone(s);
    for (int round = 0; round < draws(25); ++round) {
      TwoToneSettings asked;
      const double at = off(random);
      asked.tones_hz = std::pair(650.0 + at, 1850.0);
      const double reach = std::max(10.0, 0.1 * std::abs(1200.0 - at));
      const TwoToneAnalysis a = analyse_two_tone(memory_capture(x, s.sample_rate_hz), asked);
      if (std::abs(at) < reach - 1.0) QVERIFY(has_pair(a, 650.0, 1850.0));
      if (std::abs(at) > reach + 5.0) {
        QString said;
        for (const Remark& r : a.remarks) said += QString::fromStdString(r.code + ": " + r.text);
        QVERIFY2(has_remark(a.remarks, "tone_missing"), qPrintable(QString::number(at) + said));
        QVERIFY(a.products.empty());
      }
    }
  }

  void exchanged_sides_are_named() {
    TwoToneSignal s = tones(11);
    s.f1_hz = -1850.0;
    s.f2_hz = -650.0;
    s.image_dbc = -40.0;
    const Samples x = generate_two_tone(s);
    TwoToneSettings asked;
    asked.tones_hz = std::pair(650.0, 1850.0);  // where the images stand
    const TwoToneAnalysis a = analyse_two_tone(memory_capture(x, s.sample_rate_hz), asked);
    QVERIFY(has_remark(a.remarks, "tones_mirrored"));
    QVERIFY(a.products.empty());
    const TwoToneAnalysis found = analyse_two_tone(memory_capture(x, s.sample_rate_hz));
    QVERIFY(has_pair(found, -1850.0, -650.0));
    QVERIFY(has_remark(found.remarks, "lower_sideband"));
  }

  /// In real audio a product below 0 Hz is heard on the other side; on a tone it is left out.
  void a_product_on_a_tone_is_left_out_by_name() {
    for (const double ratio : {3.0, 2.0, 5.0 / 3.0}) {
      std::vector<float> audio;
      std::mt19937 random(13);
      NormalNumbers<float> noise(0.0F, 1e-4F);
      for (std::size_t i = 0; i < 4U * 48000U; ++i) {
        const double t = 2.0 * std::numbers::pi * static_cast<double>(i) / 48000.0;
        const double x = 0.2 * std::cos(700.0 * t) + 0.2 * std::cos(700.0 * ratio * t + 0.3);
        audio.push_back(static_cast<float>(x - 0.4 * x * x * x) + noise(random));
      }
      const TwoToneAnalysis a = analyse_two_tone(memory_capture(audio, 48000.0));
      QVERIFY(has_pair(a, 700.0, 700.0 * ratio));
      for (const TwoToneProduct& p : a.products) {
        const double heard = std::abs(p.frequency_hz);
        QVERIFY(std::abs(heard - 700.0) > 5.0 && std::abs(heard - 700.0 * ratio) > 5.0);
        QVERIFY(p.level_dbc < -8.0);
      }
      // Three times: 2 f1 - f2 = -f1.
      if (ratio == 3.0) QVERIFY(has_remark(a.remarks, "covered"));
    }
  }

  /// What unequal tones explain is no memory, and what a line covers is not "within the noise".
  void remarks_claim_nothing_that_something_else_explains() {
    TwoToneSignal s = tones(17);
    s.imbalance_db = 5.0;
    const TwoToneAnalysis unequal =
        analyse_two_tone(memory_capture(generate_two_tone(s), s.sample_rate_hz));
    QVERIFY(has_remark(unequal.remarks, "unequal_tones"));
    QVERIFY(!has_remark(unequal.remarks, "asymmetry"));
    s.upper_memory_db = 5.0;
    const TwoToneAnalysis memory =
        analyse_two_tone(memory_capture(generate_two_tone(s), s.sample_rate_hz));
    QVERIFY(has_remark(memory.remarks, "asymmetry"));
  }

  /// Noise with an edge beside the product: the truth stays inside, bounds hold.
  void an_edge_in_the_noise_is_in_the_uncertainty() {
    std::mt19937_64 random(19);
    NormalNumbers<double> gauss(0.0, 1.0);
    int count = 0;
    int inside = 0;
    for (int round = 0; round < draws(40); ++round) {
      TwoToneSignal s = tones(100 + static_cast<std::uint64_t>(round));
      s.nonlinearity.coefficients = {-0.02 * std::pow(10.0, (round % 10) / 10.0)};
      s.noise_dbfs = -80.0;
      Samples x = generate_two_tone(s);
      // A band of noise that ends on the upper third-order product: shaped by a moving average.
      const double middle = 3050.0 + 400.0;
      std::complex<double> state = 0.0;
      const double a = std::exp(-2.0 * std::numbers::pi * 150.0 / s.sample_rate_hz);
      const double turn = 2.0 * std::numbers::pi * middle / s.sample_rate_hz;
      for (std::size_t i = 0; i < x.size(); ++i) {
        state = a * state + std::complex<double>{gauss(random), gauss(random)} * (1.0 - a);
        x[i] += std::complex<float>(0.004 * state * std::polar(1.0, turn * static_cast<double>(i)));
      }
      const TwoToneAnalysis got = analyse_two_tone(memory_capture(x, s.sample_rate_hz));
      TwoToneSignal clean = s;
      clean.noise_dbfs.reset();
      const TwoToneAnalysis truth =
          analyse_two_tone(memory_capture(generate_two_tone(clean), s.sample_rate_hz));
      const TwoToneProduct* p = got.find(3, Side::upper);
      const TwoToneProduct* is = truth.find(3, Side::upper);
      QVERIFY(p != nullptr && is != nullptr && !is->is_bound);
      ++count;
      inside += p->is_bound ? (is->level_dbc <= p->level_dbc ? 1 : 0)
                            : (std::abs(is->level_dbc - p->level_dbc) <= 2.0 * p->u_db ? 1 : 0);
    }
    QVERIFY2(is_share(inside, count, 0.92), qPrintable(QString("%1 of %2").arg(inside).arg(count)));
  }
};

HERON_TEST(PairChoiceTest)

}  // namespace pair_choice_test

#include "pair_choice_test.moc"
