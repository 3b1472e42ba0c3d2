#include "core/method/phase_noise/noise_family.h"

#include <QtTest>
#include <numbers>
#include <random>

#include "core/method/phase_noise/family_result.h"
#include "core/method/phase_noise/family_settings.h"
#include "core/signal/straight_line.h"
#include "tests/core/made_curves.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace noise_family_test {

/// The sheet of curves over a setting.
class NoiseFamilyTest : public QObject {
  Q_OBJECT

 private slots:
  void a_family_names_the_best_and_what_it_costs() {
    const Result r = evaluate_family(family());
    QCOMPARE(r.items.size(), 6U);
    QCOMPARE(r.items.front().name, std::string("4 mA"));
    QCOMPARE(r.items.back().name, std::string("1 mA before"));
    const Answer& a = r.answers.front();
    QVERIFY(std::abs(a.figure.value + 86.37) < 0.05);
    QCOMPARE(a.judgement->verdict, Verdict::fail);
    const FigureCard& card = r.figure_cards.front();
    QCOMPARE(card.head, std::string("Best of 5: 4 mA"));
    QVERIFY2(card.caption.find("better; costs 5.") != std::string::npos, card.caption.c_str());
    QCOMPARE(card.judgement->verdict, Verdict::pass);
    QVERIFY(has_remark(r.remarks, "spread") && has_remark(r.remarks, "too_close"));
    const PlotLayer* pivot = r.plots.front().panels.front().find(PlotLayer::Kind::moment);
    QVERIFY(pivot != nullptr && std::abs(pivot->points.front().x - 31.3e3) < 1e3);
    QVERIFY(pivot->points.front().word.find("median of 10") != std::string::npos);
    // The unmodified state never enters.
    QVERIFY(!r.answers.back().judgement);
    const ResultTable& t = r.tables.front();
    QCOMPARE(t.rows[2].cells.front().tag, std::string("in use"));
    QCOMPARE(t.rows[0].cells[2].text, std::string("100"));
    QCOMPARE(t.rows[4].cells[2].text, std::string("6.25"));
    // Each crossing has a ring and a row; the unmodified state is hollow.
    const PlotLayer* rings = r.plots.front().panels.front().find(PlotLayer::Kind::ring);
    QVERIFY(rings != nullptr);
    const auto pale = std::count_if(rings->points.begin(), rings->points.end(),
                                    [](const PlotPoint& p) { return p.is_pale; });
    QVERIFY(pale >= 6);
    QCOMPARE(static_cast<std::size_t>(rings->points.size()) - static_cast<std::size_t>(pale), 10U);
    const auto crossings = std::find_if(r.tables.begin(), r.tables.end(),
                                        [](const ResultTable& x) { return x.tab == "crossings"; });
    QVERIFY(crossings != r.tables.end());
    QCOMPARE(crossings->rows.size(), 10U);
    for (const auto& row : crossings->rows) {
      QCOMPARE(row.cells.size(), crossings->columns.size());
      QVERIFY(row.cells[2].text != row.cells[3].text);  // they change places
    }
  }

  void what_counts_decides_and_too_little_gain_keeps_it() {
    Evidence e = family();
    auto& own = e.settings["noise_setting"];
    own["offset_hz"] = 200e3;  // beyond the crossings less current is better
    Result r = evaluate_family(e);
    QVERIFY(r.figure_cards.front().head.find("Best of 5: 0.") == 0 ||
            r.figure_cards.front().head == "Keep 1 mA");
    own["offset_hz"] = nullptr;
    own["weighting"] = "integrated";
    e.limit.reset();
    r = evaluate_family(e);
    QCOMPARE(r.answers.front().figure.unit, std::string("\u00b0"));
    QVERIFY(std::abs(r.answers.front().figure.value - 0.70) < 0.03);
    own["weighting"] = "fm";
    QCOMPARE(evaluate_family(e).answers.front().figure.unit, std::string("Hz"));
    own["weighting"] = "ssb";
    QCOMPARE(evaluate_family(e).answers.front().figure.unit, std::string("dBc"));
    // Nothing that chance could not do.
    own["weighting"] = "neighbour";
    own["repeats_db"] = 5.0;
    QCOMPARE(evaluate_family(e).figure_cards.front().head, std::string("Keep 1 mA"));
    // Two are no family.
    e.steps.resize(2);
    own["repeats_db"] = nullptr;
    own["in_use"] = "3 mA";
    r = evaluate_family(e);
    QVERIFY(has_remark(r.remarks, "few") && has_remark(r.remarks, "in_use"));
    QVERIFY(r.figure_cards.empty());
    // One that does not reach is named, the others stand.
    own["offset_hz"] = 5e6;
    QVERIFY(has_remark(evaluate_family(e).remarks, "not_reached"));
  }

  void the_best_is_kept_and_the_others_are_told() {
    Evidence e = family();
    e.settings["noise_setting"]["in_use"] = "4 mA";
    const Result r = evaluate_family(e);
    const FigureCard& card = r.figure_cards.front();
    QCOMPARE(card.head, std::string("Keep 4 mA"));
    // Two milliampere are worse by more than chance: that is no matter of uncertainty.
    QVERIFY2(
        card.caption.find("2 mA: +") == 0 && card.caption.ends_with("the quietest of the others"),
        card.caption.c_str());
    e.settings["noise_setting"]["repeats_db"] = 5.0;
    const std::string unsure = evaluate_family(e).figure_cards.front().caption;
    QVERIFY2(unsure.ends_with("no more than its uncertainty"), unsure.c_str());
    // Written another way it is the same setting; what is not there is told.
    e.settings["noise_setting"]["in_use"] = "4 MA";
    QVERIFY(!has_remark(evaluate_family(e).remarks, "in_use"));
    QVERIFY(evaluate_family(e).answers.front().head.find("In use: 4 mA") == 0);
    e.settings["noise_setting"]["in_use"] = "5 mA";
    QVERIFY(has_remark(evaluate_family(e).remarks, "in_use"));
  }

  void the_comparison_state_never_enters_the_advice() {
    // However quiet it is, and whatever is weighed.
    Evidence e = family();
    e.steps.push_back(curve_step("0.1 mA, before", 100.0, 1e6, [](double) { return -150.0; }));
    for (const char* weighting : {"neighbour", "ssb", "fm", "integrated"}) {
      Evidence with = e;
      with.settings["noise_setting"]["weighting"] = weighting;
      with.limit.reset();
      Evidence without = with;
      without.steps.pop_back();
      const Result a = evaluate_family(with);
      const Result b = evaluate_family(without);
      QVERIFY(!a.figure_cards.empty());
      QCOMPARE(a.figure_cards.front().head, b.figure_cards.front().head);
      QCOMPARE(a.figure_cards.front().caption, b.figure_cards.front().caption);
      QCOMPARE(a.answers.front().figure.value, b.answers.front().figure.value);
      const auto* pivot = a.plots.front().panels.front().find(PlotLayer::Kind::moment);
      QVERIFY(pivot != nullptr &&
              pivot->points.front().word.find("median of 10") != std::string::npos);
      QCOMPARE(a.answers.back().sentence, std::string("For comparison only."));
    }
  }

  void what_is_weighed_is_the_sum_over_its_range() {
    // A flat curve: everything is known in closed form.
    Evidence e;
    for (const char* name : {"1", "2", "3"})
      e.steps.push_back(curve_step(name, 100.0, 1e6, [](double) { return -90.0; }));
    auto& own = e.settings["noise_setting"];
    own = {{"weighting", "integrated"}, {"low_hz", 1e3}, {"high_hz", 11e3}};
    const double area = 2.0 * 1e-9 * 10e3;
    double degrees = std::sqrt(area) * 180.0 / std::numbers::pi;
    QVERIFY(std::abs(evaluate_family(e).answers.front().figure.value - degrees) < 1e-6 * degrees);
    own["weighting"] = "fm";
    const double hz = std::sqrt(2.0 * 1e-9 * (std::pow(11e3, 3.0) - std::pow(1e3, 3.0)) / 3.0);
    QVERIFY(std::abs(evaluate_family(e).answers.front().figure.value - hz) < 1e-6 * hz);
    own["weighting"] = "ssb";
    QVERIFY(std::abs(evaluate_family(e).answers.front().figure.value -
                     10.0 * std::log10(area / 2.0)) < 1e-6);
    own["weighting"] = "neighbour";
    QVERIFY(std::abs(evaluate_family(e).answers.front().figure.value + 90.0) < 1e-9);
    // Alike curves cross nowhere, and none is better.
    const Result r = evaluate_family(e);
    QVERIFY(r.plots.front().panels.front().find(PlotLayer::Kind::moment) == nullptr);
    QVERIFY(r.figure_cards.front().head.starts_with("Keep "));
  }

  void curves_cross_where_they_do_however_dense_they_are() {
    std::mt19937_64 random(3);
    std::uniform_real_distribution<double> lg(2.3, 4.7);
    std::uniform_real_distribution<double> slope(5.0, 30.0);
    for (const int per_decade : {5, 20, 200, 3000}) {
      for (int round = 0; round < 10; ++round) {
        const double at = std::pow(10.0, lg(random));
        const double steep = slope(random);
        FamilyMember flat{"flat", {}};
        FamilyMember falling{"falling", {}};
        for (int k = 2 * per_decade; k <= 5 * per_decade; ++k) {
          const double hz = std::pow(10.0, static_cast<double>(k) / per_decade);
          flat.curve.points.push_back({hz, -100.0, 1e-6});
          falling.curve.points.push_back({hz, -100.0 - steep * std::log10(hz / at), 1e-6});
        }
        const FamilyMember two[] = {flat, falling};
        const auto crossings = crossings_of(two);
        QCOMPARE(crossings.size(), 1U);
        QVERIFY(std::abs(std::log10(crossings[0].offset_hz / at)) < 1e-6);
      }
    }
    // A line through exact points is that line; one place alone is none.
    const std::vector<double> x{1.0, 2.0, 5.0};
    const std::vector<double> y{-3.0, -5.0, -11.0};
    const auto line = straight_line(x, y);
    QVERIFY(line && std::abs(line->slope + 2.0) < 1e-12);
    QVERIFY(std::abs(line->mean_y - line->slope * line->mean_x + 1.0) < 1e-12);
    QVERIFY(!straight_line(std::vector{4.0, 4.0}, std::vector{1.0, 2.0}));
    QVERIFY(!straight_line(std::vector{4.0}, std::vector{1.0}));
  }
};

HERON_TEST(NoiseFamilyTest)

}  // namespace noise_family_test

#include "noise_family_test.moc"
