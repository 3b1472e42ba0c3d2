#include "core/method/amplifier/response.h"

#include <QtTest>

#include "core/csv_table.h"
#include "core/method/amplifier/first_power.h"
#include "core/method/amplifier/response_result.h"
#include "core/method/method.h"
#include "core/method/typed_table.h"
#include "core/quantity/levels.h"
#include "tests/core/made_amplifier.h"
#include "tests/core/made_chain.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace response_test {

namespace {

constexpr double kMiddle = 1296e6;

/// Falls by the square of the way from the middle: 1 dB at 20 MHz.
double shape_db(double hz) {
  return -std::pow((hz - kMiddle) / 20e6, 2.0);
}

ResponseReading point(double hz, double drive_dbm, double gain_db) {
  ResponseReading r;
  r.label = std::to_string(hz / 1e6);
  r.frequency_hz = hz;
  r.input = made_level(drive_dbm, "drive level", 0.1, 0.02);
  r.output = made_level(drive_dbm + gain_db, "output level", 0.1, 0.02);
  return r;
}

std::vector<ResponseReading> sweep(double step_hz) {
  std::vector<ResponseReading> all;
  for (double hz = kMiddle - 60e6; hz <= kMiddle + 60e6 + 1.0; hz += step_hz)
    all.push_back(point(hz, 20.0, 14.4 + shape_db(hz)));
  return all;
}

const ResponseEdge* edge(const ResponseSweep& s, double down, bool is_lower) {
  for (const ResponseEdge& e : s.edges)
    if (e.down_db == down && e.is_lower == is_lower) return &e;
  return nullptr;
}

}  // namespace

class ResponseTest : public QObject {
  Q_OBJECT
 private slots:
  void edges_are_where_the_model_has_them() {
    const Response r = assess_response(sweep(2e6), {});
    const ResponseSweep& s = r.sweeps.front();
    QVERIFY(std::abs(*edge(s, 1.0, true)->hz - (kMiddle - 20e6)) < 0.1e6);
    QVERIFY(std::abs(*edge(s, 1.0, false)->hz - (kMiddle + 20e6)) < 0.1e6);
    QVERIFY(std::abs(*edge(s, 3.0, true)->hz - (kMiddle - 20e6 * std::sqrt(3.0))) < 0.1e6);
    QVERIFY(edge(s, 1.0, true)->u_hz > 0.05e6 && edge(s, 1.0, true)->u_hz < 2e6);
  }

  /// The worked example of the header.
  void the_worked_example_comes_out() {
    const Response r = assess_response(
        {point(1240e6, 20.0, 13.3), point(1242e6, 20.0, 13.5), point(1296e6, 20.0, 14.4)}, {});
    QVERIFY(std::abs(*edge(r.sweeps.front(), 1.0, true)->hz - 1241e6) < 1e3);
  }

  /// With few points an edge is "between", never an interpolated figure.
  void few_points_give_no_edge_figure() {
    const Response r = assess_response(
        {point(14e6, 20.0, 10.2), point(30e6, 20.0, 7.9), point(7e6, 20.0, 10.0)}, {});
    const ResponseEdge* upper = edge(r.sweeps.front(), 1.0, false);
    QVERIFY(upper != nullptr && !upper->hz);
    QCOMPARE(upper->between->first, 14e6);
    QCOMPARE(upper->between->second, 30e6);
    QVERIFY(has_remark(r.remarks, "edge_between"));
    QVERIFY(edge(r.sweeps.front(), 1.0, true) == nullptr);  // it lies outside the sweep
    QVERIFY(assess_response({}, {}).sweeps.empty());
    const Response one = assess_response({point(14e6, 20.0, 10.0)}, {});
    QVERIFY(one.sweeps.front().edges.empty() && has_remark(one.remarks, "few_points"));
  }

  void bands_are_judged_by_their_lowest_gain() {
    ResponsePlan plan;
    plan.least_gain_db = 13.5;
    plan.most_slope_db = 0.5;
    plan.bands = {{"narrow", kMiddle - 5e6, kMiddle + 5e6},
                  {"wide", kMiddle - 30e6, kMiddle + 10e6},
                  {"off", 1e9, 1.1e9}};
    const Response r = assess_response(sweep(1e6), plan);
    QVERIFY(r.bands[0].judgement->verdict == Verdict::pass);
    QVERIFY(r.bands[0].slope_judgement->verdict == Verdict::pass);
    QVERIFY(r.bands[1].judgement->verdict == Verdict::fail);
    QVERIFY(r.bands[1].slope_judgement->verdict == Verdict::fail);
    QVERIFY(std::abs(r.bands[1].lowest->value - (14.4 - 2.25)) < 1e-9);
    QVERIFY(std::abs(r.bands[1].slope->value - 2.25) < 1e-9);
    QVERIFY(r.bands[1].slope->u() < 0.06);  // what is common cancels
    QVERIFY(!r.bands[2].lowest && has_remark(r.remarks, "band_unread"));
    QCOMPARE(*r.headline(), 1U);
  }

  /// Current falls with the output where less drive arrives, and stays where the output network
  /// keeps it in.
  void why_it_drops_is_told_by_the_current() {
    const MadeAmplifier made;
    std::vector<DrivenStep> drive;
    for (const double in : {15.0, 20.0, 25.0, 30.0, 32.0, 33.0, 34.0}) {
      drive.push_back(made_step(made, in, 0.02));
      drive.back().amperes = made_plain(made.amperes(drive.back().output->value), "A", 0.02);
    }
    const Amplification series = assess_amplifier(drive, {});
    ResponsePlan plan;
    plan.series = &series;
    plan.bands = {
        {"low side", 1200e6, 1296e6}, {"high side", 1296e6, 1400e6}, {"middle", 1290e6, 1300e6}};
    std::vector<ResponseReading> readings;
    for (double mhz = 1200.0; mhz <= 1400.0; mhz += 5.0) {
      const double loss = mhz < 1290.0 ? (1290.0 - mhz) / 20.0 : 0.0;
      const double output_loss = mhz > 1300.0 ? (mhz - 1300.0) / 20.0 : 0.0;
      const double inside = made.output_dbm(33.0 - loss);
      ResponseReading r = point(mhz * 1e6, 33.0, inside - output_loss - 33.0);
      r.amperes = made_plain(made.amperes(inside), "A", 0.02);
      readings.push_back(r);
    }
    const Response r = assess_response(readings, plan);
    QCOMPARE(r.bands[0].drop, DropReason::gain);
    QCOMPARE(r.bands[1].drop, DropReason::output_network);
    QCOMPARE(r.bands[2].drop, DropReason::flat);
    QVERIFY(has_remark(r.remarks, "drop_gain") && has_remark(r.remarks, "drop_output"));
    QVERIFY(has_remark(r.remarks, "in_compression"));
    plan.series = nullptr;
    const Response blind = assess_response(readings, plan);
    QVERIFY(blind.bands[0].drop == DropReason::unknown && has_remark(blind.remarks, "no_series"));
  }

  void drives_are_told_apart() {
    std::vector<ResponseReading> readings;
    for (const double drive : {33.0, 20.0})
      for (const double mhz : {1280.0, 1296.0, 1300.0})
        readings.push_back(
            point(mhz * 1e6, drive + (mhz - 1290.0) / 30.0, drive > 30.0 ? 13.0 : 14.4));
    const Response r = assess_response(readings, {});
    QCOMPARE(r.sweeps.size(), 2U);
    QVERIFY(r.sweeps[0].drive_dbm < 21.0 && r.sweeps[1].drive_dbm > 32.0);
    QVERIFY(std::abs(*r.sweeps[1].down_db - 1.4) < 1e-9);
    readings[0].frequency_hz.reset();
    QVERIFY(!assess_response(readings, {}).refusals[0].empty());
  }

  void bands_are_read_and_written() {
    const auto bands = parse_bands(
        "All of 23 cm 1240 to 1300 MHz\n\n20 m: 14.0 to 14.35\r\nbeacons 1296.8 MHz to 1.297 "
        "GHz\n");
    QCOMPARE(bands.size(), 3U);
    QCOMPARE(bands[0].name, std::string("All of 23 cm"));
    QVERIFY(bands[0].from_hz == 1240e6 && bands[0].to_hz == 1300e6);
    QCOMPARE(bands[1].name, std::string("20 m"));
    QVERIFY(bands[1].from_hz == 14e6 && std::abs(bands[1].to_hz - 14.35e6) < 1.0);
    QVERIFY(std::abs(bands[2].to_hz - 1297e6) < 1.0);
    const auto again = parse_bands(bands_text(bands));
    for (std::size_t i = 0; i < bands.size(); ++i) {
      QCOMPARE(again[i].name, bands[i].name);
      QVERIFY(std::abs(again[i].from_hz - bands[i].from_hz) < 1.0 &&
              std::abs(again[i].to_hz - bands[i].to_hz) < 1.0);
    }
    for (const char* wrong : {"20 m 14.35 to 14.0", "14.0 to 14.35", "20 m", "20 m 14 to loud"})
      QVERIFY2(!refusal([&] { parse_bands(wrong); }).isEmpty(), wrong);
    QCOMPARE(usual_bands(13e6, 15e6).size(), 1U);
    QCOMPARE(megahertz_text(1296.2e6), std::string("1296.2 MHz"));
  }

  /// A point that is called by its frequency is referred through the hook-up at that frequency.
  void bands_are_typed_cell_by_cell() {
    const std::vector<BandMarker> bands{{"A", 14.0e6, 14.35e6}, {"B", 28.0e6, 29.7e6}};
    const auto edges = [](const std::vector<BandMarker>& all, std::size_t i) {
      return std::pair(all.at(i).from_hz, all.at(i).to_hz);
    };
    QCOMPARE(with_typed_band(bands, 0, "band", " mine ").front().name, std::string("mine"));
    QCOMPARE(with_typed_band(bands, 0, "band", "").size(), std::size_t{1});
    QCOMPARE(edges(with_typed_band(bands, 1, "to", "28.5"), 1), std::pair(28.0e6, 28.5e6));
    QCOMPARE(edges(with_typed_band(bands, 1, "from", "28200 kHz"), 1), std::pair(28.2e6, 29.7e6));
    // Beyond its end it moves as wide as it is; an end below the beginning is no band.
    QCOMPARE(edges(with_typed_band(bands, 0, "from", "21"), 0), std::pair(21.0e6, 21.35e6));
    QVERIFY(refusal([&] { with_typed_band(bands, 0, "to", "13.9"); }).contains("14 MHz"));
    for (const char* no : {"", "soon", "0", "3 dB"})
      QVERIFY(!refusal([&] { with_typed_band(bands, 0, "from", no); }).isEmpty());
    // The row behind the last: a usual band by its name, or a whole line.
    QCOMPARE(edges(with_typed_band(bands, 2, "band", "40 m"), 2), std::pair(7.0e6, 7.2e6));
    QCOMPARE(edges(with_typed_band(bands, 2, "band", "C 50 to 52 MHz"), 2),
             std::pair(50.0e6, 52.0e6));
    QVERIFY(!refusal([&] { with_typed_band(bands, 2, "band", "nowhere"); }).isEmpty());
    QCOMPARE(with_typed_band(bands, 2, "band", "").size(), std::size_t{2});
    // What the method writes is what it shows next, from the usual bands on.
    const Method& m = *find_method("response");
    Evidence e;
    e.drive = Drive{30.0, false, 14.2e6, std::nullopt};
    QCOMPARE(shown_bands(e).size(), std::size_t{1});
    e.settings = m.cell_typed(e, {0, "to", "14.1"});
    QCOMPARE(edges(shown_bands(e), 0), std::pair(14.0e6, 14.1e6));
    e.settings = m.cell_typed(e, {1, "band", "10 m"});
    QCOMPARE(shown_bands(e).size(), std::size_t{2});
    QVERIFY(m.check(e.settings).empty());
  }

  void a_point_is_where_its_name_says() {
    const Method& m = *find_method("response");
    Evidence e;
    e.drive = Drive{20.0, false, 14e6, std::nullopt};
    e.hookup = pad_and_sampler(30.0);
    e.hookup->parts.front().gain = Gain({{1e6, -30.0}, {101e6, -40.0}}, "pad");
    e.settings["amplifier"] = {{"read_by", "power_meter"}};
    for (const char* name : {"1 MHz", "51 MHz", "101 MHz"}) {
      EvidenceStep step;
      step.label = name;
      for (const TypedField& f : m.fields) {
        if (f.quantity == "drive" && f.role == ReadingRole::before)
          step.readings.push_back(read_typed(f, "0 dBm"));
        if (f.quantity == "output") step.readings.push_back(read_typed(f, "-20 dBm"));
      }
      e.steps.push_back(std::move(step));
    }
    const Result r = m.evaluate(e);
    double least = 1e9;
    double most = -1e9;
    for (const PlotLayer& layer : r.plots.front().panels.front().layers) {
      if (layer.kind != PlotLayer::Kind::trace) continue;
      for (const PlotPoint& p : layer.points) {
        least = std::min(least, p.y);
        most = std::max(most, p.y);
      }
    }
    QVERIFY(std::abs(least - 10.0) < 1e-6 && std::abs(most - 20.0) < 1e-6);
  }

  void files_become_typed_rows() {
    const Method& m = *find_method("gain");
    const CsvTable table = parse_csv(
        "step;frequency_hz;pin_before_dbm;pout_dbm;v_dc\n1 "
        "W;1296.2e6;30,00;44,28;27.5\n;1296.2e6;20 dBm;34.42;\n",
        "a.csv");
    const auto rows = typed_rows(m, table);
    QCOMPARE(rows.size(), 2U);
    QCOMPARE(rows[0].label, std::string("1 W"));
    QCOMPARE(rows[0].cells.size(), 4U);
    QCOMPARE(rows[1].label, std::string("1.2962 GHz"));
    const auto watts = typed_rows(m, parse_csv("pin_w,pout_w\n3,53.9\n", "w.csv"));
    QCOMPARE(watts.front().cells.back().second, std::string("53.9 W"));
    QVERIFY(
        !refusal([&] { typed_rows(m, parse_csv("pin_w,pout_w\n-3,53.9\n", "w.csv")); }).isEmpty());
    const QString wrong =
        refusal([&] { typed_rows(m, parse_csv("pin_before_dbm,pout_dbm\n30,loud\n", "b.csv")); });
    QVERIFY2(wrong.contains("line 2") && wrong.contains("pout_dbm"), qPrintable(wrong));
    QVERIFY(!refusal([&] { typed_rows(m, parse_csv("a,b\n1,2\n", "c.csv")); }).isEmpty());
  }

  void first_power_is_a_gate_with_reasons() {
    const Method& m = *find_method("first_power");
    QVERIFY(m.is_gate);
    Evidence e;
    for (const std::string& check : m.plan({}).steps) e.steps.push_back({check, {}, {}});
    QCOMPARE(e.steps.size(), 7U);
    Result r = m.evaluate(e);
    QVERIFY(r.answers.empty());
    QCOMPARE(r.tables.front().rows.size(), 7U);
    const TypedField& seen = m.fields[0];
    QVERIFY(!refusal([&] { read_typed(seen, "no"); }).isEmpty());
    QVERIFY(!refusal([&] { read_typed(seen, "skip"); }).isEmpty());
    for (EvidenceStep& s : e.steps) s.readings = {read_typed(seen, "yes")};
    // A current is read, not ticked.
    QVERIFY(m.evaluate(e).answers.front().judgement->verdict == Verdict::incomplete);
    e.steps[5].readings.push_back(read_typed(m.fields[1], "0.52 A"));
    QVERIFY(m.evaluate(e).answers.front().judgement->verdict == Verdict::pass);
    e.steps[6].readings = {read_typed(seen, "skip: no cover yet")};
    r = m.evaluate(e);
    QVERIFY(r.answers.front().judgement->verdict == Verdict::too_close &&
            has_remark(r.remarks, "skipped"));
    // What is over its rating cannot be ticked away; what is rated ticks itself.
    e.hookup = pad_and_sampler(30.0);
    e.hookup->parts[0].max_input_w = 20.0;
    e.hookup->parts[1].max_input_dbm = 20.0;
    e.drive = Drive{70.0, false, 14.2e6, std::nullopt};
    QVERIFY(m.evaluate(e).answers.front().judgement->verdict == Verdict::incomplete);
    e.drive->pep_dbm = 10.0;
    e.steps[0].readings.clear();
    e.steps[1].readings.clear();
    QCOMPARE(power_checks(e)[1].state, PowerCheck::State::known);
    // What the input takes stands on the device's card.
    QCOMPARE(power_checks(e)[3].known, std::string("its card does not say"));
    e.most_drive_dbm = 37.0;
    QVERIFY2(power_checks(e)[3].known.starts_with("at most 5"), power_checks(e)[3].known.c_str());
  }
};

HERON_TEST(ResponseTest)

}  // namespace response_test

#include "response_test.moc"
