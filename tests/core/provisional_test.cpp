// What is measured roughly, and is to be measured again.
#include "core/method/provisional.h"

#include <set>

#include "core/method/decided_result.h"
#include "core/method/evidence_json.h"
#include "core/method/method.h"
#include "core/method/receiver/receiver_grid.h"
#include "core/method/receiver/sensitivity_method.h"
#include "tests/core/made_receiver.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace provisional_test {
namespace {

const Method& output() {
  return *find_method("output");
}

/// Three bands against 27 W; 14 MHz is the worst.
Evidence three_bands(const char* at_14, const char* at_21) {
  Evidence e;
  e.limit = Limit{"maker", Sense::at_least, 44.3, "dBm", "", 20.0};
  e.steps = {typed(output(), "7 MHz", {{"Cold", "31 W"}}),
             typed(output(), "14 MHz", {{"Cold", at_14}}),
             typed(output(), "21 MHz", {{"Cold", at_21}})};
  return e;
}

/// Bands whose verdict in the table is hollow.
std::string hollow_rows(const Result& r) {
  std::string all;
  for (const ResultTable::Row& row : r.tables.front().rows)
    if (const auto& j = row.cells.back().judgement; j && j->is_provisional)
      all += row.cells.front().text + ";";
  return all;
}

}  // namespace

class ProvisionalTest : public QObject {
  Q_OBJECT
 private slots:
  void a_tilde_says_that_a_reading_is_rough() {
    using Typing = std::pair<bool, std::string>;
    QCOMPARE(rough_typing("~ 31 W"), Typing(true, "31 W"));
    QCOMPARE(rough_typing("  \u2248 31 W"), Typing(true, "31 W"));
    QCOMPARE(rough_typing("31 W"), Typing(false, "31 W"));
    QCOMPARE(rough_typing("~"), Typing(true, ""));
    QVERIFY(!refusal([] { typed(output(), "7 MHz", {{"Cold", "~"}}); }).isEmpty());
    // Every field of every method reads it, and gives it back as it was typed.
    for (const Method* m : methods())
      for (const TypedField& f : m->fields) {
        if (f.kind != TypedField::Kind::reading) continue;
        Reading plain;
        try {
          plain =
              read_typed(f, "12", m->conventions.empty() ? "" : std::string(m->conventions[0].id));
        } catch (const std::exception&) {
          continue;  // it wants a unit, or several numbers
        }
        const Reading rough = read_typed(f, "~12", plain.convention);
        QVERIFY2(rough.is_provisional && !plain.is_provisional && rough.value == plain.value,
                 std::string(f.head).c_str());
        EvidenceStep step{"one", {}, {rough}};
        QCOMPARE(typed_in(f, step), std::string("~ 12"));
        const Reading again = reading_from_json(to_json(rough));
        QVERIFY(again.is_provisional);
      }
  }

  /// The row it stands in is hollow, and the answer where it is that row's.
  void what_stands_on_a_rough_reading_is_provisional() {
    Result r = decided_result(output(), three_bands("~ 25 W", "30.5 W"));
    QVERIFY(r.answers.front().is_provisional && r.answers.front().judgement->is_provisional);
    QCOMPARE(hollow_rows(r), std::string("14 MHz;"));
    QCOMPARE(find_remark(r, "provisional_readings")->text,
             std::string("Provisional: Cold at 14 MHz."));
    // The verdict itself is the same.
    QCOMPARE(
        r.answers.front().judgement->verdict,
        decided_result(output(), three_bands("25 W", "30.5 W")).answers.front().judgement->verdict);
    r = decided_result(output(), three_bands("25 W", "~ 30.5 W"));
    QVERIFY(!r.answers.front().is_provisional);
    QCOMPARE(hollow_rows(r), std::string("21 MHz;"));
    r = decided_result(output(), three_bands("~ 25 W", "~ 30.5 W"));
    QVERIFY(find_remark(r, "provisional_readings")->text.ends_with("and one more reading."));
    QVERIFY(find_remark(decided_result(output(), three_bands("25 W", "30.5 W")),
                        "provisional_readings") == nullptr);
  }

  void read_again_it_is_no_longer_rough() {
    Evidence e = three_bands("~ 25 W", "30.5 W");
    Reading again = e.steps[1].readings.front();
    again.is_provisional = false;
    again.source = ReadingSource::live;
    e.steps[1].readings.push_back(again);
    const Result r = decided_result(output(), e);
    QVERIFY(!r.answers.front().is_provisional);
    QCOMPARE(hollow_rows(r), std::string());
  }

  void of_a_provisional_test_all_is() {
    Evidence e = three_bands("25 W", "30.5 W");
    e.settings[kProvisionalSettings] = "a borrowed wattmeter";
    const Result r = decided_result(output(), e);
    QCOMPARE(hollow_rows(r), std::string("7 MHz;14 MHz;21 MHz;"));
    for (const StepFigure& f : r.step_figures) QVERIFY(f.is_provisional);
    QCOMPARE(r.remarks.front().text, std::string("Provisional: a borrowed wattmeter."));
  }

  /// In the receiver grid the cell is hollow, its neighbours are not.
  void a_receivers_grid_shows_which_cell_is() {
    const Method& s = sensitivity_method();
    auto heard = std::make_shared<Evidence>(evidence_of(s));
    heard->limit = Limit{"handbook", Sense::at_most, -113.0, "dBm", "PD", 20.0};
    for (const auto& [band, on] :
         {std::pair{"7.1 MHz", "158 157 159 mV"}, std::pair{"14.2 MHz", "~ 158 157 159 mV"}})
      heard->steps.push_back(typed(
          s, band, {{"Level", "-113 dBm"}, {"Noise only", "50 51 49 mV"}, {"Tone and noise", on}}));
    Evidence grid = evidence_of(receiver_grid_method());
    grid.neighbours = {{"sensitivity", heard, 1}};
    const Result r = receiver_grid_method().evaluate(grid);
    std::set<std::string> hollow;
    for (const ResultTable::Row& row : r.tables.front().rows)
      for (const TableCell& cell : row.cells)
        if (cell.judgement && cell.judgement->is_provisional) hollow.insert(row.cells.front().text);
    QVERIFY(hollow == std::set<std::string>{"14.2 MHz"});
  }
};

HERON_TEST(ProvisionalTest)

}  // namespace provisional_test

#include "provisional_test.moc"
