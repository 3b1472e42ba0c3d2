#include "core/method/amplifier/amplifier.h"

#include <QtTest>
#include <random>

#include "core/method/amplifier/amplifier_remarks.h"
#include "core/method/amplifier/gain_compare.h"
#include "core/method/method.h"
#include "core/quantity/levels.h"
#include "core/signal/normal_numbers.h"
#include "tests/core/made_amplifier.h"
#include "tests/core/made_chain.h"
#include "tests/core/said.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace amplifier_test {

namespace {

std::vector<DrivenStep> series(const MadeAmplifier& a, std::initializer_list<double> drives,
                               double u = 0.0, std::mt19937* random = nullptr) {
  std::vector<DrivenStep> steps;
  for (const double in : drives) steps.push_back(made_step(a, in, u, random));
  return steps;
}

const Remark* remark(const std::vector<Remark>& all, const std::string& code) {
  for (const Remark& r : all)
    if (r.code == code) return &r;
  return nullptr;
}

}  // namespace

class AmplifierTest : public QObject {
  Q_OBJECT
 private slots:
  /// The worked example of the header, and that of methods.
  void power_and_heat_come_out() {
    DrivenStep s;
    s.label = "2 W";
    s.input_before = made_level(to_dbm(Watt{2.0}).value, "drive level", 0.1, 0.02);
    s.output = made_level(to_dbm(Watt{61.0}).value, "output level", 0.1, 0.02);
    s.volts = made_plain(28.0, "V");
    s.amperes = made_plain(4.6, "A");
    const Amplification a = assess_amplifier({s}, {});
    const DrivenRow& r = a.rows.front();
    QVERIFY(std::abs(r.gain->value - 14.843) < 0.001);
    QVERIFY(std::abs(r.efficiency->value - 47.36) < 0.01);
    QVERIFY(std::abs(r.added_efficiency->value - 45.81) < 0.01);
    QVERIFY(std::abs(r.heat->value - 69.8) < 0.01);
    QVERIFY(has_remark(a.remarks, "one_step"));
    QVERIFY(!a.one_db_out);
    s.output->value = to_dbm(Watt{55.0}).value;
    QVERIFY(std::abs(assess_amplifier({s}, {}).rows.front().gain->value - 14.393) < 0.001);
  }

  /// The worked example of compression.h.
  void the_worked_example_of_the_curve_comes_out() {
    MadeAmplifier made;
    made.sharpness = 2.6;
    made.corner_dbm = 34.0;
    std::vector<DrivenLevel> levels;
    for (const double in : {16.6, 26.6, 31.6, 33.6, 35.0})
      levels.push_back({in, made.output_dbm(in), 0.01});
    const CompressionCurve curve(levels);
    QVERIFY(curve.is_fitted());
    QVERIFY(std::abs(curve.at(1.0)->input_dbm - 33.67) < 0.01);
    QVERIFY(std::abs(curve.at(1.0)->output_dbm - 47.07) < 0.01);
  }

  /// Three steps look as right as two thousand, and the 1 dB point is that of the model.
  void the_compression_point_is_that_of_the_model_data() {
    QTest::addColumn<double>("sharpness");
    QTest::addColumn<int>("count");
    for (const double p : {1.2, 2.0, 3.0, 6.0})
      for (const int n : {3, 7, 40, 2000}) QTest::addRow("p %g, %d steps", p, n) << p << n;
  }
  void the_compression_point_is_that_of_the_model() {
    QFETCH(double, sharpness);
    QFETCH(int, count);
    MadeAmplifier made;
    made.sharpness = sharpness;
    std::vector<DrivenStep> steps;
    if (count == 3) {
      steps = series(made, {15.0, made.drive_at(0.6), made.drive_at(1.5)});
    } else {
      for (int i = 0; i < count; ++i)
        steps.push_back(made_step(
            made, std::lerp(12.0, made.drive_at(2.0), static_cast<double>(i) / (count - 1))));
    }
    const Amplification a = assess_amplifier(steps, {});
    QVERIFY(a.one_db_out->bound == Bound::none);
    const double truth = made.output_dbm(made.drive_at(1.0));
    QVERIFY2(std::abs(a.one_db_out->value - truth) < 0.02,
             qPrintable(QString::number(a.one_db_out->value - truth)));
    QVERIFY(std::abs(a.gain->value - made.gain_db) < 0.02);
    QVERIFY(std::abs(a.one_db_in->value - made.drive_at(1.0)) < 0.05);
  }

  /// At 0.02 dB of reading noise, and what is stated is as large as the errors: 92 to 98 % inside.
  void noise_and_scales_are_covered() {
    MadeAmplifier made;
    std::mt19937 random(23);
    NormalNumbers<double> gauss(0.0, 1.0);
    const int draws = kFewDraws ? 60 : 3000;
    int p1_inside = 0;
    int gain_inside = 0;
    int rated_inside = 0;
    double p1_squares = 0.0;
    AmplifierPlan plan;
    plan.rated_input_dbm = 34.0;
    const double truth = made.output_dbm(made.drive_at(1.0));
    for (int i = 0; i < draws; ++i) {
      const double in_error = 0.1 * gauss(random);
      const double out_error = 0.1 * gauss(random);
      std::vector<DrivenStep> steps;
      for (const double in : {18.0, 22.0, 26.0, 29.0, 31.0, 32.5, 33.5, 34.5})
        steps.push_back(made_step(made, in, 0.02, &random, in_error, out_error));
      const Amplification a = assess_amplifier(steps, plan);
      const double off = a.one_db_out->value - truth;
      p1_squares += std::pow(off - out_error, 2.0);
      p1_inside += std::abs(off) <= a.one_db_out->expanded() ? 1 : 0;
      gain_inside += std::abs(a.gain->value - made.gain_db) <= a.gain->expanded() ? 1 : 0;
      rated_inside +=
          std::abs(a.at_rated->value - made.output_dbm(34.0)) <= a.at_rated->expanded() ? 1 : 0;
    }
    const double rms = std::sqrt(p1_squares / draws);
    // Drive and output scatter by 0.02 dB each.
    QVERIFY2(rms < 0.04, qPrintable(QString::number(rms)));
    const double slack = kFewDraws ? 0.06 : 0.0;
    for (const int inside : {p1_inside, gain_inside, rated_inside}) {
      const double share = static_cast<double>(inside) / draws;
      QVERIFY2(share > 0.92 - slack && share < 0.98 + slack, qPrintable(QString::number(share)));
    }
  }

  /// More than 92 of 100 are within 0.05 dB where outputs scatter by 0.02 dB.
  void reading_noise_moves_the_point_little() {
    MadeAmplifier made;
    std::mt19937 random(5);
    NormalNumbers<double> gauss(0.0, 0.02);
    const int draws = kFewDraws ? 60 : 2000;
    int near = 0;
    for (int i = 0; i < draws; ++i) {
      std::vector<DrivenStep> steps =
          series(made, {18.0, 22.0, 26.0, 29.0, 31.0, 32.5, 33.5, 34.5}, 0.0);
      for (DrivenStep& s : steps) s.output->value += gauss(random);
      for (DrivenStep& s : steps) s.output->contributions.back().u = 0.02;
      const Amplification a = assess_amplifier(steps, {});
      near += std::abs(a.one_db_out->value - made.output_dbm(made.drive_at(1.0))) <= 0.05 ? 1 : 0;
    }
    const double share = static_cast<double>(near) / draws;
    QVERIFY2(share > (kFewDraws ? 0.85 : 0.92), qPrintable(QString::number(share)));
  }

  void gain_that_expands_or_is_no_limiter_is_interpolated() {
    MadeAmplifier made;
    std::vector<DrivenStep> steps =
        series(made, {10.0, 16.0, 20.0, 24.0, 28.0, 31.0, 33.0, 34.0, 35.0}, 0.01);
    // Bias far too low: 1.5 dB more gain in the middle than at low drive.
    for (DrivenStep& s : steps)
      s.output->value += 1.5 * std::exp(-std::pow((s.input_before->value - 28.0) / 5.0, 2.0));
    const Amplification a = assess_amplifier(steps, {});
    QVERIFY(has_remark(a.remarks, "expansion"));
    QVERIFY(!a.curve.is_fitted());
    QVERIFY(std::abs(a.gain->value - 14.4) < 0.05);
    QVERIFY(a.one_db_out->bound == Bound::none);
    QVERIFY(a.one_db_out->value > 46.0 && a.one_db_out->value < 48.3);
  }

  void what_was_not_reached_is_a_bound() {
    const Amplification a = assess_amplifier(series({}, {10.0, 20.0, 25.0, 30.0}, 0.02), {});
    QCOMPARE(a.one_db_out->bound, Bound::lower);
    QVERIFY(std::abs(a.one_db_out->value - MadeAmplifier().output_dbm(30.0)) < 1e-9);
    QVERIFY(has_remark(a.remarks, "not_reached"));
    AmplifierPlan plan;
    plan.compression_limit = Limit{"", Sense::at_least, 47.0, "dBm", "", 20.0};
    const Amplification judged = assess_amplifier(series({}, {10.0, 20.0, 25.0, 30.0}, 0.02), plan);
    QVERIFY(judged.one_db_judgement->verdict == Verdict::too_close);
    plan.compression_limit->value = 43.0;
    QVERIFY(assess_amplifier(series({}, {10.0, 20.0, 25.0, 30.0}, 0.02), plan)
                .one_db_judgement->verdict == Verdict::pass);
  }

  /// One meter: what it is off by cancels from the gain, reading for reading.
  void common_parts_cancel_with_one_meter() {
    const Figure in = made_level(30.0, "power meter", 0.3, 0.02);
    const Figure out = made_level(44.0, "power meter", 0.3, 0.02);
    QVERIFY(std::abs(gain_figure(out, in).u() - 0.02 * std::sqrt(2.0)) < 1e-9);
    QVERIFY(std::abs(gain_figure(out, made_level(30.0, "drive level", 0.3, 0.02)).u() -
                     std::hypot(0.3, 0.3, 0.0283)) < 1e-3);
  }

  /// So does most of it from the output at the rated drive: with slope 1 all of it.
  void output_at_rated_drive_knows_what_is_common() {
    const MadeAmplifier made;
    AmplifierPlan plan;
    plan.rated_input_dbm = 22.0;
    const auto at_rated = [&](const char* in, const char* out) {
      std::vector<DrivenStep> steps = series(made, {15.0, 20.0, 25.0, 30.0}, 0.02);
      for (DrivenStep& s : steps) {
        s.input_before->contributions.front() = {in, 0.3, Scope::common};
        s.output->contributions.front() = {out, 0.3, Scope::common};
      }
      return *assess_amplifier(steps, plan).at_rated;
    };
    QVERIFY(at_rated("power meter", "power meter").u() < 0.05);
    QVERIFY(std::abs(at_rated("drive level", "output level").u() - 0.3 * std::sqrt(2.0)) < 0.02);
  }

  void creep_is_found_and_corrected() {
    std::vector<DrivenStep> steps = series({}, {10.0, 20.0, 25.0, 30.0}, 0.01);
    // Drive falls by half a decibel while the output is read in the middle.
    steps[2].input_before->value += 0.25;
    steps[2].input_after = steps[2].input_before;
    steps[2].input_after->value -= 0.5;
    const Amplification a = assess_amplifier(steps, {});
    QVERIFY(std::abs(a.rows[2].gain->value - a.rows[1].gain->value) < 0.02);
    QVERIFY(a.rows[2].gain->u() > a.rows[1].gain->u() + 0.02);
    QVERIFY(has_remark(a.remarks, "creep"));
    steps[2].input_after->value = steps[2].input_before->value - 0.1;
    QVERIFY(!has_remark(assess_amplifier(steps, {}).remarks, "creep"));
  }

  void the_supply_is_judged() {
    const MadeAmplifier made;
    std::vector<DrivenStep> steps = series(made, {20.0, 25.0, 30.0, 32.0}, 0.02);
    for (DrivenStep& s : steps) {
      s.amperes = made_plain(made.amperes(s.output->value), "A", 0.02);
      s.volts = made_plain(28.0 - 0.2 * s.amperes->value, "V", 0.05);
    }
    AmplifierPlan plan;
    plan.rated_input_dbm = to_dbm(Watt{3.0}).value;
    plan.rated_output_dbm = to_dbm(Watt{60.0}).value;
    plan.supply_limit_a = 4.0;
    plan.nominal_v = 28.0;
    const Amplification a = assess_amplifier(steps, plan);
    QVERIFY(std::abs(a.needed_a->value - made.amperes(to_dbm(Watt{60.0}).value)) < 0.01);
    QVERIFY(a.needed_a->u() > 0.05);  // it lies beyond the steps
    const Remark* limit = remark(a.remarks, "supply_limit");
    QVERIFY(limit != nullptr && limit->text.find("stops at 4.0 A") != std::string::npos);
    QVERIFY(limit->text.find("60 W") != std::string::npos && !limit->action.empty());
    const Remark* power = remark(a.remarks, "supply_power");
    QVERIFY(power != nullptr && power->text.find("cannot be met") != std::string::npos);
    QVERIFY(has_remark(a.remarks, "sag"));
    plan.supply_limit_a = 20.0;
    const Amplification enough = assess_amplifier(steps, plan);
    QVERIFY(!has_remark(enough.remarks, "supply_limit") &&
            !has_remark(enough.remarks, "supply_power"));
  }

  /// Figures at sagged supply count only as "at least".
  void sag_makes_a_lower_bound() {
    const MadeAmplifier made;
    std::vector<DrivenStep> steps = series(made, {15.0, 20.0, 30.0, 33.0, 34.0, 35.0}, 0.02);
    AmplifierPlan plan;
    plan.compression_limit = Limit{"", Sense::at_least, 48.0, "dBm", "", 20.0};
    plan.nominal_v = 28.0;
    for (DrivenStep& s : steps) s.volts = made_plain(28.0, "V", 0.05);
    QVERIFY(assess_amplifier(steps, plan).one_db_judgement->verdict == Verdict::fail);
    for (DrivenStep& s : steps) s.volts->value = 26.0;
    const Amplification a = assess_amplifier(steps, plan);
    QVERIFY(a.one_db_judgement->verdict == Verdict::too_close);
    QCOMPARE(a.one_db_judgement->bound, Bound::lower);
    QVERIFY(std::abs(*a.one_db_v - 26.0) < 1e-9);
  }

  void offsets_are_named_data() {
    QTest::addColumn<double>("off");
    QTest::addColumn<QString>("words");
    QTest::newRow("twice") << 30.4 << "30 dB of attenuation, counted twice";
    QTest::newRow("not at all") << -19.3 << "20 dB of attenuation, not counted at all";
    QTest::newRow("meter") << 33.0 << "33.0 dB set in the meter, counted twice";
    QTest::newRow("emf") << -6.0 << "EMF taken for PD";
    QTest::newRow("none") << 15.1 << "";
  }
  void offsets_are_named() {
    QFETCH(double, off);
    QFETCH(QString, words);
    AmplifierPlan plan;
    plan.specified_gain_db = 14.4;
    plan.meter_offset_db = off == 33.0 ? 33.0 : 0.0;
    std::vector<DrivenStep> steps = series({}, {35.0, 40.0}, 0.02);
    for (DrivenStep& s : steps) s.output->value = s.input_before->value + 14.4 + off;
    const std::string said = offset_words(off, plan);
    QVERIFY2(words.isEmpty() ? said.empty() : said.find(words.toStdString()) != std::string::npos,
             said.c_str());
    if (off < 0.0) return;  // then the output may be below the drive
    QVERIFY(has_remark(assess_amplifier(steps, plan).remarks, "offset"));
  }

  void odd_rows_are_named_and_left_out() {
    std::vector<DrivenStep> steps = series({}, {30.0, 10.0, 20.0, 25.0}, 0.02);
    steps[2].output->value = 5.0;
    steps[3].frequency_hz = 432e6;
    steps.push_back(made_step({}, 28.0));
    steps.back().input_before.reset();
    steps.back().label = "blind";
    const Amplification a = assess_amplifier(steps, {});
    QCOMPARE(a.rising.size(), 2U);
    QVERIFY(has_remark(a.remarks, "no_dc"));
    int rows = 0;
    for (const Remark& r : a.remarks) rows += r.code == "row" ? 1 : 0;
    QCOMPARE(rows, 3);
    QVERIFY(!a.rows[2].refusal.empty() && !a.rows[3].refusal.empty() && !a.rows[4].refusal.empty());
    std::vector<DrivenStep> shuffled = series({}, {30.0, 10.0, 20.0}, 0.02);
    QVERIFY(has_remark(assess_amplifier(shuffled, {}).remarks, "order"));
    QVERIFY(
        !has_remark(assess_amplifier(series({}, {30.0, 20.0, 10.0}, 0.02), {}).remarks, "order"));
    QVERIFY(assess_amplifier({}, {}).rows.empty());
  }

  void two_ways_are_explained_data() {
    QTest::addColumn<int>("second");
    QTest::addColumn<double>("off_low");
    QTest::addColumn<double>("off_high");
    QTest::addColumn<double>("second_dbc");
    QTest::addColumn<QString>("word");
    const int line = static_cast<int>(OutputReader::spectral_line);
    const int rms = static_cast<int>(OutputReader::rms_volts);
    QTest::newRow("agree") << rms << 0.02 << 0.03 << -60.0 << "agree";
    QTest::newRow("harmonics") << line << -0.41 << -0.41 << -10.0 << "harmonics";
    QTest::newRow("between bins") << line << -0.9 << -0.9 << -60.0 << "two bins";
    QTest::newRow("open line") << rms << 6.02 << 6.02 << -60.0 << "terminated";
    QTest::newRow("clipping") << rms << -0.05 << -1.5 << -60.0 << "the more the higher";
    QTest::newRow("unknown") << rms << 2.9 << 2.9 << -60.0 << "more than their";
  }
  void two_ways_are_explained() {
    QFETCH(int, second);
    QFETCH(double, off_low);
    QFETCH(double, off_high);
    QFETCH(double, second_dbc);
    QFETCH(QString, word);
    std::vector<DrivenStep> steps = series({}, {20.0, 25.0, 30.0}, 0.02);
    for (std::size_t i = 0; i < steps.size(); ++i) {
      steps[i].second_output = steps[i].output;
      steps[i].second_output->value += std::lerp(off_low, off_high, static_cast<double>(i) / 2.0);
      steps[i].second_dbc = second_dbc;
    }
    AmplifierPlan plan;
    plan.second_reader = static_cast<OutputReader>(second);
    std::string said;
    for (const Remark& r : assess_amplifier(steps, plan).remarks)
      if (r.code.starts_with("two_ways")) said += r.text + " " + r.action;
    QVERIFY2(said.find(word.toStdString()) != std::string::npos, said.c_str());
  }

  void current_follows_its_law() {
    // The example of the header.
    const std::vector<DrawnCurrent> drawn{{0.0, 0.8, 0.02}, {53.9, 4.42, 0.02}};
    const auto law = current_law(drawn);
    QVERIFY(std::abs(law->slope_a - 0.493) < 0.001);
    QVERIFY(std::abs(law->at(60.0).value - 4.62) < 0.01);
    QVERIFY(std::abs(law->output_at(4.42) - 53.9) < 0.1);
    QVERIFY(!current_law(std::vector<DrawnCurrent>{{10.0, 1.0, 0.1}}));
    QVERIFY(!current_law(std::vector<DrawnCurrent>{{10.0, 2.0, 0.1}, {20.0, 1.0, 0.1}}));
  }

  /// Before and after a change: what both share cancels, and no more is claimed than is known.
  void a_change_is_told_with_its_uncertainty() {
    MadeAmplifier before;
    MadeAmplifier after;
    after.gain_db += 0.5;
    const std::initializer_list<double> drives{15.0, 20.0, 25.0, 30.0, 33.0, 34.5};
    const Amplification then = assess_amplifier(series(before, drives, 0.02), {});
    const Amplification now = assess_amplifier(series(after, drives, 0.02), {});
    const auto same = compare_gain(now, then, true);
    QVERIFY(std::abs(same.front().change.value - 0.5) < 0.01);
    QVERIFY(same.front().change.u() < 0.05);
    QVERIFY(QString::fromStdString(change_words(same.front())).startsWith("better by 0.5"));
    const auto apart = compare_gain(now, then, false);
    QVERIFY(apart.front().change.u() > 0.19);
    QVERIFY(QString::fromStdString(change_words(compare_gain(then, now, true).front()))
                .startsWith("worse by 0.5"));
    QCOMPARE(change_words(compare_gain(then, then, false).front()), std::string("no difference"));
    QCOMPARE(same.size(), 2U + drives.size());
    // Of a point that was not reached before, no more is known than that it was at least so high.
    const Amplification low = assess_amplifier(series(before, {15.0, 20.0, 25.0, 30.0}, 0.02), {});
    bool is_told = false;
    for (const GainChange& c : compare_gain(now, low, true))
      is_told = is_told || (c.what == "1 dB point" && change_words(c) == "no difference");
    QVERIFY(is_told);
  }
};

HERON_TEST(AmplifierTest)

}  // namespace amplifier_test

#include "amplifier_test.moc"
