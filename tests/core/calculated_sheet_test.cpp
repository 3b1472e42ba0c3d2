#include <QtTest>
#include <map>
#include <random>

#include "core/method/measure/loop_noise.h"
#include "core/method/phase_noise/loop_fit.h"
#include "core/method/phase_noise/loop_result.h"
#include "core/method/phase_noise/loop_settings.h"
#include "core/method/phase_noise/reciprocal_result.h"
#include "tests/core/made_curves.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace calculated_sheet_test {

/// What is worked out from curves: what a neighbour costs, and the loop behind them.
class CalculatedSheetTest : public QObject {
  Q_OBJECT

  static Evidence loop(const char* tried = "") {
    Evidence e;
    e.settings["loop"] = {
        {"built", parse_loop_text("charge pump 0.25, 0.5, 1, 2, 4 mA\nVCO gain 30 MHz/V\nN 144\n"
                                  "R2 560\nC1 1 nF\nC2 22 nF\nR3 1k\nC3 100 pF\n"
                                  "reference 10 MHz\nmultiplied by 4")},
        {"tried", parse_loop_text(tried)}};
    e.limit = Limit{"own", Sense::at_least, 45.0, "\u00b0", "", 20.0};
    return e;
  }

 private slots:
  void the_loop_makes_the_known_noise() {
    QVERIFY(std::abs(bittern(20e3, 1e-3) + 86.37) < 0.02);
    QVERIFY(std::abs(bittern(20e3, 1e-3, false) + 78.88) < 0.02);
    LoopDesign l;
    l.charge_pump_a = 3e-3;
    l.r2_ohm = 470.0;
    l.r3_ohm = 1000.0;
    l.c3_f = 100e-12;
    const double total = 16.0 * loop_noise(l, {}, 20e3).total() + std::pow(10.0, -13.4);
    QVERIFY2(std::abs(10.0 * std::log10(total) + 91.03) < 0.02,
             qPrintable(QString::number(10.0 * std::log10(total))));
    // Well inside the loop the reference and the detector are all there is; far out the oscillator.
    const LoopNoise inside = loop_noise(l, {}, 10.0);
    QVERIFY(inside.reference + inside.detector > 0.99 * inside.total());
    const LoopNoise outside = loop_noise(l, {}, 1e6);
    for (const double other :
         {outside.reference, outside.detector, outside.resistors, outside.supply})
      QVERIFY2(outside.oscillator > other, qPrintable(QString::number(other / outside.oscillator)));
  }

  void a_neighbour_costs_what_the_curve_says() {
    auto noise = std::make_shared<Evidence>(noise_test(
        {curve_step("before", 100.0, 1e6, [](double hz) { return bittern(hz, 1e-3, false); }),
         curve_step("after", 100.0, 1e6, [](double hz) { return bittern(hz, 1e-3); })}));
    Evidence e;
    e.settings["reciprocal"] = {
        {"interferer_dbm", -73.0}, {"mds_dbm", -142.0}, {"offset_hz", 40e3}};
    e.limit = Limit{"own", Sense::at_most, 6.0, "dB", "", 20.0};
    // Without a curve it says what it needs.
    QVERIFY(evaluate_reciprocal(e).answers.empty());
    QVERIFY(evaluate_reciprocal(e).plots.front().empty_words.find("phase noise") !=
            std::string::npos);
    e.companion = noise;
    Result r = evaluate_reciprocal(e);
    const Answer& a = r.answers.front();
    QVERIFY2(std::abs(a.figure.value - 5.0) < 0.1, qPrintable(QString::number(a.figure.value)));
    QCOMPARE(a.judgement->verdict, Verdict::pass);
    QVERIFY2(a.sentence.find("closer than 34 kHz") != std::string::npos ||
                 a.sentence.find("closer than 35 kHz") != std::string::npos,
             a.sentence.c_str());
    QVERIFY(has_remark(r.remarks, "one_oscillator") && has_remark(r.remarks, "not_nearest"));
    QCOMPARE(r.facts.size(), 5U);
    QCOMPARE(r.facts.back().value, std::string("\u2212138.7 dBm"));
    const ResultTable& t = r.tables.front();
    QCOMPARE(t.rows.size(), r.items.size());
    for (const auto& row : t.rows) QCOMPARE(row.cells.size(), t.columns.size());
    QCOMPARE(t.rows[0].cells.back().judgement->verdict, Verdict::fail);  // 5 kHz
    // So weak a neighbour costs nothing; so strong a one everything.
    auto& own = e.settings["reciprocal"];
    own["interferer_dbm"] = -110.0;
    QVERIFY(evaluate_reciprocal(e).answers.front().sentence.find("less than 6 dB at any") !=
            std::string::npos);
    own["interferer_dbm"] = 0.0;
    QVERIFY(evaluate_reciprocal(e).answers.front().sentence.find("anywhere") != std::string::npos);
    // A region in the middle: the noise hump of a loop with little phase margin.
    own["interferer_dbm"] = -76.0;
    const std::string middle = evaluate_reciprocal(e).answers.front().sentence;
    QVERIFY2(middle.find("between ") != std::string::npos, middle.c_str());
    own["offset_hz"] = 5e6;
    r = evaluate_reciprocal(e);
    QVERIFY(has_remark(r.remarks, "offset") && !r.answers.empty());
    e.limit->unit = "dBm";
    QVERIFY(has_remark(evaluate_reciprocal(e).remarks, "limit_unit"));
    // A curve that ends where the map would begin has nothing to say.
    e.companion =
        std::make_shared<Evidence>(noise_test({curve_step("after", 10.0, 900.0, falling)}));
    QVERIFY(evaluate_reciprocal(e).answers.empty());
  }

  void a_loop_is_typed_as_people_write_it() {
    const auto kept = parse_loop_text(
        "charge pump 0.25, 0.5, 1 mA\nvco gain: 30 MHz/V\nN = 144\nR2 0,56 k\nC1 1n\nC2 22 nF\n"
        "oscillator \u2212117\noscillator corner 2.5 kHz\nsupply noise 430 nV\nbulk C 220 \u00b5F");
    QCOMPARE(kept["charge_pump_a"].size(), 3U);
    QVERIFY(std::abs(kept["charge_pump_a"][0].get<double>() - 0.25e-3) < 1e-12);
    QCOMPARE(kept["kvco_hz_per_v"], 30e6);
    QCOMPARE(kept["r2_ohm"], 560.0);
    QCOMPARE(kept["oscillator_dbc"], -117.0);
    QCOMPARE(kept["oscillator_corner_hz"], 2500.0);
    QVERIFY(std::abs(kept["bulk_f"].get<double>() - 220e-6) < 1e-12);
    // Written again it is the same.
    const auto again = parse_loop_text(written_loop(kept));
    for (const auto& [key, value] : kept.items()) {
      if (!value.is_number()) continue;
      const double a = value.get<double>();
      QVERIFY2(std::abs(again.at(key).get<double>() - a) < 1e-6 * std::abs(a), key.c_str());
    }
    QCOMPARE(again["charge_pump_a"].size(), 3U);
    for (const char* wrong : {"R9 5", "R2", "R2 0", "charge pump x", "N -3"})
      QVERIFY2(!refusal([&] { parse_loop_text(wrong); }).isEmpty(), wrong);
  }

  void a_loop_is_told_with_its_tolerance_and_what_is_tried() {
    Result r = evaluate_loop(loop("charge pump 3 mA\nR2 470"));
    QCOMPARE(r.items.size(), 6U);
    const Answer& tried = r.answers.front();
    QVERIFY(std::abs(tried.figure.value - 61.8) < 0.06);
    QVERIFY(tried.figure.u() > 0.1 && tried.figure.u() < 2.0);
    QCOMPARE(tried.judgement->verdict, Verdict::pass);
    QVERIFY(tried.label.find("46.") != std::string::npos);
    QVERIFY(std::abs(std::stod(r.tables[0].rows[0].cells[5].text.substr(3)) - 91.0) < 0.06);
    QCOMPARE(r.answers.back().judgement->verdict, Verdict::fail);  // 0.25 mA: 30.5 degrees
    QCOMPARE(r.plots.size(), 12U);
    for (const std::string& view : r.views) {
      const Plot* shown = r.plot_at(1, view);
      QVERIFY(shown != nullptr && shown->has_points());
    }
    for (const auto& row : r.tables[0].rows) QCOMPARE(row.cells.size(), r.tables[0].columns.size());
    // What does not lock has no noise and says so.
    r = evaluate_loop(loop("charge pump 1 mA\nR2 5\nC3 10 nF\nR3 10k"));
    QVERIFY(has_remark(r.remarks, "unstable"));
    QVERIFY(!r.plot_at(0, "noise")->has_points());
    QVERIFY(r.plot_at(0, "noise")->empty_words.find("does not lock") != std::string::npos);
    QVERIFY(r.plot_at(0, "loop")->has_points());
    // More bulk capacitance is judged before it is soldered.
    r = evaluate_loop(loop("charge pump 1 mA\nbulk C 220 uF"));
    QCOMPARE(r.figure_cards.front().head, std::string("Decoupling"));
    QVERIFY2(r.figure_cards.front().value.find("+0.0") == 0, r.figure_cards.front().value.c_str());
    Evidence none;
    QVERIFY(evaluate_loop(none).answers.empty());
  }

  void the_vco_gain_is_fitted_to_measured_curves() {
    Evidence e = loop();
    e.companion = std::make_shared<Evidence>(family());
    Result r = evaluate_loop(e);
    // Measured beside calculated; the unmodified state is none of it.
    for (std::size_t i = 0; i < 5; ++i) QVERIFY(!r.tables[0].rows[i].cells[6].text.empty());
    QVERIFY(has_remark(r.remarks, "fit") || has_remark(r.remarks, "fit_product"));
    QVERIFY(!has_remark(r.remarks, "far"));
    // The multiplier's floor apart, what was made with 33 MHz/V is found again.
    std::vector<NoiseCurve> curves;
    LoopParts truth = loop_plan(e).built;
    truth.design.kvco_hz_per_v = 33e6;
    for (const double ma : {0.25, 0.5, 1.0, 2.0, 4.0}) {
      NoiseCurve c;
      for (int k = 40; k <= 120; ++k) {
        const double hz = std::pow(10.0, k / 20.0);
        c.points.push_back({hz, loop_level(truth, 1e-3 * ma, hz), 0.1, Bound::none});
      }
      curves.push_back(c);
    }
    std::vector<MeasuredLoop> measured;
    const double currents[] = {0.25e-3, 0.5e-3, 1e-3, 2e-3, 4e-3};
    for (std::size_t i = 0; i < curves.size(); ++i) measured.push_back({currents[i], &curves[i]});
    const auto fit = fit_loop(loop_plan(e).built, measured, 0.2);
    QVERIFY(fit && std::abs(fit->gain_factor - 1.1) < 1e-3 &&
            std::abs(fit->r2_factor - 1.0) < 1e-3);
    QVERIFY(fit->u_gain > 0.0 && fit->u_gain < 0.05 && std::abs(fit->correlation) < 1.0);
    QVERIFY(fit->residual_db < 1e-3);
    // Two curves are too few to say.
    QVERIFY(!fit_loop(loop_plan(e).built, std::span(measured).first(2), 0.2));
  }

  void every_line_of_a_loop_is_kept_to_its_last_digit() {
    // Of whatever can be said each is written as it was typed, and changes the loop.
    std::mt19937_64 random(11);
    std::uniform_real_distribution<double> lg(-1.0, 1.0);
    const std::map<std::string, double> usual{{"kvco_hz_per_v", 30e6},
                                              {"n", 144.0},
                                              {"r2_ohm", 560.0},
                                              {"c1_f", 1e-9},
                                              {"c2_f", 22e-9},
                                              {"r3_ohm", 1e3},
                                              {"c3_f", 1e-10},
                                              {"reference_hz", 1e7},
                                              {"multiplication", 4.0},
                                              {"oscillator_dbc", -117.0},
                                              {"oscillator_corner_hz", 2500.0},
                                              {"detector_floor", -219.5},
                                              {"pushing_hz_per_v", 1.5e6},
                                              {"supply_v_rt_hz", 4.3e-7},
                                              {"supply_corner_hz", 900.0},
                                              {"series_ohm", 10.0},
                                              {"bulk_f", 2.2e-5},
                                              {"bulk_esr_ohm", 0.25}};
    for (int round = 0; round < 50; ++round) {
      nlohmann::json kept;
      kept["charge_pump_a"] = {0.3125e-3, 0.625e-3 * std::pow(10.0, lg(random))};
      for (const auto& [key, value] : usual)
        kept[key] = value < 0.0 ? value + lg(random) : value * std::pow(10.0, lg(random));
      const auto again = parse_loop_text(written_loop(kept));
      QCOMPARE(again.size(), kept.size());
      for (const auto& [key, value] : usual) {
        const double was = kept[key].get<double>();
        QVERIFY2(std::abs(again.at(key).get<double>() / was - 1.0) < 1e-8, key.c_str());
      }
      for (std::size_t i = 0; i < 2; ++i)
        QVERIFY(std::abs(again["charge_pump_a"][i].get<double>() /
                             kept["charge_pump_a"][i].get<double>() -
                         1.0) < 1e-8);
    }
    const LoopParts before = with_loop_text({}, loop().settings["loop"]["built"]);
    for (const auto& [key, value] : usual) {
      nlohmann::json one{{key, value < 0.0 ? value + 3.0 : value * 1.5}};
      // A third pole is both of its parts.
      const LoopParts after = with_loop_text(before, one);
      bool is_other = false;
      for (const double hz : {20.0, 1e3, 20e3, 200e3, 5e6})
        is_other = is_other || loop_level(after, 1e-3, hz) != loop_level(before, 1e-3, hz);
      QVERIFY2(is_other, key.c_str());
    }
  }

  void a_reference_that_drives_the_loop_is_what_n_multiplies() {
    // Well inside, the output is the reference times N squared; far outside nothing of it is left.
    for (const double n : {72.0, 144.0, 288.0}) {
      LoopDesign l;
      l.n = n;
      l.kvco_hz_per_v = 30e6 * n / 144.0;  // the same loop gain
      LoopNoiseDesign only;
      for (double& level : only.reference_dbc) level = -300.0;
      only.reference_dbc[0] = -150.0;
      const double inside = 10.0 * std::log10(loop_noise(l, only, 50.0).reference);
      QVERIFY(std::abs(inside - (-150.0 + 20.0 * std::log10(n))) < 0.05);
      const double outside = 10.0 * std::log10(loop_noise(l, only, 10e6).reference);
      QVERIFY(outside < inside - 60.0);
    }
  }

  void the_loss_follows_its_formula_wherever_it_is_told() {
    // 10 lg(1 + noise / MDS), at random places: sheet, table and answer say the same.
    std::mt19937_64 random(5);
    std::uniform_real_distribution<double> level(-130.0, -85.0);
    std::uniform_real_distribution<double> strong(-100.0, -20.0);
    std::uniform_real_distribution<double> mds(-145.0, -120.0);
    std::uniform_real_distribution<double> lg_offset(3.5, 5.5);
    std::uniform_real_distribution<double> lg_width(1.5, 3.0);
    for (int round = 0; round < 60; ++round) {
      const double l = level(random);
      const double p = strong(random);
      const double m = mds(random);
      const double offset = std::round(std::pow(10.0, lg_offset(random)));
      const double width = std::pow(10.0, lg_width(random));
      Evidence e;
      e.companion = std::make_shared<Evidence>(
          noise_test({curve_step("after", 100.0, 1e6, [=](double) { return l; })}));
      e.settings["reciprocal"] = {
          {"interferer_dbm", p}, {"mds_dbm", m}, {"offset_hz", offset}, {"bandwidth_hz", width}};
      const Result r = evaluate_reciprocal(e);
      const double noise = p + l + 10.0 * std::log10(width);
      const double lost = 10.0 * std::log10(1.0 + std::pow(10.0, (noise - m) / 10.0));
      const Figure& f = r.answers.front().figure;
      QVERIFY2(std::abs(f.value - lost) < 1e-9, qPrintable(QString::number(f.value - lost)));
      // Its u is never more than that of the level: what is lost saturates.
      QVERIFY(f.u() <= std::sqrt(0.1 * 0.1 + 0.2 * 0.2 + 0.2 * 0.2 + 0.5 * 0.5) + 1e-12);
      // A flat curve loses everywhere, or nowhere.
      const std::string& sentence = r.answers.front().sentence;
      QVERIFY2(sentence.find(lost > 6.0 ? "anywhere" : "less than 6 dB") != std::string::npos,
               sentence.c_str());
      const Plot& plot = r.plots.front();
      QVERIFY(plot.panels.front().find(PlotLayer::Kind::moment) == nullptr);
    }
  }
};

HERON_TEST(CalculatedSheetTest)

}  // namespace calculated_sheet_test

#include "calculated_sheet_test.moc"
