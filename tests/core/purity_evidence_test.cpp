// What several sources say together: nothing that one saw is lost to one that could not see it,
// each limit is judged with the uncertainty that goes with it, and a pass needs all of the mask.
#include <QtTest>
#include <random>

#include "core/method/purity/purity_coverage.h"
#include "core/method/purity/purity_typed.h"
#include "tests/core/made_chain.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace purity_evidence_test {

namespace {

constexpr double kCarrierHz = 14.2e6;

PurityReading line_at(double hz, double dbm, double u_db = 0.1) {
  PurityReading r;
  r.frequency_hz = hz;
  r.level_dbm = dbm;
  r.u_db = u_db;
  return r;
}

/// A source that saw everything above `sees_dbm` between two frequencies.
PuritySource source(const std::string& name, double from_hz, double to_hz, double sees_dbm,
                    std::vector<PurityReading> readings) {
  PuritySource s;
  s.name = name;
  s.from_hz = from_hz;
  s.to_hz = to_hz;
  s.resolution_hz = 100.0;
  s.is_absolute = true;
  s.seen = {{from_hz, to_hz, sees_dbm}};
  s.readings = std::move(readings);
  return s;
}

Mask flat_mask(double dbc, double from_hz = 1e6, double to_hz = 100e6) {
  Mask m;
  m.name = "flat";
  MaskSegment s;
  s.from_hz = from_hz;
  s.to_hz = to_hz;
  s.limit_dbc = dbc;
  m.segments = {s};
  return m;
}

PuritySettings with_mask(const Mask& mask) {
  PuritySettings s;
  s.carrier_hz = kCarrierHz;
  s.mask = mask;
  s.linearity_u_db = 0.1;
  return s;
}

const PurityLine* line_near(const PurityAnalysis& a, double hz) {
  for (const PurityLine& l : a.lines)
    if (std::abs(l.frequency_hz - hz) < 1e4 && l.kind != LineKind::carrier) return &l;
  return nullptr;
}

bool said(const PurityAnalysis& a, const std::string& code) {
  return std::any_of(a.remarks.begin(), a.remarks.end(),
                     [&](const Remark& r) { return r.code == code; });
}

}  // namespace

class PurityEvidenceTest : public QObject {
  Q_OBJECT
 private slots:
  /// Any number of other sources, in any order, blind at the line's level or not looking there.
  void a_line_that_fails_is_never_lost_to_a_source_that_could_not_see_it() {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> level(-40.0, -20.0);
    std::uniform_real_distribution<double> gain(-30.0, 10.0);
    for (int round = 0; round < 400; ++round) {
      const double carrier = gain(random);
      const double harmonic = carrier + level(random);
      const bool is_doubted = round % 3 == 0;
      PurityReading h2 = line_at(2.0 * kCarrierHz, harmonic);
      if (is_doubted) h2.doubt = "the recorder\u2019s own centre";
      std::vector<PuritySource> sources{
          source("good", 1e6, 100e6, carrier - 90.0, {line_at(kCarrierHz, carrier), h2})};
      for (int k = 1 + static_cast<int>(random() % 3); k > 0; --k) {
        // Covers the place with a floor over the line; at another gain, with its own carrier.
        const double other = gain(random);
        const double blind = other + (harmonic - carrier) + 3.0 + (random() % 10);
        std::vector<PurityReading> readings{line_at(kCarrierHz, other)};
        if (random() % 2 == 0) {
          PurityReading bound = line_at(2.0 * kCarrierHz, blind, 0.0);
          bound.is_bound = true;
          readings.push_back(bound);
        }
        sources.push_back(source("blind " + std::to_string(k), 1e6, 100e6, blind, readings));
      }
      std::shuffle(sources.begin(), sources.end(), random);
      const PurityAnalysis a = assess_purity(sources, with_mask(flat_mask(-45.0)));
      const PurityLine* line = line_near(a, 2.0 * kCarrierHz);
      QVERIFY(line != nullptr && !line->is_bound);
      QVERIFY(std::abs(line->level_dbc - (harmonic - carrier)) < 1e-9);
      QCOMPARE(a.verdict(), Verdict::fail);
      // The carrier stands first, whatever the order and however many saw it.
      QVERIFY(a.carrier() != nullptr);
      QCOMPARE(std::count_if(a.lines.begin(), a.lines.end(),
                             [](const PurityLine& l) { return l.kind == LineKind::carrier; }),
               1);
    }
  }

  /// A recorder's own line goes only where another could have seen it and did not.
  void a_doubted_line_goes_where_another_looked_well_enough() {
    std::mt19937 random(11);
    std::uniform_real_distribution<double> sees(-100.0, 0.0);
    for (int round = 0; round < 300; ++round) {
      PurityReading own = line_at(20e6, -50.0);
      own.doubt = "the recorder\u2019s own centre";
      const double from = sees(random);
      const PurityAnalysis a =
          assess_purity({source("first", 1e6, 100e6, -90.0, {line_at(kCarrierHz, 0.0), own}),
                         source("second", 1e6, 100e6, from, {line_at(kCarrierHz, 0.0)})},
                        with_mask(flat_mask(-40.0)));
      const bool is_there = line_near(a, 20e6) != nullptr;
      if (from < -53.0) QVERIFY(!is_there);
      if (from > -50.0) QVERIFY(is_there);
    }
  }

  /// Without a full scale each recording has only its own carrier to be relative to.
  void another_gain_is_never_taken_for_the_same() {
    PuritySource with_carrier = source("carrier", 1e6, 20e6, -90.0, {line_at(kCarrierHz, -10.0)});
    PuritySource without = source("harmonic", 20e6, 100e6, -90.0, {line_at(28.4e6, -60.0)});
    with_carrier.is_absolute = without.is_absolute = false;
    PuritySettings how = with_mask(flat_mask(-45.0));
    const PurityAnalysis apart = assess_purity({with_carrier, without}, how);
    QVERIFY(line_near(apart, 28.4e6) == nullptr && said(apart, "no_carrier"));
    QCOMPARE(apart.verdict(), Verdict::incomplete);
    how.is_same_gain = true;
    const PurityAnalysis joint = assess_purity({with_carrier, without}, how);
    QVERIFY(line_near(joint, 28.4e6) != nullptr && !said(joint, "no_carrier"));
    QVERIFY(std::abs(line_near(joint, 28.4e6)->level_dbc + 50.0) < 1e-9);
    QCOMPARE(joint.verdict(), Verdict::pass);
  }

  /// Two that could see and do not agree: the higher counts, and it is said.
  void sources_that_differ_give_the_higher_figure() {
    std::mt19937 random(13);
    std::uniform_real_distribution<double> level(-70.0, -40.0);
    for (int round = 0; round < 200; ++round) {
      const double a_db = level(random);
      const double b_db = level(random);
      const PurityAnalysis a = assess_purity(
          {source("a", 1e6, 100e6, -95.0, {line_at(kCarrierHz, 0.0), line_at(28.4e6, a_db)}),
           source("b", 1e6, 100e6, -95.0, {line_at(kCarrierHz, 0.0), line_at(28.4e6, b_db)})},
          with_mask(flat_mask(-50.0)));
      const double shown = line_near(a, 28.4e6)->level_dbc;
      if (std::abs(a_db - b_db) > 2.0) {
        QVERIFY(said(a, "sources_differ"));
        QVERIFY(std::abs(shown - std::max(a_db, b_db)) < 1e-9);
      }
      if (std::abs(a_db - b_db) < 0.3) QVERIFY(!said(a, "sources_differ"));
    }
  }

  /// The guard band of a limit in dBm is that of the absolute level, of a ratio that of the ratio,
  /// and of a formula that grows with power what is left of both.
  void each_limit_is_judged_with_its_own_uncertainty() {
    std::mt19937 random(17);
    std::uniform_real_distribution<double> u(0.0, 1.0);
    for (int round = 0; round < 200; ++round) {
      Chain chain;
      chain.parts = {made_part("pad", "attenuator", -40.0, u(random)),
                     made_part("sampler", "instrument", 0.0, u(random))};
      for (Part& part : chain.parts) part.vswr = 1.0;
      chain.source_vswr = 1.0;
      const double linearity = u(random);
      const double u_line = u(random);
      const double u_carrier = u(random);
      PuritySettings how = with_mask(flat_mask(-50.0));
      how.chain = chain;
      how.linearity_u_db = linearity;
      const std::vector<PuritySource> sources{
          source("all", 1e6, 100e6, -120.0,
                 {line_at(kCarrierHz, 4.0, u_carrier), line_at(28.4e6, -50.0, u_line)})};
      const double path = chain.parts[0].u_db;
      const double scale = chain.parts[1].u_db > 0.0 ? chain.parts[1].u_db : 0.25;
      const auto judged_u = [&](const MaskSegment& limit) {
        how.mask.segments = {limit};
        const PurityAnalysis a = assess_purity(sources, how);
        return line_near(a, 28.4e6)->judgement->expanded / 2.0;
      };
      MaskSegment s = flat_mask(-50.0).segments[0];
      const double ratio = std::sqrt(u_line * u_line + u_carrier * u_carrier + 2.0 * path * path +
                                     linearity * linearity);
      const double absolute = std::sqrt(u_line * u_line + path * path + scale * scale);
      QVERIFY(std::abs(judged_u(s) - ratio) < 1e-9);
      s.limit_dbc.reset();
      s.limit_dbm = -6.0;
      QVERIFY(std::abs(judged_u(s) - absolute) < 1e-9);
      s.limit_dbm.reset();
      // 43 + 10 lg P, not capped, is -13 dBm: the carrier's own level is not in it.
      s.formula = PowerFormula{43.0, 10.0, std::nullopt};
      QVERIFY(std::abs(judged_u(s) - absolute) < 1e-9);
      s.formula = PowerFormula{43.0, 10.0, 30.0};
      QVERIFY(std::abs(judged_u(s) - ratio) < 1e-9);
    }
  }

  /// A pass needs every frequency of the mask seen by somebody below the limit.
  void a_pass_needs_all_of_the_mask() {
    std::mt19937 random(19);
    std::uniform_real_distribution<double> edge(1e6, 99e6);
    std::uniform_real_distribution<double> sees(-80.0, -40.0);
    int complete = 0;
    int partial = 0;
    for (int round = 0; round < 600; ++round) {
      const double limit = -60.0;
      std::vector<PuritySource> sources;
      std::vector<SeenRange> good;
      for (int k = 0; k < 4; ++k) {
        double from = edge(random);
        double to = edge(random);
        if (from > to) std::swap(from, to);
        if (random() % 2 == 0) from = 0.5e6;
        if (random() % 2 == 0) to = 120e6;
        const double floor = sees(random);
        PuritySource s = source("s" + std::to_string(k), from, to, floor, {});
        if (kCarrierHz > from && kCarrierHz < to) s.readings = {line_at(kCarrierHz, 0.0)};
        if (floor <= limit) good.push_back({from, to, floor});
        sources.push_back(std::move(s));
      }
      sources.push_back(source("carrier", 14.1e6, 14.3e6, -90.0, {line_at(kCarrierHz, 0.0)}));
      good.push_back({14.1e6, 14.3e6, -90.0});
      const PurityAnalysis a = assess_purity(sources, with_mask(flat_mask(limit, 1e6, 100e6)));
      bool is_all = true;
      for (double f = 1.0005e6; f < 100e6; f += 0.05e6) {
        is_all = is_all && std::any_of(good.begin(), good.end(), [&](const SeenRange& r) {
                   return f >= r.from_hz && f <= r.to_hz;
                 });
      }
      (is_all ? complete : partial) += 1;
      QCOMPARE(a.unjudged.empty(), is_all);
      QCOMPARE(said(a, "not_all_judged"), !is_all);
      QCOMPARE(a.verdict(), is_all ? Verdict::pass : Verdict::incomplete);
    }
    QVERIFY(complete > 30 && partial > 30);
  }

  void unknown_power_and_strong_lines_in_gaps_are_no_pass() {
    PuritySource s =
        source("all", 0.5e6, 200e6, -90.0, {line_at(kCarrierHz, 0.0), line_at(28.4e6, -60.0)});
    s.is_absolute = false;
    Mask in_dbm = flat_mask(-50.0);
    in_dbm.segments[0].limit_dbc.reset();
    in_dbm.segments[0].limit_dbm = -13.0;
    const PurityAnalysis unknown = assess_purity({s}, with_mask(in_dbm));
    QCOMPARE(unknown.verdict(), Verdict::incomplete);
    QVERIFY(said(unknown, "power_unknown"));
    PuritySettings given = with_mask(in_dbm);
    given.power_dbm = 40.0;
    QCOMPARE(assess_purity({s}, given).verdict(), Verdict::pass);  // -20 dBm
    given.power_dbm = 50.0;
    QCOMPARE(assess_purity({s}, given).verdict(), Verdict::fail);  // -10 dBm

    Mask gap = flat_mask(-50.0, 1e6, 25e6);
    gap.segments.push_back(flat_mask(-50.0, 35e6, 100e6).segments[0]);
    s.readings[1].level_dbm = -30.0;  // in the gap
    const PurityAnalysis in_gap = assess_purity({s}, with_mask(gap));
    QCOMPARE(in_gap.verdict(), Verdict::incomplete);
    s.readings[1].level_dbm = -70.0;
    QCOMPARE(assess_purity({s}, with_mask(gap)).verdict(), Verdict::pass);
  }

  /// What was typed counts where somebody says that he looked.
  void a_typed_list_passes_only_where_somebody_looked() {
    const auto verdict_of = [](const std::vector<std::string>& typed) {
      std::vector<TypedLine> lines;
      for (const std::string& t : typed) lines.push_back(parse_typed_line(t));
      PuritySettings how = with_mask(flat_mask(-50.0, 1e6, 100e6));
      return assess_purity({typed_purity_source(lines, kCarrierHz, {}, 0.5)}, how).verdict();
    };
    QCOMPARE(verdict_of({"28.4 MHz -60 dBc"}), Verdict::incomplete);
    QCOMPARE(verdict_of({"28.4 MHz -60 dBc", "1 to 100 MHz < -65 dBc"}), Verdict::pass);
    QCOMPARE(verdict_of({"28.4 MHz -60 dBc", "1 MHz to 90 MHz < -65"}), Verdict::incomplete);
    QCOMPARE(verdict_of({"28.4 MHz -60 dBc", "1 to 100 MHz < -45 dBc"}), Verdict::incomplete);
    QCOMPARE(verdict_of({"28.4 MHz -40 dBc", "1 to 100 MHz < -65 dBc"}), Verdict::fail);
  }

  /// A bound passes only with what else may move it between it and the limit.
  void a_bound_has_a_guard_band_too() {
    for (double bound = -56.0; bound < -50.0; bound += 0.05) {
      PurityReading h2 = line_at(28.4e6, bound, 0.0);
      h2.is_bound = true;
      PuritySettings how = with_mask(flat_mask(-51.0));
      how.linearity_u_db = 1.0;
      const PurityAnalysis a = assess_purity(
          {source("all", 0.5e6, 200e6, -90.0, {line_at(kCarrierHz, 0.0, 0.0), h2})}, how);
      QCOMPARE(line_near(a, 28.4e6)->judgement->verdict,
               bound + 2.0 < -51.0 ? Verdict::pass : Verdict::too_close);
    }
  }
};

HERON_TEST(PurityEvidenceTest)

}  // namespace purity_evidence_test

#include "purity_evidence_test.moc"
