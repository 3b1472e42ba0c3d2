#include <QtTest>
#include <random>

#include "core/error.h"
#include "core/judge/owner_page.h"
#include "core/judge/remark.h"
#include "core/judge/verdict.h"
#include "core/signal/normal_numbers.h"
#include "tests/test_program.h"

using namespace heron;

namespace judge_test {

namespace {
Figure figure(double value, double u, Bound bound = Bound::none) {
  Figure f;
  f.value = value;
  f.unit = "dB";
  f.convention = "re PEP";
  f.bound = bound;
  f.contributions = {{"all", u, Scope::independent}};
  return f;
}
Limit limit(Sense sense, double value) {
  return {"Marsh club", sense, value, "dB", "re PEP", 20.0};
}
}  // namespace

class JudgeTest : public QObject {
  Q_OBJECT
 private slots:
  void an_evaluation_is_told_to_its_owner_in_plain_words() {
    const std::vector<OwnerTest> tests{
        {"Output", "26.6 W", "at least 30 W", Verdict::fail},
        {"Two-tone", "-34.9 dB", "at most -30 dB", Verdict::pass},
        {"Noise", "", "at most -45 dB", Verdict::not_taken},
        {"Gain", "13.2 dB", "", Verdict::not_taken},
        {"Purity", "-43.1 dBc", "at most -43 dBc", Verdict::too_close}};
    const auto parts = owner_page(tests, {"2026-03-02: fan cleaned"});
    std::vector<std::string> heads;
    for (const OwnerPart& p : parts) heads.push_back(p.head);
    QVERIFY(heads == (std::vector<std::string>{
                         "In short", "Keeps to its limit", "Does not keep to its limit",
                         "Too close to its limit to say", "Measured, with nothing to keep to",
                         "Done to it", "What the next visit needs"}));
    QCOMPARE(QString::fromStdString(parts[0].lines[0]),
             QString("4 of 5 tests measured: 1 keeps to its limit, 1 does not, 1 is too close to "
                     "say."));
    QCOMPARE(parts[2].lines, std::vector<std::string>{"Output: 26.6 W (limit: at least 30 W)"});
    QCOMPARE(parts[4].lines, std::vector<std::string>{"Gain: 13.2 dB"});
    QVERIFY(parts[6].lines ==
            (std::vector<std::string>{"Mend or adjust, then measure again: Output.",
                                      "Measure again, less uncertain: Purity.",
                                      "Not measured yet: Noise."}));
    QVERIFY(owner_page({}, {}).empty());
    QCOMPARE(owner_page({{"Gain", "", "", Verdict::not_taken}}, {})[0].lines[0],
             std::string("0 of 1 test measured."));
  }

  void the_whole_interval_decides() {
    const Limit at_most = limit(Sense::at_most, -30.0);
    QCOMPARE(judge(figure(-30.8, 0.35), at_most).verdict, Verdict::pass);
    QCOMPARE(judge(figure(-30.4, 0.35), at_most).verdict, Verdict::too_close);
    QCOMPARE(judge(figure(-29.6, 0.35), at_most).verdict, Verdict::too_close);
    QCOMPARE(judge(figure(-29.2, 0.35), at_most).verdict, Verdict::fail);
    QCOMPARE(judge(figure(31.0, 0.4), limit(Sense::at_least, 30.0)).verdict, Verdict::pass);
    QCOMPARE(judge(figure(29.0, 0.4), limit(Sense::at_least, 30.0)).verdict, Verdict::fail);
    QCOMPARE(judge(figure(-0.3, 0.05), limit(Sense::within, 0.5)).verdict, Verdict::pass);
    QCOMPARE(judge(figure(-0.7, 0.05), limit(Sense::within, 0.5)).verdict, Verdict::fail);
  }

  void a_bound_says_what_its_known_side_says() {
    QCOMPARE(judge(figure(-31.0, 0.4, Bound::upper), limit(Sense::at_most, -30.0)).verdict,
             Verdict::pass);
    // What else than noise may move it is a guard band.
    QCOMPARE(judge(figure(-31.0, 0.6, Bound::upper), limit(Sense::at_most, -30.0)).verdict,
             Verdict::too_close);
    QCOMPARE(judge(figure(31.0, 0.6, Bound::lower), limit(Sense::at_least, 30.0)).verdict,
             Verdict::too_close);
    QCOMPARE(judge(figure(-20.0, 0.0, Bound::upper), limit(Sense::at_most, -30.0)).verdict,
             Verdict::too_close);
    // "At least 3200 Hz wide" breaks a limit of 3000 Hz for sure.
    QCOMPARE(judge(figure(3200.0, 50.0, Bound::lower), limit(Sense::at_most, 3000.0)).verdict,
             Verdict::fail);
    for (const double seen : {2000.0, 3050.0}) {
      const Judgement j = judge(figure(seen, 50.0, Bound::lower), limit(Sense::at_most, 3000.0));
      QCOMPARE(j.verdict, Verdict::incomplete);
      QVERIFY(verdict_sentence(j, "Hz").find("not everything was measured") != std::string::npos);
    }
    const Judgement broken =
        judge(figure(3200.0, 50.0, Bound::lower), limit(Sense::at_most, 3000.0));
    QCOMPARE(verdict_sentence(broken, "Hz"), std::string("At least 100 Hz outside the limit."));
    QCOMPARE(judge(figure(-40.0, 0.0, Bound::upper), limit(Sense::at_least, -30.0)).verdict,
             Verdict::fail);
  }

  void other_conventions_are_refused() {
    Limit other = limit(Sense::at_most, -30.0);
    other.convention = "re one tone";
    QVERIFY_EXCEPTION_THROWN(judge(figure(-31.0, 0.1), other), InputError);
  }

  /// The guard band keeps its promise: a device exactly at the limit is passed at most 2.5 % of the
  /// times, and failed as rarely.
  void the_guard_band_limits_wrong_verdicts() {
    std::mt19937_64 random(11);
    NormalNumbers<double> noise(0.0, 0.4);
    int passes = 0;
    int fails = 0;
    constexpr int kDraws = 20000;
    for (int i = 0; i < kDraws; ++i) {
      const Verdict v =
          judge(figure(-30.0 + noise(random), 0.4), limit(Sense::at_most, -30.0)).verdict;
      passes += v == Verdict::pass ? 1 : 0;
      fails += v == Verdict::fail ? 1 : 0;
    }
    QVERIFY(passes > 0.015 * kDraws && passes < 0.03 * kDraws);
    QVERIFY(fails > 0.015 * kDraws && fails < 0.03 * kDraws);
  }

  void limits_read_as_people_say_them() {
    QCOMPARE(limit_text(limit(Sense::at_most, -30.0)), std::string("\u221230 dB"));
    QCOMPARE(limit_text({"", Sense::within, 0.5, "ppm", "", 0.5}), std::string("\u00b1 0.5 ppm"));
    QCOMPARE(limit_text({"", Sense::at_least, 30.0, "W", "", 20}), std::string("at least 30 W"));
    QCOMPARE(sense_from_name(sense_name(Sense::within)), Sense::within);
    QVERIFY_EXCEPTION_THROWN(sense_from_name("about"), InputError);
  }

  void remarks_come_to_do_first() {
    std::vector<Remark> r{{"a", Severity::note, "", ""},
                          {"b", Severity::caution, "", ""},
                          {"c", Severity::note, "", "do"},
                          {"d", Severity::fault, "", ""}};
    sort_remarks(r);
    QCOMPARE(r[0].code + r[1].code + r[2].code + r[3].code, std::string("dcba"));
  }

  void of_two_judgements_the_verdict_counts_before_the_margin() {
    const auto made = [](Verdict verdict, double margin, double expanded) {
      return Judgement{verdict, margin, expanded, Bound::none};
    };
    // From the worst to the best; every earlier one is worse than every later one.
    const std::vector<Judgement> order = {
        made(Verdict::fail, -1.0, 0.5),      made(Verdict::too_close, 0.5, 1.0),
        made(Verdict::too_close, 0.5, 0.75), made(Verdict::too_close, 0.75, 1.0),
        made(Verdict::pass, 0.25, 0.1),      made(Verdict::pass, 9.0, 0.1)};
    for (std::size_t i = 0; i < order.size(); ++i) {
      for (std::size_t j = 0; j < order.size(); ++j) QCOMPARE(is_worse(order[i], order[j]), i < j);
    }
  }
};

HERON_TEST(JudgeTest)

}  // namespace judge_test

#include "judge_test.moc"
