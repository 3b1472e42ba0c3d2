#include "core/method/output/output_power.h"

#include <QtTest>
#include <random>

#include "core/method/live_quantity.h"
#include "core/method/meter_reading.h"
#include "core/method/method.h"
#include "core/quantity/levels.h"
#include "core/signal/normal_numbers.h"
#include "tests/core/made_chain.h"
#include "tests/core/said.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace output_power_test {

namespace {

Figure level(double watt, double u_db = 0.1) {
  Figure f;
  f.value = to_dbm(Watt{watt}).value;
  f.unit = "dBm";
  f.convention = "PEP";
  f.contributions = meter_contributions(u_db);
  return f;
}

Figure plain(double value, const char* unit, double u = 0.0) {
  Figure f;
  f.value = value;
  f.unit = unit;
  if (u > 0.0) f.contributions = {{"reading", u, Scope::common}};
  return f;
}

OutputReading at(double time_s, double watt) {
  OutputReading r;
  r.time_s = time_s;
  r.output = level(watt);
  return r;
}

const Limit kSpecified{"maker", Sense::at_least, 100.0, "W", "", 20.0};

}  // namespace

class OutputPowerTest : public QObject {
  Q_OBJECT
 private slots:
  /// The worked example of the header.
  void the_worked_example_comes_out() {
    OutputReading cold = at(0.0, 94.3);
    cold.volts = plain(13.5, "V", 0.05);
    cold.amperes = plain(17.8, "A", 0.1);
    cold.forward_w = 100.0;
    cold.reflected_w = 1.0;
    const OutputPower all = assess_output({{"14 MHz", 14.2e6, {cold, at(60.0, 84.0)}}}, kSpecified);
    const OutputRow& r = all.rows.front();
    QVERIFY(std::abs(r.droop->value + 0.502) < 0.001);
    QVERIFY(std::abs(r.efficiency->value - 39.24) < 0.01);
    QVERIFY(std::abs(r.meter_error->value - 0.255) < 0.001);
    QVERIFY(std::abs(*r.indicated_vswr - 11.0 / 9.0) < 1e-9);
    QCOMPARE(r.hot_after_s, 60.0);
    // The worse of the two is what is judged: 0.76 dB below.
    QVERIFY(r.is_hot_judged);
    QVERIFY(std::abs(r.judgement->margin + 0.757) < 0.001);
    QCOMPARE(r.judgement->verdict, Verdict::fail);
    // What the meter is wrong by is in both and goes out of the difference.
    QVERIFY(r.droop->u() < 0.03 && r.cold->u() > 0.1);
    const double u = std::hypot(0.1 / kDbPerRelativePower, 0.02 / kDbPerRelativePower,
                                std::hypot(0.05 / 13.5, 0.1 / 17.8));
    QVERIFY(std::abs(r.efficiency->u() / r.efficiency->value - u) < 1e-9);
  }

  void a_step_of_its_own_specification_is_judged_by_that() {
    const OutputPower all = assess_output(
        {{"full", 14.2e6, {at(0.0, 120.0)}, {}}, {"low", 14.2e6, {at(0.0, 4.0)}, 37.0}},
        kSpecified);
    QCOMPARE(all.rows[0].judgement->verdict, Verdict::pass);
    QCOMPARE(all.rows[1].judgement->verdict, Verdict::fail);
    QVERIFY(std::abs(all.rows[1].judgement->margin + 0.979) < 0.001);
    QCOMPARE(*all.headline(), 1U);
    // Without any limit nothing is judged, and the first is shown.
    const OutputPower open = assess_output({{"full", {}, {at(0.0, 120.0)}}}, std::nullopt);
    QVERIFY(!open.rows[0].judgement && *open.headline() == 0U);
  }

  /// A limit as wide as the reading is uncertain is too close; far away it is not.
  void verdicts_keep_their_guard_band() {
    for (double watt = 80.0; watt < 125.0; watt += 0.25) {
      const OutputPower all = assess_output({{"x", {}, {at(0.0, watt)}}}, kSpecified);
      const double margin = 10.0 * std::log10(watt / 100.0);
      const double expanded = 2.0 * std::hypot(0.1, 0.02);
      QCOMPARE(all.rows[0].judgement->verdict, margin > expanded    ? Verdict::pass
                                               : margin < -expanded ? Verdict::fail
                                                                    : Verdict::too_close);
    }
  }

  void what_is_missing_is_missing() {
    OutputReading only_dc;
    only_dc.volts = plain(13.5, "V");
    const OutputPower all =
        assess_output({{"nothing", {}, {}}, {"only volts", {}, {only_dc}}}, kSpecified);
    QVERIFY(!all.headline());
    for (const OutputRow& r : all.rows)
      QVERIFY(!r.is_taken() && !r.judgement && !r.droop && !r.efficiency);
    // Only a hot reading is a reading, and no cold one.
    OutputReading empty;
    const OutputPower late = assess_output({{"x", {}, {empty, at(60.0, 90.0)}}}, kSpecified);
    QVERIFY(!late.rows[0].cold && late.rows[0].hot && late.rows[0].is_hot_judged);
    QCOMPARE(late.rows[0].judgement->verdict, Verdict::fail);
    QCOMPARE(late.rows[0].hot_after_s, 60.0);
    QCOMPARE(*late.headline(), 0U);
  }

  void remarks_say_what_went_wrong_data() {
    QTest::addColumn<QString>("code");
    for (const char* code : {"efficiency", "offset", "too_much", "droop", "meter_error",
                             "indicated_vswr", "cold_only"})
      QTest::newRow(code) << QString(code);
  }
  void remarks_say_what_went_wrong() {
    QFETCH(QString, code);
    const auto said = [&](double cold_w, double hot_w, double amperes, double forward,
                          double reflected) {
      OutputReading cold = at(0.0, cold_w);
      cold.volts = plain(13.8, "V");
      cold.amperes = plain(amperes, "A");
      cold.forward_w = forward;
      cold.reflected_w = reflected;
      std::vector<OutputReading> readings{cold};
      if (hot_w > 0.0) readings.push_back(at(60.0, hot_w));
      return has_remark(assess_output({{"x", {}, readings}}, kSpecified).remarks,
                        code.toStdString().c_str());
    };
    QVERIFY(code == "cold_only" ? said(100.0, 0.0, 18.0, 100.0, 0.0)
                                : !said(104.0, 103.9, 18.0, 104.0, 0.5));
    if (code == "efficiency") QVERIFY(said(104.0, 104.0, 5.0, 104.0, 0.0));
    if (code == "offset") QVERIFY(said(10.0, 10.0, 18.0, 10.0, 0.0));
    if (code == "too_much") QVERIFY(said(1e5, 1e5, 1e4, 1e5, 0.0));
    if (code == "droop") QVERIFY(said(104.0, 90.0, 18.0, 104.0, 0.0));
    if (code == "meter_error") QVERIFY(said(104.0, 104.0, 18.0, 130.0, 0.0));
    if (code == "indicated_vswr") QVERIFY(said(104.0, 104.0, 18.0, 104.0, 10.0));
  }

  /// Meters that are wrong by what they say: output, droop and efficiency cover the truth.
  void intervals_cover_the_truth() {
    std::mt19937_64 random(3);
    NormalNumbers<double> gauss(0.0, 1.0);
    const int runs = draws(2000);
    int output = 0;
    int droop = 0;
    int efficiency = 0;
    for (int i = 0; i < runs; ++i) {
      const double meter = 0.1 * gauss(random);
      const auto read = [&](double dbm) {
        Figure f = level(1.0);
        f.value = dbm + meter + 0.02 * gauss(random);
        return f;
      };
      OutputReading cold;
      cold.output = read(50.0);
      cold.volts = plain(13.5 * (1.0 + 0.005 * gauss(random)), "V", 13.5 * 0.005);
      cold.amperes = plain(18.0 * (1.0 + 0.01 * gauss(random)), "A", 18.0 * 0.01);
      OutputReading hot;
      hot.time_s = 60.0;
      hot.output = read(49.7);
      const OutputRow r = assess_output({{"x", {}, {cold, hot}}}, kSpecified).rows.front();
      output += std::abs(r.cold->value - 50.0) <= r.cold->expanded() ? 1 : 0;
      droop += std::abs(r.droop->value + 0.3) <= r.droop->expanded() ? 1 : 0;
      const double truth = 100.0 * 100.0 / (13.5 * 18.0);
      efficiency += std::abs(r.efficiency->value - truth) <= r.efficiency->expanded() ? 1 : 0;
    }
    for (const int inside : {output, droop, efficiency})
      QVERIFY2(is_share_between(inside, runs, 0.92, 0.98), qPrintable(QString::number(inside)));
  }

  /// From typed cells to the answer, as the sheet, the report and the record have it.
  void typed_evidence_becomes_a_result() {
    const Method* m = find_method("output");
    QVERIFY(m != nullptr);
    EvidenceStep step{"14 MHz, full", {}, {}};
    const std::vector<const char*> typed{"14.2",     "94,3 W", "49.24 dBm", "2:00", "13.5",
                                         "17800 mA", "13.2 V", "100",       "0",    ""};
    QCOMPARE(typed.size(), m->fields.size());
    for (std::size_t i = 0; i < typed.size(); ++i) {
      const TypedField& f = m->fields[i];
      if (*typed[i] == 0) continue;
      if (f.kind == TypedField::Kind::reading)
        step.readings.push_back(read_typed(f, typed[i]));
      else
        step.conditions.push_back(condition_typed(f, typed[i]));
      QCOMPARE(typed_in(f, step), std::string(typed[i]));
    }
    const Result r = m->evaluate({{}, kSpecified, {step, {"empty", {}, {}}}, {}});
    QCOMPARE(r.answers.size(), 1U);
    QCOMPARE(*r.answers[0].step, 0U);
    QCOMPARE(r.answers[0].shown->unit, std::string("W"));
    QVERIFY(std::abs(r.answers[0].shown->value - 83.95) < 0.01);
    QCOMPARE(r.answers[0].label, std::string("Output after 2:00 min of key-down"));
    QCOMPARE(r.answers[0].limit->unit, std::string("W"));
    const ResultTable& table = r.tables.at(0);
    QCOMPARE(table.rows.size(), 2U);
    for (const auto& row : table.rows) QCOMPARE(row.cells.size(), table.columns.size());
    QCOMPARE(table.rows[1].cells.back().text, std::string("not measured"));
    QVERIFY(table.rows[0].cells[2].is_deciding && !table.rows[0].cells[1].is_deciding);
    QVERIFY(r.plots.at(0).has_points());
    // No power, and a milliwatt.
    const TypedField& reflected = m->fields[8];
    QCOMPARE(read_typed(reflected, "0").value, 0.0);
    QCOMPARE(read_typed(reflected, "0 W").value, 0.0);
    QVERIFY(std::abs(read_typed(reflected, "0 dBm").value - 1e-3) < 1e-12);
    // The end of a key-down alone is called so.
    EvidenceStep late{"late", {}, {read_typed(m->fields[2], "90")}};
    const Result only_hot = m->evaluate({{}, kSpecified, {late}, {}});
    QCOMPARE(only_hot.answers.at(0).label, std::string("Output after 1:00 min of key-down"));
    QVERIFY(only_hot.tables[0].rows[0].cells[1].text.empty());
    // Its own specification is told in W, as the test's.
    EvidenceStep specified = step;
    specified.conditions.push_back(condition_typed(m->fields[9], "82 W"));
    const Answer own = m->evaluate({{}, kSpecified, {specified}, {}}).answers.at(0);
    QCOMPARE(limit_text(*own.limit), std::string("at least 82 W"));
    QCOMPARE(own.judgement->verdict, Verdict::too_close);
    for (const char* wrong : {"", "much", "-5", "5 MHz"})
      QVERIFY(!refusal([&] { read_typed(m->fields[1], wrong); }).isEmpty());
    const Result none = m->evaluate({{}, kSpecified, {}, {}});
    QVERIFY(none.answers.empty() && !none.plots.at(0).has_points());
    QVERIFY(!none.plots.at(0).empty_words.empty());
    // A limit of another kind judges nothing, and that is said.
    Limit odd = kSpecified;
    odd.unit = "dB";
    const Result open = m->evaluate({{}, odd, {step}, {}});
    QVERIFY(!open.answers[0].judgement && has_remark(open.remarks, "limit_unit"));
  }

  void a_power_meter_is_read_through_the_hookup() {
    const Method& m = *find_method("output");
    const auto cold = live_fields(m, ReadingRole::at, {});
    QCOMPARE(cold.size(), 3U);
    QCOMPARE(live_fields(m, ReadingRole::after, {}).size(), 2U);
    Reading shown;
    shown.quantity = kPowerMeter;
    shown.value = 4.6;
    shown.unit = "dBm";
    Chain chain = pad_and_sampler(40.0);
    chain.parts[1].u_db = 0.16;
    const Reading r = reading_of_field(*cold[0], shown, chain, 14.2e6);
    QCOMPARE(r.quantity, std::string("output"));
    QCOMPARE(r.convention, std::string("PEP"));
    QVERIFY(std::abs(r.value - 44.6) < 1e-9);
    // The pad, the meter, and hardly any mismatch.
    QVERIFY2(std::abs(r.u - std::hypot(0.1, 0.16)) < 0.03, qPrintable(QString::number(r.u)));
    // Without a hook-up it stands at the device; volts are no level.
    QCOMPARE(reading_of_field(*cold[0], shown, std::nullopt, 0.0).value, 4.6);
    QCOMPARE(reading_of_field(*cold[0], shown, std::nullopt, 0.0).u, cold[0]->u);
    shown.value = 13.6;
    const Reading volts = reading_of_field(*cold[1], shown, chain, 14.2e6);
    QCOMPARE(volts.value, 13.6);
    QCOMPARE(volts.unit, std::string("V"));
    QVERIFY(std::abs(volts.u - 0.068) < 1e-9);
    // In the grid it stands as somebody would type it, with the digits that its uncertainty
    // carries.
    EvidenceStep seen{"20 m", {}, {r, volts}};
    QCOMPARE(typed_in(*cold[0], seen), std::string("28.8"));
    QCOMPARE(typed_in(*cold[1], seen), std::string("13.60"));
    const Result unplaced = m.evaluate({{}, std::nullopt, {seen}, {}});
    QVERIFY(unplaced.plots[0].empty_words.starts_with("Type the frequency"));
    EvidenceStep step;
    QVERIFY(!step_frequency_hz(step, std::nullopt));
    QCOMPARE(step_frequency_hz(step, Drive{40.0, false, 7.1e6, {}}), std::optional(7.1e6));
    step.conditions.push_back(condition_typed(m.fields[0], "14.2"));
    QCOMPARE(step_frequency_hz(step, Drive{40.0, false, 7.1e6, {}}), std::optional(14.2e6));
    QCOMPARE(m.hold_s(step), 60.0);
  }
};

HERON_TEST(OutputPowerTest)

}  // namespace output_power_test

#include "output_power_test.moc"
