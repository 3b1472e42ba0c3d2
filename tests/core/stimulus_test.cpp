#include "core/signal/stimulus.h"

#include <QTemporaryDir>
#include <QtTest>
#include <random>
#include <sndfile.h>

#include "core/method/measure/line_power.h"
#include "core/method/spread/bandwidth.h"
#include "core/method/spread/noise_ratio.h"
#include "core/method/two_tone/two_tone.h"
#include "core/quantity/levels.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "core/signal/write_wav.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;

namespace stimulus_test {

using heron::testing::refusal;

namespace {

std::vector<float> as_float(const Stimulus& s) {
  std::vector<float> out;
  for (const std::int32_t v : s.samples)
    out.push_back(static_cast<float>(std::ldexp(static_cast<double>(v), 1 - s.bits)));
  return out;
}

template <class Real, class Engine>
bool are_the_same_normal_numbers() {
  Engine a(7);
  Engine b(7);
  std::normal_distribution<Real> theirs(Real(0.3), Real(1.7));
  NormalNumbers<Real> ours(Real(0.3), Real(1.7));
  for (int i = 0; i < 20000; ++i)
    if (theirs(a) != ours(b)) return false;
  return true;
}

}  // namespace

class StimulusTest : public QObject {
  Q_OBJECT
 private slots:
  void two_tones_are_equal_and_clean() {
    for (const double rate : {44100.0, 48000.0}) {
      StimulusSettings settings;
      settings.rate_hz = rate;
      settings.seconds = 12.0;
      const Stimulus made = make_stimulus(settings);
      QVERIFY(std::abs(made.peak_dbfs + 3.0) < 0.05);
      QVERIFY(std::abs(made.crest_factor_db - 6.02) < 0.05);
      QVERIFY(std::abs(made.rms_dbfs - (-3.0 - 3.0103)) < 0.01);
      // Between the edges.
      std::vector<float> steady = as_float(made);
      steady.erase(steady.begin(), steady.begin() + 4800);
      steady.resize(steady.size() - 4800);
      const TwoToneAnalysis a = analyse_two_tone(memory_capture(steady, rate));
      QCOMPARE(a.tones.size(), std::size_t{2});
      QVERIFY(std::abs(a.tones[0].level_dbfs - a.tones[1].level_dbfs) < 0.001);
      QVERIFY(std::abs(a.tones[0].frequency_hz - 650.0) < 0.001);
      // Far from the tones, where the window's side lobes do not reach.
      for (const int order : {3, 5, 7}) QVERIFY(a.find(order, Side::upper)->level_dbc < -120.0);
    }
  }

  void edges_rise_over_ten_milliseconds() {
    StimulusSettings settings;
    settings.kind = StimulusKind::tone;
    settings.tones_hz = {12000.0};
    settings.seconds = 0.5;
    const std::vector<float> wave = as_float(make_stimulus(settings));
    const double full = voltage_ratio_from_db(-3.0);
    const auto highest = [&](std::size_t from, std::size_t to) {
      float most = 0.0F;
      for (std::size_t i = from; i < to; ++i) most = std::max(most, std::abs(wave[i]));
      return static_cast<double>(most);
    };
    QVERIFY(highest(0, 8) < 0.001 * full);
    QVERIFY(std::abs(highest(238, 243) - 0.5 * full) < 0.03 * full);
    QVERIFY(std::abs(highest(480, 600) - full) < 0.001 * full);
    QVERIFY(highest(wave.size() - 8, wave.size()) < 0.001 * full);
  }

  void noise_is_gaussian_and_its_notch_is_deep() {
    StimulusSettings settings;
    settings.kind = StimulusKind::notched_noise;
    settings.seconds = 40.0;
    const Stimulus made = make_stimulus(settings);
    const std::vector<float> wave = as_float(made);
    double second = 0.0;
    double fourth = 0.0;
    for (const float v : wave) {
      second += std::pow(v, 2.0) / static_cast<double>(wave.size());
      fourth += std::pow(v, 4.0) / static_cast<double>(wave.size());
    }
    // Kurtosis 3; about 2400 Hz x 40 s independent values scatter it by 0.02.
    QVERIFY(std::abs(fourth / (second * second) - 3.0) < 0.1);
    QVERIFY(made.crest_factor_db > 11.0 && made.crest_factor_db < 16.0);
    const NoiseRatioAnalysis a = analyse_notched_noise(memory_capture(wave, 48000.0), {});
    QVERIFY(a.ratio_db.has_value());
    QVERIFY2(*a.ratio_db > 85.0, qPrintable(QString::number(*a.ratio_db)));
    settings.seed = 2;
    QVERIFY(make_stimulus(settings).samples != made.samples);
    settings.seed = 1;
    QVERIFY(make_stimulus(settings).samples == made.samples);
  }

  void speech_noise_follows_the_telephone_weighting() {
    StimulusSettings settings;
    settings.kind = StimulusKind::speech_noise;
    settings.seconds = 60.0;
    const Stimulus made = make_stimulus(settings);
    WelchSettings welch;
    welch.segment = 2048;
    const Spectrum s = welch_spectrum(memory_capture(as_float(made), 48000.0), welch);
    const double reference = band_power(s, s.power, 600.0, 800.0);
    for (const double f : {400.0, 1000.0, 1500.0, 2000.0, 2500.0}) {
      const double wanted = db_from_power_ratio(
          (speech_weighting(f - 100.0) + speech_weighting(f) + speech_weighting(f + 100.0)) /
          (speech_weighting(600.0) + speech_weighting(700.0) + speech_weighting(800.0)));
      const double got =
          db_from_power_ratio(band_power(s, s.power, f - 100.0, f + 100.0) / reference);
      QVERIFY2(std::abs(got - wanted) < 0.4, qPrintable(QString("%1 Hz: %2").arg(f).arg(got)));
    }
    // Published shape: flat round 700 Hz, some 17 dB down at 3 kHz.
    QVERIFY(std::abs(db_from_power_ratio(speech_weighting(700.0))) < 0.3);
    QVERIFY(std::abs(db_from_power_ratio(speech_weighting(3000.0)) + 18.0) < 1.0);
  }

  void files_hold_what_was_made() {
    QTemporaryDir folder;
    for (const int bits : {16, 24}) {
      StimulusSettings settings;
      settings.bits = bits;
      settings.seconds = 1.0;
      const Stimulus made = make_stimulus(settings);
      const std::filesystem::path path = folder.filePath("s.wav").toStdString();
      write_wav(made, path);
      QVERIFY(!std::filesystem::exists(path.string() + ".part"));
      const auto reader = open_capture(path);
      QCOMPARE(reader->info().bits, bits);
      std::vector<float> read(made.samples.size());
      QCOMPARE(reader->read(read), made.samples.size());
      QVERIFY(read == as_float(made));
    }
    const std::filesystem::path nowhere = folder.filePath("no/such/s.wav").toStdString();
    QVERIFY(refusal([&] { write_wav(make_stimulus({}), nowhere); }).contains("no/such/s.wav"));
  }

  void normal_numbers_are_those_of_the_standard_library() {
    QVERIFY((are_the_same_normal_numbers<double, std::mt19937_64>()));
    QVERIFY((are_the_same_normal_numbers<double, std::mt19937>()));
    QVERIFY((are_the_same_normal_numbers<float, std::mt19937_64>()));
    QVERIFY((are_the_same_normal_numbers<float, std::mt19937>()));
  }

  void what_cannot_be_is_refused_with_its_name() {
    const auto said = [](auto change) {
      StimulusSettings s;
      change(s);
      return refusal([&] { make_stimulus(s); });
    };
    QVERIFY(said([](auto& s) { s.bits = 12; }).contains("12"));
    QVERIFY(said([](auto& s) { s.rate_hz = 1000.0; }).contains("1000"));
    QVERIFY(said([](auto& s) { s.seconds = std::nan(""); }).contains("length"));
    QVERIFY(said([](auto& s) { s.headroom_db = -1.0; }).contains("headroom"));
    QVERIFY(said([](auto& s) { s.tones_hz = {650.0, 30000.0}; }).contains("30000"));
    QVERIFY(said([](auto& s) { s.tones_hz = {650.0, 650.0}; }).contains("same"));
    QVERIFY(said([](auto& s) { s.tones_hz = {650.0}; }).contains("2 needed"));
    QVERIFY(said([](auto& s) {
              s.kind = StimulusKind::notched_noise;
              s.notch_hz = {100.0, 200.0};
            }).contains("notch"));
    QVERIFY(refusal([] { stimulus_from_id("warble"); }).contains("warble"));
  }
};

HERON_TEST(StimulusTest)

}  // namespace stimulus_test

#include "stimulus_test.moc"
