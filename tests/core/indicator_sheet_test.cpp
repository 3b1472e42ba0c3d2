// What the sheet of an indicator says of levels and what it showed for them.
#include <QtTest>

#include "core/method/plot_scale.h"
#include "core/method/receiver/indicator_method.h"
#include "tests/core/made_receiver.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace indicator_sheet_test {

class IndicatorSheetTest : public QObject {
  Q_OBJECT

 private slots:
  void an_indicator_is_brought_from_below_to_what_its_steps_say() {
    const Method& m = indicator_method();
    Evidence e = evidence_of(m);
    e.steps = {typed(m, "14.2 MHz, S5", {}),
               typed(m, "50.2 MHz, S9+20, after", {}),
               typed(m, "14.2 MHz, S9, attenuator 20 dB", {}),
               typed(m, "7.1 MHz, 6", {}),
               typed(m, "loud", {}),
               typed(m, "14.2 MHz, S9+90", {})};
    e.hookup.emplace();
    e.hookup->parts = {pad(20.0)};
    const RunRecipe::Listen listen = *m.run(e).listen;
    QCOMPARE(listen.input, std::string("level"));
    // S5 is four units below -73 dBm; from one below it, through 20 dB.
    QCOMPARE(listen.places[0]->first_dbm, -73.0 - 24.0 - 6.0 + 20.0);
    QCOMPARE(listen.places[0]->shown, std::optional(5.0));
    QCOMPARE(listen.places[0]->shows, std::string("S5"));
    QCOMPARE(listen.places[0]->most_dbm, 7.0);
    QCOMPARE(listen.places[1]->first_dbm, -93.0 + 20.0 - 6.0 + 20.0);
    QVERIFY(std::abs(*listen.places[1]->shown - (9.0 + 20.0 / 6.0)) < 1e-12);
    QCOMPARE(listen.places[2]->first_dbm, -73.0 - 6.0 + 20.0 + 20.0);
    QCOMPARE(listen.places[2]->by_hand, std::string("switch in 20 dB"));
    QVERIFY(!listen.places[3]->shown);
    QCOMPARE(listen.places[3]->shows, std::string("6 segments"));
    QCOMPARE(listen.places[3]->first_dbm, -107.0);
    QVERIFY(!listen.places[4]);
    // No front end gets more than S9+60.
    QCOMPARE(listen.places[5]->first_dbm, 7.0);
  }

  /// The axis is the indicator's own; S9 says how far it is off, where that is more than its ±.
  void the_plot_reads_like_the_indicator() {
    const Method& m = indicator_method();
    const auto plot_with = [&](const char* s9) {
      Evidence e = evidence_of(m);
      for (const auto& [label, level] :
           {std::pair{"14.2 MHz, S5", "-97"}, std::pair{"14.2 MHz, S9", s9},
            std::pair{"14.2 MHz, S9+20", "-53"}})
        e.steps.push_back(typed(m, label, {{"Level", level}}));
      return m.evaluate(e);
    };
    const Result r = plot_with("-78.9");
    const Plot& plot = r.plots.front();
    const PlotScale scale = y_scale(plot.panels.front());
    QCOMPARE(scale.label(0.0), std::string("S9"));
    QCOMPARE(scale.label(20.0), std::string("+20"));
    QCOMPARE(scale.label(-48.0), std::string("S1"));
    for (const double tick : scale.ticks(6))
      QVERIFY(tick >= scale.from() && tick <= scale.to() &&
              scale.label(tick).find('-') == std::string::npos);
    const auto said = [](const Result& of) {
      const PlotLayer* words = of.plots.front().panels.front().find(PlotLayer::Kind::label);
      return words == nullptr ? std::string() : words->points.front().word;
    };
    QCOMPARE(said(r), std::string("S9 comes 5.9 dB too early"));
    QCOMPARE(said(plot_with("-67")), std::string("S9 comes 6.0 dB too late"));
    QCOMPARE(said(plot_with("-73.2")), std::string());
    // A row is found in both panels.
    for (const ResultTable::Row& row : r.tables.front().rows)
      for (const PlotPanel& panel : plot.panels) {
        const PlotLayer* trace = panel.find(PlotLayer::Kind::trace);
        QVERIFY(trace != nullptr && !row.mark.empty());
        QVERIFY(std::any_of(trace->points.begin(), trace->points.end(),
                            [&](const PlotPoint& p) { return p.mark == row.mark; }));
      }
  }

  void an_attenuator_is_measured_by_substitution() {
    const Method& m = indicator_method();
    Evidence e = evidence_of(m);
    const auto read = [&](const char* label, const char* level) {
      return typed(m, label, {{"Level", level}});
    };
    e.steps = {read("14.2 MHz, S5", "-96"), read("14.2 MHz, S9", "-73.0"),
               read("14.2 MHz, S9, attenuator 20 dB", "-55.6"),
               read("14.2 MHz, S7, att 10 dB", "-70")};
    const Result r = m.evaluate(e);
    const auto figure =
        std::find_if(r.step_figures.begin(), r.step_figures.end(),
                     [](const StepFigure& f) { return f.figure.id == "attenuator_step"; });
    QVERIFY(figure != r.step_figures.end());
    QVERIFY(std::abs(figure->figure.value - 17.4) < 1e-9);
    QVERIFY(figure->figure.expanded() > 0.8 && figure->figure.expanded() < 1.1);
    QVERIFY(find_remark(r, "attenuator_off") != nullptr);
    QVERIFY(find_remark(r, "attenuator") != nullptr);  // S7 was not read without it
    QVERIFY(std::any_of(r.tables.begin(), r.tables.end(),
                        [](const ResultTable& t) { return t.tab == "attenuator"; }));
    // It is no point of the scale.
    QCOMPARE(r.plots.front().panels.front().layers.back().points.size(), 2U);
  }

  void an_attenuator_is_compared_with_its_own_side_of_the_trimmer() {
    const Method& m = indicator_method();
    Evidence e = evidence_of(m);
    const auto read = [&](const char* label, const char* level) {
      e.steps.push_back(typed(m, label, {{"Level", level}}));
    };
    read("14.2 MHz, S7", "-91");
    read("14.2 MHz, S9", "-80");
    read("14.2 MHz, S9, attenuator 20 dB", "-60.5");
    read("14.2 MHz, S7, after", "-84");
    const auto step = [&] {
      const Result r = m.evaluate(e);
      const auto figure =
          std::find_if(r.step_figures.begin(), r.step_figures.end(),
                       [](const StepFigure& f) { return f.figure.id == "attenuator_step"; });
      return figure == r.step_figures.end() ? std::nullopt : std::optional(figure->figure.value);
    };
    // Moving S9 afterwards changes nothing of what was compared before.
    QVERIFY(step() && std::abs(*step() - 19.5) < 1e-9);
    read("14.2 MHz, S9, after", "-73");
    QVERIFY(step() && std::abs(*step() - 19.5) < 1e-9);
    // One that was read after that has nothing to do with the S9 before.
    e.steps[2] = typed(m, "14.2 MHz, S9, attenuator 20 dB, after", {{"Level", "-60.5"}});
    QVERIFY(!step() || std::abs(*step() - 12.5) < 1e-9);
    e.steps.pop_back();
    QVERIFY(!step());
    const Remark* missing = nullptr;
    const Result r = m.evaluate(e);
    QVERIFY((missing = find_remark(r, "attenuator")) != nullptr);
    QVERIFY(missing->text.find("after S9 was moved") != std::string::npos);
  }

  void once_s9_was_moved_every_band_is_read_again() {
    const Method& m = indicator_method();
    Evidence e = evidence_of(m);
    e.limit = Limit{"one unit", Sense::within, 6.0, "dB", "", 10.0};
    const auto read = [&](const char* label, const char* level) {
      e.steps.push_back(typed(m, label, {{"Level", level}}));
    };
    for (const char* band : {"7.1 MHz", "14.2 MHz"}) {
      read((std::string(band) + ", S7").c_str(), "-90");
      read((std::string(band) + ", S9").c_str(), "-80");
    }
    QVERIFY(find_remark(m.evaluate(e), "again") == nullptr);
    read("14.2 MHz, S7, after", "-84");
    read("14.2 MHz, S9, after", "-73.4");
    const Result r = m.evaluate(e);
    QVERIFY(find_remark(r, "again") != nullptr);
    QVERIFY(find_remark(r, "again")->text.find("7.1 MHz") != std::string::npos);
    QVERIFY(find_remark(r, "again")->text.find("14.2 MHz") == std::string::npos);
    QVERIFY(find_remark(r, "one_sensitivity") != nullptr);
    const auto s9 = std::find_if(
        r.step_figures.begin(), r.step_figures.end(),
        [](const StepFigure& f) { return f.figure.id == "s9_level" && f.step == "14.2 MHz"; });
    QVERIFY(s9 != r.step_figures.end());
    QVERIFY(std::abs(s9->figure.value + 73.4) < 1e-9);  // as it is now
  }

  void a_change_that_was_read_off_it_is_what_its_scale_makes_of_it() {
    const Method& m = indicator_method();
    Evidence e = evidence_of(m);
    const std::pair<const char*, const char*> all[] = {
        {"S5", "-96.2"}, {"S9", "-78.4"}, {"S9+20", "-59.8"}};
    for (const auto& [reading, level] : all)
      e.steps.push_back(
          typed(m, (std::string("14.2 MHz, ") + reading).c_str(), {{"Level", level}}));
    const auto field = std::find_if(m.settings.begin(), m.settings.end(),
                                    [](const SettingField& f) { return f.key == "change"; });
    QVERIFY(field != m.settings.end());
    e.settings["indicator"]["change"] = field->text.parse("S5 to S9+20");
    QCOMPARE(field->text.written(e.settings["indicator"]["change"]), std::string("S5 to S9+20"));
    const Result r = m.evaluate(e);
    // It reads 24 + 20 dB; 17.8 + 18.6 dB it is.
    QVERIFY2(find_remark(r, "change")->text.find("reads 44 dB and truly is 36 \u00b1 1 dB") !=
                 std::string::npos,
             find_remark(r, "change")->text.c_str());
    e.settings["indicator"]["change"] = field->text.parse("S1 to S9");
    QVERIFY(find_remark(m.evaluate(e), "change")->text.find("beyond") != std::string::npos);
    for (const char* bad : {"S5", "S5 to loud", "3 to 5"})
      QVERIFY2(!refusal([&] { field->text.parse(bad); }).isEmpty(), bad);
  }

  void a_card_says_what_readings_are() {
    const Method& m = indicator_method();
    Evidence e = evidence_of(m);
    const std::pair<const char*, const char*> all[] = {
        {"S1", "-110.5"}, {"S5", "-96.2"}, {"S9", "-78.4"}, {"S9+20", "-59.8"}};
    for (const auto& [reading, level] : all)
      e.steps.push_back(
          typed(m, (std::string("14.2 MHz, ") + reading).c_str(), {{"Level", level}}));
    const auto card = m.evaluate(e).print_card;
    QVERIFY(card.has_value());
    QCOMPARE(card->rows.front(), std::pair(std::string("S1"), std::string("\u2212110")));
    QVERIFY(std::find(card->rows.begin(), card->rows.end(),
                      std::pair(std::string("S9"), std::string("\u221278"))) != card->rows.end());
    QVERIFY(card->rows.size() <= 10U);
    QVERIFY(card->foot.find("\u00b1 1 dB") == 0);
    e.steps.resize(1);
    QVERIFY(!m.evaluate(e).print_card);
  }
};

HERON_TEST(IndicatorSheetTest)

}  // namespace indicator_sheet_test

#include "indicator_sheet_test.moc"
