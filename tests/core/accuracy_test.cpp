#include "core/method/frequency/accuracy.h"

#include <QtTest>
#include <cmath>
#include <random>

#include "core/method/measure/reference_error.h"
#include "core/method/method.h"
#include "core/signal/normal_numbers.h"
#include "core/signal/two_peaks.h"
#include "tests/core/said.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace accuracy_test {

/// How far off a frequency reference is, from readings of every kind.
class AccuracyTest : public QObject {
  Q_OBJECT

 private slots:
  void each_reading_stands_beside_what_the_others_say() {
    AccuracyPlan plan;
    plan.counter = {10.0, 0.1, 0.0, 0.0};
    std::vector<AccuracyReading> all;
    for (const auto& [hz, ppm] :
         {std::pair(20e6, -0.3), std::pair(7.1e6, -0.28), std::pair(28.4e6, -0.32)}) {
      AccuracyReading r;
      r.label = "reading";
      r.expected_hz = hz;
      r.read_hz = hz * (1.0 + 1e-6 * ppm);
      all.push_back(r);
    }
    const Accuracy a = assess_accuracy(all, plan);
    for (const AccuracyRow& row : a.rows) {
      QVERIFY(row.off);
      // The timebase is the same for all: only the counts differ.
      QVERIFY(row.off->expanded() < 0.05);
    }
    // Weighted by their resolution, which is finer on a higher frequency.
    const double w7 = 7.1 * 7.1;
    const double w28 = 28.4 * 28.4;
    const double others = (-0.28 * w7 - 0.32 * w28) / (w7 + w28);
    QVERIFY2(std::abs(a.rows[0].off->value - (-0.3 - others)) < 2e-4,
             qPrintable(QString::number(a.rows[0].off->value)));
    QVERIFY(!assess_accuracy({all[0]}, plan).rows[0].off);
  }

  void counts_at_two_places_are_told() {
    std::mt19937_64 random(23);
    NormalNumbers<double> normal;
    int found = 0;
    int wrong = 0;
    const int draws = heron::testing::draws(300);
    for (int i = 0; i < draws; ++i) {
      std::vector<double> one;
      std::vector<double> two;
      for (int k = 0; k < 12 + i % 40; ++k) {
        one.push_back(normal(random));
        two.push_back(normal(random) * 0.1 + (k % 3 == 0 ? 1.0 : 0.0));
      }
      wrong += two_peaks(one).has_value() ? 1 : 0;
      if (const auto peaks = two_peaks(two))
        found += std::abs(peaks->high - peaks->low - 1.0) < 0.2 ? 1 : 0;
    }
    QVERIFY2(wrong <= draws / 50, qPrintable(QString::number(wrong)));
    QVERIFY2(found >= draws - draws / 50 - 1, qPrintable(QString::number(found)));
    QVERIFY(!two_peaks({1.0, 1.0, 2.0, 2.0}));
    QVERIFY(!two_peaks(std::vector<double>(20, 5.0)));
    AccuracyReading r;
    r.label = "test point";
    r.expected_hz = 20e6;
    r.read_hz = 20e6;
    for (int k = 0; k < 20; ++k) r.counts.push_back(20e6 + (k % 2) * 3.0);
    AccuracyPlan plan;
    plan.counter.timebase_ppm = 0.1;
    const Accuracy a = assess_accuracy({r}, plan);
    QVERIFY(std::any_of(a.remarks.begin(), a.remarks.end(),
                        [](const Remark& m) { return m.code == "two_peaks"; }));
  }

  void a_counter_tells_ppm_and_each_band() {
    const Figure f = counted_error(19'999'993.6, 20e6, {1.0, 0.1, 0.0, 0.0});
    QVERIFY(std::abs(f.value + 0.32) < 1e-9);
    const double gate = 1.0 / 20e6 * 1e6 / std::sqrt(3.0);
    QVERIFY(std::abs(f.u() - std::hypot(gate, 0.1 / std::sqrt(3.0))) < 1e-12);
    const auto bands = errors_at(f, {14e6, 144e6});
    QVERIFY(std::abs(bands[0].error_hz + 4.48) < 1e-7);
    QVERIFY(std::abs(bands[1].u_hz - f.u() * 144.0) < 1e-9);
    QVERIFY(is_sufficient(f.u(), 0.3) && !is_sufficient(f.u(), 0.1));
    QVERIFY(error_words(f).find("dial reads high") != std::string::npos);
    QCOMPARE(error_words(counted_error(20e6 + 0.5, 20e6, {1.0, 0.1, 0.0, 0.0})),
             std::string("no error found"));
    // Years since calibration widen it.
    QVERIFY(counted_error(20e6, 20e6, {1.0, 0.1, 0.1, 3.0}).u() > 0.17);
  }

  void a_beat_note_has_the_sign_of_its_sideband() {
    const double carrier = 9'996'000.0;
    for (const double true_error : {-6.0, 0.0, 4.5}) {
      // The dial shows d while it really tunes d + error.
      BeatNote usb{carrier, carrier - 1000.0, 1000.0 - true_error, true, 0.1, 0.0, 10.0};
      BeatNote lsb{carrier, carrier + 1000.0, 1000.0 + true_error, false, 0.1, 0.0, 10.0};
      QVERIFY(std::abs(beat_error_hz(usb) - true_error) < 1e-9);
      QVERIFY(std::abs(beat_error_hz(lsb) - true_error) < 1e-9);
      const double u_hz = beat_error(usb).u() * carrier / 1e6;
      QVERIFY(std::abs(u_hz - std::hypot(0.1, 5.0 / std::sqrt(3.0))) < 1e-9);
    }
  }

  void accuracy_joins_readings_and_tells_bands() {
    const Method& m = *find_method("reference");
    const auto read = [&](const char* label,
                          std::vector<std::pair<const char*, const char*>> typed) {
      EvidenceStep s;
      s.label = label;
      for (const auto& [head, text] : typed) {
        const auto f = std::find_if(m.fields.begin(), m.fields.end(),
                                    [&, h = head](const TypedField& one) { return one.head == h; });
        if (f->kind == TypedField::Kind::condition)
          s.conditions.push_back(condition_typed(*f, text));
        else
          s.readings.push_back(read_typed(*f, text));
      }
      return s;
    };
    Evidence e;
    e.settings["frequency"] = {
        {"gate_s", 10.0}, {"timebase_ppm", 0.1}, {"bands_hz", {14.2e6, 50.2e6}}};
    e.limit = Limit{"maker", Sense::within, 0.5, "ppm", "", 0.5};
    e.steps = {read("test point", {{"Nominal", "20"}, {"Counted", "19.9999936"}}),
               read("transmitter", {{"Nominal", "28.4"}, {"Counted", "28.399991"}})};
    Result r = m.evaluate(e);
    QVERIFY(std::abs(r.answers.front().figure.value + 0.318) < 0.002);
    QVERIFY(r.answers.front().judgement->verdict == Verdict::pass);
    QVERIFY(r.answers.front().label.find("dial reads high") != std::string::npos);
    // The timebase is common: two readings do not halve it.
    QVERIFY(r.answers.front().figure.u() > 0.1 / std::sqrt(3.0));
    const ResultTable& bands = r.tables.at(1);
    QCOMPARE(bands.rows.size(), std::size_t{2});
    QVERIFY(std::abs(bands.rows[1].cells[1].figure->value + 0.318 * 50.2) < 0.1);
    // Two that do not agree cannot pass.
    e.steps[1].readings.front().value = 28.4e6 - 3.0;
    r = m.evaluate(e);
    QVERIFY(has_remark(r.remarks, "differ"));
    QVERIFY(r.answers.front().judgement->verdict == Verdict::too_close);
    // A source nobody knows tells changes; one that both hang on tells that they hold.
    e.settings["frequency"]["timebase_ppm"] = nullptr;
    r = m.evaluate(e);
    QVERIFY(!r.answers.front().judgement && has_remark(r.remarks, "source_unknown"));
    e.settings["frequency"]["timebase_ppm"] = 0.001;
    e.settings["frequency"]["shared"] = true;
    r = m.evaluate(e);
    QVERIFY(!r.answers.front().judgement && has_remark(r.remarks, "shared"));
    QVERIFY(r.answers.front().sentence.find("Held, not accurate") == 0);
    // Beat notes of both sidebands agree on one error.
    e.settings["frequency"] = {{"way", "beat_note"}, {"source_ppm", 0.01}};
    e.steps = {read("9996 kHz USB", {{"Nominal", "9.996"}, {"Dial", "9.995"}, {"Tone", "1003.1"}}),
               read("9996 kHz LSB", {{"Nominal", "9.996"}, {"Dial", "9.997"}, {"Tone", "996.9"}})};
    r = m.evaluate(e);
    QVERIFY(std::abs(r.answers.front().figure.value + 3.1 / 9.996) < 1e-6);
    QVERIFY(!has_remark(r.remarks, "differ"));
    // Zero beat: half a dial step and the slowest beat heard are its u.
    e.settings["frequency"] = {{"way", "zero_beat"},
                               {"source_ppm", 0.01},
                               {"dial_step_hz", 100.0},
                               {"least_beat_hz", 15.0}};
    e.steps = {read("9996 kHz", {{"Nominal", "9.996"}, {"Dial", "9.9961"}})};
    r = m.evaluate(e);
    const double u_hz = std::hypot(50.0, 15.0) / std::sqrt(3.0);
    QVERIFY(std::abs(r.answers.front().figure.u() -
                     std::hypot(u_hz / 9.996, 0.01 / std::sqrt(3.0))) < 1e-3);
    // What cannot be is named at its row; the limit has to be one of frequency.
    e.steps = {read("nowhere", {{"Counted", "10"}}),
               read("far", {{"Nominal", "10"}, {"Counted", "11"}})};
    e.settings["frequency"] = {{"timebase_ppm", 0.1}};
    e.limit = Limit{"", Sense::at_most, -30.0, "dB", "", 20.0};
    r = m.evaluate(e);
    QVERIFY(r.answers.empty());
    QCOMPARE(std::count_if(r.remarks.begin(), r.remarks.end(),
                           [](const Remark& one) { return one.code == "row"; }),
             2);
    QVERIFY(has_remark(r.remarks, "limit_unit"));
  }
};

HERON_TEST(AccuracyTest)

}  // namespace accuracy_test

#include "accuracy_test.moc"
