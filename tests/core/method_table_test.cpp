#include "core/method/method_table.h"

#include <QtTest>
#include <random>
#include <set>

#include "core/method/method.h"
#include "core/method/spread/spread_analysis.h"
#include "core/method/usual_tests.h"
#include "tests/core/made_chain.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace method_table_test {

namespace {

/// A recording of noise as the method would say it: 99 % in so many Hz, and a notch so deep.
AnalysisPtr made_spread(double width_hz, double ratio_db, bool is_notched) {
  auto a = std::make_shared<SpreadAnalysis>();
  for (BandwidthAnalysis* b : {&a->average, &a->max_hold}) {
    const bool is_max = b == &a->max_hold;
    b->input = "made.wav";
    b->hold = is_max ? Hold::max : Hold::average;
    b->occupied = WidthAtLevel{1500.0 - width_hz / 2, 1500.0 + width_hz / 2, 5.0, 0.0, false};
    b->channel_hz = 3000.0;
    b->channel_middle_hz = 1500.0;
    b->adjacent = {{-3000.0, 3000.0, -ratio_db - 8.0, 0.2, false},
                   {3000.0, 3000.0, -ratio_db - 6.0, 0.2, false}};
    Curve& curve = is_max ? b->max_hold : b->average;
    curve.x_start = -12000.0;
    curve.x_step = 10.0;
    curve.y.assign(2400, -80.0F);
    curve.y[1350] = -20.0F;
  }
  if (is_notched) {
    a->noise.emplace();
    a->noise->ratio_db = ratio_db;
    a->noise->u_db = 0.3;
  }
  return a;
}

EvidenceStep step(const char* label, AnalysisPtr analysis) {
  EvidenceStep s;
  s.label = label;
  s.analysis = std::move(analysis);
  return s;
}

nlohmann::json lines_of(const char* text) {
  for (const SettingField& f : find_method("purity")->settings) {
    if (f.text.parse != nullptr) return f.text.parse(text);
  }
  return {};
}

const Method& method(const char* id) {
  return *find_method(id);
}

}  // namespace

/// What every row of the table promises to those who read it, and the two rows about noise.
class MethodTableTest : public QObject {
  Q_OBJECT
 private slots:
  void every_row_answers_whatever_it_is_given_data() {
    QTest::addColumn<QString>("id");
    for (const Method* m : methods())
      QTest::newRow(std::string(m->id).c_str()) << QString::fromStdString(std::string(m->id));
  }
  void every_row_answers_whatever_it_is_given() {
    QFETCH(QString, id);
    const Method& m = method(qPrintable(id));
    QVERIFY(find_characteristic(m.id) != nullptr && find_characteristic(m.id)->has_method);
    Evidence none;
    const Result empty = m.evaluate(none);
    QVERIFY(empty.answers.empty());
    QCOMPARE(empty.method, id.toStdString());
    QVERIFY(!empty.tables.empty());
    QVERIFY(!empty.plots.empty() || m.is_gate);  // checks have nothing to draw
    // Three steps, nothing read at any of them, one of them of another method.
    Evidence blank;
    class Foreign : public Analysis {};
    for (const char* label : {"a", "b"}) blank.steps.push_back(step(label, nullptr));
    blank.steps.push_back(step("c", std::make_shared<const Foreign>()));
    Evidence torn = blank;
    torn.steps[1].is_damaged = true;
    if (!m.is_joint) {
      for (const ResultTable& t : m.evaluate(torn).tables)
        QCOMPARE(t.rows[1].cells.back().text, std::string("damaged"));
    }
    const Result r = m.evaluate(blank);
    QVERIFY(r.answers.empty());
    const std::set<std::string> views(r.views.begin(), r.views.end());
    for (const ResultTable& t : r.tables) {
      QCOMPARE(t.rows.size(), std::size_t{m.is_joint ? 0U : 3U});
      QVERIFY(t.view.empty() || views.contains(t.view));
      QCOMPARE(t.columns.front().kind, CellKind::name);
      // Rows that are no steps may say in words what there is to say.
      QVERIFY(t.columns.back().kind == CellKind::verdict || m.is_joint);
      for (const auto& row : t.rows) {
        QCOMPARE(row.cells.size(), t.columns.size());
        QCOMPARE(row.cells.back().text, std::string(m.is_gate ? "open" : "not measured"));
      }
    }
    for (const Plot& p : r.plots) {
      QVERIFY(!p.has_points());
      QVERIFY2(p.empty_words.size() > 40, p.empty_words.c_str());
    }
    // What is set and asked for.
    const auto settings = nlohmann::json::object();
    QVERIFY(m.check == nullptr || m.check(settings).empty());
    if (m.limit != nullptr) {
      Evidence bare;
      bare.settings = settings;
      const LimitField f = m.limit(bare);
      QVERIFY(!f.head.empty() && !f.label.empty() && !f.unit.empty());
      const Limit limit = limit_of(f, -3000.0, "typed");
      QVERIFY(limit.span >= f.span);
      QCOMPARE(limit.convention, f.convention);
    }
    if (m.mask != nullptr) QVERIFY(m.limit == nullptr && !m.mask(none).is_none());
    QCOMPARE(m.analyse == nullptr, m.read_record == nullptr);
    QCOMPARE(m.analyse == nullptr, m.record_format.empty());
    if (m.read_record != nullptr) {
      QVERIFY(find_method_of_record(m.record_format) != nullptr);
      for (const char* damaged : {"{}", "[]", "7", R"({"average":{},"max_hold":{},"noise":7})"})
        QVERIFY(!refusal([&] { m.read_record(nlohmann::json::parse(damaged)); }).isEmpty());
    }
    for (const SettingField& f : m.settings) {
      QVERIFY(!f.key.empty() && !f.head.empty());
      const nlohmann::json usual = m.usual_settings().at(std::string(f.key));
      using Kind = SettingField::Kind;
      QVERIFY(f.kind == Kind::quantity ? usual.is_number() || (usual.is_null() && !f.none.empty())
              : f.kind == Kind::range  ? usual.size() == 2
              : f.kind == Kind::flag   ? usual.is_boolean()
              : f.kind == Kind::text   ? f.text.parse("") == usual && f.text.written(usual).empty()
                                       : usual.is_string());
      if (f.kind == Kind::choice)
        QVERIFY(std::any_of(f.choices.begin(), f.choices.end(),
                            [&](const SettingChoice& c) { return usual == std::string(c.id); }));
    }
  }

  void widths_are_judged_by_the_average_and_told_in_each_view() {
    Evidence e;
    e.limit = Limit{"own", Sense::at_most, 2500.0, "Hz", hold_name(Hold::average), 1000.0};
    e.steps = {step("narrow", made_spread(1800.0, 30.0, false)), step("blank", nullptr),
               step("wide", made_spread(2700.0, 30.0, false)),
               step("middle", made_spread(2400.0, 30.0, false))};
    const Result r = method("bandwidth").evaluate(e);
    // The worst comes first.
    QCOMPARE(r.answers.front().step, std::optional(std::size_t{2}));
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::fail);
    QCOMPARE(r.headline()->value, 2700.0);
    QCOMPARE(r.answers.size(), std::size_t{6});
    for (const std::size_t i : {0U, 2U, 3U}) {
      QVERIFY(r.answer_at(i, "average")->judgement.has_value());
      const Answer* held = r.answer_at(i, "max-hold");
      QVERIFY(!held->judgement && held->sentence.find("average") != std::string::npos);
    }
    QVERIFY(r.answer_at(1, "average") == nullptr);
    QCOMPARE(r.tables[0].rows[1].cells.back().text, std::string("not measured"));
    // Each plot holds the curves of those measured, shared and not copied, at 0 dB at their peak.
    const PlotPanel& panel = r.plots[0].panels[0];
    QCOMPARE(panel.layers.size(), std::size_t{3});
    QCOMPARE(panel.layers[1].step, std::optional(std::size_t{2}));
    const auto& kept = dynamic_cast<const SpreadAnalysis&>(*e.steps[2].analysis);
    QVERIFY(panel.layers[1].curve.get() == &kept.average.average);
    QCOMPARE(panel.layers[1].curve_zero, -20.0);
    QCOMPARE(panel.y.range->first, -60.0);
    // 4.5 kHz channel windows lie inside the shown part.
    QVERIFY(r.plots[0].x.range->first <= -3000.0 && r.plots[0].x.range->second >= 6000.0);
  }

  void a_notch_is_judged_and_noise_without_one_by_its_adjacent_channels() {
    Evidence e;
    e.limit = Limit{"own", Sense::at_least, 25.0, "dB", kNoisePowerRatio, 20.0};
    e.steps = {step("5 W", made_spread(2400.0, 36.0, true)),
               step("30 W", made_spread(2400.0, 22.0, true))};
    e.steps[0].beside = Figure{"im", "Worst", -38.0, "dB", "re PEP", {}};
    const Result r = method("noise").evaluate(e);
    QCOMPARE(r.answers.front().where, std::string("30 W"));
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::fail);
    QVERIFY(has_remark(r.remarks_at(0, "average"), "beside_tones"));
    QVERIFY(!has_remark(r.remarks_at(1, "average"), "beside_tones"));
    // Nobody said how linear the recorder is: every ratio carries that, and it is told.
    QVERIFY(r.answers.front().figure.u() > 0.38);
    QVERIFY(has_remark(r.remarks_at(1, "average"), "linearity_assumed") ||
            !r.remarks_at(1, "average").empty());
    Evidence stated = e;
    stated.steps[1].path = pad_and_sampler(40.0);
    stated.steps[1].path->parts.back().linearity_u_db = 0.05;
    QVERIFY(method("noise").evaluate(stated).answers.front().figure.u() < 0.31);
    // Without a notch the stronger adjacent channel is the figure; the limit is for another one.
    e.steps = {step("5 W", made_spread(2400.0, 30.0, false))};
    const Result plain = method("noise").evaluate(e);
    QCOMPARE(plain.answers.front().figure.value, -36.0);
    QVERIFY(!plain.answers.front().judgement);
    QVERIFY(plain.answers.front().sentence.find(kNoisePowerRatio) != std::string::npos);
  }

  /// The examples of the method's header.
  void the_worked_examples_hold() {
    Evidence e;
    e.limit = Limit{"own", Sense::at_least, 30.0, "dB", kNoisePowerRatio, 20.0};
    e.steps = {step("30 W", made_spread(2380.0, 46.0, true))};
    QCOMPARE(method("noise").evaluate(e).answers.at(0).judgement->margin, 16.0);
    e.limit = Limit{"own", Sense::at_most, 2800.0, "Hz", hold_name(Hold::average), 1000.0};
    const Answer width = method("bandwidth").evaluate(e).answers.at(0);
    QCOMPARE(width.judgement->margin, 420.0);
    QCOMPARE(width.label, std::string("99 % bandwidth"));
    Evidence typed;
    typed.settings = {{"purity",
                       {{"power_dbm", 44.7712},
                        {"power_typed", "30 W"},
                        {"lines", lines_of("28.4 MHz -41.2 dBc\n42.6 MHz < -70 dBc")}}}};
    const Result lines = method("purity").evaluate(typed);
    QCOMPARE(lines.answers.at(0).where, std::string("2nd harmonic"));
    QCOMPARE(lines.answers.at(0).limit->value, -50.0);
    QVERIFY(std::abs(lines.answers.at(0).judgement->margin + 8.8) < 1e-9);
    QCOMPARE(lines.answers.at(0).judgement->verdict, Verdict::fail);
  }

  void what_would_help_is_told_with_all_that_goes_with_it() {
    Evidence e;
    e.settings = {{"purity",
                   {{"power_dbm", 44.7712},
                    {"power_typed", "30 W"},
                    {"lines", lines_of("28.4 MHz -41.2\n42.6 MHz -58\n1 to 200 MHz < -70")}}}};
    const Result r = method("purity").evaluate(e);
    QCOMPARE(r.items.size(), std::size_t{3});
    for (const ResultItem& item : r.items) QVERIFY(!item.step);
    QCOMPARE(r.cards.size(), std::size_t{1});
    for (const Proposal& p : r.cards[0].choices) {
      QCOMPARE(p.place, std::string("2nd harmonic"));
      QVERIFY(p.words.find(p.change.substr(0, 5)) != std::string::npos);
      QCOMPARE(p.before.verdict, Verdict::fail);
      // The mark in the small plot stands at what is said.
      const PlotPoint& line = p.plot.panels[0].layers.back().points.at(0);
      QCOMPARE(*line.before, -41.2);
      QCOMPARE(line.verdict, p.after.verdict);
      QVERIFY(std::abs(-50.0 - line.y - p.after.margin) < 1e-9);
    }
    QCOMPARE(r.cards[0].choices[r.cards[0].shown].after.verdict, Verdict::pass);
    // One stem a line but the carrier; the mask reaches over all of them.
    const auto& layers = r.plots[0].panels[0].layers;
    QCOMPARE(layers[0].kind, PlotLayer::Kind::mask);
    QCOMPARE(layers[1].points[0].x, 14.2e6);
    QCOMPARE(layers[2].points.size(), std::size_t{2});
    for (const PlotPoint& p : layers[2].points)
      QVERIFY(p.x > layers[0].points.front().x && p.x < layers[0].points.back().x);
    // With the planned drive a tone stands beside it; without it nothing can be planned or swept.
    const Method& m = method("purity");
    QVERIFY(m.plan(e).steps.empty() && !m.run(e).sweep_hz);
    e.drive = Drive{44.8, false, 14.2e6, std::nullopt};
    QCOMPARE(m.plan(e).steps.size(), std::size_t{7});
    Evidence planned = e;
    planned.settings = m.plan(e).settings;
    QCOMPARE(m.run(planned).tone_hz, 1000.0);
    QVERIFY(m.run(planned).refusal.empty() && m.run(planned).settings.is_null());
    QVERIFY(!m.run(e).refusal.empty());
    QCOMPARE(m.run(e).settings, planned.settings);
    QCOMPARE(m.evidence_words(planned), std::string("3 typed"));
  }

  void settings_ask_for_the_limit_that_judges_them() {
    const Method& m = method("noise");
    Evidence usual;
    usual.settings = nlohmann::json::object();
    QCOMPARE(m.limit(usual).sense, Sense::at_least);
    Evidence e;
    e.settings = {{"spread", {{"stimulus", "speech_noise"}}}};
    const Evidence speech = e;
    QCOMPARE(m.limit(speech).sense, Sense::at_most);
    QCOMPARE(m.setting_words(e), std::string("speech-shaped noise"));
    QVERIFY(m.run(e).refusal.empty());
    e.settings = {{"spread", {{"stimulus", "own_recording"}}}};
    QVERIFY(!m.run(e).refusal.empty());
    QVERIFY(!m.check({{"spread", {{"notch_hz", {200.0, 900.0}}}}}).empty());
    QVERIFY(!refusal([&] { m.check({{"spread", {{"notch_hz", "wide"}}}}); }).isEmpty());
    // A depth is a depth, whichever sign it was typed with.
    QCOMPARE(limit_of(m.limit(usual), -30.0, "-30").value, 30.0);
    QCOMPARE(limit_of(m.limit(speech), -35.0, "-35").value, -35.0);
    QCOMPARE(limit_of(method("bandwidth").limit(speech), 2700.0, "2.7 kHz").span, 900.0);
  }

  void a_kind_of_device_gets_its_tests_in_their_order() {
    for (const DeviceKind& kind : device_kinds()) {
      QVERIFY(find_device_kind(kind.name) == &kind);
      std::set<std::string_view> seen;
      for (const UsualTest& t : kind.tests) {
        const Characteristic* c = find_characteristic(t.characteristic);
        QVERIFY2(c != nullptr && c->has_method, std::string(t.characteristic).c_str());
        QVERIFY(seen.insert(t.characteristic).second);
        QVERIFY(!t.reason.empty());
      }
      // What needs a cold start does not come after what warms it up.
      const auto at = [&](std::string_view id) {
        return std::find_if(kind.tests.begin(), kind.tests.end(),
                            [&](const UsualTest& t) { return t.characteristic == id; });
      };
      if (at("drift") != kind.tests.end()) QVERIFY(at("drift") < at("reference"));
      if (at("output") != kind.tests.end()) QVERIFY(at("drift") < at("output"));
    }
    const std::pair<const char*, const char*> typed[] = {
        {"HF transceiver", "Transceiver"},         {"Amplifier, 1296 MHz", "Amplifier"},
        {"General-coverage receiver", "Receiver"}, {"Synthesizer, 1440 MHz", "Synthesizer"},
        {"Transverter, 50 MHz", "Transverter"},    {"beacon", "Transmitter"},
        {"10 MHz OCXO", "Frequency reference"}};
    for (const auto& [words, name] : typed) {
      QVERIFY2(find_device_kind(words) != nullptr, words);
      QCOMPARE(find_device_kind(words)->name, std::string_view(name));
    }
    QVERIFY(find_device_kind("kettle") == nullptr && find_device_kind("") == nullptr);
  }
};

HERON_TEST(MethodTableTest)

}  // namespace method_table_test

#include "method_table_test.moc"
