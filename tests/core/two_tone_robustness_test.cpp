// The two-tone method on the recordings a bench really makes: odd rates, real audio, long and
// short, unequal, hidden, stopped in the middle.
#include <QtTest>
#include <random>

#include "core/error.h"
#include "core/method/two_tone/two_tone.h"
#include "core/method/two_tone/two_tone_json.h"
#include "core/quantity/levels.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "tests/core/made_analysis.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;

namespace two_tone_robustness_test {

using heron::testing::analyse;
using heron::testing::distorted;
using heron::testing::has_remark;

namespace {

/// Largest deviation, dB, of products well above the floor from the model; -1 if there were none.
double worst_error_db(const TwoToneAnalysis& a, const TwoToneSignal& s) {
  const auto truth = two_tone_amplitudes(s.nonlinearity, s.amplitude);
  double worst = -1.0;
  for (const TwoToneProduct& p : a.products) {
    const auto k = static_cast<std::size_t>((p.order - 1) / 2);
    if (k >= truth.size() || p.is_bound || p.level_dbc < p.floor_dbc + 20.0) continue;
    const double model = db_from_voltage_ratio(std::abs(truth[k] / truth[0]));
    worst = std::max(worst, std::abs(p.level_dbc - model));
  }
  return worst;
}

}  // namespace

class TwoToneRobustnessTest : public QObject {
  Q_OBJECT
 private slots:
  void any_sample_rate_gives_the_same_figures_data() {
    QTest::addColumn<double>("rate");
    for (const double rate :
         {16000.0, 44100.0, 48000.0, 62500.0, 96000.0, 192000.0, 250000.0, 333333.3, 1024000.0})
      QTest::addRow("%.1f Hz", rate) << rate;
  }
  void any_sample_rate_gives_the_same_figures() {
    QFETCH(double, rate);
    TwoToneSignal s = distorted();
    s.sample_rate_hz = rate;
    s.noise_dbfs = -75.0;
    const TwoToneAnalysis a = analyse(s);
    QCOMPARE(a.tones.size(), 2U);
    QVERIFY(a.rbw_hz <= 25.0);
    const double worst = worst_error_db(a, s);
    QVERIFY2(worst >= 0.0 && worst < 0.02, qPrintable(QString::number(worst)));
    // Nothing is claimed beyond what the rate can carry.
    for (const TwoToneProduct& p : a.products) QVERIFY(std::abs(p.frequency_hz) < 0.48 * rate);
  }

  void any_pair_of_tones_is_found_and_measured() {
    std::mt19937_64 random(11);
    std::uniform_real_distribution<double> tone(-4000.0, 4000.0);
    int measured = 0;
    for (int i = 0; i < 40; ++i) {
      TwoToneSignal s = distorted();
      s.seconds = 4.0;
      s.seed = random();
      s.f1_hz = tone(random);
      s.f2_hz = tone(random);
      if (s.f1_hz > s.f2_hz) std::swap(s.f1_hz, s.f2_hz);
      const double spacing = s.f2_hz - s.f1_hz;
      // A tone on 0 Hz cannot be told from the recorder's own offset.
      if (spacing < 250.0 || std::abs(s.f1_hz) < 30.0 || std::abs(s.f2_hz) < 30.0) continue;
      TwoToneSettings settings;
      settings.carrier_hz = 15000.0;  // out of the way of every product
      const TwoToneAnalysis a = analyse(s, settings);
      QCOMPARE(a.tones.size(), 2U);
      QVERIFY(std::abs(a.tones[0].frequency_hz - s.f1_hz) < 0.02);
      QVERIFY(std::abs(a.tones[1].frequency_hz - s.f2_hz) < 0.02);
      const double worst = worst_error_db(a, s);
      QVERIFY2(worst < 0.02,
               qPrintable(QString("%1 and %2 Hz: %3 dB").arg(s.f1_hz).arg(s.f2_hz).arg(worst)));
      ++measured;
    }
    QVERIFY(measured >= 30);
  }

  void real_audio_and_iq_agree() {
    TwoToneSignal s = distorted();
    s.f1_hz = 4650.0;  // far enough up that no product folds at 0 Hz
    s.f2_hz = 5250.0;
    const auto iq = generate_two_tone(s);
    std::vector<float> audio(iq.size());
    std::transform(iq.begin(), iq.end(), audio.begin(), [](auto v) { return v.real(); });
    const TwoToneAnalysis complex = analyse(s);
    const TwoToneAnalysis real = analyse_two_tone(memory_capture(audio, s.sample_rate_hz));
    QCOMPARE(real.products.size(), complex.products.size());
    for (std::size_t i = 0; i < real.products.size(); ++i) {
      const auto& r = real.products[i];
      const auto& c = complex.products[i];
      QVERIFY(std::abs(r.frequency_hz - c.frequency_hz) < 0.1);
      if (!r.is_bound && !c.is_bound)
        QVERIFY(std::abs(r.level_dbc - c.level_dbc) < 0.02 + 4.0 * std::hypot(r.u_db, c.u_db));
    }
  }

  /// Gain before the recorder changes dBFS by itself and dBc not at all.
  void levels_scale_and_ratios_do_not() {
    const double kEight = 20.0 * std::log10(8.0);
    const TwoToneSignal s = distorted();
    auto samples = generate_two_tone(s);
    const TwoToneAnalysis a = analyse_two_tone(memory_capture(samples, s.sample_rate_hz));
    for (auto& v : samples) v *= 0.125F;  // exact in binary: only the level changes
    const TwoToneAnalysis b = analyse_two_tone(memory_capture(samples, s.sample_rate_hz));
    QVERIFY(std::abs(a.one_tone_dbfs - b.one_tone_dbfs - kEight) < 1e-3);
    QVERIFY(std::abs(a.pep_dbfs - b.pep_dbfs - kEight) < 1e-3);
    for (std::size_t i = 0; i < a.products.size(); ++i)
      QVERIFY(std::abs(a.products[i].level_dbc - b.products[i].level_dbc) < 1e-3);
  }

  /// Turning the phase or swapping the sidebands (conjugation) is no change of the device.
  void mirrored_recordings_give_mirrored_products() {
    const TwoToneSignal s = [] {
      TwoToneSignal made = distorted();
      made.upper_memory_db = 2.0;
      return made;
    }();
    auto samples = generate_two_tone(s);
    const TwoToneAnalysis a = analyse_two_tone(memory_capture(samples, s.sample_rate_hz));
    for (auto& v : samples) v = std::conj(v) * std::polar(1.0F, 1.234F);
    const TwoToneAnalysis b = analyse_two_tone(memory_capture(samples, s.sample_rate_hz));
    for (const TwoToneProduct& p : a.products) {
      if (p.is_bound) continue;
      const TwoToneProduct* q = b.find(p.order, p.side == Side::lower ? Side::upper : Side::lower);
      QVERIFY(q != nullptr);
      QVERIFY(std::abs(p.level_dbc - q->level_dbc) < 0.01);
      QVERIFY(std::abs(p.frequency_hz + q->frequency_hz) < 0.02);
    }
  }

  /// The accuracy holds with the tones 6 dB apart: reference is the mean of the two.
  void unequal_tones_up_to_six_decibels() {
    for (const double imbalance : {0.5, 2.0, 4.0, 6.0}) {
      TwoToneSignal s = distorted();
      s.imbalance_db = imbalance;
      const TwoToneAnalysis a = analyse(s);
      QCOMPARE(a.tones.size(), 2U);
      QVERIFY(std::abs(a.tones[0].level_dbfs - a.tones[1].level_dbfs) > 0.9 * imbalance - 0.2);
      // PEP over the mean tone: 10 lg of (1 + r)^2 / ((1 + r^2) / 2), r the ratio as recorded.
      const double r = voltage_ratio_from_db(a.tones[1].level_dbfs - a.tones[0].level_dbfs);
      const double expected = 10.0 * std::log10((1.0 + r) * (1.0 + r) / ((1.0 + r * r) / 2.0));
      QVERIFY(std::abs(a.pep_over_tone_db() - expected) < 1e-6);
      for (const TwoToneProduct& p : a.products)
        QVERIFY(std::abs(p.level_dbc - p.level_db_pep - expected) < 1e-6);
      QCOMPARE(has_remark(a.remarks, "unequal_tones"), imbalance > 0.4);
    }
  }

  void a_stronger_spur_than_the_tones_is_not_silently_taken_for_one() {
    // A third line 10 dB above both tones, far from them: the pair it would make is no product
    // pattern.
    TwoToneSignal s = distorted();
    auto samples = generate_two_tone(s);
    for (std::size_t n = 0; n < samples.size(); ++n)
      samples[n] += std::polar(
          0.8F, static_cast<float>(std::fmod(
                    6.283185307 * 9111.0 / 48000.0 * static_cast<double>(n), 6.283185307)));
    const TwoToneAnalysis found = analyse_two_tone(memory_capture(samples, s.sample_rate_hz));
    TwoToneSettings named;
    named.tones_hz = {s.f1_hz, s.f2_hz};
    const TwoToneAnalysis told = analyse_two_tone(memory_capture(samples, s.sample_rate_hz), named);
    QCOMPARE(told.tones.size(), 2U);
    QVERIFY(std::abs(told.tones[0].frequency_hz - s.f1_hz) < 0.05);
    const bool right =
        found.tones.size() == 2 && std::abs(found.tones[0].frequency_hz - s.f1_hz) < 1.0;
    // On another pair nothing is measured, and what to do is said.
    if (right)
      QVERIFY(to_json(found).at("products") == to_json(told).at("products"));
    else
      QVERIFY(found.products.empty() && found.worst() == nullptr && !found.remarks.empty() &&
              found.remarks.front().severity == Severity::fault &&
              !found.remarks.front().action.empty());
  }

  void short_records_say_so_and_never_invent_products() {
    for (const double seconds : {0.002, 0.01, 0.03, 0.1, 0.3, 1.0}) {
      TwoToneSignal s = distorted();
      s.seconds = seconds;
      try {
        const TwoToneAnalysis a = analyse(s);
        if (a.products.empty()) {
          QVERIFY(!a.remarks.empty());
          QCOMPARE(a.remarks.front().severity, Severity::fault);
          continue;
        }
        const auto truth = two_tone_amplitudes(s.nonlinearity, s.amplitude);
        for (const TwoToneProduct& p : a.products) {
          const auto k = static_cast<std::size_t>((p.order - 1) / 2);
          if (k >= truth.size() || p.is_bound) continue;
          const double model = db_from_voltage_ratio(std::abs(truth[k] / truth[0]));
          QVERIFY2(std::abs(p.level_dbc - model) < 0.05 + 4.0 * p.u_db,
                   qPrintable(QString("%1 s, order %2").arg(seconds).arg(p.order)));
        }
      } catch (const InputError& error) {
        QVERIFY(seconds < 0.02);
        QVERIFY(!error.advice.empty());
      }
    }
  }

  void silence_noise_and_direct_current_have_no_products() {
    const std::vector<std::complex<float>> silence(100000);
    std::vector<std::complex<float>> dc(100000, {0.5F, 0.1F});
    std::vector<std::complex<float>> noise(100000);
    std::mt19937_64 random(1);
    add_noise(noise, -20.0, random);
    for (const auto& samples : {silence, dc, noise}) {
      const TwoToneAnalysis a = analyse_two_tone(memory_capture(samples, 48000.0));
      QVERIFY(a.products.empty());
      QCOMPARE(a.remarks.front().severity, Severity::fault);
      const auto record = to_json(a);
      QVERIFY(to_json(two_tone_from_json(record)) == record);
    }
  }

  void a_reader_that_fails_in_the_middle_is_an_error_not_a_result() {
    class Failing : public CaptureReader {
     public:
      explicit Failing(std::unique_ptr<CaptureReader> inner) : inner_(std::move(inner)) {
        info_ = inner_->info();
      }
      void seek(std::int64_t frame) override {
        at_ = frame;
        inner_->seek(frame);
      }
      std::size_t read(std::span<float> out) override {
        const std::size_t frames = inner_->read(out);
        at_ += static_cast<std::int64_t>(frames);
        if (at_ > info_.frames / 2)
          throw InputError("tape", "frame 1", "the drive went away", "Plug it in again");
        return frames;
      }

     private:
      std::unique_ptr<CaptureReader> inner_;
      std::int64_t at_ = 0;
    };
    const TwoToneSignal s = distorted();
    const auto good = memory_capture(generate_two_tone(s), s.sample_rate_hz);
    const CaptureOpener open = [&] { return std::make_unique<Failing>(good()); };
    QVERIFY_EXCEPTION_THROWN(analyse_two_tone(open), InputError);
  }
};

HERON_TEST(TwoToneRobustnessTest)

}  // namespace two_tone_robustness_test

#include "two_tone_robustness_test.moc"
