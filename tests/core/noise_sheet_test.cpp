#include <QtTest>

#include "core/method/method.h"
#include "core/method/method_table.h"
#include "core/method/phase_noise/noise_compare.h"
#include "core/method/phase_noise/noise_integral.h"
#include "core/method/phase_noise/noise_result.h"
#include "core/method/phase_noise/noise_settings.h"
#include "core/method/phase_noise/noise_states.h"
#include "core/method/place_name.h"
#include "tests/core/made_curves.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace noise_sheet_test {

/// The sheet of phase noise: states, and what changed.
class NoiseSheetTest : public QObject {
  Q_OBJECT

 private slots:
  void one_state_is_told() {
    Evidence e =
        noise_test({curve_step("Bittern", 10.0, 1e6, falling, 0.1, {{100.0, -54.0, 0.05, false}})},
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
        noise_test({curve_step("before", 10.0, 1e6, falling, 0.1, {{100.0, -54.1}, {48e3, -52.5}}),
                    curve_step("after", 10.0, 1e6, better, 0.1, {{100.0, -54.3}})}));
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
    const NoiseStates s =
        noise_states(noise_test({span_step("after, 10 kHz", 100.0, 5e3, -80.0, 30.0),
                                 span_step("after, 1 MHz", 1e3, 5e5, -95.0, 3e3),
                                 curve_step("yardstick, another", 100.0, 1e5, falling)}),
                     {}, state_of_step);
    QCOMPARE(s.all.size(), 1U);
    QCOMPARE(s.all[0].name, std::string("after"));
    QCOMPARE(curve_at(s.all[0].curve.points, 2e3)->l_dbc_hz, -80.0);
    QCOMPARE(curve_at(s.all[0].curve.points, 1e5)->l_dbc_hz, -95.0);
    QVERIFY(s.yardstick.has_value());
    // A recording comes first, traces add what it does not reach; two recordings are averaged.
    const NoiseStates mixed = noise_states(
        noise_test({curve_step("after", 10.0, 1e4, [](double) { return -70.0; }),
                    curve_step("after, again", 10.0, 1e4, [](double) { return -73.0; }),
                    span_step("after, 1 MHz", 1e3, 5e5, -95.0, 3e3)}),
        {}, state_of_step);
    QVERIFY(std::abs(curve_at(mixed.all[0].curve.points, 2e3)->l_dbc_hz + 71.25) < 0.01);
    QCOMPARE(curve_at(mixed.all[0].curve.points, 1e5)->l_dbc_hz, -95.0);
  }

  void the_floor_is_taken_off_and_drawn() {
    const Result r = evaluate_noise(noise_test(
        {curve_step("after", 10.0, 1e5, [](double) { return -100.0; }),
         curve_step("floor, a quiet source", 10.0, 1e5, [](double) { return -103.0103; })}));
    QVERIFY(r.plots.front().panels.front().find(PlotLayer::Kind::floor) != nullptr);
    QVERIFY(has_remark(r.remarks, "floor_near"));
    const auto level = r.tables.front().rows[2].cells[1].figure;
    QVERIFY(level && std::abs(level->value + 103.02) < 0.02);
    // One that shares no offset is named.
    QVERIFY(has_remark(evaluate_noise(noise_test({curve_step("after", 10.0, 1e3, falling),
                                                  curve_step("floor", 1e4, 1e5, falling)}))
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
    const Result r =
        evaluate_noise(noise_test({curve_step("1440 MHz", 100.0, 1e6, at(0.0, -125.0)),
                                   curve_step("5760 MHz", 100.0, 1e6, at(12.0412, -125.0))}));
    QVERIFY(has_remark(r.remarks, "instrument_limited"));
    QVERIFY(r.answers.front().head.find("5.76 GHz") != std::string::npos);
    // One that adds noise is told so.
    const Result noisy =
        evaluate_noise(noise_test({curve_step("1440 MHz", 100.0, 1e6, at(0.0, -170.0)),
                                   curve_step("5760 MHz", 100.0, 1e6, at(12.0412, -120.0))}));
    QVERIFY(has_remark(noisy.remarks, "multiplier_adds"));
    QVERIFY(!has_remark(noisy.remarks, "instrument_limited"));
  }

  void a_change_that_shows_only_after_the_multiplication_suspects_the_instrument() {
    const auto at = [](double add, double floor) {
      return [=](double hz) {
        return 10.0 * std::log10(std::pow(10.0, (falling(hz) + add) / 10.0) +
                                 std::pow(10.0, floor / 10.0));
      };
    };
    const auto test = [&](double low_floor) {
      return evaluate_noise(
          noise_test({curve_step("before at 1440 MHz", 100.0, 1e6, at(0.0, low_floor)),
                      curve_step("before at 5760 MHz", 100.0, 1e6, at(12.0412, -170.0)),
                      curve_step("after at 1440 MHz", 100.0, 1e6, at(-8.0, low_floor)),
                      curve_step("after at 5760 MHz", 100.0, 1e6, at(4.0412, -170.0))}));
    };
    const Result r = test(-96.0);
    QVERIFY(has_remark(r.remarks, "instrument_limited"));
    const auto said = std::find_if(r.remarks.begin(), r.remarks.end(),
                                   [](const Remark& q) { return q.code == "instrument_limited"; });
    QVERIFY2(said->text.find("8.0 dB at 5.76 GHz and none at 1.44 GHz") != std::string::npos,
             said->text.c_str());
    // Like is compared: both at the higher carrier.
    QVERIFY(r.answers.front().sentence.find("etter by 8 dB") != std::string::npos);
    // Where both carriers show it nothing is suspected.
    QVERIFY(!has_remark(test(-170.0).remarks, "instrument_limited"));
    QCOMPARE(without_frequency("before at 1440 MHz"), std::string("before"));
    QCOMPARE(without_frequency("5760 MHz after"), std::string("after"));
    QCOMPARE(without_frequency("after"), std::string("after"));
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
    Evidence e = noise_test({}, {{"carrier_hz", 1440e6}});
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

  void what_the_floor_hides_is_in_no_range() {
    // From 1 to 10 kHz the floor is all that is seen after the change.
    const auto hides = [](double hz) { return hz > 900.0 && hz < 11e3 ? -70.0 : -140.0; };
    const auto seen = [&](double add) {
      return [=](double hz) { return std::max(falling(hz) + add, hides(hz)); };
    };
    const Result r = evaluate_noise(noise_test({curve_step("before", 10.0, 1e6, seen(0.0)),
                                                curve_step("after", 10.0, 1e6, seen(-8.0)),
                                                curve_step("floor", 10.0, 1e6, hides)}));
    const auto& ranges = r.plots.front().panels[1].ranges;
    QCOMPARE(ranges.size(), 2U);
    QVERIFY(ranges[0].to < 1e3 && ranges[1].from > 9e3);
    for (const PlotRange& range : ranges) QCOMPARE(range.verdict, Verdict::pass);
    QVERIFY(r.answers.front().sentence.find("no difference") == std::string::npos);
    // At 10 kHz neither is known; at 100 Hz both.
    const ResultTable& t = r.tables.front();
    QCOMPARE(t.rows[3].cells[0].text, std::string("10 kHz"));
    QCOMPARE(t.rows[3].cells[4].text, std::string("hidden"));
    QVERIFY(t.rows[3].cells[3].text.empty());
    QCOMPARE(t.rows[1].cells[4].text, std::string("better"));
    QVERIFY(has_remark(r.remarks, "floor_near"));
  }

  void one_hidden_side_is_told_as_a_bound() {
    NoiseCurve before;
    for (int k = 0; k < 12; ++k) before.points.push_back({std::pow(10.0, k / 4.0), -80.0, 0.1});
    NoiseCurve after = before;
    for (std::size_t i = 0; i < 4; ++i) {
      after.points[i].l_dbc_hz = -90.0;
      after.points[i].bound = Bound::upper;  // at least 10 dB better
      after.points[i + 4].l_dbc_hz = -75.0;  // nothing is known of it
      after.points[i + 4].bound = Bound::upper;
      before.points[i + 8].bound = Bound::upper;  // at least 20 dB worse
      after.points[i + 8].l_dbc_hz = -60.0;
    }
    const NoiseComparison c = compare_noise(before, after);
    QVERIFY(c.ranges.empty());
    for (std::size_t i = 0; i < 4; ++i) {
      QVERIFY(c.differences[i].is_significant && c.differences[i].is_after_hidden);
      QVERIFY(!c.differences[i + 4].is_significant);
      QVERIFY(c.differences[i + 8].is_significant && c.differences[i + 8].is_before_hidden);
    }
    // The other way round what was worse is better, and what was not known is not known.
    const NoiseComparison back = compare_noise(after, before);
    for (std::size_t i = 0; i < c.differences.size(); ++i) {
      QCOMPARE(back.differences[i].is_significant, c.differences[i].is_significant);
      QCOMPARE(back.differences[i].delta_db, -c.differences[i].delta_db);
    }
  }

  void a_line_that_could_not_be_seen_is_neither_gained_nor_lost() {
    const auto flat = [](double level) { return [=](double) { return level; }; };
    const NoiseSpur line{25e3, -95.0, 0.1, false};
    const auto words = [&](double before_level, double after_level, bool is_after) {
      const std::vector<NoiseSpur> lines{line};
      const Result r =
          evaluate_noise(noise_test({curve_step("before", 10.0, 1e6, flat(before_level), 0.1,
                                                is_after ? std::vector<NoiseSpur>{} : lines),
                                     curve_step("after", 10.0, 1e6, flat(after_level), 0.1,
                                                is_after ? lines : std::vector<NoiseSpur>{})}));
      return r.tables[1].rows.at(0).cells.back().text;
    };
    // Through one hertz: noise at -110 dBc is well below it, at -93 above.
    QCOMPARE(words(-110.0, -110.0, true), std::string("gained"));
    QCOMPARE(words(-110.0, -110.0, false), std::string("lost"));
    QCOMPARE(words(-93.0, -110.0, true), std::string("hidden before"));
    QCOMPARE(words(-110.0, -93.0, false), std::string("hidden after"));
    // Points typed by hand say nothing of lines.
    Evidence e = noise_test({curve_step("before", 10.0, 1e6, flat(-110.0), 0.1, {line})});
    e.settings["phase_noise"]["typed"] =
        nlohmann::json::array({{"after", 100.0, -110.0}, {"after", 1e6, -110.0}});
    const Result r = evaluate_noise(e);
    QCOMPARE(r.tables[1].rows.at(0).cells.back().text, std::string("hidden after"));
    // One whose place lies where the other curve has nothing is not lost either.
    const Result beyond =
        evaluate_noise(noise_test({curve_step("before", 10.0, 1e6, flat(-110.0), 0.1, {line}),
                                   curve_step("after", 10.0, 1e4, flat(-110.0))}));
    QCOMPARE(beyond.tables[1].rows.at(0).cells.back().text, std::string("hidden after"));
  }

  void an_analysers_doubt_is_in_every_level() {
    EvidenceStep s = span_step("after", 100.0, 1e6, -100.0, 30.0);
    NoiseRecord record = dynamic_cast<const NoiseRecord&>(*s.analysis);
    for (CurvePoint& p : record.curve.points) p.u_common_db = 0.3;
    s.analysis = read_noise_record(to_json(record));
    const Result r = evaluate_noise(noise_test({s}, {{"scale_db", 0.2}, {"repeats_db", 0.1}}));
    const auto level = r.tables.front().rows[1].cells[1].figure;
    QVERIFY(level.has_value());
    QVERIFY(std::abs(level->u() - std::sqrt(0.1 * 0.1 + 0.3 * 0.3 + 0.2 * 0.2 + 0.1 * 0.1)) < 1e-9);
    // The sum of all of it: a decibel of level is 11.5 % of its root.
    const Figure& rms = r.answers.front().figure;
    QVERIFY(rms.u() / rms.value > kPowerPerDb / 2.0 * std::hypot(0.3, 0.2, 0.1));
    QVERIFY(rms.u() / rms.value < kPowerPerDb / 2.0 * std::hypot(0.3, 0.2, 0.15));
  }

  void beside_a_recording_only_the_trace_has_its_doubt() {
    EvidenceStep wide = span_step("after, wide", 1e3, 1e6, -100.0, 30.0);
    NoiseRecord record = dynamic_cast<const NoiseRecord&>(*wide.analysis);
    for (CurvePoint& p : record.curve.points) p.u_common_db = 0.3;
    wide.analysis = read_noise_record(to_json(record));
    const Result r = evaluate_noise(
        noise_test({curve_step("after", 10.0, 1e4, [](double) { return -100.0; }), wide},
                   {{"scale_db", 0.0}, {"repeats_db", 0.0}}));
    const auto u_at = [&](std::size_t decade) {
      return r.tables.front().rows[decade].cells[1].figure->u();
    };
    QVERIFY(std::abs(u_at(1) - 0.1) < 1e-9);                   // 100 Hz
    QVERIFY(std::abs(u_at(4) - std::hypot(0.1, 0.3)) < 1e-9);  // 100 kHz
    // Nearly all of the sum lies in the trace.
    const Figure& rms = r.answers.front().figure;
    QVERIFY(std::abs(rms.u() / rms.value - 0.3 * kPowerPerDb / 2.0) <
            0.1 * 0.3 * kPowerPerDb / 2.0);
  }

  void recordings_of_a_state_are_one_mean() {
    const auto with_am = [](const std::string& label, double level, double am) {
      EvidenceStep s = curve_step(label, 10.0, 1e4, [=](double) { return level; });
      NoiseRecord record = dynamic_cast<const NoiseRecord&>(*s.analysis);
      record.curve.am = record.curve.points;
      for (CurvePoint& p : record.curve.am) p.l_dbc_hz = am;
      record.curve.length_s = 10.0;
      s.analysis = read_noise_record(to_json(record));
      return s;
    };
    EvidenceStep wide = span_step("after, wide", 1e3, 5e5, -120.0, 30.0);
    NoiseRecord record = dynamic_cast<const NoiseRecord&>(*wide.analysis);
    record.curve.spurs = {{48e3, -90.0, 0.1, false}};
    wide.analysis = read_noise_record(to_json(record));
    EvidenceStep low = with_am("after, again", -103.0103, -133.0103);
    record = dynamic_cast<const NoiseRecord&>(*low.analysis);
    record.curve.spurs = {{100.0, -80.0, 0.1, false}};
    low.analysis = read_noise_record(to_json(record));
    const NoiseStates s =
        noise_states(noise_test({low, with_am("after", -100.0, -130.0), wide}), {}, state_of_step);
    const NoiseCurve& c = s.all.front().curve;
    // Half the power of the one, a quarter of the other: together three quarters.
    const double mean = 10.0 * std::log10(0.75);
    QVERIFY(std::abs(curve_at(c.points, 100.0)->l_dbc_hz - (-100.0 + mean)) < 1e-3);
    QVERIFY(std::abs(curve_at(c.am, 100.0)->l_dbc_hz - (-130.0 + mean)) < 1e-3);
    // u of a mean of two alike is smaller than that of either.
    QVERIFY(curve_at(c.points, 100.0)->u_db < 0.1);
    QCOMPARE(c.length_s, 20.0);
    QVERIFY(std::is_sorted(c.points.begin(), c.points.end(),
                           [](const auto& a, const auto& b) { return a.offset_hz < b.offset_hz; }));
    QCOMPARE(c.spurs.size(), 2U);
    QVERIFY(c.spurs[0].offset_hz < c.spurs[1].offset_hz);
    // Points without a kept bandwidth are read, too.
    auto old = to_json(record);
    for (auto& p : old["points"])
      while (p.size() > 4) p.erase(4);
    const auto back = read_noise_record(old);
    QCOMPARE(dynamic_cast<const NoiseRecord&>(*back).curve.points[0].line_hz, 0.0);
  }
};

HERON_TEST(NoiseSheetTest)

}  // namespace noise_sheet_test

#include "noise_sheet_test.moc"
