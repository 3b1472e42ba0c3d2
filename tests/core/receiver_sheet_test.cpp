// What the sheets of a receiver say of evidence as it is typed, recorded or heard live.
#include <QtTest>
#include <random>

#include "core/method/method.h"
#include "core/method/receiver/band_survey.h"
#include "core/method/receiver/indicator_method.h"
#include "core/method/receiver/listen_run.h"
#include "core/method/receiver/receiver_audio.h"
#include "core/method/receiver/receiver_grid.h"
#include "core/method/receiver/sensitivity_method.h"
#include "core/method/receiver/sensitivity_settings.h"
#include "core/method/receiver/shared_parts.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "tests/core/made_receiver.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace receiver_sheet_test {

namespace {

/// Six seconds of white noise with one or two tones.
std::shared_ptr<const ReceiverAudio> recorded(double tone_hz, double tone, double other_hz,
                                              double other, std::uint64_t seed) {
  constexpr double kRate = 8000.0;
  std::vector<float> x(static_cast<std::size_t>(6.0 * kRate));
  std::mt19937_64 random(seed);
  NormalNumbers<double> normal(0.0, 0.05);
  for (std::size_t i = 0; i < x.size(); ++i) {
    const double t = 2.0 * 3.14159265358979 * static_cast<double>(i) / kRate;
    x[i] = static_cast<float>(normal(random) + tone * std::sin(tone_hz * t) +
                              other * std::sin(other_hz * t));
  }
  return std::make_shared<const ReceiverAudio>(
      receiver_audio(memory_capture(std::move(x), kRate, "audio.wav")));
}

}  // namespace

class ReceiverSheetsTest : public QObject {
  Q_OBJECT

 private slots:
  void a_live_run_begins_where_it_is_specified() {
    const Method& m = sensitivity_method();
    Evidence e = evidence_of(m);
    e.limit = Limit{"own", Sense::at_most, -113.0, "dBm", "", 20.0};
    e.steps = {typed(m, "14.2 MHz", {}), typed(m, "21.2 MHz", {{"Specified", "-107 dBm"}}),
               typed(m, "somewhere", {})};
    e.hookup.emplace();
    e.hookup->parts = {pad(20.0)};
    RunRecipe recipe = m.run(e);
    QVERIFY(recipe.refusal.empty() && recipe.listen);
    QCOMPARE(recipe.listen->places.size(), 3U);
    QCOMPARE(recipe.listen->places[0]->first_dbm, -93.0);
    QCOMPARE(recipe.listen->places[1]->first_dbm, -87.0);
    QCOMPARE(recipe.listen->places[0]->most_dbm, -33.0);
    QCOMPARE(recipe.listen->places[0]->frequency_hz, 14.2e6);
    QVERIFY(!recipe.listen->places[2]);
    // At a high impedance the same level at the dial is twice the voltage.
    e.settings["sensitivity"]["impedance"] = "high";
    QVERIFY(std::abs(m.run(e).listen->places[0]->first_dbm + 99.02) < 0.01);
    // In AM its modulation is switched, the dial at the carrier.
    QVERIFY(!recipe.listen->am);
    e.settings["sensitivity"]["mode"] = "am";
    recipe = m.run(e);
    QVERIFY(recipe.refusal.empty());
    QCOMPARE(recipe.listen->am->depth, 30.0);
    QCOMPARE(recipe.listen->beside_hz, 0.0);
    e.settings["sensitivity"]["mode"] = "fm";
    QVERIFY(m.run(e).refusal.find("quiets the noise") != std::string::npos);
  }

  /// Neither depth nor bandwidth of a modulated carrier is that of a tone.
  void only_a_carrier_that_is_heard_tells_a_noise_figure() {
    const Method& m = sensitivity_method();
    Evidence e = evidence_of(m);
    e.settings["sensitivity"]["bandwidth_hz"] = 2400.0;
    e.settings["sensitivity"]["right_axis"] = "nf";
    e.steps = {typed(m, "14.2 MHz",
                     {{"Level", "-113 dBm"},
                      {"Noise only", "48 50 49 mV"},
                      {"Tone and noise", "127 126 128 mV"}})};
    const auto tells = [&](const char* mode) {
      e.settings["sensitivity"]["mode"] = mode;
      const Result r = m.evaluate(e);
      const bool has_axis = r.plots.front().panels.front().y_right->title == "NF, dB";
      const bool has_floor = r.plots.front().panels.front().find(PlotLayer::Kind::floor) != nullptr;
      const bool has_figure =
          std::any_of(r.step_figures.begin(), r.step_figures.end(),
                      [](const StepFigure& f) { return f.figure.id == "noise_figure"; });
      return has_axis && has_floor && has_figure ? 1 : has_axis || has_floor || has_figure ? -1 : 0;
    };
    QCOMPARE(tells("ssb"), 1);
    QCOMPARE(tells("cw"), 1);
    QCOMPARE(tells("am"), 0);
    QCOMPARE(tells("fm"), 0);
  }

  void the_way_of_the_signal_ends_at_the_receiver() {
    const Method& m = sensitivity_method();
    Evidence e = evidence_of(m);
    QCOMPARE(m.evaluate(e).level_plan.size(), 3U);
    e.hookup.emplace();
    e.hookup->parts = {pad(20.0)};
    e.steps = {typed(m, "14.2 MHz",
                     {{"Level", "100 uV emf"},
                      {"Noise only", "48 50 49 mV"},
                      {"Tone and noise", "127 126 128 mV"}})};
    const auto plans = m.evaluate(e).item_level_plans;
    QCOMPARE(plans.size(), 1U);
    const auto& plan = plans.front();
    QCOMPARE(plan.size(), 4U);
    QCOMPARE(plan[0].line, std::string("100 \u00b5V EMF on the dial"));
    // 100 uV EMF are 50 uV PD, -73 dBm; the pad takes 20 dB.
    QVERIFY(std::abs(plan[0].level->value + 73.01) < 0.01);
    QVERIFY(std::abs(plan[1].level->value + 93.01) < 0.01);
    QVERIFY(plan[1].level->expanded() > plan[0].level->expanded());
    QVERIFY(plan[2].name.empty());  // the device
    QCOMPARE(plan[2].said, std::string("127 mV"));
    QVERIFY(plan[2].said_under.find("noise 49") == 0);
  }

  void a_band_once_more_tells_whether_anything_changed() {
    const Method& m = sensitivity_method();
    Evidence e = evidence_of(m);
    const auto band = [&](const char* label, const char* on) {
      return typed(
          m, label,
          {{"Level", "-113 dBm"}, {"Noise only", "50 51 49 50 mV"}, {"Tone and noise", on}});
    };
    e.steps = {band("14.2 MHz", "158 157 159 158 mV"),
               band("14.2 MHz, after", "157 158 159 157 mV")};
    Result r = m.evaluate(e);
    QVERIFY(find_remark(r, "after") != nullptr);
    QVERIFY2(find_remark(r, "after")->text.find("no difference") != std::string::npos,
             find_remark(r, "after")->text.c_str());
    e.steps[1] = band("14.2 MHz, after", "110 111 109 110 mV");
    r = m.evaluate(e);
    QVERIFY(find_remark(r, "after")->text.find("hears less") != std::string::npos);
    QCOMPARE(find_remark(r, "after")->severity, Severity::caution);
    e.steps.erase(e.steps.begin());
    QVERIFY(find_remark(m.evaluate(e), "no_before") != nullptr);
  }

  void what_the_set_up_picks_up_is_told() {
    const Method& m = sensitivity_method();
    Evidence e = evidence_of(m);
    const auto with = [&](const char* zero) {
      e.steps = {typed(m, "14.2 MHz",
                       {{"Level", "-113 dBm"},
                        {"Noise only", "50 51 49 mV"},
                        {"Tone and noise", "158 157 159 mV"},
                        {"Volume down", zero}})};
      return m.evaluate(e);
    };
    QVERIFY(find_remark(with("2 mV"), "baseline") == nullptr);
    QVERIFY(find_remark(with("20 mV"), "baseline") != nullptr);
  }

  void what_was_read_is_seen_beside_what_a_linear_one_shows() {
    const Method& m = sensitivity_method();
    Evidence e = evidence_of(m);
    e.steps = {typed(m, "14.2 MHz",
                     {{"Level", "-113 dBm"},
                      {"Noise only", "50 51 49 mV"},
                      {"Tone and noise", "158 157 159 mV"},
                      {"At half the input", "90 89 91 mV"}})};
    const Result r = m.evaluate(e);
    QCOMPARE(r.plots.size(), 2U);
    QVERIFY(r.plots[1].step == 0U);
    const PlotPanel& panel = r.plots[1].panels.back();
    const auto layer = [&](const std::string& name) -> const PlotLayer& {
      return *std::find_if(panel.layers.begin(), panel.layers.end(),
                           [&](const PlotLayer& l) { return l.name == name; });
    };
    QCOMPARE(layer("noise only").points.size(), 3U);
    QCOMPARE(layer("tone and noise").points.size(), 3U);
    // (S+N)/N of 9.99 dB is S/N of 9.53 dB; half of it 3.51 dB, 5.1 dB over the noise.
    QVERIFY(std::abs(layer("if linear").points.front().y - 5.11) < 0.03);
    QVERIFY(std::abs(layer("half the input").points.front().y - 5.11) < 0.05);
    QVERIFY(panel.own_x.has_value());
  }

  void frequencies_of_one_band_make_a_curve_over_it() {
    const Method& m = sensitivity_method();
    Evidence e = evidence_of(m);
    const std::pair<const char*, const char*> bands[] = {{"7.1 MHz", "158 157 159 mV"},
                                                         {"14.0 MHz", "140 141 139 mV"},
                                                         {"14.175 MHz", "158 157 159 mV"},
                                                         {"14.35 MHz", "139 140 141 mV"}};
    for (const auto& [label, on] : bands)
      e.steps.push_back(
          typed(m, label,
                {{"Level", "-113 dBm"}, {"Noise only", "50 51 49 mV"}, {"Tone and noise", on}}));
    const Plot plot = m.evaluate(e).plots.front();
    QCOMPARE(plot.panels.size(), 2U);
    const PlotLayer& curve = plot.panels[1].layers.front();
    QCOMPARE(curve.points.size(), 3U);
    QCOMPARE(curve.points[1].x, 14.175);
    // It falls towards both edges.
    QVERIFY(curve.points[0].y > curve.points[1].y + 0.5);
    QVERIFY(curve.points[2].y > curve.points[1].y + 0.5);
    e.steps.pop_back();
    QCOMPARE(m.evaluate(e).plots.front().panels.size(), 1U);
  }

  void a_recorded_pitch_tells_the_dial_and_noise_its_birdie() {
    const Method& m = sensitivity_method();
    Evidence e = evidence_of(m);
    EvidenceStep noise = typed(m, "14.2 MHz, noise", {});
    noise.analysis = recorded(0.0, 0.0, 0.0, 0.0, 1);
    EvidenceStep signal = typed(m, "14.2 MHz", {{"Level", "-113 dBm"}, {"Dial", "14.199 MHz"}});
    signal.analysis = recorded(912.0, 0.2, 0.0, 0.0, 2);
    e.steps = {noise, signal};
    Result r = m.evaluate(e);
    const auto& heads = r.tables.front().columns;
    QVERIFY(std::any_of(heads.begin(), heads.end(),
                        [](const TableColumn& c) { return c.id == "sinad"; }));
    for (const auto& row : r.tables.front().rows) QCOMPARE(row.cells.size(), heads.size());
    QVERIFY(find_remark(r, "dial") != nullptr);  // nobody knows how good the generator is
    e.settings["sensitivity"]["generator_ppm"] = 0.5;
    r = m.evaluate(e);
    QVERIFY(find_remark(r, "dial") == nullptr);
    const auto figure =
        std::find_if(r.step_figures.begin(), r.step_figures.end(),
                     [](const StepFigure& f) { return f.figure.id == "dial_error"; });
    QVERIFY(figure != r.step_figures.end());
    // 14.2 MHz less 14.199 MHz less 912 Hz: 88 Hz high.
    QVERIFY(std::abs(figure->figure.value - 88.0 / 14.2) < 0.05);
    QVERIFY(figure->figure.expanded() > 0.57 && figure->figure.expanded() < 0.9);
    // The grid reads it where no test of its own does.
    Evidence grid = evidence_of(receiver_grid_method());
    grid.neighbours = {{"sensitivity", std::make_shared<const Evidence>(e), 7}};
    const ResultTable t = receiver_grid_method().evaluate(grid).tables.front();
    const auto dial = std::find_if(t.columns.begin(), t.columns.end(),
                                   [](const TableColumn& c) { return c.id == "reference"; });
    QVERIFY(dial != t.columns.end());
    const TableCell& cell =
        t.rows.front().cells[static_cast<std::size_t>(dial - t.columns.begin())];
    QVERIFY(cell.figure && cell.opens && cell.opens->test == 7);
    QVERIFY(find_remark(r, "birdie") == nullptr);
    e.steps[0].analysis = recorded(0.0, 0.0, 1734.0, 0.06, 3);
    const Remark* birdie = find_remark(r = m.evaluate(e), "birdie");
    QVERIFY(birdie != nullptr && birdie->text.find("1734 Hz") != std::string::npos);
  }

  /// Where the hook-up is not known at a frequency there is no figure, and its reason is told.
  void what_the_hook_up_does_not_know_is_no_figure() {
    Part cable = pad(0.0);
    cable.name = "cable";
    cable.gain = Gain({{1e6, -3.0}, {20e6, -5.0}}, "cable");
    struct Case {
      const char* method;
      std::vector<std::pair<const char*, const char*>> cells;
    };
    for (const auto& [id, cells] :
         {Case{"conversion", {{"Input", "-53 dBm"}, {"At the IF", "-14 dBm"}}},
          Case{"survey", {{"Lowest heard", "-110 dBm"}}},
          Case{"sensitivity",
               {{"Level", "-100 dBm"}, {"Noise only", "50 mV"}, {"Tone and noise", "158 mV"}}}}) {
      const Method& m = *find_method(id);
      Evidence e = evidence_of(m);
      e.steps = {typed(m, "14.2 MHz", cells), typed(m, "28.5 MHz", cells)};
      const auto value = [](const Result& r, const char* step) {
        const auto f = std::find_if(r.step_figures.begin(), r.step_figures.end(),
                                    [&](const StepFigure& one) { return one.step == step; });
        return f == r.step_figures.end() ? std::nullopt : std::optional(f->figure);
      };
      const auto bare = value(m.evaluate(e), "14.2 MHz");
      QVERIFY2(bare && value(m.evaluate(e), "28.5 MHz"), id);
      e.hookup.emplace();
      e.hookup->parts = {cable};
      const Result r = m.evaluate(e);
      const auto through = value(r, "14.2 MHz");
      QVERIFY2(through.has_value(), id);
      QVERIFY2(!value(r, "28.5 MHz"), id);
      const Remark* why = find_remark(r, "path");
      QVERIFY2(why != nullptr && why->text.find("28.5 MHz") != std::string::npos, id);
      // -3 dB at 1 MHz, -5 dB at 20 MHz: -4.389 dB there, and the cable's own +-.
      const double lost = 3.0 + 2.0 * 13.2 / 19.0;
      const double expected = std::string(id) == "conversion" ? lost : -lost;
      QVERIFY2(std::abs(through->value - bare->value - expected) < 1e-6, id);
      QVERIFY2(through->u() > bare->u(), id);
    }
  }

  void a_recording_of_noise_is_not_listened_to() {
    const Method& m = sensitivity_method();
    Evidence e = evidence_of(m);
    e.steps = {typed(m, "14.2 MHz, noise", {}), typed(m, "14.2 MHz", {}), typed(m, "dead end", {})};
    const auto places = listen_run(e).listen->places;
    QCOMPARE(places.size(), 3U);
    QVERIFY(places[0] && places[0]->is_noise);
    QVERIFY(places[1] && !places[1]->is_noise && places[1]->frequency_hz == 14.2e6);
    QVERIFY(!places[2]);
  }

  void a_first_hearing_says_what_hears_and_guesses_nothing() {
    const Method& m = band_survey_method();
    Evidence e = evidence_of(m);
    QVERIFY(m.evaluate(e).plots.front().empty_words.find("Nothing heard yet") == 0);
    e.steps = {typed(m, "14.2 MHz",
                     {{"Dial there", "14.2012 MHz"},
                      {"Lowest heard", "-118 dBm"},
                      {"Shows", "S2"},
                      {"Mode or filter", "SSB, wide"},
                      {"Notes", "crackles when tapped"}}),
               typed(m, "21.2 MHz", {{"Lowest heard", "nothing at -40 dBm"}}),
               typed(m, "24.94 MHz", {{"Lowest heard", "2 uV"}, {"Provisional", "cold"}}),
               typed(m, "28.5 MHz", {})};
    Result r = m.evaluate(e);
    QCOMPARE(r.answers.size(), 3U);
    QVERIFY(r.answers.front().where == "24.94 MHz");  // the weakest that hears
    QCOMPARE(r.answers.back().figure.value, -40.0);
    QCOMPARE(r.answers.back().figure.bound, Bound::lower);
    QVERIFY(r.answers.front().sentence.find("2 of 3 bands hear") == 0);
    QVERIFY(!r.answers.front().judgement);
    QCOMPARE(r.tables.front().rows[0].cells[2].text, std::string("\u22121200"));
    QVERIFY(r.tables.front().rows[0].cells[6].text.find("crackles") == 0);
    QVERIFY(r.tables.front().rows[2].cells[6].text.find("provisional: cold") == 0);
    QVERIFY(find_remark(r, "deaf") != nullptr && find_remark(r, "suspect") == nullptr);
    QVERIFY(find_remark(r, "provisional") != nullptr);
    e.settings["survey"]["parts"] =
        to_json(parse_band_parts("21.2 MHz: X6, coil E\n24.94 MHz: X7, coil E"));
    r = m.evaluate(e);
    QVERIFY(find_remark(r, "suspect") != nullptr);
    QVERIFY(find_remark(r, "suspect")->text.find("X6") != std::string::npos);
  }
};

HERON_TEST(ReceiverSheetsTest)

}  // namespace receiver_sheet_test

#include "receiver_sheet_test.moc"
