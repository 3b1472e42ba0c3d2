#include <QtTest>

#include "core/csv_table.h"
#include "core/method/method.h"
#include "core/method/method_table.h"
#include "core/method/phase_noise/family_result.h"
#include "core/method/phase_noise/family_settings.h"
#include "core/method/phase_noise/loop_fit.h"
#include "core/method/phase_noise/loop_noise.h"
#include "core/method/phase_noise/loop_result.h"
#include "core/method/phase_noise/loop_settings.h"
#include "core/method/phase_noise/noise_integral.h"
#include "core/method/phase_noise/noise_record.h"
#include "core/method/phase_noise/noise_result.h"
#include "core/method/phase_noise/noise_settings.h"
#include "core/method/phase_noise/noise_states.h"
#include "core/method/phase_noise/reciprocal_result.h"
#include "core/signal/shaped_noise.h"
#include "core/signal/welch.h"
#include "tests/core/said.h"

using namespace heron;
using namespace heron::testing;

/// The sheets of phase noise: states, what changed, and families over a setting.
class NoiseSheetTest : public QObject {
  Q_OBJECT

  static constexpr int kPerDecade = 20;

  /// A table of a curve, as a step.
  static EvidenceStep step(const std::string& label, double from_hz, double to_hz,
                           const std::function<double(double)>& l, double u_db = 0.1,
                           const std::vector<NoiseSpur>& lines = {}) {
    NoiseRecord record;
    record.curve.name = label;
    record.curve.per_decade = kPerDecade;
    for (int k = static_cast<int>(std::ceil(std::log10(from_hz) * kPerDecade - 1e-9));
         k <= static_cast<int>(std::floor(std::log10(to_hz) * kPerDecade + 1e-9)); ++k) {
      const double hz = std::pow(10.0, static_cast<double>(k) / kPerDecade);
      record.curve.points.push_back({hz, l(hz), u_db, Bound::none, 1.0});
    }
    record.curve.spurs = lines;
    EvidenceStep s;
    s.label = label;
    s.analysis = read_noise_record(to_json(record));
    return s;
  }
  static EvidenceStep span(const std::string& label, double from_hz, double to_hz, double level,
                           double rbw_hz) {
    EvidenceStep s = step(label, from_hz, to_hz, [=](double) { return level; });
    NoiseRecord record = dynamic_cast<const NoiseRecord&>(*s.analysis);
    record.rbw_hz = rbw_hz;
    s.analysis = read_noise_record(to_json(record));
    return s;
  }
  static double falling(double hz) { return -80.0 - 20.0 * std::log10(hz / 1e3); }

  static Evidence test(std::vector<EvidenceStep> steps, nlohmann::json settings = {}) {
    Evidence e;
    e.steps = std::move(steps);
    if (settings.is_object()) e.settings["phase_noise"] = std::move(settings);
    return e;
  }

  /// Of a loop: levels over the current.
  static double bittern(double hz, double current_a, bool is_filtered = true) {
    LoopDesign l;
    l.r3_ohm = 1000.0;
    l.c3_f = 100e-12;
    l.charge_pump_a = current_a;
    LoopNoiseDesign n;
    if (!is_filtered) n.series_ohm = 0.0;
    return 10.0 * std::log10(16.0 * loop_noise(l, n, hz).total() + std::pow(10.0, -13.4));
  }
  static Evidence family(double u_db = 0.1) {
    Evidence e;
    e.settings["noise_setting"] = {{"in_use", "1 mA"}};
    e.limit = Limit{"own", Sense::at_most, -90.0, "dBc/Hz", "", 20.0};
    for (const double ma : {0.25, 0.5, 1.0, 2.0, 4.0})
      e.steps.push_back(step(
          fmt::format("{:g} mA", ma), 100.0, 1e6,
          [ma](double hz) { return bittern(hz, 1e-3 * ma); }, u_db));
    e.steps.push_back(
        step("1 mA, before", 100.0, 1e6, [](double hz) { return bittern(hz, 1e-3, false); }, u_db));
    return e;
  }

 private slots:
  void one_state_is_told() {
    Evidence e = test({step("Bittern", 10.0, 1e6, falling, 0.1, {{100.0, -54.0, 0.05, false}})},
                      {{"low_hz", 1e3}, {"high_hz", 1e5}, {"carrier_hz", 1440e6}});
    e.limit = Limit{"own", Sense::at_most, 1.0, "\u00b0", "", 1.0};
    const Result r = evaluate_noise(e);
    const Answer& a = r.answers.front();
    NoiseCurve line;
    line.points = {{1e3, -80.0}, {1e5, -120.0}};
    QVERIFY(std::abs(a.figure.value - integrate(line, 1e3, 1e5).rms_deg()) < 0.002);
    QCOMPARE(a.judgement->verdict, Verdict::pass);
    QVERIFY(a.head.find("1.44 GHz") != std::string::npos);
    QCOMPARE(r.items.size(), 6U);  // 10 Hz to 1 MHz
    QCOMPARE(r.tables.front().rows.size(), 6U);
    for (const auto& row : r.tables.front().rows)
      QCOMPARE(row.cells.size(), r.tables.front().columns.size());
    QCOMPARE(r.plots.front().panels.size(), 1U);
    QCOMPARE(r.tables[1].rows.size(), 1U);
    QCOMPARE(r.tables[1].rows[0].cells[1].text, std::string("mains 50 Hz \u00d7 2"));
    QVERIFY(!r.figure_cards.empty());
    // All that is counted lies in its first decades.
    QCOMPARE(r.tables.front().rows[1].cells.back().text, std::string("not counted"));
    QCOMPARE(r.tables.front().rows[3].cells.back().text, std::string("91 %"));
    // The jitter that goes with it, and the amplitude's noise on wish.
    QVERIFY(std::any_of(r.conditions.begin(), r.conditions.end(), [](const auto& c) {
      return c.first == "Jitter" && c.second.ends_with(" fs");
    }));
    const auto named = [](const Result& of, const char* name) {
      const auto& layers = of.plots.front().panels.front().layers;
      return std::any_of(layers.begin(), layers.end(),
                         [&](const PlotLayer& l) { return l.name == name; });
    };
    NoiseRecord with_am = dynamic_cast<const NoiseRecord&>(*e.steps[0].analysis);
    with_am.curve.am = {{10.0, -120.0, 0.2, Bound::none}, {1e5, -150.0, 0.2, Bound::none}};
    e.steps[0].analysis = read_noise_record(to_json(with_am));
    QVERIFY(!named(evaluate_noise(e), "amplitude"));
    e.settings["phase_noise"]["shows_am"] = true;
    QVERIFY(named(evaluate_noise(e), "amplitude"));
    // What is asked for beyond the curve is said.
    e.settings["phase_noise"]["low_hz"] = 1.0;
    QVERIFY(has_remark(evaluate_noise(e).remarks, "range_cut"));
    e.limit->unit = "dBc/Hz";
    const Result other = evaluate_noise(e);
    QVERIFY(has_remark(other.remarks, "limit_unit") && !other.answers.front().judgement);
  }

  void two_states_say_what_changed() {
    const auto better = [](double hz) { return falling(hz) - (hz > 1e4 ? 7.0 : 0.0); };
    const Result r = evaluate_noise(
        test({step("before", 10.0, 1e6, falling, 0.1, {{100.0, -54.1}, {48e3, -52.5}}),
              step("after", 10.0, 1e6, better, 0.1, {{100.0, -54.3}})}));
    QVERIFY(r.answers.front().sentence.starts_with("Better by 7 dB above 11 kHz, no difference"));
    const Plot& plot = r.plots.front();
    QCOMPARE(plot.panels.size(), 2U);
    QCOMPARE(plot.panels[1].ranges.size(), 2U);
    QCOMPARE(plot.panels[1].ranges[1].verdict, Verdict::pass);
    QVERIFY(has_remark(r.remarks, "mains_kept"));
    const ResultTable& lines = r.tables[1];
    QCOMPARE(lines.rows.size(), 2U);
    QCOMPARE(lines.rows[0].cells.back().text, std::string("no difference"));
    QCOMPARE(lines.rows[1].cells.back().text, std::string("lost"));
    // In the table of decades the words are those of the ranges.
    const ResultTable& t = r.tables.front();
    QCOMPARE(t.rows[1].cells[4].text, std::string("no difference"));
    QCOMPARE(t.rows[4].cells[4].text, std::string("better"));
    QVERIFY(t.rows[4].cells[3].text.find("\u22127.0") == 0);
  }

  void spans_of_a_state_go_together_and_the_narrowest_counts() {
    const NoiseStates s = noise_states(test({span("after, 10 kHz", 100.0, 5e3, -80.0, 30.0),
                                             span("after, 1 MHz", 1e3, 5e5, -95.0, 3e3),
                                             step("yardstick, another", 100.0, 1e5, falling)}),
                                       {}, state_of_step);
    QCOMPARE(s.all.size(), 1U);
    QCOMPARE(s.all[0].name, std::string("after"));
    QCOMPARE(curve_at(s.all[0].curve.points, 2e3)->l_dbc_hz, -80.0);
    QCOMPARE(curve_at(s.all[0].curve.points, 1e5)->l_dbc_hz, -95.0);
    QVERIFY(s.yardstick.has_value());
    // A recording comes first, traces add what it does not reach; two recordings are averaged.
    const NoiseStates mixed =
        noise_states(test({step("after", 10.0, 1e4, [](double) { return -70.0; }),
                           step("after, again", 10.0, 1e4, [](double) { return -73.0; }),
                           span("after, 1 MHz", 1e3, 5e5, -95.0, 3e3)}),
                     {}, state_of_step);
    QVERIFY(std::abs(curve_at(mixed.all[0].curve.points, 2e3)->l_dbc_hz + 71.25) < 0.01);
    QCOMPARE(curve_at(mixed.all[0].curve.points, 1e5)->l_dbc_hz, -95.0);
  }

  void the_floor_is_taken_off_and_drawn() {
    const Result r = evaluate_noise(
        test({step("after", 10.0, 1e5, [](double) { return -100.0; }),
              step("floor, a quiet source", 10.0, 1e5, [](double) { return -103.0103; })}));
    QVERIFY(r.plots.front().panels.front().find(PlotLayer::Kind::floor) != nullptr);
    QVERIFY(has_remark(r.remarks, "floor_near"));
    const auto level = r.tables.front().rows[2].cells[1].figure;
    QVERIFY(level && std::abs(level->value + 103.02) < 0.02);
    // One that shares no offset is named.
    QVERIFY(has_remark(
        evaluate_noise(test({step("after", 10.0, 1e3, falling), step("floor", 1e4, 1e5, falling)}))
            .remarks,
        "floor"));
  }

  void a_multiplier_is_calculated_and_measured() {
    const auto at = [](double add, double floor) {
      return [=](double hz) {
        return 10.0 * std::log10(std::pow(10.0, (falling(hz) + add) / 10.0) +
                                 std::pow(10.0, floor / 10.0));
      };
    };
    // Before the multiplication the instrument's own floor stood in the way.
    const Result r = evaluate_noise(test({step("1440 MHz", 100.0, 1e6, at(0.0, -125.0)),
                                          step("5760 MHz", 100.0, 1e6, at(12.0412, -125.0))}));
    QVERIFY(has_remark(r.remarks, "instrument_limited"));
    QVERIFY(r.answers.front().head.find("5.76 GHz") != std::string::npos);
    // One that adds noise is told so.
    const Result noisy = evaluate_noise(test({step("1440 MHz", 100.0, 1e6, at(0.0, -170.0)),
                                              step("5760 MHz", 100.0, 1e6, at(12.0412, -120.0))}));
    QVERIFY(has_remark(noisy.remarks, "multiplier_adds"));
    QVERIFY(!has_remark(noisy.remarks, "instrument_limited"));
  }

  void points_by_hand_are_curves_too() {
    const auto typed = parse_typed_noise(
        "before: 1 kHz -80 dBc/Hz\nbefore: 10 kHz \u221280\nafter: 10kHz -86,5\n\nafter: 1 kHz "
        "-80.2");
    QCOMPARE(typed.size(), 4U);
    QCOMPARE(typed[2].offset_hz, 1e4);
    QCOMPARE(typed[2].l_dbc_hz, -86.5);
    for (const char* wrong : {"10 kHz", "before: ten -80", "0 Hz -80", "1 kHz 20"})
      QVERIFY2(!refusal([&] { parse_typed_noise(wrong); }).isEmpty(), wrong);
    Evidence e = test({}, {{"carrier_hz", 1440e6}});
    const auto& fields = find_method("phase_noise")->settings;
    const SettingField& text = fields.back();
    QCOMPARE(text.key, std::string_view("typed"));
    e.settings["phase_noise"]["typed"] = text.text.parse(
        "before: 1 kHz -80\nbefore: 10 kHz -80\nafter: 1 kHz -80.2\nafter: 10 kHz -86.5");
    QCOMPARE(text.text.parse(text.text.written(e.settings["phase_noise"]["typed"])),
             e.settings["phase_noise"]["typed"]);
    const Result r = evaluate_noise(e);
    QVERIFY(!r.answers.empty() && has_remark(r.remarks, "typed"));
    // One point is a level, and nothing to sum.
    Evidence one = e;
    one.settings["phase_noise"]["typed"] = text.text.parse("1 kHz -80");
    QVERIFY(evaluate_noise(one).answers.empty());
    QVERIFY(evaluate_noise(one).tables.front().rows.size() == 1U);
    QCOMPARE(r.plots.front().panels.size(), 2U);
    QCOMPARE(r.tables.front().rows.size(), 2U);
  }

  void a_record_is_read_as_it_was_written() {
    NoiseRecord record;
    record.curve.points = {{10.0, -60.0, 0.5, Bound::none}, {100.0, -80.0, 0.2, Bound::upper}};
    record.curve.am = {{10.0, -130.0, 0.5, Bound::none}};
    record.curve.spurs = {{50.0, -54.0, 0.1, true}};
    record.curve.rf_hz = 1440e6;
    record.curve.detector = NoiseDetector::log_average;
    record.rbw_hz = 30.0;
    const AnalysisPtr back = read_noise_record(to_json(record));
    QCOMPARE(to_json(dynamic_cast<const NoiseRecord&>(*back)), to_json(record));
    auto broken = to_json(record);
    broken["points"][1][0] = 5.0;  // back towards the carrier
    QVERIFY(!refusal([&] { read_noise_record(broken); }).isEmpty());
    broken = to_json(record);
    broken["points"] = nlohmann::json::array();
    QVERIFY(!refusal([&] { read_noise_record(broken); }).isEmpty());
  }

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

  void a_neighbour_costs_what_the_curve_says() {
    auto noise = std::make_shared<Evidence>(
        test({step("before", 100.0, 1e6, [](double hz) { return bittern(hz, 1e-3, false); }),
              step("after", 100.0, 1e6, [](double hz) { return bittern(hz, 1e-3); })}));
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
    e.companion = std::make_shared<Evidence>(test({step("after", 10.0, 900.0, falling)}));
    QVERIFY(evaluate_reciprocal(e).answers.empty());
  }

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

  void shaped_noise_has_the_density_asked_for() {
    const auto density = [](double hz) { return 1e-6 / (1.0 + hz / 100.0); };
    const std::vector<float> x = shaped_noise(1U << 18U, 10e3, density, 3);
    WelchSettings settings;
    settings.segment = 1024;
    const Spectrum s = welch_spectrum(memory_capture(x, 10e3), settings);
    // Bins add up to the power of a line's amplitude squared: twice its mean square.
    double worst = 0.0;
    for (std::size_t from = 20; from + 40 < s.power.size(); from += 40) {
      double sum = 0.0;
      double truth = 0.0;
      for (std::size_t i = from; i < from + 40; ++i) {
        sum += s.power[i] / (2.0 * s.bin_hz());
        truth += density(s.frequency_hz(i));
      }
      worst = std::max(worst, std::abs(10.0 * std::log10(sum / truth)));
    }
    QVERIFY2(worst < 0.25, qPrintable(QString::number(worst)));
  }
};

QTEST_APPLESS_MAIN(NoiseSheetTest)
#include "noise_sheet_test.moc"
