// A receiver's bands beside each other: what is next, and another receiver or time beside them.
#include "core/method/receiver/receiver_grid.h"

#include <QtTest>
#include <random>

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
    const std::size_t margin = column(main, "sensitivity");
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
    QVERIFY(r.next.has_value());
    QCOMPARE(r.next->entries.size(), 2U);
    QCOMPARE(r.next->entries[0].what, std::string("S9, 7.1 and 14.2 MHz"));
    QCOMPARE(r.next->entries[0].cost, std::string("4 min"));
    QCOMPARE(r.next->entries[0].opens->test, 2);
    QCOMPARE(r.next->entries[1].why, std::string("and 4 min to change the hook-up"));
    QCOMPARE(r.next->cost, std::string("12 min, 1 change"));
    QCOMPARE(r.next->foot, std::string("By test 12 min, by band 20 min"));
    // At the foot of each column what is left of it, with the change of hook-up.
    const auto& foot = r.tables.front().rows.back();
    QVERIFY(foot.is_foot);
    QCOMPARE(foot.cells[1].text, std::string("all measured"));
    QCOMPARE(foot.cells[2].text, std::string("2 cells, 4 min"));
    QCOMPARE(foot.cells[3].text, std::string("2 cells, 4 + 4 min"));
    QCOMPARE(foot.cells[3].opens->test, 3);
    QCOMPARE(r.tables.front().rows[0].cells[0].below, std::string("4 min left"));
    QVERIFY(r.tables.front().columns[2].is_filled && !r.tables.front().columns[3].is_filled);
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
    r = grid.evaluate(e);
    QCOMPARE(next(r), std::string("7.1 MHz, conversion"));
    QCOMPARE(r.next->entries[1].what, std::string("S9, Gain, 14.2 MHz"));
    // Gain of a band that does not hear well tells where it loses: that is worth more.
    heard->limit = Limit{"handbook", Sense::at_most, -130.0, "dBm", "PD", 20.0};
    r = grid.evaluate(e);
    QCOMPARE(r.next->entries[0].why, std::string("tells a loss in front from one behind"));
    QCOMPARE(r.next->entries[0].what, std::string("Gain, 7.1 and 14.2 MHz"));
  }

  /// Whatever is measured: the ring is the first of the list, its entries are cells that are to do,
  /// rows and columns say the same minutes, and the orders differ by changes of the hook-up only.
  void what_is_left_adds_up_at_random() {
    std::mt19937 draw(7);
    const Method& grid = receiver_grid_method();
    const std::vector<const char*> bands{"1.85 MHz", "3.65 MHz", "7.1 MHz", "14.2 MHz", "28.5 MHz"};
    const auto is_drawn = [&](double share) {
      return std::uniform_real_distribution<double>(0.0, 1.0)(draw) < share;
    };
    const auto minutes_in = [](const std::string& words) {
      // "3 min left"; "2 cells, 4 + 4 min": the first is what measuring takes.
      const auto comma = words.find(", ");
      return words.empty() ? 0
                           : std::stoi(words.substr(comma == std::string::npos ? 0 : comma + 2));
    };
    int with_ring = 0;
    for (int round = 0; round < 150; ++round) {
      auto heard = std::make_shared<Evidence>(evidence_of(sensitivity_method()));
      auto shown = std::make_shared<Evidence>(evidence_of(indicator_method()));
      auto gains = std::make_shared<Evidence>(evidence_of(*find_method("conversion")));
      if (is_drawn(0.5))
        heard->limit = Limit{"handbook", Sense::at_most, -116.0, "dBm", "PD", 20.0};
      for (const char* band : bands) {
        // A band that somebody named in any test is a row.
        if (is_drawn(0.8))
          heard->steps.push_back(typed(sensitivity_method(), band,
                                       {{"Level", "-113 dBm"},
                                        {"Noise only", "50 51 49 mV"},
                                        {"Tone and noise", is_drawn(0.2)   ? "nothing"
                                                           : is_drawn(0.5) ? "158 157 159 mV"
                                                                           : "363 361 365 mV"}}));
        if (is_drawn(0.5))
          shown->steps.push_back(
              typed(indicator_method(), (std::string(band) + ", S9").c_str(), {{"Level", "-76"}}));
        if (is_drawn(0.4))
          gains->steps.push_back(typed(*find_method("conversion"), band,
                                       {{"Input", "-53 dBm"}, {"At the IF", "-20 dBm"}}));
      }
      Evidence e = evidence_of(grid);
      e.settings["receiver"]["fill_by"] = is_drawn(0.5) ? "band" : "test";
      e.neighbours = {{"sensitivity", heard, 1}, {"indicator", shown, 2}, {"conversion", gains, 3}};
      const Result r = grid.evaluate(e);
      const ResultTable& t = r.tables.front();
      if (t.rows.empty()) continue;
      const ResultTable::Row* foot = &t.rows.back();
      QVERIFY(foot->is_foot);
      int rings = 0;
      int by_rows = 0;
      std::string ringed;
      std::vector<int> to_do(t.columns.size(), 0);
      for (std::size_t i = 0; i + 1 < t.rows.size(); ++i) {
        by_rows += minutes_in(t.rows[i].cells.front().below);
        for (std::size_t c = 1; c < t.columns.size(); ++c) {
          const TableCell& cell = t.rows[i].cells[c];
          if (t.columns[c].kind != CellKind::judged || cell.figure || cell.text.empty()) continue;
          ++to_do[c];
          if (!cell.is_next) continue;
          ++rings;
          ringed = t.rows[i].cells.front().text;
          QVERIFY(cell.opens.has_value());
          QCOMPARE(cell.opens->test, r.next->entries.front().opens->test);
          QCOMPARE(cell.opens->step, r.next->entries.front().opens->step);
        }
      }
      int by_columns = 0;
      for (std::size_t c = 1; c < t.columns.size(); ++c) {
        if (t.columns[c].kind != CellKind::judged) continue;
        const std::string& words = foot->cells[c].text;
        if (to_do[c] == 0) {
          QCOMPARE(words, std::string("all measured"));
          continue;
        }
        QVERIFY2(
            words.starts_with(std::to_string(to_do[c]) + (to_do[c] == 1 ? " cell," : " cells,")),
            words.c_str());
        by_columns += minutes_in(words);
      }
      QCOMPARE(by_rows, by_columns);
      QCOMPARE(rings, by_rows > 0 ? 1 : 0);
      with_ring += rings;
      if (rings == 0) continue;
      QVERIFY(r.next->entries.size() <= 3U);
      // Of both orders the minutes are those of measuring and of changes of four.
      const int by_test = std::stoi(r.next->foot.substr(std::string("By test ").size()));
      const int by_band = std::stoi(r.next->foot.substr(r.next->foot.find("by band ") + 8));
      QVERIFY(by_test >= by_rows && (by_test - by_rows) % 4 == 0);
      QVERIFY(by_band >= by_rows && (by_band - by_rows) % 4 == 0);
    }
    QVERIFY(with_ring > 100);
  }

  /// A dial is off by parts per million: where a band is named for its loss it departs by no dB.
  void a_dial_departs_by_no_decibels() {
    auto heard = std::make_shared<Evidence>(evidence_of(sensitivity_method()));
    auto gains = std::make_shared<Evidence>(evidence_of(*find_method("conversion")));
    auto dial = std::make_shared<Evidence>(evidence_of(*find_method("reference")));
    const std::pair<const char*, const char*> bands[] = {{"7.1 MHz", "363 361 365 mV"},
                                                         {"14.2 MHz", "363 361 365 mV"},
                                                         {"28.5 MHz", "129 128 130 mV"}};
    for (const auto& [band, on] : bands) {
      const bool is_weak = std::string_view(on).starts_with("129");
      heard->steps.push_back(
          typed(sensitivity_method(), band,
                {{"Level", "-113 dBm"}, {"Noise only", "50 51 49 mV"}, {"Tone and noise", on}}));
      gains->steps.push_back(
          typed(*find_method("conversion"), band,
                {{"Input", "-53 dBm"}, {"At the IF", is_weak ? "-27 dBm" : "-17 dBm"}}));
      dial->steps.push_back(
          typed(*find_method("reference"), band,
                {{"Nominal", band},
                 {"Counted", is_weak                          ? "28.503 MHz"
                             : std::string(band) == "7.1 MHz" ? "7.10001 MHz"
                                                              : "14.20002 MHz"}}));
    }
    Evidence e = evidence_of(receiver_grid_method());
    e.neighbours = {{"sensitivity", heard, 1}, {"conversion", gains, 2}, {"reference", dial, 3}};
    const Result r = receiver_grid_method().evaluate(e);
    QVERIFY(has_remark(r.remarks, "front_loss"));
    const ResultTable& t = r.tables.front();
    int strong = 0;
    for (std::size_t c = 0; c < t.columns.size(); ++c) {
      const TableCell& cell = t.rows[2].cells[c];
      if (cell.is_below_strong) ++strong;
      if (t.columns[c].id == "reference") {
        QVERIFY(cell.figure.has_value());
        QVERIFY2(cell.below.empty(), cell.below.c_str());
      }
    }
    QCOMPARE(strong, 2);  // sensitivity and gain
  }

  /// A deaf band: what only it uses is suspect, what a band that hears uses too is cleared; the
  /// words stand in place of its empty cells, and never of one with a figure.
  void a_deaf_band_says_what_to_check() {
    const Method& grid = receiver_grid_method();
    const Method& s = sensitivity_method();
    auto heard = std::make_shared<Evidence>(evidence_of(s));
    for (const auto& [label, on] :
         {std::pair{"14.2 MHz", "158 157 159 mV"}, std::pair{"21.2 MHz", "nothing"},
          std::pair{"24.94 MHz", "158 157 159 mV"}})
      heard->steps.push_back(
          typed(s, label,
                {{"Level", "-113 dBm"}, {"Noise only", "50 51 49 mV"}, {"Tone and noise", on}}));
    auto gains = std::make_shared<Evidence>(evidence_of(*find_method("conversion")));
    Evidence e = evidence_of(grid);
    e.neighbours = {{"sensitivity", heard, 1}, {"conversion", gains, 2}};
    const auto deaf = [](const Result& r) { return r.tables.front().rows[1]; };
    Result r = grid.evaluate(e);
    for (const auto& row : r.tables.front().rows)
      QCOMPARE(row.cells.size(), r.tables.front().columns.size());
    QCOMPARE(r.tables.front().columns.front().kind, CellKind::name);
    QVERIFY(deaf(r).words.has_value());
    QCOMPARE(deaf(r).words->words, std::string("Nothing heard."));
    QCOMPARE(deaf(r).words->from, 2U);
    QCOMPARE(deaf(r).words->to, 4U);
    e.settings["receiver"]["parts"] = to_json(
        parse_band_parts("14.2 MHz: X5, coil D\n21.2 MHz: X6, coil E\n24.94 MHz: X7, coil E"));
    r = grid.evaluate(e);
    QCOMPARE(deaf(r).words->words, std::string("X6 serves no band that hears: check it first."));
    QCOMPARE(deaf(r).words->why, std::string("Coil E also serves 24.94 MHz, which hears."));
    const ResultTable& t = r.tables.front();
    const auto at = t.columns.size() - 2;
    QCOMPARE(t.columns[at].kind, CellKind::parts);
    QCOMPARE(t.columns[at].lanes, (std::vector<std::string>{"", "coil"}));
    using State = TablePart::State;
    QCOMPARE(t.rows[1].cells[at].parts[0].state, State::suspect);
    QCOMPARE(t.rows[1].cells[at].parts[1].name, std::string("E"));
    QCOMPARE(t.rows[1].cells[at].parts[1].state, State::cleared);
    QCOMPARE(t.rows[2].cells[at].parts[1].state, State::cleared);
    QCOMPARE(t.rows[0].cells[at].parts[1].state, State::usual);
    for (const auto& row : t.rows) QCOMPARE(row.cells.size(), t.columns.size());
    // A gain that was measured all the same is not covered.
    gains->steps.push_back(typed(*find_method("conversion"), "21.2 MHz",
                                 {{"Input", "-53 dBm"}, {"At the IF", "-60 dBm"}}));
    r = grid.evaluate(e);
    QCOMPARE(deaf(r).words->to, 3U);
  }
};

HERON_TEST(ReceiverGridTest)

}  // namespace receiver_grid_test

#include "receiver_grid_test.moc"
