#include "core/method/measure/loop.h"

#include <QtTest>

#include "core/csv_table.h"
#include "core/method/phase_noise/loop_json.h"
#include "core/method/phase_noise/noise_table.h"
#include "core/method/phase_noise/noise_trace.h"
#include "core/method/phase_noise/reciprocal.h"
#include "core/signal/trace_csv.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace loop_test {

/// Loops, what their noise does to a weak signal, and noise read off an analyser's screen.
class LoopTest : public QObject {
  Q_OBJECT

  /// What an analyser shows of a carrier with noise that is known, sweep after sweep.
  struct Sweep {
    double span_hz = 20e3;
    int points = 801;
    double rbw_hz = 100.0;
    bool is_log = true;
    int averages = 100;
    double spur_dbc = -200.0;
    double spur_hz = 3000.0;
    bool spur_on_both = true;
    const char* head = "";
    static double l(double hz) { return -80.0 - 20.0 * std::log10(hz / 1e3); }
    std::string text(unsigned seed = 1) const {
      std::mt19937_64 random(seed);
      std::gamma_distribution<double> mean(averages, 1.0 / averages);
      std::exponential_distribution<double> one(1.0);
      std::string all = *head != 0
                            ? std::string(head)
                            : fmt::format(
                                  "# rbw_hz: {}\n# rbw_kind: 3db\n# detector: {}\n"
                                  "# averages: {}\n",
                                  rbw_hz, is_log ? "log-average" : "power-average", averages);
      all += "frequency_hz,level_dbm\n";
      const double carrier = 1440e6;
      for (int i = 0; i < points; ++i) {
        const double hz = carrier - span_hz / 2 + span_hz * i / (points - 1);
        const double offset = std::abs(hz - carrier);
        const double noise = std::pow(10.0, l(std::max(offset, rbw_hz)) / 10.0) * 1.0645 * rbw_hz;
        double shown = 0.0;
        if (is_log) {
          for (int k = 0; k < averages; ++k) shown += 10.0 * std::log10(noise * one(random));
          shown /= averages;
        } else {
          shown = 10.0 * std::log10(noise * mean(random));
        }
        double power = std::pow(10.0, shown / 10.0);
        // A Gaussian filter's answer to a line.
        const auto line = [&](double at, double dbc) {
          const double x = (hz - at) / rbw_hz;
          power += std::pow(10.0, dbc / 10.0) * std::pow(2.0, -4.0 * x * x);
        };
        line(carrier, 0.0);
        line(carrier + spur_hz, spur_dbc);
        if (spur_on_both) line(carrier - spur_hz, spur_dbc);
        all += fmt::format("{:.1f},{:.4f}\n", hz, -10.0 + 10.0 * std::log10(power));
      }
      return all;
    }
    SpectrumTrace trace(unsigned seed = 1) const { return parse_trace(text(seed), "span.csv"); }
  };

 private slots:
  void currents_give_the_known_loops() {
    const auto loops = parse_loops(
        R"({"charge_pump_a": [0.5e-3, 1e-3, 2e-3, 4e-3], "kvco_hz_per_v": 30e6, "n": 144,
            "r2_ohm": 560, "c1_f": 1e-9, "c2_f": 22e-9})",
        "loop.json");
    const double crossover[] = {12.67e3, 20.84e3, 37.30e3, 70.29e3};
    const double margin[] = {42.0, 54.2, 63.7, 66.3};
    QCOMPARE(loops.size(), 4U);
    for (std::size_t i = 0; i < 4; ++i) {
      const LoopFigures f = loop_figures(loops[i]);
      QVERIFY2(std::abs(f.crossover_hz - crossover[i]) < 6.0,
               qPrintable(QString::number(f.crossover_hz)));
      QVERIFY2(std::abs(f.phase_margin_deg - margin[i]) < 0.06,
               qPrintable(QString::number(f.phase_margin_deg)));
    }
    LoopDesign third = loops[2];
    third.r3_ohm = 1000.0;
    third.c3_f = 100e-12;
    QVERIFY(std::abs(loop_figures(third).crossover_hz - 37.09e3) < 6.0);
    QVERIFY(std::abs(loop_figures(third).phase_margin_deg - 61.7) < 0.06);
    third.charge_pump_a = 1e-3;
    const LoopFigures bittern = loop_figures(third);
    QVERIFY(std::abs(bittern.crossover_hz - 20.76e3) < 6.0);
    QVERIFY(std::abs(bittern.phase_margin_deg - 53.0) < 0.06);
    QVERIFY2(std::abs(*bittern.peaking_db - 3.05) < 0.006,
             qPrintable(QString::number(*bittern.peaking_db)));
  }

  void its_figures_are_those_of_its_functions() {
    LoopDesign l;
    const LoopFigures f = loop_figures(l);
    QVERIFY(std::abs(std::abs(open_loop(l, f.crossover_hz)) - 1.0) < 1e-9);
    QVERIFY(std::abs(std::abs(closed_loop(l, 0.01)) - 1.0) < 1e-6);
    const double half = std::norm(closed_loop(l, *f.closed_loop_3db_hz));
    QVERIFY(std::abs(half - 0.5) < 1e-6);
    QVERIFY(std::norm(closed_loop(l, 1.3 * *f.closed_loop_3db_hz)) < 0.5);
    const double peak = std::abs(closed_loop(l, *f.peaking_hz));
    for (const double near : {0.99, 1.01})
      QVERIFY(std::abs(closed_loop(l, near * *f.peaking_hz)) < peak);
    // The current alone: its double moves the open loop by 6.02 dB.
    LoopDesign twice = l;
    twice.charge_pump_a *= 2.0;
    QVERIFY(std::abs(std::abs(open_loop(twice, 1e4) / open_loop(l, 1e4)) - 2.0) < 1e-12);
  }

  void what_does_not_lock_is_told_so() {
    LoopDesign l;
    l.r2_ohm = 5.0;
    l.r3_ohm = 10e3;
    l.c3_f = 10e-9;
    const LoopFigures f = loop_figures(l);
    QVERIFY(!f.is_stable() && !f.peaking_db && !f.closed_loop_3db_hz);
    const Remark r = unstable_remark(l, f);
    QCOMPARE(r.severity, Severity::fault);
    QVERIFY(r.text.find("1 mA does not lock") != std::string::npos);
    LoopDesign near;
    near.reference_hz = 100e3;
    QVERIFY(has_remark(loop_remarks(near, loop_figures(near)), "reference_near"));
  }

  void wrong_loops_name_what_is_wrong() {
    const auto wrong = [](const char* text) {
      return refusal([&] { parse_loops(text, "loop.json"); });
    };
    QVERIFY(wrong("[]").contains("object"));
    QVERIFY(wrong("{\"charge_pump_a\": 1").contains("object"));
    QVERIFY(wrong(R"({"charge_pump_a": 1e-3})").contains("kvco_hz_per_v"));
    const char* all =
        R"({"charge_pump_a": %1, "kvco_hz_per_v": 3e7, "n": 144, "r2_ohm": %2, "c1_f": 1e-9, "c2_f": 2e-8%3})";
    const auto with = [&](const char* a, const char* b, const char* c) {
      return wrong(qPrintable(QString(all).arg(a, b, c)));
    };
    QVERIFY(with("1e-3", "560", "").isEmpty());
    QVERIFY(with("0", "560", "").contains("charge_pump_a"));
    QVERIFY(with("[]", "560", "").contains("list"));
    QVERIFY(with("[1e-3, \"x\"]", "560", "").contains("charge_pump_a"));
    QVERIFY(with("1e-3", "-1", "").contains("r2_ohm"));
    QVERIFY(with("1e-3", "560", ", \"r3_ohm\": 1000").contains("together"));
    LoopDesign flat;
    flat.kvco_hz_per_v = 1e-12;
    QVERIFY(!refusal([&] { loop_figures(flat); }).isEmpty());
  }

  void a_strong_neighbour_costs_what_the_formula_says() {
    const NoiseCurve c =
        noise_of_table(parse_csv("offset_hz,l_dbc_hz,u_db\n1000,-80,0.2\n100000,-120,0.2\n", "c"));
    ReciprocalCase how;
    how.offset_hz = 10e3;
    how.bandwidth_hz = 500.0;
    how.mds_dbm = -135.0;
    Reciprocal r = reciprocal_mixing(c, how);
    QVERIFY(std::abs(r.limit_interferer_dbm + 61.99) < 0.01);
    QVERIFY(std::abs(r.ratio_db - 73.01) < 0.01);
    QVERIFY(!r.desensitisation_db && std::abs(r.u_db - 0.1414) < 0.001);
    // At that level half of the noise is its own: 3 dB.
    how.interferer_dbm = r.limit_interferer_dbm;
    r = reciprocal_mixing(c, how);
    QVERIFY(std::abs(*r.desensitisation_db - 3.0103) < 1e-4);
    QVERIFY(std::abs(*r.noise_in_channel_dbm + 135.0) < 1e-9);
    how.interferer_dbm = interferer_for_loss(r.l_dbc_hz, 500.0, -135.0, 6.0);
    QVERIFY(std::abs(*reciprocal_mixing(c, how).desensitisation_db - 6.0) < 1e-9);
    how.offset_hz = 500.0;
    QVERIFY(refusal([&] { reciprocal_mixing(c, how); }).contains("1 kHz to 100 kHz"));
  }

  void noise_is_read_off_an_analyser_data() {
    QTest::addColumn<bool>("is_log");
    QTest::addColumn<int>("averages");
    QTest::addRow("log") << true << 100;
    QTest::addRow("log, few sweeps") << true << 3;
    QTest::addRow("power") << false << 100;
    QTest::addRow("power, few sweeps") << false << 3;
  }
  void noise_is_read_off_an_analyser() {
    QFETCH(bool, is_log);
    QFETCH(int, averages);
    Sweep near;
    near.is_log = is_log;
    near.averages = averages;
    Sweep far = near;
    far.span_hz = 2e6;
    far.rbw_hz = 10e3;
    const std::vector<SpectrumTrace> both{far.trace(2), near.trace(1)};
    const NoiseCurve c = noise_of_traces(both, 10);
    QVERIFY(c.low_hz() < 900.0 && c.high_hz() > 900e3);
    QVERIFY(std::abs(*c.level_dbm + 10.0) < 0.05);
    for (const CurvePoint& p : c.points) {
      // Mean power over the bin of a 20 dB slope.
      const double truth = Sweep::l(p.offset_hz) + 0.03;
      QVERIFY2(
          std::abs(p.l_dbc_hz - truth) < 0.35 + 4.0 * p.u_db,
          qPrintable(QString("%1 Hz: %2, not %3").arg(p.offset_hz).arg(p.l_dbc_hz).arg(truth)));
    }
  }

  void lines_of_traces_have_no_bandwidth() {
    Sweep s;
    s.spur_dbc = -50.0;
    NoiseCurve c = noise_of_traces(std::vector{s.trace()}, 10);
    QCOMPARE(c.spurs.size(), 1U);
    QVERIFY(std::abs(c.spurs[0].offset_hz - 3000.0) < 50.0);
    QVERIFY2(std::abs(c.spurs[0].level_dbc + 50.0) < 0.2,
             qPrintable(QString::number(c.spurs[0].level_dbc)));
    QVERIFY(!c.spurs[0].is_one_sided);
    s.spur_on_both = false;
    c = noise_of_traces(std::vector{s.trace()}, 10);
    QCOMPARE(c.spurs.size(), 1U);
    QVERIFY(c.spurs[0].is_one_sided);
    QVERIFY(std::abs(c.spurs[0].rf_level_dbc() + 50.0) < 0.2);
    QVERIFY(std::abs(c.spurs[0].level_dbc + 56.02) < 0.2);
    for (const CurvePoint& p : c.points)
      QVERIFY(std::abs(p.l_dbc_hz - Sweep::l(p.offset_hz)) < 1.0);
    int found = 0;
    for (unsigned seed = 10; seed < 30; ++seed)
      found += static_cast<int>(noise_of_traces(std::vector{Sweep{}.trace(seed)}, 10).spurs.size());
    QVERIFY2(found == 0, qPrintable(QString::number(found)));
  }

  void what_is_not_known_of_a_trace_is_asked_for() {
    const auto refused = [](const char* head) {
      Sweep s;
      s.head = head;
      return refusal([&] { noise_of_traces(std::vector{s.trace()}, 10); });
    };
    QVERIFY(refused("# detector: log-average\n").contains("filter"));
    QVERIFY(refused("# rbw_hz: 100\n# detector: log-average\n").contains("width"));
    QVERIFY(refused("# rbw_hz: 100\n# rbw_kind: 3db\n").contains("detector"));
    QVERIFY(refused("# rbw_hz: 100\n# rbw_kind: 3db\n# detector: peak\n").contains("peak"));
    Sweep s;
    s.head = "# rbw_hz: 100\n# rbw_kind: noise\n# detector: log-average\n";
    const NoiseCurve wide = noise_of_traces(std::vector{Sweep{}.trace()}, 10);
    const NoiseCurve noise = noise_of_traces(std::vector{s.trace()}, 10);
    // The same points, and 100 Hz that are noise bandwidth already.
    QVERIFY(std::abs(noise.points[3].l_dbc_hz - wide.points[3].l_dbc_hz - 0.2715) < 0.02);
    QVERIFY(has_remark(noise.remarks, "averages_unknown"));
    Sweep flat;
    flat.points = 40;
    SpectrumTrace none = flat.trace();
    std::fill(none.level_dbm.begin(), none.level_dbm.end(), -80.0);
    QVERIFY(refusal([&] { noise_of_traces(std::vector{none}, 10); }).contains("no carrier"));
    SpectrumTrace other = Sweep{}.trace();
    for (double& hz : other.frequency_hz) hz += 10e6;
    QVERIFY(refusal([&] {
              noise_of_traces(std::vector{Sweep{}.trace(), other}, 10);
            }).contains("one carrier"));
  }
};

HERON_TEST(LoopTest)

}  // namespace loop_test

#include "loop_test.moc"
