#include <QtTest>

#include "core/method/two_tone/two_tone.h"
#include "core/quantity/levels.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "tests/test_program.h"

using namespace heron;

namespace two_tone_finding_test {

namespace {
TwoToneSignal bench_signal() {
  TwoToneSignal s;
  s.seconds = 8.0;
  s.amplitude = 0.3;
  s.nonlinearity.coefficients = {-0.3, 0.1};
  s.noise_dbfs = -75.0;
  return s;
}
}  // namespace

/// The tones are found without being told, in recordings as a bench delivers them.
class TwoToneFindingTest : public QObject {
  Q_OBJECT
 private slots:
  void tones_are_found_data() {
    QTest::addColumn<QString>("what");
    for (const char* what :
         {"clean", "carrier", "strong carrier", "image", "dc", "hum", "lower by 6 dB",
          "upper by 6 dB", "drift 5 Hz", "straddling the centre", "negative side", "wide",
          "hard driven", "everything"}) {
      QTest::newRow(what) << what;
    }
  }
  void tones_are_found() {
    QFETCH(QString, what);
    TwoToneSignal s = bench_signal();
    if (what == "carrier") s.carrier_dbc = -20.0;
    if (what == "strong carrier") s.carrier_dbc = -2.0;
    if (what == "image") s.image_dbc = -20.0;
    if (what == "dc") s.dc_dbc = 3.0;
    if (what == "hum") s.hum_dbc = -25.0;
    if (what == "lower by 6 dB") s.imbalance_db = -6.0;
    if (what == "upper by 6 dB") s.imbalance_db = 6.0;
    if (what == "drift 5 Hz") s.drift_hz = 5.0;
    if (what == "straddling the centre") {
      s.f1_hz = -600.0;
      s.f2_hz = 600.0;
    }
    if (what == "negative side") {
      s.f1_hz = -1850.0;
      s.f2_hz = -650.0;
    }
    if (what == "wide") {
      s.sample_rate_hz = 500000.0;
      s.seconds = 3.0;
      s.f1_hz = 20000.0;
      s.f2_hz = 41000.0;
    }
    if (what == "hard driven") s.nonlinearity.coefficients = {-1.0, 0.5};
    if (what == "everything") {
      s.carrier_dbc = -12.0;
      s.image_dbc = -25.0;
      s.dc_dbc = -10.0;
      s.hum_dbc = -35.0;
      s.imbalance_db = 5.0;
      s.drift_hz = 4.0;
    }
    if (s.imbalance_db < 0.0) s.amplitude *= 0.4;
    const TwoToneAnalysis a =
        analyse_two_tone(memory_capture(generate_two_tone(s), s.sample_rate_hz));
    QCOMPARE(a.tones.size(), 2U);
    const double middle = s.drift_hz / 2.0;
    QVERIFY2(std::abs(a.tones[0].frequency_hz - s.f1_hz - middle) < 0.2,
             qPrintable(QString::number(a.tones[0].frequency_hz)));
    QVERIFY2(std::abs(a.tones[1].frequency_hz - s.f2_hz - middle) < 0.2,
             qPrintable(QString::number(a.tones[1].frequency_hz)));
    if (s.drift_hz > 0.0) QVERIFY(std::abs(a.drift_hz - s.drift_hz) < 0.2 * s.drift_hz);
    if (s.imbalance_db != 0.0) {
      const double seen = a.tones[0].level_dbfs - a.tones[1].level_dbfs;
      QVERIFY(std::abs(seen - s.imbalance_db) < 0.5);
    }
    const auto truth = two_tone_amplitudes(s.nonlinearity, s.amplitude);
    const double compressed_db = db_from_voltage_ratio(std::abs(truth[0]) / s.amplitude);
    if (what == "carrier") QVERIFY(std::abs(*a.carrier_dbc + 20.0 + compressed_db) < 0.05);
    if (what == "image") QVERIFY(std::abs(*a.image_dbc + 20.0) < 0.1);
  }

  void a_product_is_measured_through_drift() {
    TwoToneSignal s = bench_signal();
    s.amplitude = 0.25;
    for (const double drift : {0.0, 3.0, 12.0}) {
      s.drift_hz = drift;
      const TwoToneAnalysis a =
          analyse_two_tone(memory_capture(generate_two_tone(s), s.sample_rate_hz));
      QVERIFY(std::abs(a.find(3, Side::upper)->level_dbc + 35.028) < 0.03);
      QVERIFY(std::abs(a.find(3, Side::lower)->level_dbc + 35.028) < 0.03);
    }
  }

  void audio_hum_stronger_than_the_tones_is_not_a_tone() {
    const auto iq = generate_two_tone(bench_signal());
    std::vector<float> audio;
    for (std::size_t i = 0; i < iq.size(); ++i) {
      const double t = static_cast<double>(i) / 48000.0;
      audio.push_back(iq[i].real() * 0.3F +
                      0.2F * static_cast<float>(std::cos(2.0 * M_PI * 50.0 * t)) +
                      0.1F * static_cast<float>(std::cos(2.0 * M_PI * 150.0 * t)));
    }
    const TwoToneAnalysis a = analyse_two_tone(memory_capture(audio, 48000.0));
    QCOMPARE(a.tones.size(), 2U);
    QVERIFY(std::abs(a.tones[0].frequency_hz - 650.0) < 0.1);
    QVERIFY(std::abs(a.tones[1].frequency_hz - 1850.0) < 0.1);
  }

  void close_tones_get_a_finer_resolution() {
    TwoToneSignal s = bench_signal();
    s.seconds = 20.0;
    s.f2_hz = s.f1_hz + 60.0;
    const TwoToneAnalysis a =
        analyse_two_tone(memory_capture(generate_two_tone(s), s.sample_rate_hz));
    QVERIFY(a.rbw_hz < 8.0);
    const auto truth = two_tone_amplitudes(s.nonlinearity, s.amplitude);
    QVERIFY(std::abs(a.find(3, Side::upper)->level_dbc -
                     db_from_voltage_ratio(std::abs(truth[1] / truth[0]))) < 0.03);
  }
};

HERON_TEST(TwoToneFindingTest)

}  // namespace two_tone_finding_test

#include "two_tone_finding_test.moc"
