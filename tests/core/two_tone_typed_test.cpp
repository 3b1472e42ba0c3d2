// Readings typed by hand and traces of an analyser as evidence.
#include "core/method/two_tone/two_tone_typed.h"

#include <QtTest>
#include <complex>
#include <random>

#include "core/error.h"
#include "core/method/two_tone/two_tone_json.h"
#include "core/method/two_tone/two_tone_ladder.h"
#include "core/method/two_tone/two_tone_trace.h"
#include "core/quantity/levels.h"
#include "tests/test_program.h"

using namespace heron;

namespace two_tone_typed_test {

namespace {

TypedStep step(const char* label, double watt, double im3, double im5) {
  return {label,
          to_dbm(Watt{watt}).value,
          {parse_product(std::to_string(im3), 3, kRePep),
           parse_product(std::to_string(im5), 5, kRePep)}};
}

std::vector<TypedStep> plausible() {
  return {step("30 W", 30.5, -30, -31), step("20 W", 20.3, -33, -36), step("10 W", 10.2, -39, -44),
          step("5 W", 5.1, -46, -55)};
}

/// Lines seen through a Gaussian filter, with noise of a median level, on a grid.
SpectrumTrace seen(const std::vector<std::pair<double, double>>& lines, double rbw, double spacing,
                   double noise_dbm, unsigned seed, double offset = 0.0) {
  SpectrumTrace t;
  t.name = "trace.csv";
  t.rbw_hz = rbw;
  std::mt19937 random(seed);
  std::exponential_distribution<double> power(1.0);
  std::uniform_real_distribution<double> phase(0.0, 6.2831853);
  for (double hz = 14195000 + offset; hz <= 14208000; hz += spacing) {
    std::complex<double> sum =
        std::polar(std::sqrt(power(random) * std::pow(10.0, noise_dbm / 10.0)), phase(random));
    for (const auto& [line, dbm] : lines) {
      const double x = 2.0 * (hz - line) / rbw;
      sum += std::polar(std::pow(10.0, (dbm - 3.0103 * x * x) / 20.0), 0.7);
    }
    t.frequency_hz.push_back(hz);
    t.level_dbm.push_back(20.0 * std::log10(std::abs(sum)));
  }
  return t;
}

const std::vector<std::pair<double, double>> kLines = {{14200650, -7.0},  {14201850, -7.0},
                                                       {14199450, -37.0}, {14203050, -36.0},
                                                       {14198250, -47.0}, {14204250, -45.0}};

}  // namespace

class TwoToneTypedTest : public QObject {
  Q_OBJECT
 private slots:
  void products_are_read_as_people_write_them() {
    QCOMPARE(parse_product("31.5", 3, kRePep).level_db, -31.5);
    QCOMPARE(parse_product("\u221231,5 dB", 3, kRePep).level_db, -31.5);
    QVERIFY(parse_product("< -60", 5, kRePep).is_bound);
    QVERIFY(parse_product("\u2264 60", 5, kRePep).is_bound);
    QCOMPARE(parse_product("<60 dBc", 5, kReOneTone).level_db, -60.0);
    for (const char* bad : {"", "loud", "3 W", "-400", "<"}) {
      QVERIFY_EXCEPTION_THROWN(parse_product(bad, 3, kRePep), InputError);
    }
  }

  void typed_readings_make_a_ladder_like_recordings() {
    std::vector<TwoToneAnalysis> analyses;
    for (const TypedStep& s : plausible())
      analyses.push_back(analysis_from_readings(s.products, 0.5));
    std::vector<LadderStep> steps;
    for (std::size_t i = 0; i < analyses.size(); ++i) {
      Figure output;
      output.value = *plausible()[i].output_dbm;
      steps.push_back({plausible()[i].label, output, &analyses[i]});
    }
    const Limit limit{"Marsh club", Sense::at_most, -31.5, "dB", kRePep, 20.0};
    const TwoToneLadder result = evaluate_ladder(steps, limit);
    QCOMPARE(result.rows[0].judgement.verdict, Verdict::fail);
    QCOMPARE(*result.sweet_spot, std::size_t{1});
    QCOMPARE(*result.quietest, std::size_t{3});
    QVERIFY(std::abs(result.rows[1].worst->value + 33.0) < 1e-9);
    QVERIFY(std::abs(result.rows[1].worst->u() - 0.5) < 1e-9);
    QCOMPARE(result.rows[1].worst->contributions[0].source, std::string("reading off the screen"));
    const TwoToneAnalysis again = two_tone_from_json(to_json(analyses[0]));
    QCOMPARE(again.noise_source, analyses[0].noise_source);
  }

  void plausible_readings_are_not_doubted() {
    QVERIFY(doubt_readings(plausible()).empty());
    QVERIFY(doubt_readings({}).empty());
    QVERIFY(doubt_readings({step("full power", 30, -30, -31)}).empty());
  }

  void what_smells_is_said_by_its_name() {
    const auto doubted = [](std::size_t at, double watt, const char* said) {
      auto steps = plausible();
      steps[at].output_dbm = to_dbm(Watt{watt}).value;
      const auto doubts = doubt_readings(steps);
      return std::any_of(doubts.begin(), doubts.end(), [&](const ReadingDoubt& d) {
        return d.step == at && d.order == 0 && d.text.find(said) != std::string::npos;
      });
    };
    QVERIFY(doubted(1, 20.3 * 4.0, "EMF"));
    QVERIFY(doubted(2, 10.2 / 4.0, "EMF"));
    QVERIFY(doubted(1, 20.3 * 100.0, "probe"));
    QVERIFY(doubted(3, 51.0, "decimal"));
    QVERIFY(doubted(2, 5.1, "mean power"));
    QVERIFY(doubted(1, 33.0, "off"));
  }

  void a_slope_that_no_amplifier_has_is_pinned_on_the_odd_reading() {
    auto steps = plausible();
    steps[1].products[0] = parse_product("-63", 3, kRePep);  // 33 mistyped
    const auto doubts = doubt_readings(steps);
    QCOMPARE(doubts.size(), 1U);
    QCOMPARE(doubts[0].step, std::size_t{1});
    QCOMPARE(doubts[0].order, 3);
    steps = plausible();
    steps[0].products[1] = parse_product("-3.1", 5, kRePep);
    QVERIFY(!doubt_readings(steps).empty());
  }

  /// Other signals in the span, up to 10 dB stronger than a tone: the pair with products is taken,
  /// or nothing is.
  void a_trace_with_other_carriers_never_shows_a_wrong_pair() {
    std::mt19937 random(31);
    std::uniform_real_distribution<double> any(0.0, 1.0);
    int right = 0;
    constexpr int kRuns = 60;
    for (int run = 0; run < kRuns; ++run) {
      auto lines = kLines;
      for (int k = 1 + static_cast<int>(random() % 3); k > 0; --k) {
        const bool is_below = random() % 2 == 0;
        lines.emplace_back(
            is_below ? 14195200.0 + 2000.0 * any(random) : 14205000.0 + 2800.0 * any(random),
            -12.0 + 15.0 * any(random));
      }
      const TwoToneAnalysis a =
          analyse_trace(seen(lines, 20, 7, -100, static_cast<unsigned>(random())));
      if (a.products.empty()) {
        QVERIFY(!a.remarks.empty());
        continue;
      }
      QCOMPARE(a.tones.size(), std::size_t{2});
      const double lower = *a.capture.center_hz + a.tones[0].frequency_hz;
      const double upper = *a.capture.center_hz + a.tones[1].frequency_hz;
      QVERIFY2(std::abs(lower - 14200650.0) < 20.0 && std::abs(upper - 14201850.0) < 20.0,
               qPrintable(QString("run %1: %2 and %3 Hz").arg(run).arg(lower).arg(upper)));
      ++right;
    }
    QVERIFY2(right >= 0.9 * kRuns, qPrintable(QString::number(right)));
  }

  void a_trace_gives_what_was_put_into_it() {
    const TwoToneAnalysis a = analyse_trace(seen(kLines, 20, 7, -100, 1));
    QCOMPARE(a.tones.size(), 2U);
    QVERIFY(std::abs(a.tones[0].frequency_hz + *a.capture.center_hz - 14200650) < 1.0);
    QVERIFY(std::abs(a.find(3, Side::lower)->level_dbc + 30.0) < 0.1);
    QVERIFY(std::abs(a.find(3, Side::upper)->level_dbc + 29.0) < 0.1);
    QVERIFY(std::abs(a.find(5, Side::upper)->level_dbc + 38.0) < 0.1);
    QVERIFY(a.find(7, Side::upper)->is_bound);
    QVERIFY(a.find(7, Side::upper)->level_dbc > -95.0 && a.find(7, Side::upper)->level_dbc < -80.0);
    QVERIFY(a.remarks.empty());
  }

  /// Wherever the points lie, wide or narrow, and in noise: the interval covers the truth.
  void its_intervals_cover_the_truth() {
    int inside = 0;
    int all = 0;
    for (unsigned seed = 0; seed < 70; ++seed) {
      const double rbw = seed % 2 == 0 ? 20.0 : 40.0;
      const double spacing = rbw * (0.2 + 0.15 * (seed % 5));
      const TwoToneAnalysis a =
          analyse_trace(seen(kLines, rbw, spacing, -75, seed, 1.7 * seed / 7.0));
      for (const auto& [order, side, truth] : {std::tuple{3, Side::lower, -30.0},
                                               {3, Side::upper, -29.0},
                                               {5, Side::lower, -40.0},
                                               {5, Side::upper, -38.0}}) {
        const TwoToneProduct* p = a.find(order, side);
        QVERIFY(p != nullptr && !p->is_bound);
        ++all;
        if (std::abs(p->level_dbc - truth) <= 2.0 * p->u_db) ++inside;
      }
    }
    QVERIFY2(inside >= all * 0.92, qPrintable(QString("%1 of %2").arg(inside).arg(all)));
  }

  void a_filter_that_is_too_wide_is_no_measurement() {
    const TwoToneAnalysis a = analyse_trace(seen(kLines, 900, 50, -100, 1));
    QVERIFY(a.products.empty());
    QVERIFY(!a.remarks.empty() && a.remarks[0].severity == Severity::fault);
    const TwoToneAnalysis one = analyse_trace(seen({{14200650, -7.0}}, 20, 10, -90, 1));
    QCOMPARE(one.products.size(), 0U);
    QCOMPARE(one.remarks[0].code, std::string("one_tone"));
  }

  void an_unsaid_rbw_is_taken_from_the_tones_and_said() {
    SpectrumTrace t = seen(kLines, 20, 7, -100, 1);
    t.rbw_hz.reset();
    const TwoToneAnalysis a = analyse_trace(t);
    QVERIFY(std::abs(a.rbw_hz / 1.0645 - 20.0) < 3.0);
    QVERIFY(std::abs(a.find(3, Side::upper)->level_dbc + 29.0) < 0.15);
    QCOMPARE(a.remarks[0].code, std::string("rbw_unknown"));
  }

  void traces_are_read_however_they_were_written() {
    const std::string rows_point =
        "1e6,-10.5\n2e6,-20\n3e6,-30\n4e6,-40\n5e6,-50\n6e6,-60\n7e6,-70\n8e6,-80\n";
    std::string rows_comma = "1,5;-10,5\n2;-20\n3;-30\n4;-40\n5;-50\n6;-60\n7;-70\n8;-80\n";
    std::string crlf = "\xEF\xBB\xBF# rbw: 10 Hz\r\nfrequency_hz,level_dbm\r\n" +
                       QString::fromStdString(rows_point).replace("\n", "\r\n").toStdString();
    QCOMPARE(parse_trace("frequency_hz,level_dbm\n" + rows_point, "t").level_dbm[0], -10.5);
    QCOMPARE(parse_trace(rows_point, "t").frequency_hz[7], 8e6);
    const auto mega = parse_trace("# RBW: 1 kHz\nFrequency (MHz);Level (dBm)\n" + rows_comma, "t");
    QCOMPARE(mega.frequency_hz[0], 1.5e6);
    QCOMPARE(mega.level_dbm[0], -10.5);
    QCOMPARE(*mega.rbw_hz, 1000.0);
    QCOMPARE(*parse_trace(crlf, "t").rbw_hz, 10.0);
    QCOMPARE(parse_trace(crlf, "t").frequency_hz.size(), 8U);
    const std::pair<std::string, std::string> wrong[] = {
        {"", "no rows"},
        {"name,colour\na,b\n", "not a trace"},
        {"frequency_hz,level_dbm\n1,2\n", "1 points"},
        {"frequency_hz,level_dbm\n1,2\n1,2\n", "line 3"},
        {"frequency_hz,level_dbm\n1,2\n2,x\n", "line 3"},
        {"frequency_hz,level_dbm\n1,2\n2\n", "line 3"},
        {"# rbw: fast\n" + rows_point, "RBW"},
        {std::string("a\0b", 3), "not a text"}};
    for (const auto& [text, said] : wrong) {
      try {
        parse_trace(text, "t.csv");
        QFAIL(text.c_str());
      } catch (const InputError& error) {
        QVERIFY2(std::string(error.what()).find(said) != std::string::npos, error.what());
      }
    }
  }
};

HERON_TEST(TwoToneTypedTest)

}  // namespace two_tone_typed_test

#include "two_tone_typed_test.moc"
