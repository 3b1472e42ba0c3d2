#include "core/method/amplifier/gain_run.h"

#include <QtTest>
#include <fmt/format.h>

#include "core/method/amplifier/gain_take.h"
#include "core/method/live_quantity.h"
#include "core/method/method_table.h"
#include "tests/core/made_amplifier.h"
#include "tests/core/made_chain.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace gain_run_test {

/// What instruments are told to do for drive steps, and when no harder one is keyed.
class GainRunTest : public QObject {
  Q_OBJECT

  static Reading reading(const char* quantity, double value, const char* unit,
                         ReadingRole role = ReadingRole::at) {
    Reading r;
    r.quantity = quantity;
    r.value = value;
    r.unit = unit;
    r.role = role;
    r.source = ReadingSource::live;
    return r;
  }
  /// The known amplifier at these drives, as instruments have read it; harder ones are planned.
  static Evidence measured(const std::vector<double>& drives_w,
                           const std::vector<double>& planned_w = {}) {
    const MadeAmplifier truth;
    Evidence e;
    e.settings["amplifier"] = {{"nominal_v", 28.0}};
    e.drive = Drive{49.0, false, 1296.2e6, std::nullopt};
    for (const double w : drives_w) {
      const double in = to_dbm(Watt{w}).value;
      const double out = truth.output_dbm(in);
      EvidenceStep s;
      s.label = fmt::format("{:g} W", w);
      s.readings = {reading(kDriveReading, in, "dBm", ReadingRole::before),
                    reading(kOutputReading, out, "dBm"), reading(kSupplyVoltage, 27.6, "V"),
                    reading(kSupplyCurrent, truth.amperes(out), "A"),
                    reading(kSecondHarmonic, -70.0 + 8.0 * w, "dB")};
      e.steps.push_back(std::move(s));
    }
    for (const double w : planned_w) e.steps.push_back({fmt::format("{:g} W", w), {}, {}});
    return e;
  }
  static void set(Evidence& e, const nlohmann::json& changed) {
    e.settings["amplifier"].update(changed);
  }

 private slots:
  /// Nothing drives an input harder than its card allows, whatever else would let it go on; a
  /// planned step above that is told.
  void it_ends_at_what_the_input_takes() {
    Evidence e = measured({0.5, 1.0, 2.0}, {2.5, 3.0, 5.0});
    const Method& m = *find_method("gain");
    QVERIFY(m.stop_before(e, "3 W").empty());
    e.most_drive_dbm = to_dbm(Watt{2.5}).value;
    QVERIFY(m.stop_before(e, "2.5 W").empty());
    QVERIFY2(m.stop_before(e, "3 W").starts_with("its card allows 2.5"),
             m.stop_before(e, "3 W").c_str());
    // Before anything was measured, too.
    Evidence fresh = measured({}, {5.0});
    fresh.most_drive_dbm = e.most_drive_dbm;
    QVERIFY(!m.stop_before(fresh, "5 W").empty());
    e.steps.erase(e.steps.begin() + 3);  // the next one is the one over it
    QVERIFY(has_remark(m.evaluate(e).remarks, "stop"));
  }

  void it_ends_where_it_must_data() {
    QTest::addColumn<QString>("settings");
    QTest::addColumn<double>("next_w");
    QTest::addColumn<QString>("why");  // empty = it goes on
    const MadeAmplifier a;
    const auto down = [&](double w) { return a.down_db(to_dbm(Watt{w}).value); };
    QTest::newRow("nothing in the way") << "{}" << 2.8 << "";
    QTest::newRow("an easier step is always allowed")
        << R"({"stop_down": "1", "supply_limit_a": 3})" << 0.3 << "";
    QTest::newRow("compressed enough")
        << R"({"stop_down": "1"})" << 2.8
        << QString("2.4 W is %1 dB down, 1 dB are set").arg(down(2.4), 0, 'f', 1);
    QTest::newRow("not yet") << R"({"stop_down": "2"})" << 2.8 << "";
    QTest::newRow("sag") << R"({"nominal_v": 30, "stop_sag": "5"})" << 2.8
                         << "at 2.4 W the supply sags to 27.6 V of 30.0 V";
    QTest::newRow("a harmonic")
        << R"({"stop_harmonic_dbc": -60})" << 2.8
        << QString::fromUtf8("at 2.4 W a harmonic is at \u221250.8 dBc, \u221260.0 dBc are set");
    QTest::newRow("the supply limits already")
        << R"({"supply_limit_a": 4.3})" << 2.8 << "at 2.4 W the supply gives 4.27 A of its 4.3 A";
    QTest::newRow("the supply would limit")
        << R"({"supply_limit_a": 4.5})" << 4.0 << "it would draw about";
    QTest::newRow("more than planned") << "{}" << 12.0 << "would come out, 79.4 W are planned";
  }
  void it_ends_where_it_must() {
    QFETCH(QString, settings);
    QFETCH(double, next_w);
    QFETCH(QString, why);
    Evidence e = measured({0.1, 0.2, 0.5, 1.0, 2.4});
    set(e, nlohmann::json::parse(settings.toStdString()));
    const QString said = QString::fromStdString(stop_before_step(e, fmt::format("{:g} W", next_w)));
    QVERIFY2(why.isEmpty() ? said.isEmpty() : said.contains(why), qPrintable(said));
  }

  void before_anything_is_measured_the_specified_gain_tells() {
    Evidence e = measured({});
    QVERIFY(stop_before_step(e, "1 W").empty());  // nobody knows what comes out
    set(e, {{"specified_gain_db", 14.0}});
    QVERIFY(stop_before_step(e, "3 W").empty());
    QVERIFY(stop_before_step(e, "5 W").find("about 126 W would come out") == 0);
    QVERIFY(stop_before_step(e, "no drive").empty());
  }

  void a_part_that_is_not_rated_for_it_ends_it() {
    Evidence e = measured({0.1, 0.2, 0.5});
    e.hookup = pad_and_sampler(50.0);
    e.hookup->parts[0].max_input_w = 25.0;
    e.hookup->parts[1].max_input_dbm = 10.0;
    QVERIFY(stop_before_step(e, "0.8 W").empty());
    const std::string said = stop_before_step(e, "1.2 W");
    QVERIFY2(said.find("is not rated for") != std::string::npos, said.c_str());
  }

  /// What carries on from the last steps is near what comes: the current that it would draw is
  /// told within a tenth, so that no step is left out for nothing.
  void the_next_current_is_foreseen() {
    const MadeAmplifier a;
    for (double limit = 2.0; limit < 5.0; limit += 0.05) {
      Evidence e = measured({0.1, 0.2, 0.5, 1.0});
      set(e, {{"supply_limit_a", limit}, {"stop_down", "none"}});
      for (const double w : {1.3, 1.7, 2.0}) {
        const double truth = a.amperes(a.output_dbm(to_dbm(Watt{w}).value));
        const bool is_stopped = !stop_before_step(e, fmt::format("{:g} W", w)).empty();
        if (truth > 1.1 * limit) QVERIFY2(is_stopped, qPrintable(QString::number(limit)));
        if (truth < 0.9 * limit && a.amperes(a.output_dbm(30.0)) < 0.98 * limit)
          QVERIFY2(!is_stopped, qPrintable(QString::number(limit)));
      }
    }
  }

  void the_sheet_says_why_a_planned_step_is_left() {
    Evidence e = measured({0.1, 0.2, 0.5, 1.0, 2.0}, {4.0, 6.0});
    set(e, {{"supply_limit_a", 4.3}});
    const Result r = find_method("gain")->evaluate(e);
    const auto stop = std::find_if(r.remarks.begin(), r.remarks.end(),
                                   [](const Remark& m) { return m.code == "stop"; });
    QVERIFY(stop != r.remarks.end());
    QVERIFY2(stop->text.find("4 W is not measured: it would draw about") == 0, stop->text.c_str());
    set(e, {{"supply_limit_a", 40.0}, {"stop_down", "none"}});
    QVERIFY(!has_remark(find_method("gain")->evaluate(e).remarks, "stop"));
  }

  void how_the_drive_is_known_decides_how_it_is_run() {
    Evidence e = measured({}, {0.5, 1.0});
    QVERIFY(!run_gain(e).refusal.empty());
    set(e, {{"driver_gain_db", -0.5}});
    RunRecipe run = run_gain(e);
    QVERIFY(run.refusal.empty());
    QVERIFY(run.stimulus == RunRecipe::Stimulus::carrier);
    QCOMPARE(run.levels->drive_over_generator_db, std::optional(-0.5));
    set(e, {{"driven_by", "transmitter"}});
    QVERIFY(!run_gain(e).refusal.empty());
    set(e, {{"one_meter", true}, {"bypass_loss_db", 0.2}, {"reads_harmonics", true}});
    run = run_gain(e);
    QVERIFY(run.refusal.empty());
    QVERIFY(run.stimulus == RunRecipe::Stimulus::tone);
    QVERIFY(!run.levels->drive_over_generator_db);
    QCOMPARE(run.levels->bypass_loss_db, 0.2);
    QCOMPARE(run.levels->harmonics.size(), std::size_t{2});
  }

  /// An offset that is set in the meter is in what it shows live, too; not in what a sampler shows.
  void an_offset_set_in_the_meter_counts_once() {
    Evidence e = measured({0.1, 1.0});
    const double plain = find_method("gain")->evaluate(e).answers.front().figure.value;
    for (EvidenceStep& s : e.steps)
      for (Reading& r : s.readings)
        if (r.quantity == kOutputReading) r.value += 30.0;
    set(e, {{"meter_offset_db", 30.0}});
    for (EvidenceStep& s : e.steps)
      for (Reading& r : s.readings)
        if (r.quantity == kDriveReading) r.source = ReadingSource::derived;
    QVERIFY(std::abs(find_method("gain")->evaluate(e).answers.front().figure.value - plain) < 1e-9);
  }
};

HERON_LOOP_TEST(GainRunTest)

}  // namespace gain_run_test

#include "gain_run_test.moc"
