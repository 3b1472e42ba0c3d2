// What a two-tone test says as a whole: answers, tables, plots, cards and remarks of a made ladder.
#include "core/method/two_tone/two_tone_result.h"

#include <QtTest>
#include <random>

#include "core/error.h"
#include "core/method/compare.h"
#include "core/method/method.h"
#include "core/method/method_table.h"
#include "core/method/two_tone/two_tone_json.h"
#include "core/quantity/format.h"
#include "tests/core/made_ladder.h"
#include "tests/test_program.h"

using namespace heron;

namespace two_tone_result_test {

using heron::testing::made_analysis;
using heron::testing::made_ladder;
using heron::testing::pep_limit;
using heron::testing::three_steps;

namespace {

constexpr int kIm3 = 2;
constexpr int kWorst = 6;
constexpr int kVerdict = 8;
const std::string kSpectrum = "Spectrum";
const std::string kOverPower = "Over power";

/// A number out of a cell: true minus, "\u2264".
double number_in(std::string text) {
  for (const std::string& mark : {std::string("\u2264 "), std::string("\u2212")}) {
    const auto at = text.find(mark);
    if (at != std::string::npos) text.replace(at, mark.size(), mark == "\u2212" ? "-" : "");
  }
  return std::stod(text);
}

std::vector<double> random_levels(std::mt19937& random) {
  std::uniform_real_distribution<double> level(-95.0, -15.0);
  std::vector<double> levels(10);
  for (double& v : levels) v = level(random);
  return levels;
}

const PlotLayer* layer_of(const Plot& plot, PlotLayer::Kind kind) {
  return plot.panels.front().find(kind);
}

Evidence with_ceiling(Evidence e, double watts) {
  e.settings["ladder"]["ceiling_dbm"] = to_dbm(Watt{watts}).value;
  return e;
}

std::optional<Answer> at_ceiling(const Evidence& e) {
  const Result r = evaluate_two_tone(e);
  const Answer* a = r.answer_at(0, kOverPower);
  return a != nullptr && a->head.find("ceiling") != std::string::npos ? std::optional(*a)
                                                                      : std::nullopt;
}

/// An amplifier of 12 dB that is driven with 1 to 40 W, called after its drive.
std::shared_ptr<const Evidence> made_amplifier(double dbc_at_full) {
  std::vector<std::optional<TwoToneAnalysis>> all;
  for (int i = 0; i < 4; ++i) all.emplace_back(made_analysis({dbc_at_full - 6.0 * (3 - i)}));
  Evidence e = made_ladder(all, std::nullopt);
  const double drives[] = {5.0, 10.0, 20.0, 40.0};
  for (std::size_t i = 0; i < e.steps.size(); ++i) {
    e.steps[i].label = number_text(drives[i], 0) + " W";
    e.steps[i].readings.front().value = to_dbm(Watt{drives[i]}).value + 12.0;
  }
  return std::make_shared<const Evidence>(std::move(e));
}

}  // namespace

class TwoToneResultTest : public QObject {
  Q_OBJECT
 private slots:
  /// For any ladder, each cell is the higher side of its order, and the bold one is the worst.
  void cells_are_the_worse_side_in_both_conventions() {
    std::mt19937 random(5);
    for (int round = 0; round < 40; ++round) {
      const TwoToneAnalysis a = made_analysis(random_levels(random));
      Evidence e =
          made_ladder({a, std::nullopt, made_analysis(random_levels(random))}, pep_limit(-30));
      for (const char* convention : {kReOneTone, kRePep}) {
        e.convention = convention;
        const Result r = evaluate_two_tone(e);
        const ResultTable& table = r.tables.front();
        QCOMPARE(table.rows.size(), 3U);
        const auto& cells = table.rows[0].cells;
        const bool is_pep = convention == kRePep;
        const TwoToneProduct* worst = a.worst();
        for (int k = 0; k < 4; ++k) {
          const TwoToneProduct* p = a.worse_side(3 + 2 * k);
          const TableCell& cell = cells[static_cast<std::size_t>(kIm3 + k)];
          QVERIFY(std::abs(number_in(cell.text) - (is_pep ? p->level_db_pep : p->level_dbc)) <=
                  0.0501);
          QCOMPARE(cell.text.starts_with("\u2264"), p->is_bound);
          QCOMPARE(cell.is_deciding, p == worst);
          QCOMPARE(cell.mark.ends_with("_upper"), p->side == Side::upper);
        }
        QVERIFY(std::abs(number_in(cells[kWorst].text) -
                         (is_pep ? worst->level_db_pep : worst->level_dbc)) < 0.51);
        QVERIFY(table.rows[1].cells[kWorst].text.empty());
        QCOMPARE(table.rows[1].cells[kVerdict].text, std::string("not measured"));
      }
    }
  }

  void the_margin_does_not_depend_on_the_convention() {
    std::mt19937 random(6);
    for (int round = 0; round < 20; ++round) {
      Evidence e = made_ladder({made_analysis(random_levels(random))}, pep_limit(-30));
      const Result pep = evaluate_two_tone(e);
      e.convention = kReOneTone;
      const Result one = evaluate_two_tone(e);
      QVERIFY(std::abs(pep.answers[0].judgement->margin - one.answers[0].judgement->margin) < 1e-9);
      QCOMPARE(pep.answers[0].judgement->verdict, one.answers[0].judgement->verdict);
      QVERIFY(std::abs(one.answers[0].figure.value - pep.answers[0].figure.value - 6.0206) < 1e-3);
      QVERIFY(std::abs(one.answers[0].limit->value + 24.0) < 1e-9);  // to a tenth
    }
  }

  /// The worked example of the method's header.
  void the_worked_example_comes_out() {
    Evidence e = made_ladder({made_analysis({-36.0, -80.0})}, pep_limit(-30));
    for (const auto& [convention, level] : {std::pair{kRePep, -42.0206}, {kReOneTone, -36.0}}) {
      e.convention = convention;
      const Answer answer = evaluate_two_tone(e).answers.front();
      QVERIFY(std::abs(answer.figure.value - level) < 0.001);
      QVERIFY(std::abs(answer.judgement->margin - 12.0206) < 0.001);
    }
  }

  void the_test_is_judged_at_its_highest_output() {
    const Result r = evaluate_two_tone(three_steps());
    QCOMPARE(r.answers.front().where, std::string("30 W"));
    QCOMPARE(r.answers.front().label, std::string("Worst: 5th order, lower side"));
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::fail);
    QCOMPARE(r.answer_at(1, kSpectrum)->where, std::string("20 W"));
    QCOMPARE(r.tables.front().rows[1].cells.front().tag, std::string("sweet spot"));
    QVERIFY(r.tables.front().rows[0].cells.front().tag.empty());
    QVERIFY(r.tables.front().note.find("Highest output that passes: 20 W") != std::string::npos);
    QCOMPARE(r.tables.front().rows[1].cells[1].text, std::string("20.0"));
  }

  void without_a_limit_nothing_is_judged() {
    const Result r = evaluate_two_tone(made_ladder({made_analysis({-40, -41})}, std::nullopt));
    QVERIFY(!r.answers.front().judgement);
    QVERIFY(r.answers.front().sentence.find("No limit") != std::string::npos);
    const auto& cells = r.tables.front().rows.front().cells;
    QVERIFY(!cells[kWorst].text.empty());
    QCOMPARE(cells[kVerdict].text, std::string("no limit"));
    for (const TableCell& cell : cells) QVERIFY(!cell.judgement);
  }

  void products_are_listed_by_order_and_side() {
    std::mt19937 random(7);
    const TwoToneAnalysis a = made_analysis(random_levels(random));
    const Result r = evaluate_two_tone(made_ladder({a}, pep_limit(-30)));
    const auto tables = r.tables_at(0, kSpectrum);
    QCOMPARE(tables.size(), 2U);
    const ResultTable& products = *tables[1];
    QCOMPARE(products.tab, std::string("products"));
    QCOMPARE(products.rows.size(), a.products.size());
    int worst_rows = 0;
    const Plot* spectrum = r.plot_at(0, kSpectrum);
    for (std::size_t i = 0; i < products.rows.size(); ++i) {
      const auto& row = products.rows[i];
      QCOMPARE(row.cells[0].text, product_name(a.products[i]));
      const double one = number_in(row.cells[2].text);
      const double pep = number_in(row.cells[3].text);
      QVERIFY(std::abs(one - a.products[i].level_dbc) < 0.51 && std::abs(one - pep - 6.02) < 0.12);
      if (row.cells[0].is_deciding) ++worst_rows;
      // The pennant of the same product has the same mark.
      QVERIFY(spectrum == nullptr || layer_of(*spectrum, PlotLayer::Kind::pennant) == nullptr ||
              layer_of(*spectrum, PlotLayer::Kind::pennant)->points[i].mark == row.mark);
    }
    QCOMPARE(worst_rows, 1);
    // Over power there is only the table of the steps.
    QCOMPARE(r.tables_at(0, kOverPower).size(), 1U);
  }

  void over_power_shows_traces_limit_crossing_and_places() {
    Evidence e = three_steps();
    const Result r = evaluate_two_tone(e);
    const Plot& plot = *r.plot_at(0, kOverPower);
    std::vector<const PlotLayer*> traces;
    for (const PlotLayer& layer : plot.panels.front().layers) {
      if (layer.kind == PlotLayer::Kind::trace) traces.push_back(&layer);
    }
    QCOMPARE(traces.size(), 2U);
    QCOMPARE(traces[0]->name, std::string("IM3"));
    QCOMPARE(traces[0]->points.size(), 3U);
    QVERIFY(std::abs(traces[0]->points[1].x - 20.0) < 1e-9);
    QVERIFY(traces[0]->is_straight_in_log_x);
    QCOMPARE(layer_of(plot, PlotLayer::Kind::mask)->points.front().y, -30.0);
    const PlotLayer* crossings = layer_of(plot, PlotLayer::Kind::moment);
    QVERIFY(crossings != nullptr && crossings->points.size() == 1U);
    QVERIFY(crossings->points[0].word.starts_with("IM5 overtakes IM3 at"));
    QVERIFY(crossings->points[0].expanded > 0.0);
    const PlotLayer* places = layer_of(plot, PlotLayer::Kind::place);
    QCOMPARE(places->points.size(), 2U);
    QVERIFY(std::abs(places->points[0].x - 20.0) < 1e-9);
    QVERIFY(std::abs(places->points[1].x - 10.0) < 1e-9);
    // The other convention moves limit and levels together.
    e.convention = kReOneTone;
    const Result one = evaluate_two_tone(e);
    const Plot& moved = *one.plot_at(0, kOverPower);
    QVERIFY(std::abs(layer_of(moved, PlotLayer::Kind::mask)->points.front().y + 23.9794) < 1e-3);
    QVERIFY(std::abs(layer_of(moved, PlotLayer::Kind::trace)->points[0].y - traces[0]->points[0].y -
                     6.0206) < 1e-3);
  }

  void an_empty_ladder_says_what_is_missing() {
    const Evidence none = made_ladder({std::nullopt, std::nullopt}, pep_limit(-30));
    const Result empty = evaluate_two_tone(none);
    QVERIFY(empty.answers.empty());
    QVERIFY(empty.plot_at(0, kOverPower)->empty_words.find("No step is measured") !=
            std::string::npos);
    // The goal is drawn all the same.
    QVERIFY(!empty.plot_at(0, kSpectrum)->has_points());
    QVERIFY(layer_of(*empty.plot_at(0, kSpectrum), PlotLayer::Kind::mask) != nullptr);
    Evidence e = three_steps();
    for (EvidenceStep& s : e.steps) s.readings.clear();
    const Result r = evaluate_two_tone(e);
    QVERIFY(r.plot_at(0, kOverPower)->empty_words.find("output") != std::string::npos);
    QVERIFY(!at_ceiling(with_ceiling(e, 25.0)));
    QVERIFY(
        evaluate_two_tone(Evidence{nlohmann::json::object(), std::nullopt, {}}).answers.empty());
  }

  void the_ceiling_is_judged_between_steps() {
    Evidence e = three_steps();
    QVERIFY(!at_ceiling(e));
    const auto between = at_ceiling(with_ceiling(e, 25.0));
    QVERIFY(between && between->head.find("25.0 W") != std::string::npos);
    QVERIFY(between->label.find("between steps") != std::string::npos);
    QVERIFY2(between->sentence.find("with certainty up to") != std::string::npos,
             between->sentence.c_str());
    // The spectrum still shows the chosen step.
    const Result r = evaluate_two_tone(with_ceiling(e, 25.0));
    QCOMPARE(r.answer_at(0, kSpectrum)->where, std::string("10 W"));
    // On a step it is that step's figure.
    const auto on = at_ceiling(with_ceiling(e, 20.0));
    QVERIFY(on->label.find("between") == std::string::npos);
    QVERIFY(std::abs(on->figure.value - r.answer_at(1, kSpectrum)->figure.value) < 1e-9);
    const Result outside = evaluate_two_tone(with_ceiling(e, 99.0));
    QVERIFY(!at_ceiling(with_ceiling(e, 99.0)));
    QVERIFY(std::any_of(outside.remarks.begin(), outside.remarks.end(),
                        [](const Remark& x) { return x.code == "ceiling_outside"; }));
    e.limit.reset();
    QVERIFY(at_ceiling(with_ceiling(e, 25.0))->sentence.find("No limit") != std::string::npos);
    // Its handle stands where it is set.
    const Plot& plot = *r.plot_at(0, kOverPower);
    QVERIFY(std::abs(layer_of(plot, PlotLayer::Kind::handle)->points.front().x - 25.0) < 1e-9);
  }

  void a_comparison_leaves_out_what_both_share() {
    const auto answers = [](double first, double second, double linearity_db) {
      Evidence e = made_ladder(
          {made_analysis({first, first - 1}), made_analysis({second, second - 1})}, pep_limit(-30));
      e.settings["ladder"]["linearity_db"] = linearity_db;
      const Result r = evaluate_two_tone(e);
      return std::pair(*r.answer_at(0, kSpectrum), *r.answer_at(1, kSpectrum));
    };
    const auto [low, high] = answers(-44.0, -34.0, 1.0);
    const std::string better = comparison_words(low, high, Sense::at_most, true);
    QVERIFY2(better.find("10.0") == 0 && better.find("better than 20 W") != std::string::npos,
             better.c_str());
    QVERIFY(comparison_words(high, low, Sense::at_most, true).find("worse than 10 W") !=
            std::string::npos);
    // Of a ratio that has to be high, the lower is worse.
    QVERIFY(comparison_words(low, high, Sense::at_least, true).find("worse") != std::string::npos);
    // On the same hook-up 0.6 dB is a difference; on another the recorders' scales do not cancel.
    const auto [one, two] = answers(-40.0, -40.6, 1.0);
    QVERIFY(comparison_words(two, one, Sense::at_most, true).find("better") != std::string::npos);
    QVERIFY(comparison_words(two, one, Sense::at_most, false).find("No difference") !=
            std::string::npos);
    Answer other = one;
    other.figure.convention = kReOneTone;
    QVERIFY(comparison_words(two, other, Sense::at_most, true).empty());
  }

  void a_driven_amplifier_has_a_card_a_band_and_a_ceiling() {
    Evidence e = three_steps();
    e.driven = DrivenDevice{"Curlew 120", made_amplifier(-30.0), nullptr};
    const Result r = evaluate_two_tone(e);
    const FigureCard* at_20 = r.figure_card_at(1, kOverPower);
    QVERIFY(at_20 != nullptr && at_20->head.find("Curlew 120") != std::string::npos);
    QVERIFY(at_20->judgement.has_value());
    QVERIFY(r.figure_card_at(1, kSpectrum) == nullptr);
    const PlotLayer* band = layer_of(*r.plot_at(0, kOverPower), PlotLayer::Kind::band);
    QVERIFY(band != nullptr && band->name.find("Curlew 120") != std::string::npos);
    for (const PlotPoint& p : band->points) QVERIFY(*p.before <= p.y);
    // What is proposed keeps the whole band under the limit.
    QCOMPARE(r.setting_proposals.size(), 1U);
    const Evidence kept = with_ceiling(e, to_watt(Dbm{r.setting_proposals[0].value}).value);
    const Result there = evaluate_two_tone(kept);
    const FigureCard* card = there.figure_card_at(0, kOverPower);
    QVERIFY(card == nullptr || card->judgement->verdict == Verdict::pass);
    // Re one tone the band moves with the traces.
    e.convention = kReOneTone;
    const Result one = evaluate_two_tone(e);
    QVERIFY(std::abs(layer_of(*one.plot_at(0, kOverPower), PlotLayer::Kind::band)->points[0].y -
                     band->points[0].y - 6.0206) < 1e-3);
    // So much for a wanted output, and no word of what was not measured.
    const SettingProposal wanted = ceiling_for(e, to_dbm(Watt{200.0}).value);
    QVERIFY2(wanted.words.find("Curlew 120") != std::string::npos, wanted.words.c_str());
    const double exciter = to_watt(Dbm{wanted.value}).value;
    QVERIFY2(exciter > 11.0 && exciter < 13.0, wanted.typed.c_str());  // 12 dB below 200 W
    QVERIFY_EXCEPTION_THROWN(ceiling_for(e, to_dbm(Watt{5000.0}).value), InputError);
  }

  void what_was_typed_is_doubted_where_it_stands() {
    Evidence e = made_ladder(std::vector<std::optional<TwoToneAnalysis>>(4), pep_limit(-30));
    for (std::size_t i = 0; i < 4; ++i) {
      Reading im3;
      im3.quantity = "im3";
      im3.value = -40.0;
      im3.unit = "dB";
      im3.convention = kRePep;
      e.steps[i].readings.push_back(im3);
    }
    QVERIFY(evaluate_two_tone(e).doubts.empty());
    e.steps[2].readings.front().value += 6.02;
    const Result r = evaluate_two_tone(e);
    QCOMPARE(r.doubts.size(), 1U);
    QCOMPARE(r.doubts[0].step, 2U);
    QCOMPARE(r.doubts[0].quantity, std::string("output"));
    QVERIFY(r.doubts[0].text.find("EMF") != std::string::npos);
    QVERIFY(std::any_of(r.remarks.begin(), r.remarks.end(), [](const Remark& x) {
      return x.code == "doubt" && x.text.starts_with("30 W: ");
    }));
    // Typed readings have no spectrum, and say where to look.
    QVERIFY(r.plot_at(0, kSpectrum)->empty_words.find("Over power") != std::string::npos);
    QVERIFY(r.plot_at(0, kOverPower)->has_points());
  }

  void older_settings_are_found_in_their_new_place() {
    const Method& m = *find_method("two_tone");
    const nlohmann::json old = {{"linearity_u_db", 0.35},
                                {"linearity_typed", "0.7 dB"},
                                {"tones_hz", {700.0, 1900.0}},
                                {"ladder", {{"ceiling_dbm", 44.0}, {"ceiling_typed", "25 W"}}}};
    const nlohmann::json now = m.renewed_settings(old);
    QCOMPARE(now["ladder"]["linearity_db"].get<double>(), 0.7);
    QCOMPARE(now["ladder"]["linearity_typed"].get<std::string>(), "0.7 dB");
    QCOMPARE(now["ladder"]["ceiling_typed"].get<std::string>(), "25 W");
    QCOMPARE(analysis_settings_of(now).linearity_u_db, 0.35);
    QVERIFY(m.renewed_settings(now) == now);
    // Taken back it stays taken back.
    nlohmann::json cleared = now;
    cleared["ladder"]["linearity_db"] = nullptr;
    QCOMPARE(analysis_settings_of(m.renewed_settings(cleared)).linearity_u_db, 0.0);
    QVERIFY(m.run(Evidence{now, std::nullopt, {}}).tones_hz ==
            std::optional(std::pair(700.0, 1900.0)));
  }

  void a_record_is_pinned_to_the_frequency_it_was_planned_at() {
    const Method& m = *find_method("two_tone");
    const nlohmann::json bare = to_json(made_analysis({-40, -41}));
    const nlohmann::json pinned = m.pinned(bare, Drive{44.8, true, 14.2e6, std::nullopt});
    QCOMPARE(*two_tone_from_json(pinned).capture.center_hz, 14.2e6);
    // One that knows its own is left alone.
    QVERIFY(m.pinned(pinned, Drive{44.8, true, 7.1e6, std::nullopt}).is_null());
  }
};

HERON_TEST(TwoToneResultTest)

}  // namespace two_tone_result_test

#include "two_tone_result_test.moc"
