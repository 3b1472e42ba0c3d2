#include "core/method/purity/purity.h"

#include <QtTest>
#include <fmt/format.h>
#include <random>

#include "core/method/purity/purity_lines.h"
#include "core/quantity/levels.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;

namespace purity_test {

using heron::testing::has_remark;
using heron::testing::refusal;

namespace {

constexpr double kCarrier = 14.2e6;

/// Carrier of +44.77 dBm (30 W) behind 60 dB, recorded round each centre in turn.
PuritySource recorded(const std::vector<std::pair<double, double>>& lines_dbm, double center_hz,
                      double full_scale_dbm = -10.0, double noise_dbfs = -70.0,
                      std::uint64_t seed = 1, std::size_t frames = 1U << 18U) {
  constexpr double kRate = 500e3;
  std::vector<Sinusoid> sinusoids;
  for (const auto& [f, dbm] : lines_dbm) {
    if (std::abs(f - center_hz) < 0.45 * kRate)
      sinusoids.push_back({f - center_hz, voltage_ratio_from_db(dbm - full_scale_dbm)});
  }
  PurityReadingSettings settings;
  settings.carrier_hz = kCarrier;
  settings.center_hz = center_hz;
  settings.full_scale_dbm = full_scale_dbm;
  settings.threads = 1;
  return read_purity(
      memory_capture(generate_sinusoids(sinusoids, kRate, frames, noise_dbfs, seed), kRate),
      settings);
}

const PurityLine* at(const PurityAnalysis& a, double hz) {
  for (const PurityLine& line : a.lines) {
    if (std::abs(line.frequency_hz - hz) < 30.0) return &line;
  }
  return nullptr;
}

/// A pad that loses 0.4 dB more at each harmonic.
Chain sloping_chain() {
  Chain chain;
  Part pad;
  pad.name = "pad";
  pad.kind = "attenuator";
  std::vector<GainPoint> points;
  for (int n = 1; n <= 10; ++n) points.push_back({n * kCarrier, -60.0 - 0.4 * (n - 1)});
  pad.gain = Gain(points, "pad");
  pad.u_db = 0.2;
  Part sampler;
  sampler.name = "sampler";
  sampler.kind = "instrument";
  sampler.u_db = 0.5;
  sampler.linearity_u_db = 0.1;
  chain.parts = {pad, sampler};
  for (Part& p : chain.parts) p.vswr = 1.0;
  chain.source_vswr = 1.0;
  return chain;
}

std::string trace_csv(const std::vector<std::pair<double, double>>& lines_dbm, double from,
                      double to, std::size_t points, double rbw) {
  std::mt19937_64 random(4);
  std::exponential_distribution<double> noise(1.0);
  std::string csv = fmt::format("# rbw: {} Hz\nfrequency_hz,level_dbm\n", rbw);
  for (std::size_t i = 0; i < points; ++i) {
    const double hz = from + (to - from) * static_cast<double>(i) / static_cast<double>(points - 1);
    double power = power_ratio_from_db(-110.0) * noise(random);
    for (const auto& [f, dbm] : lines_dbm)
      power += power_ratio_from_db(dbm - 3.0103 * std::pow(2.0 * (hz - f) / rbw, 2));
    csv += fmt::format("{},{}\n", hz, db_from_power_ratio(power));
  }
  return csv;
}

}  // namespace

class PurityTest : public QObject {
  Q_OBJECT
 private slots:
  void generic_mask_and_filter_give_the_published_values() {
    const auto limit = [](double carrier, double watt) {
      return *mask_limit_dbc(generic_mask(carrier), {carrier, to_dbm(Watt{watt}).value},
                             2.0 * carrier);
    };
    QVERIFY(std::abs(limit(14.2e6, 30.0) + 50.0) < 1e-9);
    QVERIFY(std::abs(limit(145e6, 30.0) + 57.771) < 1e-3);
    QVERIFY(std::abs(limit(14.2e6, 1.0) + 43.0) < 1e-9);
    QVERIFY(std::abs(limit(145e6, 1000.0) + 70.0) < 1e-9);
    QVERIFY(std::abs(chebyshev_loss_db(5, 0.1, 1.8) - 29.46) < 0.005);
    QVERIFY(std::abs(chebyshev_loss_db(7, 0.1, 1.8) - 50.18) < 0.005);
    QVERIFY(std::abs(chebyshev_loss_db(7, 0.1, 1.0) - 0.1) < 1e-9);
    for (double ratio = 0.0; ratio <= 1.0; ratio += 0.01)
      QVERIFY(chebyshev_loss_db(9, 0.1, ratio) <= 0.1 + 1e-9);
    QCOMPARE(spurious_domain_hz(14.2e6), 10e3);
  }

  void masks_are_read_and_written_as_they_are() {
    const char* text = R"({"format": "even-heron-mask", "version": 1, "name": "Skerry Point",
      "note": "made up", "segments": [
        {"from_hz": 1000, "to_hz": 30000000, "limit_dbc": -43},
        {"from_hz": 30000000, "to_hz": 1e9, "limit_dbm": -36},
        {"from_hz": 5000, "to_hz": 20000, "offset": true, "limit_dbc": -30},
        {"from_hz": 1e9, "to_hz": 2e9, "formula": {"a": 40, "b_log_watt": 10, "at_most": 60}}]})";
    const Mask mask = parse_mask(text, "m.json");
    const CarrierPower carrier{14.2e6, 40.0};
    QCOMPARE(*mask_limit_dbc(mask, carrier, 2e6), -43.0);
    QCOMPARE(*mask_limit_dbc(mask, carrier, 42.6e6), -76.0);
    // The stricter of two that apply.
    QCOMPARE(*mask_limit_dbc(mask, carrier, 14.19e6), -43.0);
    QCOMPARE(*mask_limit_dbc(mask, carrier, 1.5e9), -50.0);
    QVERIFY(!mask_limit_dbc(mask, carrier, 3e9));
    QVERIFY(!mask_limit_dbc(mask, {14.2e6, std::nullopt}, 42.6e6));
    const Mask again = parse_mask(to_json(mask).dump(), "again");
    for (const double f : {2e6, 14.19e6, 42.6e6, 1.5e9, 3e9})
      QVERIFY(mask_limit_dbc(again, carrier, f) == mask_limit_dbc(mask, carrier, f));
  }

  void wrong_masks_are_refused_at_their_place_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("place");
    const auto with = [](const QString& segment) {
      return QString(R"({"format":"even-heron-mask","version":1,"segments":[%1]})").arg(segment);
    };
    QTest::newRow("no JSON") << "{" << "JSON";
    QTest::newRow("another format") << R"({"format":"x"})" << "format";
    QTest::newRow("another version") << R"({"format":"even-heron-mask","version":7})" << "version";
    QTest::newRow("nothing in it") << with("") << "segments";
    QTest::newRow("no limit") << with(R"({"from_hz":1,"to_hz":2})") << "segment 1";
    QTest::newRow("two limits") << with(R"({"from_hz":1,"to_hz":2,"limit_dbc":-1,"limit_dbm":-1})")
                                << "segment 1";
    QTest::newRow("backwards") << with(R"({"from_hz":2,"to_hz":1,"limit_dbc":-1})") << "from_hz";
    QTest::newRow("text") << with(R"({"from_hz":"2","to_hz":1,"limit_dbc":-1})") << "from_hz";
    QTest::newRow("above the carrier")
        << with(R"({"from_hz":1,"to_hz":2,"limit_dbc":43})") << "limit_dbc";
    QTest::newRow("half a formula")
        << with(R"({"from_hz":1,"to_hz":2,"formula":{"a":43}})") << "b_log_watt";
  }
  void wrong_masks_are_refused_at_their_place() {
    QFETCH(QString, text);
    QFETCH(QString, place);
    const QString said = refusal([&] { parse_mask(text.toStdString(), "m.json"); });
    QVERIFY2(said.contains(place) && said.startsWith("m.json"), qPrintable(said));
  }

  void each_line_is_referred_at_its_own_frequency() {
    // At the device: 30 W, second harmonic -45 dBc, third -62 dBc; the pad takes more from them.
    const double p = to_dbm(Watt{30.0}).value;
    const Chain chain = sloping_chain();
    const auto read = [&](double f, double dbc) {
      return std::pair{f, p + dbc + total_gain_db(chain, f)};
    };
    const std::vector<std::pair<double, double>> lines{
        read(kCarrier, 0.0), read(2 * kCarrier, -45.0), read(3 * kCarrier, -62.0),
        read(kCarrier + 61234.0, -55.0)};
    std::vector<PuritySource> sources;
    for (const int n : {1, 2, 3, 4}) sources.push_back(recorded(lines, n * kCarrier + 31e3));
    PuritySettings settings;
    settings.carrier_hz = kCarrier;
    settings.mask = generic_mask(kCarrier);
    settings.chain = chain;
    const PurityAnalysis a = assess_purity(sources, settings);
    QVERIFY(std::abs(*a.carrier_dbm - p) < 0.02);
    QVERIFY(a.carrier() != nullptr);
    const PurityLine* second = at(a, 2 * kCarrier);
    QVERIFY(second != nullptr && second->harmonic == 2);
    QVERIFY(std::abs(second->level_dbc + 45.0) < 0.1);
    QVERIFY(std::abs(second->correction_db - 60.4) < 1e-9);
    QVERIFY(std::abs(second->as_read_dbm - (p - 45.0 - 60.4)) < 0.1);
    QCOMPARE(second->judgement->verdict, Verdict::fail);
    QVERIFY(std::abs(second->judgement->margin + 5.0) < 0.1);
    // 0.2 dB at each of the two frequencies, 0.1 dB of scale.
    QVERIFY(std::abs(line_figure(*second).u() - 0.3) < 0.03);
    QCOMPARE(at(a, 3 * kCarrier)->judgement->verdict, Verdict::pass);
    const PurityLine* spur = at(a, kCarrier + 61234.0);
    QVERIFY(spur != nullptr && spur->kind == LineKind::spurious);
    QVERIFY(std::abs(spur->level_dbc + 55.0) < 0.2);
    // The pad is off by the same at both: that leaves the ratio, not the level.
    QVERIFY(line_figure(*spur).u() < 0.15);
    const auto u_of = [](const std::vector<Contribution>& all) {
      return Figure{"", "", 0.0, "dBm", "", all, Bound::none}.u();
    };
    QVERIFY(std::abs(u_of(line_contributions(*spur, 0.0)) - std::hypot(0.5, 0.2)) < 0.03);
    // Nothing stands at the fourth: only a bound is told.
    QVERIFY(at(a, 4 * kCarrier)->is_bound);
    QCOMPARE(a.worst(), second);
    QCOMPARE(to_result(a).headline()->id, std::string("margin"));

    const auto advice = advise_filter(a);
    const FilterAdvice* best = lowest_enough(advice);
    QVERIFY(best != nullptr);
    QCOMPARE(best->order, 3);
    const double expected =
        -45.0 - chebyshev_loss_db(3, 0.1, 2.0 / 1.1) + chebyshev_loss_db(3, 0.1, 1.0 / 1.1);
    QVERIFY(std::abs(best->worst_after_dbc - expected) < 0.1 || best->worst_hz != 2 * kCarrier);
  }

  void a_given_power_replaces_the_measured_one() {
    const auto source = recorded({{kCarrier, -20.0}, {kCarrier + 50e3, -75.0}}, kCarrier + 20e3);
    PuritySettings settings;
    settings.carrier_hz = kCarrier;
    settings.mask = generic_mask(kCarrier);
    QVERIFY(std::abs(*assess_purity({source}, settings).carrier_dbm + 20.0) < 0.01);
    settings.power_dbm = -17.0;
    const PurityAnalysis a = assess_purity({source}, settings);
    QVERIFY(std::abs(at(a, kCarrier + 50e3)->level_dbc + 58.0) < 0.2);
    QVERIFY(std::abs(*at(a, kCarrier + 50e3)->limit_dbc - (-43.0 - -47.0)) < 1e-6);
  }

  void the_recorders_own_lines_are_doubted_and_found_out() {
    // A mirror image of the carrier, and an offset at the centre.
    const double center = kCarrier - 40e3;
    const auto first = recorded(
        {{kCarrier, -20.0}, {center - 40e3, -65.0}, {center, -60.0}, {kCarrier + 99e3, -70.0}},
        center);
    PuritySettings settings;
    settings.carrier_hz = kCarrier;
    settings.mask = generic_mask(kCarrier);
    const PurityAnalysis alone = assess_purity({first}, settings);
    QVERIFY(!at(alone, center)->doubt.empty());
    QVERIFY(at(alone, center - 40e3)->doubt.find("mirror") != std::string::npos);
    QVERIFY(at(alone, kCarrier + 99e3)->doubt.empty());
    QVERIFY(has_remark(alone.remarks, "own_line"));
    // With another centre both have moved, and the true line has not.
    const auto second = recorded({{kCarrier, -20.0}, {kCarrier + 99e3, -70.0}}, kCarrier - 25e3);
    const PurityAnalysis both = assess_purity({first, second}, settings);
    QVERIFY(at(both, center) == nullptr);
    QVERIFY(at(both, center - 40e3) == nullptr);
    QVERIFY(at(both, kCarrier + 99e3) != nullptr);
  }

  void more_attenuation_tells_the_instruments_lines() {
    // 10 dB more: a true harmonic falls by 10, the instrument's own second harmonic by 20.
    const auto take = [&](double added, double own_drop) {
      return std::vector<PuritySource>{
          recorded({{kCarrier, -20.0 - added}}, kCarrier + 31e3),
          recorded({{2 * kCarrier, -60.0 - own_drop}}, 2 * kCarrier + 31e3),
          recorded({{3 * kCarrier, -65.0 - added}}, 3 * kCarrier + 31e3)};
    };
    PuritySettings settings;
    settings.carrier_hz = kCarrier;
    settings.mask = generic_mask(kCarrier);
    PurityAnalysis first = assess_purity(take(0.0, 0.0), settings);
    for (const PuritySource& second : take(10.0, 20.0)) compare_attenuation(first, second, 10.0);
    QVERIFY(at(first, 2 * kCarrier)->kind == LineKind::instrument);
    QVERIFY(!at(first, 2 * kCarrier)->judgement);
    QVERIFY(at(first, 3 * kCarrier)->kind == LineKind::harmonic);
    QVERIFY(has_remark(first.remarks, "made_by_instrument"));
    QCOMPARE(first.worst()->harmonic, 3);
  }

  void what_a_single_sideband_transmitter_leaves_is_no_spurious_emission() {
    // A tone of 1 kHz above the dial, the suppressed carrier and the other sideband, and a spur.
    const double tone = kCarrier + 1000.0;
    const auto source = recorded({{tone, -20.0},
                                  {kCarrier + 2.0, -69.0},
                                  {kCarrier - 998.0, -66.0},
                                  {kCarrier + 61e3, -82.0}},
                                 kCarrier + 31e3);
    PuritySettings settings;
    settings.carrier_hz = tone;
    settings.mask = generic_mask(kCarrier);
    PurityAnalysis plain = assess_purity({source}, settings);
    QCOMPARE(at(plain, kCarrier + 2.0)->kind, LineKind::spurious);
    QCOMPARE(plain.worst()->judgement->verdict, Verdict::pass);
    settings.suppressed_carrier_hz = kCarrier;
    PurityAnalysis a = assess_purity({source}, settings);
    QCOMPARE(at(a, kCarrier + 2.0)->kind, LineKind::suppressed_carrier);
    QCOMPARE(at(a, kCarrier - 998.0)->kind, LineKind::opposite_sideband);
    QVERIFY(std::abs(at(a, kCarrier + 2.0)->level_dbc + 49.0) < 0.2);
    QVERIFY(std::abs(at(a, kCarrier - 998.0)->level_dbc + 46.0) < 0.2);
    QVERIFY(!at(a, kCarrier + 2.0)->judgement && !at(a, kCarrier - 998.0)->judgement);
    QVERIFY(std::abs(a.worst()->frequency_hz - kCarrier - 61e3) < 50.0);
  }

  void an_analysers_trace_gives_the_same_lines() {
    const std::vector<std::pair<double, double>> lines{
        {kCarrier, -12.0}, {2 * kCarrier, -58.0}, {3 * kCarrier, -71.0}, {33.3e6, -80.0}};
    const SpectrumTrace trace =
        parse_trace(trace_csv(lines, 1e6, 61e6, 60001, 3000.0), "sweep.csv");
    PurityReadingSettings reading;
    reading.carrier_hz = kCarrier;
    PuritySettings settings;
    settings.carrier_hz = kCarrier;
    settings.mask = generic_mask(kCarrier);
    settings.power_dbm = -12.0;
    const PurityAnalysis a = assess_purity({read_purity(trace, reading)}, settings);
    for (const auto& [f, dbm] : lines) {
      const auto found =
          std::find_if(a.lines.begin(), a.lines.end(), [&, at_hz = f](const PurityLine& l) {
            return std::abs(l.frequency_hz - at_hz) < 1500.0;
          });
      QVERIFY2(found != a.lines.end(), qPrintable(QString::number(f)));
      QVERIFY(std::abs(found->as_read_dbm - dbm) < 0.5);
    }
    // Only these, and a bound at the fourth harmonic.
    int clear = 0;
    for (const PurityLine& l : a.lines) clear += l.is_bound ? 0 : 1;
    QCOMPARE(clear, 4);
    const auto fourth = std::find_if(a.lines.begin(), a.lines.end(),
                                     [](const PurityLine& l) { return l.harmonic == 4; });
    QVERIFY(fourth != a.lines.end() && fourth->is_bound);
  }

  void levels_cover_the_truth() {
    int covered = 0;
    int clear = 0;
    for (std::uint64_t seed = 1; seed <= 120; ++seed) {
      const double f = kCarrier + 61000.0 + 37.3 * static_cast<double>(seed);
      const auto source =
          recorded({{kCarrier, -20.0}, {f, -85.0}}, kCarrier + 20e3, -10.0, -52.0, seed, 1U << 16U);
      PuritySettings settings;
      settings.carrier_hz = kCarrier;
      const PurityAnalysis a = assess_purity({source}, settings);
      const PurityLine* line = at(a, f);
      if (line == nullptr || line->is_bound) continue;
      ++clear;
      covered += std::abs(line->level_dbc + 65.0) <= 2.0 * line_figure(*line).u() ? 1 : 0;
    }
    QVERIFY2(clear > 100, qPrintable(QString::number(clear)));
    const double coverage = static_cast<double>(covered) / clear;
    QVERIFY2(coverage > 0.90 && coverage < 0.99, qPrintable(QString::number(coverage)));
  }

  void a_short_key_down_is_no_continuous_one() {
    // 30 W into a pad of 20 W: too much for ever, nothing for half a second.
    const double p = to_dbm(Watt{30.0}).value;
    PuritySettings settings;
    settings.carrier_hz = kCarrier;
    settings.chain = sloping_chain();
    settings.chain->parts[0].max_input_w = 20.0;
    settings.chain->parts[0].time_constant_s = 120.0;
    PuritySource source = recorded({{kCarrier, p - 60.0}}, kCarrier + 31e3);
    QVERIFY(source.duration_s > 0.4 && source.duration_s < 0.6);
    QVERIFY(!has_remark(assess_purity({source}, settings).remarks, "overload"));
    source.duration_s = 0.0;  // as a trace, which does not say how long
    QVERIFY(has_remark(assess_purity({source}, settings).remarks, "overload"));
  }

  void what_cannot_be_judged_says_why() {
    const auto source = recorded({{kCarrier, -20.0}}, kCarrier + 20e3);
    PuritySettings settings;
    settings.carrier_hz = kCarrier + 80e3;
    const QString said = refusal([&] { assess_purity({source}, settings); });
    QVERIFY2(said.contains("14.2"), qPrintable(said));
    QVERIFY(!refusal([&] { assess_purity({}, settings); }).isEmpty());
    // Relative levels: no power, no limit by formula, and it says so.
    PuritySource relative = source;
    relative.is_absolute = false;
    settings.carrier_hz = kCarrier;
    settings.mask = generic_mask(kCarrier);
    QVERIFY(has_remark(assess_purity({relative}, settings).remarks, "power_unknown"));
    QVERIFY(refusal([&] { assess_purity({source, relative}, settings); }).contains("scale"));
    // A line outside the pad's table is no guess.
    settings.chain = sloping_chain();
    settings.chain->parts[0].gain = Gain({{1e6, -60.0}, {10e6, -60.0}}, "pad");
    QVERIFY(refusal([&] { assess_purity({source}, settings); }).contains("pad"));
  }
};

HERON_TEST(PurityTest)

}  // namespace purity_test

#include "purity_test.moc"
