#include "core/method/two_tone/two_tone.h"

#include <QtTest>
#include <nlohmann/json.hpp>
#include <random>

#include "core/error.h"
#include "core/method/two_tone/two_tone_json.h"
#include "core/quantity/levels.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "tests/core/made_analysis.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;

namespace two_tone_test {

using heron::testing::analyse;
using heron::testing::has_remark;

namespace {

TwoToneSignal textbook() {
  TwoToneSignal s;
  s.amplitude = 0.25;
  s.nonlinearity.coefficients = {-0.3, 0.1};
  s.noise_dbfs = -80.0;
  return s;
}

}  // namespace

class TwoToneTest : public QObject {
  Q_OBJECT
 private slots:
  void the_envelope_model_agrees_with_its_closed_form() {
    const auto a = two_tone_amplitudes({{-0.3, 0.1}}, 0.25);
    const double fundamental = std::abs(a[0]);
    QVERIFY(std::abs(db_from_voltage_ratio(fundamental) + 12.508) < 5e-4);
    QVERIFY(std::abs(db_from_voltage_ratio(std::abs(a[1]) / fundamental) + 35.028) < 5e-4);
    QVERIFY(std::abs(db_from_voltage_ratio(std::abs(a[2]) / fundamental) + 67.698) < 5e-4);
  }

  void products_match_the_model_anywhere_between_bins() {
    std::mt19937_64 random(4);
    std::uniform_real_distribution<double> f1(400.0, 900.0);
    std::uniform_real_distribution<double> gap(700.0, 1500.0);
    std::uniform_real_distribution<double> rate(20000.0, 110000.0);
    for (int i = 0; i < 12; ++i) {
      TwoToneSignal s;
      s.sample_rate_hz = i % 2 == 0 ? 48000.0 : rate(random);
      s.seconds = 6.0;
      s.f1_hz = f1(random);
      s.f2_hz = s.f1_hz + gap(random);
      s.nonlinearity.coefficients = {std::polar(0.35, 2.5), std::polar(0.9, -1.0),
                                     std::polar(2.0, 0.3)};
      s.noise_dbfs = -85.0;
      const auto truth = two_tone_amplitudes(s.nonlinearity, s.amplitude);
      const TwoToneAnalysis a = analyse(s);
      QCOMPARE(a.tones.size(), 2U);
      QVERIFY(std::abs(a.tones[0].frequency_hz - s.f1_hz) < 0.01);
      QVERIFY(std::abs(a.tones[1].frequency_hz - s.f2_hz) < 0.01);
      QVERIFY(std::abs(a.tones[0].level_dbfs - db_from_voltage_ratio(std::abs(truth[0]))) < 0.02);
      int compared = 0;
      for (const TwoToneProduct& p : a.products) {
        const auto k = static_cast<std::size_t>((p.order - 1) / 2);
        if (k >= truth.size() || p.level_dbc < p.floor_dbc + 20.0) continue;
        const double expected = db_from_voltage_ratio(std::abs(truth[k] / truth[0]));
        QVERIFY2(std::abs(p.level_dbc - expected) < 0.02 + 2.0 * p.u_db,
                 qPrintable(QString("%1: %2 against %3")
                                .arg(QString::fromStdString(product_name(p)))
                                .arg(p.level_dbc)
                                .arg(expected)));
        ++compared;
      }
      QVERIFY(compared >= 4);
      QVERIFY(std::abs(a.pep_over_tone_db() - 6.0206) < 0.01);
    }
  }

  void both_conventions_differ_by_six_decibels() {
    const TwoToneAnalysis a = analyse(textbook());
    const TwoToneProduct* worst = a.worst();
    QVERIFY(worst != nullptr);
    QCOMPARE(worst->order, 3);
    QVERIFY(std::abs(worst->level_dbc + 35.028) < 0.02);
    QVERIFY(std::abs(worst->level_db_pep + 41.049) < 0.02);
    const Result result = to_result(a, kRePep);
    QCOMPARE(result.headline()->convention, std::string(kRePep));
    QVERIFY(std::abs(result.headline()->value + 41.049) < 0.02);
    QCOMPARE(a.find(3, Side::lower)->frequency_hz < 0.0, true);
    QVERIFY(std::abs(a.find(3, Side::lower)->frequency_hz + 550.0) < 0.01);
  }

  void a_limit_keeps_its_verdict_in_the_other_convention() {
    const TwoToneAnalysis a = analyse(textbook());
    const Limit pep{"Marsh club", Sense::at_most, -41.0, "dB", kRePep, 20.0};
    const Limit tone = in_convention(pep, kReOneTone, a.pep_over_tone_db());
    const double m1 = pep.value - product_figure(a, *a.worst(), kRePep).value;
    const double m2 = tone.value - product_figure(a, *a.worst(), kReOneTone).value;
    QVERIFY(std::abs(m1 - m2) < 1e-9);
    QVERIFY(std::abs(in_convention(tone, kRePep, a.pep_over_tone_db()).value - pep.value) < 1e-12);
  }

  void real_audio_keeps_the_sign_of_lower_products() {
    const auto iq = generate_two_tone(textbook());
    std::vector<float> audio;
    for (const auto& v : iq) audio.push_back(v.real());
    const TwoToneAnalysis a = analyse_two_tone(memory_capture(audio, 48000.0));
    QVERIFY(std::abs(a.find(3, Side::lower)->frequency_hz + 550.0) < 0.05);
    QVERIFY(std::abs(a.find(3, Side::lower)->level_dbc + 35.028) < 0.05);
    QVERIFY(std::abs(a.find(3, Side::upper)->level_dbc + 35.028) < 0.05);
    QVERIFY(std::abs(a.tones[0].level_dbfs + 12.508) < 0.02);
  }

  void hidden_products_are_upper_bounds() {
    TwoToneSignal s = textbook();
    s.nonlinearity.coefficients = {};
    s.noise_dbfs = -50.0;
    const TwoToneAnalysis a = analyse(s);
    for (const TwoToneProduct& p : a.products) {
      QVERIFY(p.is_bound);
      QVERIFY(p.level_dbc > p.floor_dbc - 12.0 && p.level_dbc < p.floor_dbc + 4.0);
    }
    QVERIFY(has_remark(a.remarks, "products_at_noise"));
    QCOMPARE(to_result(a, kRePep).headline()->bound, Bound::upper);
  }

  void the_floor_and_the_range_are_those_of_the_noise() {
    TwoToneSignal s = textbook();
    s.noise_dbfs = -60.0;
    const TwoToneAnalysis a = analyse(s);
    const double floor_dbfs = -60.0 + db_from_power_ratio(a.rbw_hz / s.sample_rate_hz);
    QVERIFY(std::abs(*a.usable_dynamic_range_db - (a.one_tone_dbfs - floor_dbfs)) < 0.3);
  }

  void remarks_speak_of_what_is_wrong_data() {
    QTest::addColumn<QString>("code");
    for (const char* code :
         {"clipping", "level_low", "unequal_tones", "tone_coincidence", "drift", "record_short",
          "one_tone", "no_tone", "products_at_noise", "asymmetry", "image", "hum"}) {
      QTest::newRow(code) << code;
    }
  }
  void remarks_speak_of_what_is_wrong() {
    QFETCH(QString, code);
    const auto with = [&](const QString& wanted) {
      TwoToneSignal s = textbook();
      if (wanted == "clipping") {
        s.amplitude = 0.7;
        s.clip_level = 1.0;
      }
      if (wanted == "level_low") {
        s.amplitude = 0.0005;
        s.noise_dbfs = -110.0;
      }
      if (wanted == "unequal_tones") s.imbalance_db = 1.5;
      if (wanted == "tone_coincidence") {
        s.f1_hz = 900;
        s.f2_hz = 1800;
      }
      if (wanted == "drift") s.drift_hz = 8.0;
      if (wanted == "record_short") {
        s.seconds = 0.2;
        s.f2_hz = 750.0;
      }
      if (wanted == "one_tone") s.imbalance_db = 200.0;
      if (wanted == "no_tone") s.amplitude = 1e-6;
      if (wanted == "products_at_noise") s.noise_dbfs = -45.0;
      if (wanted == "asymmetry") s.upper_memory_db = 5.0;
      if (wanted == "image") s.image_dbc = -30.0;
      if (wanted == "hum") s.hum_dbc = -45.0;
      return analyse(s);
    };
    const TwoToneAnalysis a = with(code);
    QVERIFY2(has_remark(a.remarks, code.toStdString()), "the remark is missing");
    // ... and only then.
    QVERIFY2(
        !has_remark(with("nothing").remarks, code.toStdString()) || code == "products_at_noise",
        "spoke without a reason");
    if (code == "one_tone" || code == "no_tone" || code == "record_short") {
      QVERIFY(a.products.empty());
      QVERIFY(to_result(a, kRePep).headline() == nullptr);
      QCOMPARE(a.remarks.front().severity, Severity::fault);
    }
    for (const Remark& r : a.remarks)
      QVERIFY(QString::fromStdString(r.text).split(' ').size() <= 27);
  }

  void a_record_comes_back_as_it_was() {
    TwoToneSettings settings;
    settings.full_scale_dbm = 50.0;
    settings.linearity_u_db = 0.3;
    settings.tones_hz = {650.0, 1850.0};
    const TwoToneAnalysis a = analyse(textbook(), settings);
    const auto record = to_json(a);
    const TwoToneAnalysis b = two_tone_from_json(nlohmann::json::parse(record.dump()));
    QVERIFY(to_json(b) == record);
    QCOMPARE(b.products.size(), a.products.size());
    const TwoToneSettings s = two_tone_settings_from_json(to_json(settings));
    QVERIFY(to_json(s) == to_json(settings));
    auto broken = record;
    broken.erase("tones");
    QVERIFY_EXCEPTION_THROWN(two_tone_from_json(broken), InputError);
    broken = record;
    broken["products"][0]["order"] = "three";
    QVERIFY_EXCEPTION_THROWN(two_tone_from_json(broken), InputError);
  }

  void named_tones_outside_the_band_are_refused() {
    TwoToneSettings settings;
    settings.tones_hz = {650.0, 30000.0};
    QVERIFY_EXCEPTION_THROWN(analyse(textbook(), settings), InputError);
    settings.tones_hz = {650.0, 650.0};
    QVERIFY_EXCEPTION_THROWN(analyse(textbook(), settings), InputError);
  }
};

HERON_TEST(TwoToneTest)

}  // namespace two_tone_test

#include "two_tone_test.moc"
