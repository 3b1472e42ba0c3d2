// A receiver's bands beside each other: what is next, and another receiver or time beside them.
#include "core/method/receiver/receiver_grid.h"

#include <QtTest>

#include "core/method/method.h"
#include "core/method/receiver/indicator_method.h"
#include "core/method/receiver/sensitivity_method.h"
#include "tests/core/made_receiver.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace receiver_grid_test {

class ReceiverGridTest : public QObject {
  Q_OBJECT
 private slots:
  /// Another receiver beside it: by how much each cell is better, a ring on the margin line, its
  /// figures behind in a wide window; steps of the attenuator, too.
  void a_grid_stands_beside_another() {
    const Method& grid = receiver_grid_method();
    const Method& s = sensitivity_method();
    const auto heard = [&](std::vector<std::pair<const char*, const char*>> bands) {
      auto e = std::make_shared<Evidence>(evidence_of(s));
      e->limit = Limit{"handbook", Sense::at_most, -113.0, "dBm", "PD", 20.0};
      for (const auto& [label, on] : bands)
        e->steps.push_back(
            typed(s, label,
                  {{"Level", "-113 dBm"}, {"Noise only", "50 51 49 mV"}, {"Tone and noise", on}}));
      return e;
    };
    Evidence now = evidence_of(grid);
    auto shown = std::make_shared<Evidence>(evidence_of(indicator_method()));
    for (const auto& [label, level] :
         {std::pair{"14.2 MHz, S9", "-73"}, std::pair{"14.2 MHz, S9, attenuator 20 dB", "-53.6"}})
      shown->steps.push_back(typed(indicator_method(), label, {{"Level", level}}));
    now.neighbours = {{"sensitivity",
                       heard({{"7.1 MHz", "158 157 159 mV"},
                              {"14.2 MHz", "363 361 365 mV"},
                              {"21.2 MHz", "nothing"},
                              {"28.5 MHz", "158 157 159 mV"}}),
                       1},
                      {"indicator", shown, 2}};
    auto then = std::make_shared<Evidence>(evidence_of(grid));
    then->neighbours = {{"sensitivity",
                         heard({{"7.1 MHz", "158 157 159 mV"},
                                {"14.2 MHz", "129 128 130 mV"},
                                {"21.2 MHz", "158 157 159 mV"},
                                {"24.94 MHz", "158 157 159 mV"}}),
                         3}};
    Result r = grid.evaluate(now);
    QCOMPARE(r.tables.size(), 1U);
    const auto column = [](const ResultTable& t, const std::string& id) {
      const auto found = std::find_if(t.columns.begin(), t.columns.end(),
                                      [&](const TableColumn& c) { return c.id == id; });
      return static_cast<std::size_t>(found - t.columns.begin());
    };
    const std::size_t attenuator = column(r.tables.front(), "attenuator");
    QCOMPARE(r.tables.front().columns[attenuator].from_px, 1440);
    QVERIFY(r.tables.front().rows[1].cells[attenuator].text.starts_with("19.4"));
    now.compared = then;
    now.compared_name = "Godwit, before";
    r = grid.evaluate(now);
    QCOMPARE(r.facts.back().head, std::string("Compared with"));
    QCOMPARE(r.facts.back().value, std::string("Godwit"));
    const ResultTable& compared = r.tables.at(1);
    QCOMPARE(compared.title, std::string("Compared with Godwit, before"));
    const auto words = [&](std::size_t row) { return compared.rows[row].cells[1].text; };
    QCOMPARE(words(0), std::string("no difference"));
    QVERIFY2(words(1).starts_with("better by 9."), words(1).c_str());
    QCOMPARE(words(2), std::string("deaf, was not"));
    QCOMPARE(words(3), std::string());  // was not measured then
    // Nothing cancels: that is what its ± is of.
    QVERIFY(compared.note.find("nothing cancels") != std::string::npos);
    const ResultTable& main = r.tables.front();
    const std::size_t margin = column(main, "margin");
    const auto& ring = main.rows[1].cells[margin];
    QVERIFY(ring.before && ring.judgement && *ring.before < ring.judgement->margin - 8.0);
    QVERIFY(!main.rows[3].cells[margin].before);
    const std::size_t beside = column(main, "then_sensitivity");
    QCOMPARE(main.columns[beside].head, std::string("Then: For 10 dB, dBm"));
    QVERIFY(!main.rows[1].cells[beside].text.empty() && main.rows[3].cells[beside].text.empty());
    for (const auto& row : main.rows) QCOMPARE(row.cells.size(), main.columns.size());
    QCOMPARE(main.columns.back().kind, CellKind::verdict);
    QVERIFY(main.rows[1].cells.back().judgement.has_value());
    // A dial on the other side of zero is off by what it is off by.
    const Method& reference = *find_method("reference");
    const auto dial = [&](const char* carrier_shown) {
      auto e = std::make_shared<Evidence>(evidence_of(reference));
      e->steps.push_back(
          typed(reference, "14.2 MHz", {{"Nominal", "14.2 MHz"}, {"Counted", carrier_shown}}));
      return e;
    };
    now.neighbours.push_back({"reference", dial("14.200142 MHz"), 4});
    then->neighbours.push_back({"reference", dial("14.199716 MHz"), 5});
    r = grid.evaluate(now);
    const std::size_t off = column(r.tables[1], "reference");
    QVERIFY(off < r.tables[1].columns.size());
    QVERIFY2(r.tables[1].rows[1].cells[off].text.starts_with("better by 10."),
             r.tables[1].rows[1].cells[off].text.c_str());
    // At another input point nothing is compared.
    auto inside = heard({{"14.2 MHz", "129 128 130 mV"}});
    inside->settings["sensitivity"]["input"] = "inner";
    then->neighbours = {{"sensitivity", inside, 3}};
    r = grid.evaluate(now);
    QCOMPARE(r.tables[1].rows[1].cells[1].text, std::string("not alike"));
    QVERIFY(!r.tables[0].rows[1].cells[margin].before);
  }

  void the_grid_says_what_is_next_and_what_either_order_costs() {
    const Method& grid = receiver_grid_method();
    const Method& s = sensitivity_method();
    auto heard = std::make_shared<Evidence>(evidence_of(s));
    const auto band = [&](const char* label) {
      return typed(s, label,
                   {{"Level", "-113 dBm"},
                    {"Noise only", "50 51 49 mV"},
                    {"Tone and noise", "158 157 159 mV"}});
    };
    heard->steps = {band("7.1 MHz"), band("14.2 MHz")};
    const Method& conversion = *find_method("conversion");
    auto gains = std::make_shared<Evidence>(evidence_of(conversion));
    auto shown = std::make_shared<Evidence>(evidence_of(indicator_method()));
    Evidence e = evidence_of(grid);
    e.neighbours = {{"sensitivity", heard, 1}, {"indicator", shown, 2}, {"conversion", gains, 3}};
    const auto next = [&](const Result& r) {
      for (const auto& row : r.tables.front().rows)
        for (std::size_t c = 0; c < row.cells.size(); ++c)
          if (row.cells[c].text == "measure next")
            return row.cells.front().text + ", " + r.tables.front().columns[c].id;
      return std::string();
    };
    Result r = grid.evaluate(e);
    // S9 on both bands, then gain on both: 4 + 4 minutes and one change; by band two more.
    QCOMPARE(next(r), std::string("7.1 MHz, indicator"));
    QCOMPARE(r.figure_cards.front().value, std::string("S9, 7.1 MHz"));
    QCOMPARE(r.figure_cards.front().caption, std::string("by test 12 min, by band 20 min"));
    QCOMPARE(r.tables.front().rows[0].cells[2].opens->test, 2);
    QCOMPARE(r.tables.front().rows[0].cells[1].opens->test, 1);
    // A row that the test can read: S9 of that band.
    QCOMPARE(r.tables.front().rows[0].cells[2].opens->step, std::string("7.1 MHz, S9"));
    QCOMPARE(r.tables.front().rows[0].cells[1].opens->step, std::string("7.1 MHz"));
    for (const char* reading : {"7.1 MHz, S9", "7.1 MHz, S7"})
      shown->steps.push_back(
          typed(indicator_method(), reading, {{"Level", reading[10] == '9' ? "-73" : "-85"}}));
    QCOMPARE(next(grid.evaluate(e)), std::string("14.2 MHz, indicator"));
    e.settings["receiver"]["fill_by"] = "band";
    QCOMPARE(next(grid.evaluate(e)), std::string("7.1 MHz, conversion"));
  }
};

HERON_TEST(ReceiverGridTest)

}  // namespace receiver_grid_test

#include "receiver_grid_test.moc"
