#include "core/method/frequency/drift.h"

#include <QElapsedTimer>
#include <QtTest>

#include "core/error.h"
#include "core/method/frequency/drift_compare.h"
#include "core/method/frequency/drift_result.h"
#include "core/method/frequency/stability_result.h"
#include "core/method/frequency/tone_log.h"
#include "core/method/method.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "tests/core/made_log.h"
#include "tests/core/said.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace drift_test {

/// Drift records as the sheet judges them: from logs, single readings and recordings.
class DriftTest : public QObject {
  Q_OBJECT

  static Evidence record(std::vector<SeriesPtr> logs, nlohmann::json more = {}) {
    Evidence e;
    e.settings["drift"] = {{"nominal_hz", 10e6}, {"source_ppm", 0.01}, {"settle_ppm", 0.1}};
    if (more.is_object()) e.settings["drift"].update(more);
    e.limit = Limit{"maker", Sense::within, 0.5, "ppm", "", 0.5};
    e.steps = {logged(std::move(logs))};
    return e;
  }

  static QString words_of(const std::vector<Remark>& remarks, const char* code) {
    for (const Remark& r : remarks)
      if (r.code == code) return QString::fromStdString(r.text);
    return {};
  }

  static EvidenceStep typed(double after_s, double hz, std::optional<double> celsius = {},
                            const char* at = "") {
    EvidenceStep s;
    s.label = "reading";
    if (after_s >= 0.0) s.conditions.push_back({kElapsedCondition, after_s, "s"});
    Reading r;
    r.quantity = kCountedFrequency;
    r.unit = "Hz";
    r.value = hz;
    r.at = at;
    s.readings.push_back(r);
    if (celsius) {
      r.quantity = kTemperature;
      r.unit = "\u00b0C";
      r.value = *celsius;
      s.readings.push_back(r);
    }
    return s;
  }

 private slots:
  void it_settles_where_and_when_it_does() {
    // 1.5 ppm exp(-t/500) is 0.1 ppm after 500 ln 15 = 1354 s; round where it ends, a little later.
    int in_error = 0;
    int in_time = 0;
    const int draws = heron::testing::draws(60);
    for (int i = 0; i < draws; ++i) {
      MadeWarmUp made;
      made.seed = static_cast<unsigned>(i + 1);
      const Drift d = assess_drift(record({made.log()}, {{"source_ppm", 0.0}}));
      QVERIFY(d.error && d.settle && d.judgement);
      QCOMPARE(d.judgement->verdict, Verdict::pass);
      in_error += std::abs(d.error->value - 0.2) <= d.error->expanded() ? 1 : 0;
      in_time +=
          std::abs(d.settle->value - 500.0 * std::log(15.0) / 60.0) <= d.settle->expanded() ? 1 : 0;
      QVERIFY2(std::abs(d.settle->value - 22.57) < 2.5,
               qPrintable(QString::number(d.settle->value)));
    }
    QVERIFY2(is_share(in_error, draws, 0.85),
             qPrintable(QString("%1 of %2").arg(in_error).arg(draws)));
    QVERIFY2(is_share(in_time, draws, 0.85),
             qPrintable(QString("%1 of %2").arg(in_time).arg(draws)));
  }

  void each_band_has_its_hertz_and_its_verdict() {
    Evidence e = record({MadeWarmUp().log()},
                        {{"bands_hz", {7.1e6, 432.1e6, 1296.1e6}}, {"need_hz", 100.0}});
    const Drift d = assess_drift(e);
    QCOMPARE(d.bands.size(), 3U);
    for (const DriftBand& b : d.bands) {
      QVERIFY(std::abs(b.settled->value - d.error->value * b.frequency_hz / 1e6) < 1e-6);
      QVERIFY(std::abs(b.start_hz - 1.7 * b.frequency_hz / 1e6) < 0.06 * b.frequency_hz / 1e6);
      QVERIFY(b.wander_hz > 0.0 && b.wander_hz < 0.12 * b.frequency_hz / 1e6);
    }
    QCOMPARE(d.bands[0].judgement->verdict, Verdict::pass);
    QCOMPARE(d.bands[2].judgement->verdict, Verdict::fail);  // 259 Hz
    const Result r = evaluate_drift(e);
    QVERIFY(has_remark(r.remarks, "trim"));
    QCOMPARE(r.tables.front().rows.size(), 3U);
    QCOMPARE(r.items.size(), 3U);
    QVERIFY(r.answers.front().label.find("oscillator high") != std::string::npos);
    // What the plot shows is in it: single readings, their median, the fit, the moment.
    const PlotPanel& main = r.plots.front().panels.front();
    QCOMPARE(main.find(PlotLayer::Kind::dots)->dots->x.size(), 270U);
    QVERIFY(main.find(PlotLayer::Kind::moment) != nullptr);
    QVERIFY(std::abs(main.y_right->range->second - main.y.range->second * 1296.1) < 1e-6);
  }

  void without_a_known_source_or_nominal_nothing_is_judged() {
    Drift d = assess_drift(record({MadeWarmUp().log()}, {{"source_ppm", nullptr}}));
    QVERIFY(d.error && !d.judgement && has_remark(d.remarks, "source_unknown"));
    d = assess_drift(record({MadeWarmUp().log()}, {{"nominal_hz", nullptr}}));
    QVERIFY(!d.error && has_remark(d.remarks, "nominal"));
    QVERIFY(
        evaluate_drift(record({MadeWarmUp().log()}, {{"nominal_hz", nullptr}})).answers.empty());
  }

  void a_short_record_has_not_settled() {
    MadeWarmUp made;
    const Drift d = assess_drift(record({made.log(20.0, 30)}));  // 10 min
    QVERIFY(!d.settle);
    QVERIFY(has_remark(d.remarks, "not_settled"));
    const Result r = evaluate_drift(record({made.log(20.0, 30)}));
    QCOMPARE(r.answers.front().head, std::string("Error at the end of the record"));
    QCOMPARE(r.figure_cards.front().value, std::string("not settled"));
  }

  void a_late_settling_fails_its_limit() {
    const Drift d = assess_drift(record({MadeWarmUp().log()}, {{"settle_limit_s", 900.0}}));
    QCOMPARE(d.settle_judgement->verdict, Verdict::fail);
    QCOMPARE(assess_drift(record({MadeWarmUp().log()}, {{"settle_limit_s", 3000.0}}))
                 .settle_judgement->verdict,
             Verdict::pass);
  }

  void temperature_is_judged_only_where_it_was_exercised() {
    std::mt19937_64 random(3);
    NormalNumbers<double> normal;
    const auto run = [&](double swing_k, double period_s, double ppm_per_k, double warm_up_ppm) {
      const auto celsius = [=](double t) {
        return 25.0 + 0.5 * swing_k * std::sin(2.0 * M_PI * t / period_s);
      };
      const auto counted = made_log(kCountedFrequency, "Hz", 20.0, 400, [&](double t) {
        return 10e6 * (1.0 + 1e-6 * (0.1 + warm_up_ppm * std::exp(-t / 500.0) +
                                     ppm_per_k * (celsius(t) - 25.0) + 0.01 * normal(random)));
      });
      return assess_drift(record({counted, made_log(kTemperature, "\u00b0C", 30.0, 270, celsius)},
                                 {{"per_kelvin_ppm", 0.05}}));
    };
    Drift d = run(3.0, 2000.0, 0.1, 0.0);
    QVERIFY(!d.per_kelvin && !d.kelvin_judgement && has_remark(d.remarks, "not_exercised"));
    d = run(8.0, 2000.0, 0.1, 0.0);
    QVERIFY(d.per_kelvin && std::abs(d.per_kelvin->value - 0.1) <= 2.0 * d.per_kelvin->expanded());
    QCOMPARE(d.kelvin_judgement->verdict, Verdict::fail);
    QVERIFY(has_remark(d.remarks, "tempco"));
    // What is not seen is bounded.
    d = run(8.0, 2000.0, 0.0, 0.0);
    QVERIFY(d.per_kelvin && d.per_kelvin->bound == Bound::upper && d.per_kelvin->value < 0.01);
    QCOMPARE(d.kelvin_judgement->verdict, Verdict::pass);
    QVERIFY(has_remark(d.remarks, "no_tempco"));
  }

  void what_rises_with_the_warm_up_cannot_be_told_apart() {
    const auto celsius = [](double t) { return 32.0 - 11.0 * std::exp(-t / 520.0); };
    const Drift d = assess_drift(
        record({MadeWarmUp().log(), made_log(kTemperature, "\u00b0C", 60.0, 90, celsius)}));
    QVERIFY(has_remark(d.remarks, "together"));
    QVERIFY(!has_remark(d.remarks, "tempco") && !has_remark(d.remarks, "no_tempco"));
  }

  void an_event_beside_a_change_of_temperature_is_doubted() {
    Evidence e =
        record({MadeWarmUp().log(), made_log(kTemperature, "\u00b0C", 60.0, 90,
                                             [](double t) { return t < 3000.0 ? 25.0 : 28.0; })});
    e.events = {{1, "2026-03-02T06:49:00Z", "lid off"}, {2, "2026-03-02T06:20:00Z", "turned over"}};
    const Drift d = assess_drift(e);
    const auto doubts = std::count_if(d.remarks.begin(), d.remarks.end(),
                                      [](const Remark& r) { return r.code == "two_changes"; });
    QCOMPARE(doubts, 1);
    QVERIFY(words_of(d.remarks, "two_changes").contains("lid off"));
    QCOMPARE(d.record.events.size(), 2U);
    QVERIFY(std::abs(d.record.events.front().seconds - 2940.0) < 1e-9);
  }

  void readings_by_hand_need_no_even_steps() {
    Evidence e = record({});
    e.steps.clear();
    for (const double minutes : {0.0, 3.0, 5.0, 11.0, 14.0, 26.0, 41.0, 60.0, 75.0, 90.0})
      e.steps.push_back(
          typed(60.0 * minutes, 10e6 * (1.0 + 1e-6 * (0.2 + 1.5 * std::exp(-minutes / 8.0)))));
    const Drift d = assess_drift(e);
    QVERIFY(d.error);
    QVERIFY2(std::abs(d.error->value - 0.2) < 0.01, qPrintable(QString::number(d.error->value)));
    QVERIFY(d.fit.warm_up && std::abs(d.fit.warm_up->tau_s - 480.0) < 20.0);
    QCOMPARE(d.record.typed, 10U);
    QVERIFY(!has_remark(d.remarks, "gap"));
    // As many points as were read, each with its mark.
    const Result shown = evaluate_drift(e);
    const PlotLayer& line = *shown.plots.front().panels.front().find(PlotLayer::Kind::trace);
    QCOMPARE(line.points.size(), 10U);
    QVERIFY(line.has_marks);
    // Three of them: range and rate.
    e.steps.resize(3);
    const Drift few = assess_drift(e);
    QVERIFY(!few.error && has_remark(few.remarks, "few_readings"));
    QVERIFY(few.fit.rate_per_h && few.fit.rate_per_h->value < 0.0);
  }

  void few_readings_with_one_far_off_are_told_all_the_same() {
    // What is left without it is fewer than a curve wants.
    for (int count = 5; count < 9; ++count) {
      for (int far = 0; far < count; ++far) {
        Evidence e = record({});
        e.steps.clear();
        for (int i = 0; i < count; ++i)
          e.steps.push_back(typed(60.0 * i,
                                  10e6 + 2.0 + 0.01 * (i * 7 % 5) + (i == far ? 50.0 : 0.0),
                                  22.0 + (i == far ? 40.0 : 0.3 * i)));
        const Drift d = assess_drift(e);
        QVERIFY(d.error && std::isfinite(d.error->value) && std::isfinite(d.error->u()));
        QVERIFY(!evaluate_drift(e).answers.empty());
      }
    }
  }

  void a_reading_without_a_time_counts_when_it_was_typed() {
    Evidence e = record({});
    e.steps = {typed(-1.0, 10e6 + 3.0, 21.0, "2026-03-02T06:00:00Z"),
               typed(-1.0, 10e6 + 2.0, 23.0, "2026-03-02T06:30:00Z"),
               typed(-1.0, 10e6 + 1.0, {}, "")};
    const Drift d = assess_drift(e);
    QCOMPARE(d.record.samples.size(), 2U);
    QCOMPARE(d.record.samples[1].seconds, 1800.0);
    QVERIFY(d.record.samples[1].temperature_c == 23.0);
    QVERIFY(has_remark(d.remarks, "no_time"));
  }

  void logs_join_and_their_pauses_are_told() {
    MadeWarmUp made;
    const SeriesPtr first = made.log(20.0, 100);
    auto second = std::make_shared<Series>(*made.log(20.0, 100));
    second->started_at = "2026-03-02T06:50:00Z";
    for (Series::Sample& s : second->samples) s.value = 10e6 + 2.0;
    const Drift d = assess_drift(record({first, second}));
    QCOMPARE(d.record.samples.size(), 200U);
    QCOMPARE(d.record.samples[100].seconds, 3000.0);
    QVERIFY(words_of(d.remarks, "gap").contains("17:00 min"));
  }

  void tones_of_a_carrier_have_the_sign_of_their_sideband() {
    const double rate = 8000.0;
    for (const bool is_upper : {true, false}) {
      // The dial is 1 kHz beside the carrier; the device is 0.5 ppm high at 10 MHz: 5 Hz.
      const double tone = is_upper ? 995.0 : 1005.0;
      std::vector<float> audio;
      std::mt19937_64 random(5);
      NormalNumbers<double> normal;
      for (int i = 0; i < 8 * 8000; ++i)
        audio.push_back(static_cast<float>(0.2 * std::cos(2.0 * M_PI * tone * i / rate) +
                                           0.01 * normal(random)));
      const nlohmann::json kept = analyse_tone_log(memory_capture(audio, rate), 1000.0, {}, {});
      Evidence e = record({}, {{"way", is_upper ? "usb" : "lsb"}, {"tone_hz", 1000.0}});
      e.steps.front().analysis = read_tone_log(nlohmann::json::parse(kept.dump()));
      const Drift d = assess_drift(e);
      QCOMPARE(d.record.samples.size(), 8U);
      for (const DriftSample& s : d.record.samples) QVERIFY(std::abs(s.error_hz - 5.0) < 0.05);
      QVERIFY(d.error && std::abs(d.error->value - 0.5) < 0.01);
    }
  }

  void before_and_after_are_compared_with_their_uncertainty() {
    MadeWarmUp quick;
    quick.tau_s = 150.0;
    quick.seed = 9;
    const Drift before = assess_drift(record({MadeWarmUp().log()}));
    const Drift after = assess_drift(record({quick.log()}));
    const auto changes = compare_drift(after, before, true);
    QVERIFY(changes.size() >= 3);
    QCOMPARE(changes.front().what, std::string("Time to settle"));
    QVERIFY(!is_no_difference(changes.front().change));
    QVERIFY(is_no_difference(changes[1].change));  // both settle at 0.2 ppm
    QVERIFY(changed_remark(changes)->text.find("Time to settle: less by") == 0);
    QCOMPARE(changed_remark(compare_drift(before, before, true))->code, std::string("no_change"));
    Evidence e = record({quick.log()});
    e.compared = std::make_shared<const Evidence>(record({MadeWarmUp().log()}));
    e.compared_name = "Reedling 30, before";
    const Result r = evaluate_drift(e);
    QCOMPARE(r.tables.size(), 2U);
    QVERIFY(has_remark(r.remarks, "changed"));
  }

  void a_file_of_a_counter_becomes_logs() {
    const CsvTable table = parse_csv(
        "time,frequency_hz,temperature_c\n2026-03-02T06:00:00Z,10000002.5,21\n"
        "2026-03-02T06:00:10Z,9.91E37,21\n2026-03-02T06:00:20Z,10000002.1,21.5\n",
        "log.csv");
    for (const std::optional<double> nominal : {std::optional(10e6), std::optional<double>()}) {
      const auto logs = series_of_log(table, nominal);
      QCOMPARE(logs.size(), 2U);
      QCOMPARE(logs[0].samples.size(), 2U);
      QVERIFY(std::abs(logs[0].samples[1].value - 10000002.1) < 1e-6);
      QCOMPARE(logs[0].started_at, std::string("2026-03-02T06:00:00Z"));
      QVERIFY(has_remark(logs[0].remarks, "no_reading"));
      QVERIFY(logs[1].remarks.empty() && logs[1].samples[1].value == 21.5);
    }
    QVERIFY_THROWS_EXCEPTION(InputError, series_of_log(parse_csv("a,b\n1,2\n", "x.csv"), 10e6));
  }

  void scatter_is_told_over_each_averaging_time() {
    std::mt19937_64 random(11);
    NormalNumbers<double> normal;
    Evidence e;
    e.settings["stability"] = {{"nominal_hz", 10e6}, {"limit_to_s", 64.0}};
    e.limit = Limit{"need", Sense::at_most, 0.005, "ppm", "", 0.005};
    e.steps = {logged({made_log(kCountedFrequency, "Hz", 1.0, 4096, [&](double) {
      return std::round(1e3 * (10e6 * (1.0 + 2e-9 * normal(random)))) / 1e3;
    })})};
    const Result r = evaluate_stability(e);
    const Answer& a = r.answers.front();
    QCOMPARE(a.where, std::string("1 s"));
    QCOMPARE(a.figure.unit, std::string("ppb"));
    QVERIFY2(std::abs(a.figure.value - 2.0) < 0.15, qPrintable(QString::number(a.figure.value)));
    QCOMPARE(a.judgement->verdict, Verdict::pass);
    // White frequency noise: half a decade a decade.
    const PlotPanel& slopes = r.plots.front().panels.at(1);
    QVERIFY(std::abs(slopes.layers.front().points.front().y + 0.5) < 0.1);
    QVERIFY(r.tables.front().rows.size() <= 7U && r.tables.front().rows.size() >= 5U);
    QCOMPARE(r.tables.front().rows.front().cells[4].text, std::string("white frequency"));
    // A coarse counter hides it, and says so.
    e.settings["stability"]["resolution_hz"] = 0.2;
    const Result hidden = evaluate_stability(e);
    QVERIFY(has_remark(hidden.remarks, "counter_line"));
    QVERIFY(hidden.answers.front().figure.bound == Bound::upper);
    // Each estimator has its own unit and slopes.
    for (const char* other : {"allan", "modified", "hadamard", "time"}) {
      e.settings["stability"]["resolution_hz"] = nullptr;
      e.settings["stability"]["estimator"] = other;
      const Result also = evaluate_stability(e);
      QCOMPARE(also.answers.front().figure.unit,
               std::string(QString(other) == "time" ? "ns" : "ppb"));
      QCOMPARE(also.answers.front().judgement.has_value(), QString(other) != "time");
    }
  }

  static Evidence steady(const std::function<double(int)>& seconds, int count) {
    std::mt19937_64 random(31);
    NormalNumbers<double> normal;
    auto log = std::make_shared<Series>();
    log->quantity = kCountedFrequency;
    log->unit = "Hz";
    log->started_at = "2026-03-02T06:00:00Z";
    for (int i = 0; i < count; ++i)
      log->samples.push_back({seconds(i), 10e6 * (1.0 + 2e-9 * normal(random))});
    Evidence e;
    e.settings["stability"] = {{"nominal_hz", 10e6}};
    e.steps = {logged({log})};
    return e;
  }

  void a_pause_of_days_is_as_good_as_one_of_minutes() {
    const auto with_pause = [](double pause_s) {
      return steady([=](int i) { return i + (i >= 1000 ? pause_s : 0.0); }, 2000);
    };
    const double short_one = evaluate_stability(with_pause(600.0)).answers.front().figure.value;
    QElapsedTimer timer;
    timer.start();
    const Result r = evaluate_stability(with_pause(400.0 * 86400.0));
    QVERIFY2(timer.elapsed() < 5000, qPrintable(QString::number(timer.elapsed())));
    QVERIFY(std::abs(r.answers.front().figure.value / short_one - 1.0) < 1e-6);
    QVERIFY(std::abs(short_one - 2.0) < 0.2);
    QVERIFY(has_remark(r.remarks, "gap"));
  }

  void late_readings_keep_their_place() {
    // Each a little late, or early: nothing is lost, nothing is told.
    const Result r =
        evaluate_stability(steady([](int i) { return i + 0.08 * ((i % 3) - 1); }, 1000));
    QVERIFY(!has_remark(r.remarks, "uneven"));
    QVERIFY(std::abs(r.answers.front().figure.value - 2.0) < 0.3);
    QVERIFY(has_remark(
        evaluate_stability(steady([](int i) { return i + 0.4 * (i % 2); }, 1000)).remarks,
        "uneven"));
  }

  void a_short_record_says_so() {
    const Result r = evaluate_stability(steady([](int i) { return 1.0 * i; }, 2));
    QVERIFY(r.answers.empty());
    Evidence e = steady([](int i) { return 1.0 * i; }, 40);
    e.limit = Limit{"need", Sense::at_most, 0.005, "ppm", "", 0.005};
    e.settings["stability"]["limit_to_s"] = 1000.0;
    QVERIFY(has_remark(evaluate_stability(e).remarks, "limit_beyond"));
    QVERIFY(has_remark(evaluate_stability(e).remarks, "few"));
  }

  void stability_uses_the_log_of_the_drift_record() {
    auto drift = std::make_shared<Evidence>(record({MadeWarmUp().log()}));
    Evidence e;
    e.companion = drift;
    const Result r = evaluate_stability(e);
    QVERIFY(!r.answers.empty());
    QCOMPARE(r.tables.front().rows.front().cells.front().text, std::string("20 s"));
    // By hand there are no even steps.
    Evidence by_hand = record({});
    by_hand.steps = {typed(0.0, 10e6), typed(60.0, 10e6), typed(150.0, 10e6 + 1.0)};
    e.companion = std::make_shared<Evidence>(by_hand);
    QVERIFY(has_remark(evaluate_stability(e).remarks, "uneven"));
    QVERIFY(evaluate_stability(e).answers.empty());
  }
};

HERON_TEST(DriftTest)

}  // namespace drift_test

#include "drift_test.moc"
