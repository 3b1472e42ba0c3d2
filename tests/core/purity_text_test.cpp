#include <QtTest>
#include <nlohmann/json.hpp>
#include <random>

#include "core/judge/mask_text.h"
#include "core/method/purity/purity.h"
#include "core/method/purity/purity_json.h"
#include "core/method/purity/purity_typed.h"
#include "core/quantity/format.h"
#include "tests/core/said.h"
#include "tests/store/made_places.h"
#include "tests/test_program.h"

using namespace heron;

namespace purity_text_test {

using heron::testing::refusal;

class PurityTextTest : public QObject {
  Q_OBJECT
 private slots:
  void a_mask_as_text_reads_back_the_same() {
    std::mt19937_64 random(5);
    std::uniform_real_distribution<double> u(0.0, 1.0);
    for (int n = 0; n < 200; ++n) {
      Mask mask;
      mask.name = "drawn";
      for (int k = 0; k < 1 + n % 5; ++k) {
        MaskSegment s;
        s.from_hz = std::round(u(random) * 5e3) * 1e3;
        s.to_hz = s.from_hz + 1e3 + std::round(u(random) * 1e5) * 1e3;
        s.is_offset = u(random) < 0.3;
        const double kind = u(random);
        const double value = std::round(u(random) * 800.0) / 10.0;
        if (kind < 0.4)
          s.limit_dbc = -value;
        else if (kind < 0.7)
          s.limit_dbm = value - 40.0;
        else
          s.formula =
              PowerFormula{value, 10.0, kind < 0.85 ? std::optional(value + 20.0) : std::nullopt};
        mask.segments.push_back(s);
      }
      const Mask read = parse_mask_text(mask_text(mask), mask.name);
      QCOMPARE(read.segments.size(), mask.segments.size());
      // Every limit anywhere is the same.
      for (int i = 0; i < 40; ++i) {
        const CarrierPower carrier{14.2e6, 30.0 + 20.0 * u(random)};
        const double hz = std::pow(10.0, 3.0 + 6.0 * u(random));
        const auto expected = mask_limit_dbc(mask, carrier, hz);
        const auto got = mask_limit_dbc(read, carrier, hz);
        QCOMPARE(got.has_value(), expected.has_value());
        if (got) QVERIFY(std::abs(*got - *expected) < 1e-6);
      }
    }
  }

  void masks_are_read_as_people_type_them() {
    const Mask m = parse_mask_text(
        "# my licence\n 1 to 30 MHz : -43 dBc\n30 MHz - 1 GHz: 43 + 10 log(P), at most 70\n\n"
        "+/- 10 to 100 kHz: \u221240,5 dBc # near\n1 \u2013 40 GHz: -30 dBm\n",
        "mine");
    QCOMPARE(m.segments.size(), std::size_t{4});
    QCOMPARE(m.segments[0].from_hz, 1e6);
    QCOMPARE(*m.segments[1].formula->at_most, 70.0);
    QVERIFY(m.segments[2].is_offset);
    QCOMPARE(m.segments[2].from_hz, 10e3);
    QCOMPARE(*m.segments[2].limit_dbc, -40.5);
    QCOMPARE(*m.segments[3].limit_dbm, -30.0);
  }

  void what_is_wrong_with_a_mask_names_its_line_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("said");
    QTest::newRow("no colon") << "1 to 30 MHz -43 dBc" << "line 1";
    QTest::newRow("backwards") << "1 to 2 MHz: -43 dBc\n30 to 1 MHz: -43 dBc" << "line 2";
    QTest::newRow("one frequency") << "30 MHz: -43 dBc" << "from where to where";
    QTest::newRow("no limit") << "1 to 30 MHz: clean" << "not understood";
    QTest::newRow("above") << "1 to 30 MHz: 43 dBc" << "above the carrier";
    QTest::newRow("empty") << "\n# nothing\n" << "no range";
    QTest::newRow("endless") << QString(100000, 'x') + ": -43 dBc" << "too long";
    QTest::newRow("no number") << "1 to 30 MHz: 4.3.1 dBc" << "no number";
  }
  void what_is_wrong_with_a_mask_names_its_line() {
    QFETCH(QString, text);
    QFETCH(QString, said);
    const auto words = refusal([&] { parse_mask_text(text.toStdString(), "x"); });
    QVERIFY2(words.contains(said), qPrintable(words));
  }

  void numbers_too_large_are_refused_as_any_other() {
    const auto words = refusal([] {
      parse_mask(R"({"format":"even-heron-mask","version":1,"segments":[{"from_hz":1e999}]})", "m");
    });
    QVERIFY2(words.contains("too large"), qPrintable(words));
  }

  void steps_of_a_mask_are_what_it_allows_between_them() {
    const Mask m = parse_mask_text(
        "1 to 30 MHz: -43 dBc\n20 to 60 MHz: -50 dBc\n\u00b1 0.1 to 1 MHz: -60 dBc\n", "m");
    const CarrierPower carrier{14.2e6, 44.0};
    const auto steps = mask_steps(m, carrier, 0.5e6, 100e6);
    double last = 0.5e6;
    for (const MaskStep& s : steps) {
      QVERIFY(s.from_hz >= last);
      last = s.to_hz;
      for (const double share : {0.1, 0.5, 0.9})
        QCOMPARE(*mask_limit_dbc(m, carrier, s.from_hz + share * (s.to_hz - s.from_hz)),
                 s.limit_dbc);
    }
    QCOMPARE(steps.front().from_hz, 1e6);
    QCOMPARE(steps.back().to_hz, 60e6);
    QVERIFY(std::any_of(steps.begin(), steps.end(), [](const MaskStep& s) {
      return s.limit_dbc == -60.0 && std::abs(s.from_hz - 14.3e6) < 1.0;
    }));
  }

  void typed_lines_are_read_in_either_scale() {
    const TypedLine dbc = parse_typed_line(" 28.4 MHz  \u221241,2 dBc ");
    QCOMPARE(dbc.frequency_hz, 28.4e6);
    QCOMPARE(dbc.level, -41.2);
    QVERIFY(dbc.is_dbc && !dbc.is_bound);
    const TypedLine bound = parse_typed_line("42.6MHz < -70 dBm");
    QVERIFY(!bound.is_dbc && bound.is_bound);
    QCOMPARE(bound.level, -70.0);
    const TypedLine bare = parse_typed_line("14200 kHz -3");
    QVERIFY(bare.is_dbc);
    QCOMPARE(bare.frequency_hz, 14.2e6);
    QVERIFY(std::abs(parse_typed_line("14.2 MHz 3 mW").level - 4.77) < 0.01);
    for (const char* wrong : {"28.4 MHz", "", "-41 dBc", "28.4 MHz 41.2 dBc", "28.4 MHz loud"})
      QVERIFY2(!refusal([&] { parse_typed_line(wrong); }).isEmpty(), wrong);
  }

  void typed_lines_alone_hang_on_the_carrier_they_are_relative_to() {
    const std::vector<TypedLine> dbc{parse_typed_line("28.4 MHz -41.2"),
                                     parse_typed_line("42.6 MHz < -70")};
    PuritySettings settings;
    settings.carrier_hz = 14.2e6;
    settings.mask = parse_mask_text("20 to 60 MHz: -43 dBc", "m");
    const PurityAnalysis a = assess_purity({typed_purity_source(dbc, 14.2e6, {}, 0.5)}, settings);
    QCOMPARE(a.lines.size(), std::size_t{3});
    QVERIFY(!a.is_absolute);
    QVERIFY(std::abs(a.lines[1].level_dbc + 41.2) < 1e-9);
    QCOMPARE(a.lines[1].judgement->verdict, Verdict::fail);
    QVERIFY(a.lines[2].is_bound);
    QCOMPARE(a.lines[2].judgement->verdict, Verdict::pass);
    // In dBm the carrier has to be there.
    const std::vector<TypedLine> dbm{parse_typed_line("28.4 MHz -36.4 dBm")};
    QVERIFY(refusal([&] { typed_purity_source(dbm, 14.2e6, {}, 0.5); }).contains("carrier"));
    const std::vector<TypedLine> both{parse_typed_line("14.2 MHz 4.8 dBm"),
                                      parse_typed_line("28.4 MHz -36.4 dBm")};
    const PurityAnalysis absolute =
        assess_purity({typed_purity_source(both, 14.2e6, {}, 0.5)}, settings);
    QVERIFY(absolute.is_absolute);
    QVERIFY(std::abs(absolute.lines[1].level_dbc + 41.2) < 1e-9);
  }

  void typed_lines_join_what_was_measured() {
    PurityReadingSettings reading;
    reading.carrier_hz = 14.2e6;
    reading.center_hz = 14.23e6;
    PuritySource measured = read_purity(
        heron::testing::place_recording(14.23e6, heron::testing::invented_lines()), reading);
    const std::vector<TypedLine> dbm{parse_typed_line("56.8 MHz -60 dBm")};
    QVERIFY(refusal([&] {
              typed_purity_source(dbm, 14.2e6, {measured}, 0.5);
            }).contains("only relative"));
    measured.set_full_scale(10.0);
    const PuritySource typed = typed_purity_source(dbm, 14.2e6, {measured}, 0.5);
    PuritySettings settings;
    settings.carrier_hz = 14.2e6;
    const PurityAnalysis a = assess_purity({measured, typed}, settings);
    // The carrier stands at 0 dBm.
    QVERIFY(std::abs(a.lines.back().level_dbc + 60.0) < 0.02);
    QCOMPARE(a.lines.back().harmonic, 4);
  }

  void a_source_reads_back_as_it_was_kept() {
    PurityReadingSettings reading;
    reading.carrier_hz = 14.2e6;
    reading.center_hz = 14.23e6;
    const PuritySource s = read_purity(
        heron::testing::place_recording(14.23e6, heron::testing::invented_lines()), reading);
    const PuritySource back = purity_source_from_json(nlohmann::json::parse(to_json(s).dump()));
    QVERIFY(to_json(back) == to_json(s));
    QCOMPARE(back.readings.size(), s.readings.size());
    for (const char* key : {"readings", "from_hz", "spectrum"}) {
      nlohmann::json damaged = to_json(s);
      damaged.erase(key);
      QVERIFY(!refusal([&] { purity_source_from_json(damaged); }).isEmpty());
    }
  }

  void ordinals() {
    const std::pair<int, const char*> known[] = {{1, "1st"},   {2, "2nd"},   {3, "3rd"},
                                                 {4, "4th"},   {11, "11th"}, {12, "12th"},
                                                 {13, "13th"}, {21, "21st"}, {22, "22nd"}};
    for (const auto& [number, words] : known) QCOMPARE(ordinal(number), std::string(words));
  }
};

HERON_TEST(PurityTextTest)

}  // namespace purity_text_test

#include "purity_text_test.moc"
