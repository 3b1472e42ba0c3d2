// A ladder between its steps, and with an amplifier behind.
#include "core/method/two_tone/ladder_between.h"

#include <QtTest>
#include <array>
#include <numbers>
#include <random>

#include "core/method/two_tone/driven_amplifier.h"
#include "core/method/two_tone/ladder_advice.h"
#include "core/quantity/budget.h"
#include "core/quantity/drive_label.h"
#include "core/quantity/levels.h"
#include "core/signal/normal_numbers.h"
#include "tests/core/made_analysis.h"
#include "tests/core/made_limiter.h"
#include "tests/test_program.h"

using namespace heron;

namespace ladder_between_test {

using heron::testing::limiter_amplitude_at;
using heron::testing::limiter_levels;
using heron::testing::made_analysis;

namespace {

/// Steps with the given worst IM3 and IM5 (dBc, both sides alike).
struct MadeLadder {
  std::vector<TwoToneAnalysis> analyses;
  std::vector<double> dbm;
  std::vector<LadderStep> steps() const {
    std::vector<LadderStep> list;
    for (std::size_t i = 0; i < analyses.size(); ++i) {
      Figure output;
      output.value = dbm[i];
      output.unit = "dBm";
      list.push_back({"step", output, &analyses[i]});
    }
    return list;
  }
};

MadeLadder ladder(const std::vector<std::tuple<double, double, double>>& steps, double u_db = 0.1) {
  MadeLadder made;
  for (const auto& [dbm, im3, im5] : steps) {
    made.analyses.push_back(made_analysis({im3, im3 - 1, im5, im5 - 1}, u_db));
    made.dbm.push_back(dbm);
  }
  return made;
}

std::vector<AmplifierStep> amplifier(const MadeLadder& made, double gain_db) {
  std::vector<AmplifierStep> steps;
  for (std::size_t i = 0; i < made.analyses.size(); ++i)
    steps.push_back({made.dbm[i], made.dbm[i] + gain_db, &made.analyses[i]});
  return steps;
}

}  // namespace

class LadderBetweenTest : public QObject {
  Q_OBJECT
 private slots:
  void between_two_steps_a_level_is_straight_in_decibels() {
    const MadeLadder made = ladder({{30, -50, -60}, {40, -30, -50}});
    const auto traces = ladder_traces(made.steps(), kReOneTone);
    QCOMPARE(traces.size(), 2U);
    for (const double x : {30.0, 32.5, 37.0, 40.0}) {
      const auto level = level_at(traces[0], x);
      QVERIFY(level.has_value());
      QVERIFY(std::abs(level->value - (-50.0 + 2.0 * (x - 30.0))) < 1e-9);
    }
    QVERIFY(!level_at(traces[0], 29.0));
    QVERIFY(!level_at(traces[0], 41.0));
    // In the other convention every level is 6.02 dB lower.
    QVERIFY(std::abs(level_at(ladder_traces(made.steps(), kRePep)[0], 35.0)->value + 46.0206) <
            1e-3);
  }

  void between_steps_the_larger_uncertainty_holds_and_bounds_stay_bounds() {
    MadeLadder made = ladder({{30, -50, -60}, {40, -30, -50}, {50, -10, -40}});
    for (auto& p : made.analyses[0].products) p.u_db = 0.7;
    const auto traces = ladder_traces(made.steps(), kReOneTone);
    QVERIFY(std::abs(level_at(traces[0], 38.0)->u() - 0.7) < 1e-9);  // on a line nothing bends
    // With no third step nothing says that it is straight.
    MadeLadder two = ladder({{30, -50, -60}, {40, -30, -50}});
    QVERIFY(level_at(ladder_traces(two.steps(), kReOneTone)[0], 35.0)->u() > 2.0);
    MadeLadder bound = ladder({{30, -95, -95}, {40, -30, -50}});
    const auto at = level_at(ladder_traces(bound.steps(), kReOneTone)[0], 35.0);
    QCOMPARE(at->bound, Bound::upper);
    QCOMPARE(at->value, -30.0);  // nobody knows more
  }

  void the_output_at_the_limit_is_found_from_above() {
    // Not monotonic: a dip at 36 dBm must not be taken for the answer.
    const MadeLadder made =
        ladder({{30, -40, -70}, {36, -25, -70}, {38, -35, -70}, {44, -20, -70}});
    const auto traces = ladder_traces(made.steps(), kReOneTone);
    const auto at = output_at_limit(traces, -30.0);
    QVERIFY(at.has_value() && !at->is_at_least);
    QVERIFY(std::abs(at->output_dbm - 40.0) < 0.01);  // 38 + 5/15 * 6
    const double slope = 15.0 / 6.0;
    const double u = made.analyses[3].products[0].u_db;
    // At least what the step's own uncertainty takes; more because the curve bends beside it.
    QVERIFY(at->sure_dbm && at->output_dbm - *at->sure_dbm > 2.0 * u / slope - 0.01);
    QVERIFY(output_at_limit(traces, -10.0)->is_surely_at_least);
    // Nominally inside, not with its uncertainty: never sure, and never a step that is not.
    const auto near = output_at_limit(traces, -20.0 + u);
    QVERIFY(near->is_at_least && !near->is_surely_at_least);
    QVERIFY(!near->sure_dbm || *near->sure_dbm < 44.0);
    QVERIFY(!output_at_limit(traces, -60.0));
  }

  void nothing_is_sure_where_an_order_was_not_read() {
    // IM5 stops at 40 dBm; that it was far below the limit there proves nothing at 44 dBm.
    MadeLadder made = ladder({{30, -50, -70}, {40, -45, -60}, {44, -40, -50}});
    std::erase_if(made.analyses[2].products, [](const auto& p) { return p.order == 5; });
    const auto traces = ladder_traces(made.steps(), kReOneTone);
    QCOMPARE(worst_at(traces, 42.0, kReOneTone)->unread_order, std::optional<int>(5));
    QVERIFY(!worst_at(traces, 39.0, kReOneTone)->unread_order);
    const auto at = output_at_limit(traces, -30.0);
    QVERIFY(at->is_at_least && !at->is_surely_at_least);
    QCOMPARE(at->unread_order, std::optional<int>(5));
    QVERIFY(std::abs(*at->sure_dbm - 40.0) < 0.01);
    const auto advice = advise_ladder(traces, Limit{"", Sense::at_most, -30.0, "dB", kReOneTone},
                                      std::nullopt, {}, "");
    QVERIFY(advice.remarks.at(0).text.find("IM5 was not read") != std::string::npos);
  }

  void the_crossing_carries_the_uncertainty_of_both_orders() {
    const auto change_of = [](const std::vector<std::tuple<double, double, double>>& steps) {
      const MadeLadder made = ladder(steps, 0.2);
      const TwoToneLadder result = evaluate_ladder(made.steps(), std::nullopt);
      return result.dominance_changes.size() == 1 ? result.dominance_changes[0] : DominanceChange{};
    };
    const double u_gap = std::hypot(0.2, 0.2) / 2.0;  // the gap runs 2 dB per dB
    // Straight over all steps.
    const DominanceChange straight =
        change_of({{36, -32, -44}, {40, -30, -34}, {44, -28, -24}, {48, -26, -14}});
    QVERIFY(std::abs(straight.crossing_dbm - 42.0) < 1e-9);
    QVERIFY(std::abs(straight.u_db - u_gap) < 1e-9);
    // The step above says 41 dBm: straight is no more than a guess within a decibel.
    const DominanceChange bent =
        change_of({{36, -32, -44}, {40, -30, -34}, {44, -28, -24}, {47, -24, -16}});
    QVERIFY(std::abs(bent.crossing_dbm - 42.0) < 1e-9);
    QVERIFY(std::abs(bent.u_db - std::hypot(u_gap, 1.0 / std::sqrt(3.0))) < 1e-9);
    // Only two steps: a quarter of the way.
    const DominanceChange lone = change_of({{40, -30, -34}, {44, -28, -24}});
    QVERIFY(std::abs(lone.u_db - std::hypot(u_gap, 1.0 / std::sqrt(3.0))) < 1e-9);
  }

  /// The interval of a step's figure, interpolated, covers the truth about as often as it says.
  void the_limit_output_covers_the_truth() {
    std::mt19937 random(17);
    NormalNumbers<double> noise(0.0, 0.3);
    int covered = 0;
    constexpr int kTrials = 400;
    for (int i = 0; i < kTrials; ++i) {
      // Truth: IM3 = -40 + 2 (x - 38) dBc, limit -31: crossed at 42.5 dBm.
      MadeLadder made;
      for (const double x : {36.0, 40.0, 44.0}) {
        made.analyses.push_back(
            made_analysis({-40.0 + 2.0 * (x - 38.0) + noise(random), -120.0}, 0.3));
        made.dbm.push_back(x);
      }
      const auto at = output_at_limit(ladder_traces(made.steps(), kReOneTone), -31.0);
      QVERIFY(at.has_value());
      if (std::abs(at->output_dbm - 42.5) <= 2.0 * at->u_db) ++covered;
    }
    // Between steps the larger ± holds, which is on the safe side of 95 %.
    QVERIFY2(covered >= kTrials * 0.95, qPrintable(QString::number(covered)));
  }

  void exciter_and_amplifier_add_between_power_and_voltage() {
    const MadeLadder exciter = ladder({{36, -40, -60}, {42, -30, -50}});
    const MadeLadder amp = ladder({{36, -40, -60}, {42, -30, -50}});
    const DrivenAmplifier d =
        predict_driven(exciter.steps(), amplifier(amp, 10.0), {}, kReOneTone, -30.0);
    QVERIFY(d.points.size() > 40);
    for (const DrivenPoint& p : d.points) {
      const double alone = -40.0 + 10.0 / 6.0 * (p.exciter_dbm - 36.0);
      QVERIFY(std::abs(*p.power_sum_db - (alone + 3.0103)) < 1e-6);
      QVERIFY(std::abs(p.in_phase_db - (alone + 6.0206)) < 1e-6);
      QVERIFY(std::abs(p.amplifier_dbm - (p.exciter_dbm + 10.0)) < 1e-9);
      QVERIFY(std::abs(p.u_db - std::hypot(0.5 * 0.1, 0.5 * 0.1)) < 1e-9);
    }
    // The whole band under the limit: in phase, with its uncertainty.
    const double at = 36.0 + (10.0 - 6.0206 - 2.0 * d.points[0].u_db) / (10.0 / 6.0);
    QVERIFY(std::abs(*d.exciter_at_limit_dbm - at) < 0.01);
    QVERIFY(std::abs(*d.amplifier_at_limit_dbm - at - 10.0) < 0.01);
    QVERIFY(!d.is_limit_beyond);
    const auto wanted = driven_at_output(d, 50.0);
    QVERIFY(std::abs(wanted->exciter_dbm - 40.0) < 1e-6);
    QVERIFY(!driven_at_output(d, 60.0));
  }

  void a_measured_pair_is_placed_against_the_band() {
    const MadeLadder exciter = ladder({{36, -40, -60}, {42, -30, -50}});
    const MadeLadder amp = ladder({{36, -40, -60}, {42, -30, -50}});
    const auto place = [&](double im3) {
      const MadeLadder pair = ladder({{42, im3, -70}});
      const auto d = predict_driven(exciter.steps(), amplifier(amp, 10.0), amplifier(pair, 10.0),
                                    kReOneTone, -30.0);
      return d.measured.at(0).place;
    };
    QCOMPARE(place(-25.5), 0);
    QCOMPARE(place(-22.0), 1);
    QCOMPARE(place(-33.0), -1);
    QCOMPARE(place(-23.85), 0);  // above by less than its uncertainty
  }

  void a_pair_of_bounds_has_no_lower_edge() {
    // Both drown in the noise: the sum is a bound, and a pair can only be above it.
    const MadeLadder silent = ladder({{36, -95, -95}, {42, -95, -95}});
    const MadeLadder pair = ladder({{42, -80, -85}});
    const auto d = predict_driven(silent.steps(), amplifier(silent, 10.0), amplifier(pair, 10.0),
                                  kReOneTone, -30.0);
    QVERIFY(!d.points.empty());
    for (const DrivenPoint& p : d.points) QVERIFY(!p.power_sum_db);
    QVERIFY(!d.measured.at(0).power_sum_db);
    QCOMPARE(d.measured.at(0).place, 1);
    QVERIFY(!driven_at_output(d, 50.0)->power_sum_db);
  }

  void ladders_that_do_not_meet_predict_nothing_and_say_so() {
    const MadeLadder exciter = ladder({{30, -40, -60}, {36, -30, -50}});
    const MadeLadder amp = ladder({{40, -40, -60}, {46, -30, -50}});
    const auto d = predict_driven(exciter.steps(), amplifier(amp, 10.0), {}, kReOneTone, -30.0);
    QVERIFY(d.points.empty());
    const auto advice = advise_ladder(ladder_traces(exciter.steps(), kReOneTone), std::nullopt,
                                      std::nullopt, d, "Curlew 120");
    QCOMPARE(advice.remarks.size(), 1U);
    QCOMPARE(advice.remarks[0].code, std::string("driven_unknown"));
  }

  /// Smooth limiters y = x / (1 + |x|^2p)^(1/2p), steps 1 to 6 dB apart, readings with noise: the
  /// output at the limit lies within twice its u, and what is "sure" does keep to it.
  void limits_on_smooth_limiters_are_covered() {
    std::mt19937_64 random(29);
    NormalNumbers<double> noise(0.0, 1.0);
    const auto uniform = [&](double a, double b) {
      return std::uniform_real_distribution<double>(a, b)(random);
    };
    int count = 0;
    int inside = 0;
    int sure = 0;
    int broken = 0;
    for (int round = 0; round < 300; ++round) {
      const double p = uniform(1.0, 5.0);
      const double limit = uniform(-45.0, -22.0);
      const double step_db = uniform(1.0, 6.0);
      const double u = uniform(0.05, 0.4);
      const auto levels = [p](double a) { return limiter_levels(p, a); };
      const auto output = [&](double a) { return levels(a)[0] + 40.0; };
      const auto found = limiter_amplitude_at(p, limit);
      if (!found) continue;
      const double low = *found;
      const double truth = output(low);
      std::vector<std::tuple<double, double, double>> steps;
      const double first = uniform(-0.9, -0.1) * step_db - 2.0 * step_db;
      for (int k = 0; k < 6; ++k) {
        const double a = low * std::pow(10.0, (first + k * step_db) / 20.0);
        const auto db = levels(a);
        steps.emplace_back(output(a), db[1] - db[0] + u * noise(random),
                           std::max(db[2], db[3]) - db[0] + u * noise(random));
      }
      MadeLadder made = ladder(steps, u);
      const auto at = output_at_limit(ladder_traces(made.steps(), kReOneTone), limit);
      if (!at || at->is_at_least) continue;
      ++count;
      inside += std::abs(at->output_dbm - truth) <= 2.0 * at->u_db ? 1 : 0;
      if (!at->sure_dbm) continue;
      ++sure;
      broken += *at->sure_dbm > truth ? 1 : 0;
    }
    const QString said =
        QString("%1 of %2 inside, %3 of %4 not sure").arg(inside).arg(count).arg(broken).arg(sure);
    QVERIFY2(count > 150 && sure > 100, qPrintable(said));
    QVERIFY2(inside >= 0.92 * count, qPrintable(said));
    QVERIFY2(broken <= 0.05 * sure, qPrintable(said));
    qInfo("%s", qPrintable(said));
  }

  /// Steps that nothing vouches for are named: faults, one recording twice, two exchanged, an empty
  /// cell.
  void faults_of_single_steps_are_told_of_the_ladder() {
    std::mt19937_64 random(31);
    for (int round = 0; round < 100; ++round) {
      MadeLadder made = ladder({{30, -60, -80}, {34, -52, -70}, {38, -44, -60}, {42, -36, -50}});
      const std::size_t i = random() % 4;
      const std::size_t j = (i + 1 + random() % 3) % 4;
      for (std::size_t k = 0; k < 4; ++k) {
        made.analyses[k].capture.format = "WAV";
        made.analyses[k].capture.frames = 48000;
        made.analyses[k].pep_dbfs = -50.0 + 4.0 * static_cast<double>(k);
        made.analyses[k].tones.resize(2);
        made.analyses[k].tones[0].level_dbfs = made.analyses[k].pep_dbfs - 6.0;
      }
      const Limit limit{"club", Sense::at_most, -30.0, "dB", kReOneTone, 20.0};
      const auto said = [&](const char* code) {
        const TwoToneLadder result = evaluate_ladder(made.steps(), limit);
        return std::any_of(result.remarks.begin(), result.remarks.end(),
                           [&](const Remark& r) { return r.code == code; });
      };
      QVERIFY(!said("recordings_swapped") && !said("same_recording") && !said("step_fault"));
      MadeLadder kept = made;
      std::swap(made.analyses[i].pep_dbfs, made.analyses[j].pep_dbfs);
      QVERIFY(said("recordings_swapped"));
      made = kept;
      made.analyses[i].tones = made.analyses[j].tones;
      QVERIFY(said("same_recording"));
      made = kept;
      made.analyses[i].remarks.push_back({"clipping", Severity::fault, "It clipped.", ""});
      QVERIFY(said("step_fault"));
      made = kept;
      std::erase_if(made.analyses[i].products,
                    [](const TwoToneProduct& p) { return p.order == 5; });
      QVERIFY(said("product_unknown"));
      QCOMPARE(evaluate_ladder(made.steps(), limit).rows[i].judgement.verdict, Verdict::incomplete);
    }
  }

  void advice_names_the_numbers() {
    const MadeLadder made = ladder({{30, -50, -70}, {36, -40, -60}, {42, -30, -50}});
    const auto traces = ladder_traces(made.steps(), kReOneTone);
    const Limit limit{"Marsh club", Sense::at_most, -33.0, "dB", kReOneTone, 20.0};
    const auto advice = advise_ladder(traces, limit, 39.0, {}, "");
    QVERIFY(advice.at_ceiling->is_between_steps);
    QVERIFY(std::abs(advice.at_ceiling->figure.value + 35.0) < 1e-9);
    QCOMPARE(advice.remarks.size(), 1U);
    QVERIFY2(advice.remarks[0].text.find("10.4") != std::string::npos,
             advice.remarks[0].text.c_str());  // 40.2 dBm
    const auto outside = advise_ladder(traces, limit, 50.0, {}, "");
    QVERIFY(!outside.at_ceiling);
    QVERIFY(std::any_of(outside.remarks.begin(), outside.remarks.end(),
                        [](const Remark& r) { return r.code == "ceiling_outside"; }));
  }

  void a_step_named_after_its_drive_is_understood() {
    QVERIFY(std::abs(*drive_of_label("12 W") - 40.7918) < 1e-3);
    QVERIFY(std::abs(*drive_of_label("41 dBm") - 41.0) < 1e-9);
    QVERIFY(std::abs(*drive_of_label("2.5 W bias low") - 33.9794) < 1e-3);
    QVERIFY(std::abs(*drive_of_label("5W, new bias") - 36.9897) < 1e-3);
    QVERIFY(!drive_of_label("full power"));
    QVERIFY(!drive_of_label(""));
  }

  void a_budget_is_ranked_folded_and_adds_up() {
    Figure f;
    f.unit = "dB";
    f.contributions = {{"pad", 0.30, Scope::common},     {"noise", 0.10, Scope::independent},
                       {"sampler", 0.40, Scope::common}, {"tiny", 0.01, Scope::independent},
                       {"tinier", 0.005, Scope::common}, {"noise", 0.10, Scope::independent}};
    const Budget b = budget_of(f);
    QCOMPARE(b.rows.size(), 4U);
    QCOMPARE(b.rows[0].name, std::string("sampler"));
    QCOMPARE(b.rows.back().name, std::string("2 others"));
    double square = 0.0;
    double share = 0.0;
    for (const BudgetRow& r : b.rows) {
      square += r.expanded * r.expanded;
      share += r.share;
    }
    QVERIFY(std::abs(std::sqrt(square) - b.expanded) < 1e-12);
    QVERIFY(std::abs(share - 1.0) < 1e-12);
    QVERIFY(std::abs(b.expanded_if_halved - std::sqrt(square - 0.75 * 0.64)) < 1e-12);
    QVERIFY(std::abs(b.step_to_step - std::sqrt(2.0 * (0.08 + 0.0004))) < 1e-12);
    QVERIFY(help_sentence(b, "dB", 0.9).find("settles") != std::string::npos);
    QVERIFY(help_sentence(b, "dB", 0.2).find("alone does not settle") != std::string::npos);
    QVERIFY(help_sentence(b, "dB", 5.0).find("settled without it") != std::string::npos);
    QVERIFY(budget_of(Figure{}).rows.empty());
  }
};

HERON_TEST(LadderBetweenTest)

}  // namespace ladder_between_test

#include "ladder_between_test.moc"
