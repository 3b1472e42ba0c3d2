#include <QtTest>

#include "core/method/two_tone/two_tone_ladder.h"
#include "tests/test_program.h"

using namespace heron;

namespace ladder_test {

namespace {

/// An analysis with given levels re one tone for IM3 and IM5, both sides alike.
TwoToneAnalysis made(double im3, double im5, double u = 0.1) {
  TwoToneAnalysis a;
  a.one_tone_dbfs = -12.0;
  a.pep_dbfs = -12.0 + 6.0206;
  a.tones.resize(2);
  for (const auto& [order, level] : {std::pair{3, im3}, std::pair{5, im5}}) {
    for (const Side side : {Side::lower, Side::upper}) {
      a.products.push_back({order, side, 0.0, level, level - 6.0206, u, false, -80.0});
    }
  }
  return a;
}

Figure output(double watts) {
  Figure f;
  f.value = 10.0 * std::log10(watts * 1000.0);
  f.unit = "dBm";
  return f;
}

}  // namespace

class LadderTest : public QObject {
  Q_OBJECT
 private slots:
  void sweet_spot_quietest_and_dominance() {
    const std::vector<TwoToneAnalysis> a{made(-25, -24), made(-30, -33), made(-38, -45),
                                         made(-36, -50)};
    std::vector<LadderStep> steps{{"30 W", output(30), &a[0]},
                                  {"20 W", output(20), &a[1]},
                                  {"10 W", output(10), &a[2]},
                                  {"5 W", output(5), &a[3]},
                                  {"2 W", output(2), nullptr}};
    const TwoToneLadder ladder =
        evaluate_ladder(steps, Limit{"Marsh club", Sense::at_most, -36.0, "dB", kRePep, 20.0});
    QCOMPARE(ladder.rows.size(), 5U);
    QCOMPARE(ladder.rows[0].judgement.verdict, Verdict::fail);
    QCOMPARE(ladder.rows[1].judgement.verdict, Verdict::too_close);
    QCOMPARE(ladder.rows[4].judgement.verdict, Verdict::not_taken);
    QCOMPARE(*ladder.sweet_spot, 2U);
    QCOMPARE(*ladder.quietest, 2U);
    QCOMPARE(ladder.dominance_changes.size(), 1U);
    QCOMPARE(ladder.dominance_changes[0].to_order, 5);
    // IM5 - IM3 goes from -3 to +1 dB: three quarters of the way from 20 W to 30 W in dB.
    const double expected = output(20).value + 0.75 * (output(30).value - output(20).value);
    QVERIFY(std::abs(ladder.dominance_changes[0].crossing_dbm - expected) < 1e-9);
  }

  void an_intercept_needs_the_three_decibel_law() {
    // IM3 in dBc grows 2 dB per dB: the 3 dB law. OIP3 = P_tone + IM3/2.
    const std::vector<TwoToneAnalysis> lawful{made(-50, -80), made(-44, -70), made(-38, -60)};
    std::vector<LadderStep> steps;
    for (int i = 0; i < 3; ++i)
      steps.push_back({"", output(std::pow(10.0, 0.3 * i)), &lawful[static_cast<std::size_t>(i)]});
    const TwoToneLadder good = evaluate_ladder(steps, std::nullopt);
    QVERIFY(std::abs(*good.im3_slope - 3.0) < 1e-6);
    QVERIFY(std::abs(good.oip3->value - (30.0 - 6.0206 + 25.0)) < 1e-6);
    const std::vector<TwoToneAnalysis> other{made(-50, -80), made(-49, -70), made(-48, -60)};
    for (std::size_t i = 0; i < 3; ++i) steps[i].analysis = &other[i];
    const TwoToneLadder bad = evaluate_ladder(steps, std::nullopt);
    QVERIFY(!bad.oip3);
    QVERIFY(std::any_of(bad.remarks.begin(), bad.remarks.end(),
                        [](const Remark& r) { return r.code == "no_intercept"; }));
  }

  void the_sampler_gives_itself_away() {
    const auto rows = sampler_self_test(made(-40, -50), made(-40.2, -70), 10.0);
    QVERIFY(!rows[0].made_by_sampler);
    QVERIFY(rows[2].made_by_sampler);
    QCOMPARE(rows[2].change_db, -20.0);
  }

  void an_empty_ladder_says_nothing() {
    const TwoToneLadder ladder = evaluate_ladder({}, std::nullopt);
    QVERIFY(ladder.rows.empty() && !ladder.sweet_spot && !ladder.quietest &&
            ladder.remarks.empty());
  }
};

HERON_TEST(LadderTest)

}  // namespace ladder_test

#include "ladder_test.moc"
