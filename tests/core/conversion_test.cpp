// Conversion gain from a recording of the IF, and how instruments take it.
#include "core/method/receiver/conversion.h"

#include <cmath>
#include <random>

#include "core/error.h"
#include "core/method/measure/audio_ratio.h"
#include "core/method/method.h"
#include "core/method/receiver/convert_run.h"
#include "core/method/receiver/if_level.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "core/signal/two_pi.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace conversion_test {
namespace {

constexpr double kRate = 48000.0;

struct Tone {
  double hz = 9000.0;
  double amplitude = 0.3;
  double lower = 0.0;  ///< amplitude of the second half; 0 = the same
  double noise = 1e-3;
  double length_s = 6.0;
  unsigned seed = 1;
};

CaptureOpener audio_of(const Tone& t) {
  std::mt19937_64 random(t.seed);
  NormalNumbers<double> normal(0.0, t.noise);
  std::vector<float> x(static_cast<std::size_t>(t.length_s * kRate));
  for (std::size_t i = 0; i < x.size(); ++i) {
    const double a = t.lower > 0.0 && i >= x.size() / 2 ? t.lower : t.amplitude;
    const double turns = std::fmod(t.hz * static_cast<double>(i) / kRate, 1.0);
    x[i] = static_cast<float>(a * std::cos(kTwoPi * turns) + normal(random));
  }
  return memory_capture(std::move(x), kRate, "if.wav");
}

CaptureOpener iq_of(const Tone& t) {
  std::vector<std::complex<float>> x(static_cast<std::size_t>(t.length_s * kRate));
  for (std::size_t i = 0; i < x.size(); ++i) {
    const double turns = std::fmod(t.hz * static_cast<double>(i) / kRate, 1.0);
    x[i] = std::complex<float>(std::polar(t.amplitude, kTwoPi * turns));
  }
  return memory_capture(std::move(x), kRate);
}

double db(double amplitude) {
  return 20.0 * std::log10(amplitude);
}

AnalysisPtr kept(const IfLevel& level) {
  return read_if_level(to_json(level));
}

Evidence recorded(const IfLevel& level, std::optional<double> full_scale_dbm) {
  Evidence e;
  const Method& method = *find_method("conversion");
  e.settings[kConversionSettings] = method.usual_settings();
  if (full_scale_dbm) e.settings[kConversionSettings]["full_scale_dbm"] = *full_scale_dbm;
  e.steps.push_back({"14.2 MHz", {}, {}});
  e.steps.front().analysis = kept(level);
  return e;
}
void add(Evidence& e, const char* quantity, double dbm) {
  Reading r;
  r.quantity = quantity;
  r.value = dbm;
  r.unit = "dBm";
  e.steps.front().readings.push_back(r);
}

}  // namespace

class ConversionTest : public QObject {
  Q_OBJECT
 private slots:
  void a_carrier_has_its_level_wherever_it_stands() {
    std::mt19937_64 random(3);
    std::uniform_real_distribution<double> anywhere(500.0, 23000.0);
    for (unsigned i = 0; i < 12; ++i) {
      Tone tone;
      tone.hz = anywhere(random);
      tone.seed = i;
      tone.length_s = 2.0;
      const IfLevel real = if_level(audio_of(tone));
      QVERIFY2(std::abs(real.dbfs - db(0.3)) < 0.01, qPrintable(QString::number(real.dbfs)));
      QVERIFY(std::abs(real.tone_hz - tone.hz) < 5.0);
      QVERIFY(!real.lower_dbfs);
      tone.hz -= 12000.0;
      QVERIFY(std::abs(if_level(iq_of(tone)).dbfs - db(0.3)) < 0.01);
    }
  }

  void a_level_that_was_lowered_meanwhile_is_both() {
    for (const double drop : {6.0, 10.0, 20.0}) {
      Tone tone;
      tone.lower = 0.3 * std::pow(10.0, -drop / 20.0);
      const IfLevel level = if_level(audio_of(tone));
      QVERIFY(std::abs(level.dbfs - db(0.3)) < 0.02);
      QVERIFY(level.lower_dbfs.has_value());
      QVERIFY(std::abs(*level.lower_dbfs - db(tone.lower)) < 0.03);
    }
  }

  /// What is there before the generator is on is no lower level.
  void noise_alone_is_no_level() {
    Tone off;
    off.lower = 0.3;
    off.amplitude = 1e-9;
    off.noise = 0.3;  // the carrier's own place is 20 dB below it
    const IfLevel level = if_level(audio_of(off));
    QVERIFY(std::abs(level.dbfs - db(0.3)) < 0.2);
    QVERIFY2(!level.lower_dbfs, "noise");
  }

  void what_cannot_be_a_level_is_refused_with_what_to_do() {
    Tone nothing;
    nothing.amplitude = 0.0;
    QVERIFY(refusal([&] { if_level(audio_of(nothing)); }).contains("no carrier"));
    Tone brief;
    brief.length_s = 0.6;
    QVERIFY(refusal([&] { if_level(audio_of(brief)); }).contains("shorter than a second"));
    nlohmann::json bad = to_json(if_level(audio_of({})));
    bad["dbfs"] = "loud";
    QVERIFY(!refusal([&] { read_if_level(bad); }).isEmpty());
    bad = to_json(if_level(audio_of({})));
    bad["format"] = "another";
    QVERIFY(!refusal([&] { read_if_level(bad); }).isEmpty());
  }

  /// Gain = full scale + dBFS + probe - input; 10 dB lower once more proves there is no
  /// compression.
  void a_recording_gives_the_gain_with_what_is_typed() {
    Tone tone;
    tone.lower = 0.3 * std::pow(10.0, -9.0 / 20.0);  // compressed by 1 dB at the higher level
    const IfLevel level = if_level(audio_of(tone));
    Evidence e = recorded(level, -10.0);
    e.settings[kConversionSettings]["probe"] = 10.0;
    Result r = evaluate_conversion(e);
    QVERIFY(r.answers.empty());
    QVERIFY(has_remark(r.remarks, "no_input"));
    add(e, kConversionIn, -53.0);
    r = evaluate_conversion(e);
    QCOMPARE(r.answers.size(), 1U);
    const double gain = -10.0 + db(0.3) + 20.0 + 53.0;
    QVERIFY(std::abs(r.answers.front().figure.value - gain) < 0.03);
    QVERIFY(has_remark(r.remarks, "no_lower_input"));
    QVERIFY(has_remark(r.remarks, "not_repeated"));
    add(e, kConversionLowIn, -63.0);
    r = evaluate_conversion(e);
    QVERIFY(has_remark(r.remarks, "compressed"));
    QVERIFY(!has_remark(r.remarks, "no_lower_input"));
    // What is typed at the IF counts before what was recorded.
    add(e, kConversionOut, -14.0);
    r = evaluate_conversion(e);
    QVERIFY(std::abs(r.answers.front().figure.value - (-14.0 + 20.0 + 53.0)) < 1e-9);
  }

  void the_two_gains_are_compared_as_well_as_they_are_known() {
    const auto said = [](double lower_out, double u) {
      Evidence e;
      e.settings[kConversionSettings] = find_method("conversion")->usual_settings();
      e.steps.push_back({"14.2 MHz", {}, {}});
      add(e, kConversionIn, -53.0);
      add(e, kConversionOut, -14.0);
      add(e, kConversionLowIn, -63.0);
      add(e, kConversionLowOut, lower_out);
      e.steps.front().readings.back().u = u;
      return evaluate_conversion(e).remarks;
    };
    QVERIFY(said(-24.0, 0.0).empty());
    QVERIFY(has_remark(said(-22.5, 0.0), "compressed"));
    QVERIFY(has_remark(said(-25.5, 0.0), "expanded"));
    QVERIFY(has_remark(said(-24.0, 1.0), "compression_unseen"));
    QVERIFY(!has_remark(said(-22.5, 1.0), "compressed"));
  }

  /// Nine bands of nothing but noise, six readings each: hardly ever does one of them look like
  /// compression.
  void many_bands_do_not_find_compression_by_chance() {
    std::mt19937_64 random(7);
    constexpr int kTrials = 1500;
    int alarms = 0;
    for (int trial = 0; trial < kTrials; ++trial) {
      Evidence e;
      e.settings[kConversionSettings] = find_method("conversion")->usual_settings();
      for (int band = 0; band < 9; ++band) {
        // Of a meter near its floor: noise of so much of the power.
        NormalNumbers<double> normal(1.0, 0.3);
        std::vector<double> dbm;
        while (dbm.size() < 6)
          if (const double p = normal(random); p > 0.05)
            dbm.push_back(-52.0 + 10.0 * std::log10(p));
        const AudioLevel level = audio_level(dbm, true);
        e.steps.insert(e.steps.begin(), EvidenceStep{std::to_string(band + 1) + " MHz", {}, {}});
        add(e, kConversionIn, -53.0);
        add(e, kConversionOut, -42.0);
        add(e, kConversionLowIn, -63.0);
        add(e, kConversionLowOut, level.db);
        e.steps.front().readings.back().u = level.u_db;
      }
      const auto remarks = evaluate_conversion(e).remarks;
      if (has_remark(remarks, "compressed") || has_remark(remarks, "expanded")) ++alarms;
    }
    QVERIFY2(alarms < 0.05 * kTrials, qPrintable(QString::number(alarms)));
  }

  void without_a_full_scale_a_recording_tells_no_gain_and_says_so() {
    Evidence e = recorded(if_level(audio_of({})), std::nullopt);
    add(e, kConversionIn, -53.0);
    const Result r = evaluate_conversion(e);
    QVERIFY(r.answers.empty());
    QVERIFY(has_remark(r.remarks, "no_full_scale"));
  }

  void a_clipped_recording_says_that_its_gain_is_too_low() {
    IfLevel level = if_level(audio_of({}));
    level.clipped = 12;
    Evidence e = recorded(level, -10.0);
    QVERIFY(has_remark(evaluate_conversion(e).remarks, "clipped"));
  }

  void instruments_stand_at_the_level_that_is_set_at_the_receiver() {
    Evidence e;
    e.settings[kConversionSettings] = find_method("conversion")->usual_settings();
    e.steps = {{"14.2 MHz", {}, {}}, {"a band", {}, {}}};
    Part pad;
    pad.name = "pad";
    pad.kind = "attenuator";
    pad.gain = Gain(-20.0);
    e.hookup.emplace().parts.push_back(pad);
    RunRecipe run = convert_run(e);
    QVERIFY(run.listen && run.listen->at_if && !run.listen->at_if->if_hz);
    QCOMPARE(run.listen->places[0]->first_dbm, -30.0);
    QVERIFY(!run.listen->places[1]);
    // Never harder than front ends stand.
    e.settings[kConversionSettings]["level_dbm"] = 10.0;
    e.settings[kConversionSettings]["if_hz"] = 9e6;
    run = convert_run(e);
    QCOMPARE(run.listen->places[0]->first_dbm, 0.0);
    QCOMPARE(*run.listen->at_if->if_hz, 9e6);
  }
};

HERON_TEST(ConversionTest)

}  // namespace conversion_test

#include "conversion_test.moc"
