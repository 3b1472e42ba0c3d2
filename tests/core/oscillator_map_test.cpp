#include "core/method/frequency/oscillator_map.h"

#include <QtTest>
#include <random>

#include "core/method/frequency/accuracy_result.h"
#include "core/method/frequency/accuracy_settings.h"
#include "core/method/live_quantity.h"
#include "core/signal/normal_numbers.h"
#include "tests/core/said.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace oscillator_map_test {

/// Devices with several oscillators: which of them is off.
class OscillatorMapTest : public QObject {
  Q_OBJECT

  static constexpr const char* kMap =
      "20 MHz = 20 reference\n"
      "7.1 MHz LSB = 16.1 reference \u2212 9 carrier\n"
      "14.2 MHz USB = 23.2 reference \u2212 9 carrier\n"
      "14.2 MHz LSB = 5.2 reference + 9 carrier\n"
      "1296.1 MHz USB = 37.1 reference \u2212 9 carrier + 1268 transverter\n";

  static OscillatorMap map() { return oscillator_map_from(parse_oscillator_map(kMap)); }

 private slots:
  void lines_are_read_and_written_back() {
    const auto kept = parse_oscillator_map(kMap);
    const OscillatorMap m = oscillator_map_from(kept);
    QCOMPARE(m.oscillators.size(), 3U);
    QCOMPARE(m.bands.size(), 5U);
    QCOMPARE(m.bands[2].factor_mhz[1], -9.0);
    QCOMPARE(m.bands[4].factor_mhz[2], 1268.0);
    QCOMPARE(m.bands[0].factor_mhz[1], 0.0);
    QVERIFY(parse_oscillator_map(oscillator_map_text(kept)) == kept);
    QCOMPARE(m.find(14.2001e6, "LSB")->factor_mhz[0], 5.2);
    QCOMPARE(m.find(20e6, "USB")->frequency_hz, 20e6);  // of either sideband
    QVERIFY(m.find(7.1e6, "USB") == nullptr);
    QVERIFY(parse_oscillator_map("5.76 GHz = 5760 MHz chain").size() == 1);
  }

  void the_nearest_band_is_meant() {
    const OscillatorMap m = oscillator_map_from(parse_oscillator_map(
        "7.05 MHz = 16.05 reference - 9 carrier\n7.1 MHz = 16.1 reference - 9 carrier\n"
        "7.1 MHz USB = 1.9 reference + 9 carrier - 3.8 third"));
    QCOMPARE(m.find(7.06e6, "LSB")->frequency_hz, 7.05e6);
    QCOMPARE(m.find(7.09e6, "LSB")->frequency_hz, 7.1e6);
    QCOMPARE(m.find(7.06e6, "USB")->sideband, std::string("USB"));
    QVERIFY(m.find(7.3e6, "LSB") == nullptr);
  }

  void what_cannot_be_is_refused_by_line() {
    for (const char* wrong :
         {"14.2 MHz", "14.2 MHz = reference", "14.2 MHz = 23.2 reference - 8 carrier",
          "14.2 MHz = 14.2", "fourteen = 14.2 reference"}) {
      const QString why = refusal([&] { parse_oscillator_map(wrong); });
      QVERIFY2(!why.isEmpty(), wrong);
      QVERIFY2(why.contains(QString::fromUtf8(wrong).left(8)), qPrintable(why));
    }
  }

  void errors_are_found_with_their_uncertainty() {
    const OscillatorMap m = map();
    const std::vector<double> ppm{-0.3, 2.0, 0.15};
    std::mt19937_64 random(17);
    NormalNumbers<double> normal;
    int inside = 0;
    const int draws = heron::testing::draws(400);
    for (int i = 0; i < draws; ++i) {
      std::vector<MapReading> readings;
      for (const MappedBand& b : m.bands) {
        double hz = 0.0;
        for (std::size_t c = 0; c < ppm.size(); ++c) hz += b.factor_mhz[c] * ppm[c];
        const double u = 0.5;
        readings.push_back({&b, hz + u * normal(random), u, 0.0});
      }
      const OscillatorErrors e = separate_oscillators(m, readings);
      QCOMPARE(e.errors.size(), 3U);
      for (std::size_t c = 0; c < ppm.size(); ++c)
        inside += std::abs(e.errors[c].value - ppm[c]) <= e.errors[c].expanded() ? 1 : 0;
      const Figure f = e.on(m.bands[1]);
      QVERIFY(std::abs(f.value - (-0.3 * 16.1 - 9.0 * 2.0)) < 6.0 * f.u());
    }
    // With two spare readings their scatter widens some: 93 % and more.
    QVERIFY2(is_share(inside, 3 * draws, 0.93), qPrintable(QString::number(inside)));
  }

  void both_sidebands_tell_two_oscillators_apart() {
    const OscillatorMap m = map();
    const auto reading = [&](double hz, const char* sideband, double reference, double carrier) {
      const MappedBand* b = m.find(hz, sideband);
      return MapReading{b, b->factor_mhz[0] * reference + b->factor_mhz[1] * carrier, 0.2, 0.0};
    };
    OscillatorMap two = m;
    two.oscillators.pop_back();
    for (MappedBand& b : two.bands) b.factor_mhz.pop_back();
    const std::vector<MapReading> all{reading(14.2e6, "USB", -0.3, 2.0),
                                      reading(14.2e6, "LSB", -0.3, 2.0),
                                      reading(7.1e6, "LSB", -0.3, 2.0)};
    const OscillatorErrors e = separate_oscillators(two, all);
    QVERIFY(std::abs(e.errors[0].value + 0.3) < 1e-9 && std::abs(e.errors[1].value - 2.0) < 1e-9);
    // The same band again tells nothing new.
    QVERIFY(separate_oscillators(two, {all[0], all[0], all[0]}).errors.empty());
    QVERIFY(separate_oscillators(two, {all[0], all[1]}).errors.empty());
  }

  void the_source_shifts_all_of_them() {
    const OscillatorMap m = oscillator_map_from(parse_oscillator_map("20 MHz = 20 reference"));
    const OscillatorErrors e =
        separate_oscillators(m, {{&m.bands[0], -6.0, 0.1, 0.05}, {&m.bands[0], -6.0, 0.1, 0.05}});
    QVERIFY(std::abs(e.errors[0].u() - std::hypot(0.05, 0.1 / 20.0 / std::sqrt(2.0))) < 1e-6);
  }

  void the_sheet_names_who_is_off() {
    Evidence e;
    e.settings["frequency"] = {
        {"way", "beat_note"},
        {"source_ppm", 0.001},
        {"tone_u_hz", 0.1},
        {"dial_step_hz", 0.1},
        {"map", parse_oscillator_map("7.1 MHz LSB = 16.1 reference - 9 carrier\n"
                                     "14.2 MHz USB = 23.2 reference - 9 carrier\n"
                                     "14.2 MHz LSB = 5.2 reference + 9 carrier")}};
    e.limit = Limit{"maker", Sense::within, 0.5, "ppm", "", 0.5};
    const auto add = [&](const char* label, double hz, double error_hz, bool is_upper) {
      EvidenceStep s;
      s.label = label;
      s.conditions.push_back({kExpectedCondition, hz, "Hz"});
      s.conditions.push_back({kDialCondition, is_upper ? hz - 1000.0 : hz + 1000.0, "Hz"});
      Reading r;
      r.quantity = kToneReading;
      r.unit = "Hz";
      // Upper: carrier - dial - tone is the error; lower: carrier - dial + tone.
      r.value = is_upper ? 1000.0 - error_hz : 1000.0 + error_hz;
      s.readings.push_back(r);
      e.steps.push_back(s);
    };
    add("7.1 LSB", 7.1e6, -9.0 * 1.5, false);
    add("14.2 USB", 14.2e6, -9.0 * 1.5, true);
    add("14.2 LSB", 14.2e6, 9.0 * 1.5, false);
    const Result r = evaluate_accuracy(e);
    // The reference is right, yet a band is off by more than is allowed: that is the answer.
    QCOMPARE(r.answers.front().head, std::string("Error on 7.1 MHz"));
    QVERIFY(std::abs(r.answers.front().figure.value + 13.5 / 7.1) < 0.01);
    QVERIFY(std::abs(r.answers.front().judgement->margin - (0.5 - 13.5 / 7.1)) < 0.01);
    QCOMPARE(r.figure_cards.front().head, std::string("Error, reference"));
    QCOMPARE(r.figure_cards.front().judgement->verdict, Verdict::pass);
    QVERIFY(!has_remark(r.remarks, "differ"));
    const auto said = std::find_if(r.remarks.begin(), r.remarks.end(),
                                   [](const Remark& m) { return m.code == "oscillator_off"; });
    QVERIFY(said != r.remarks.end());
    QVERIFY(said->text.find("The carrier oscillator is off: it is high") == 0);
    const auto table = std::find_if(r.tables.begin(), r.tables.end(),
                                    [](const ResultTable& t) { return t.tab == "bands"; });
    QCOMPARE(table->rows.size(), 3U);
    QCOMPARE(table->columns.size(), 7U);
    // What each makes there adds up to the band's error, for the eye and in words.
    for (const ResultTable::Row& row : table->rows) {
      const auto& parts = row.cells[3].axis->parts;
      QCOMPARE(parts.size(), 2U);
      QVERIFY(std::abs(parts[0] + parts[1] - row.cells[3].axis->value) < 1e-6);
      QVERIFY(row.cells[3].text.find("carrier \u221213.5 Hz") != std::string::npos ||
              row.cells[3].text.find("carrier +13.5 Hz") != std::string::npos);
    }
    QCOMPARE(table->rows[1].cells[2].text, std::string("\u22129.000"));
    // Two readings cannot.
    e.steps.pop_back();
    QVERIFY(has_remark(evaluate_accuracy(e).remarks, "not_separated"));
  }
};

HERON_TEST(OscillatorMapTest)

}  // namespace oscillator_map_test

#include "oscillator_map_test.moc"
