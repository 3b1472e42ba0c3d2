#include "core/method/touch/touch.h"

#include <QtTest>
#include <numbers>
#include <random>

#include "core/error.h"
#include "core/method/method.h"
#include "core/method/touch/touch_capture.h"
#include "core/method/touch/touch_method.h"
#include "core/method/touch/touch_result.h"
#include "core/method/touch/touch_trace.h"
#include "core/quantity/levels.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace touch_tests {

namespace {

/// A carrier with lines that are there from one time to another, in white noise.
struct Touched {
  struct Line {
    double hz;
    double dbc;
    double from_s;
    double to_s;
  };
  double rate_hz = 8000.0;
  double length_s = 20.0;
  double tone_hz = 613.0;
  double drift_hz = 0.0;        ///< over all of it
  double noise_dbc_hz = -95.0;  ///< of each sideband, phase and amplitude alike
  std::vector<Line> lines = {};
  std::optional<std::pair<double, double>> lost_s = std::nullopt;
  std::uint64_t seed = 1;

  CaptureOpener open() const {
    const auto frames = static_cast<std::size_t>(length_s * rate_hz);
    std::vector<std::complex<float>> x(frames);
    std::mt19937_64 random(seed);
    // Power of the noise in all of the band, half in each part.
    NormalNumbers<double> normal(
        0.0, 0.5 * std::sqrt(power_ratio_from_db(noise_dbc_hz) * rate_hz / 2.0));
    for (std::size_t i = 0; i < frames; ++i) {
      const double t = static_cast<double>(i) / rate_hz;
      double turn = 2.0 * std::numbers::pi * (tone_hz * t + drift_hz * t * t / (2.0 * length_s));
      for (const Line& l : lines)
        if (t >= l.from_s && t < l.to_s)
          turn += 2.0 * std::pow(10.0, l.dbc / 20.0) * std::sin(2.0 * std::numbers::pi * l.hz * t);
      const bool is_lost = lost_s && t >= lost_s->first && t < lost_s->second;
      x[i] = std::complex<float>(std::polar(is_lost ? 0.0 : 0.5, turn) +
                                 std::complex<double>(normal(random), normal(random)));
    }
    CaptureInfo info;
    info.name = "case open";
    info.center_hz = 1e9;
    return memory_capture(std::move(x), rate_hz, info);
  }
};

const TouchLine* line_at(const TouchReading& r, double hz) {
  for (const TouchLine& l : r.lines)
    if (std::abs(l.offset_hz - hz) < 3.0) return &l;
  return nullptr;
}

TouchPlan plan_of(const std::string& events) {
  TouchPlan plan;
  plan.events = parse_touch_events(events);
  return plan;
}

Evidence evidence_of(const TouchRecord& record, const std::string& events) {
  Evidence e;
  e.settings["touch"] = touch_method().usual_settings();
  e.settings["touch"]["events"] = to_json(parse_touch_events(events));
  EvidenceStep step;
  step.label = "case open";
  step.analysis = std::make_shared<TouchRecord>(record);
  e.steps.push_back(step);
  return e;
}

}  // namespace

/// What changes when a device is touched, from carriers whose lines are known.
class TouchChecks : public QObject {
  Q_OBJECT

 private slots:
  void levels_and_places_are_those_of_small_phase_modulation_data() {
    QTest::addColumn<double>("rate");
    QTest::addColumn<double>("offset");
    QTest::addColumn<double>("drift");
    QTest::newRow("on a bin") << 8000.0 << 312.0 << 0.0;
    QTest::newRow("between bins") << 8000.0 << 845.9 << 0.0;
    QTest::newRow("an odd rate") << 11025.0 << 317.3 << 0.0;
    QTest::newRow("while it drifts") << 8000.0 << 431.0 << 30.0;
    QTest::newRow("near the carrier") << 8000.0 << 50.0 << 0.0;
    QTest::newRow("fast") << 192000.0 << 1100.0 << 0.0;
  }
  void levels_and_places_are_those_of_small_phase_modulation() {
    QFETCH(double, rate);
    QFETCH(double, offset);
    QFETCH(double, drift);
    Touched made;
    made.rate_hz = rate;
    made.drift_hz = drift;
    made.length_s = 10.0;
    made.lines = {{offset, -47.0, 4.0, 10.0}};
    const TouchTest t = touch_test(touch_of_capture(made.open()),
                                   plan_of("0-3.5 hands off\n4.5-9.5 hand on it"), {});
    QCOMPARE(t.readings.size(), 2U);
    QCOMPARE(*t.reference, 0U);
    const TouchReading& r = t.readings[1];
    QCOMPARE(r.lines.size(), 1U);
    QVERIFY2(std::abs(r.line()->offset_hz - offset) < 0.4,
             qPrintable(QString::number(r.line()->offset_hz)));
    QVERIFY2(std::abs(r.line()->level.value + 47.0) < 0.1,
             qPrintable(QString::number(r.line()->level.value)));
    // With hands off nothing was there: at least so much.
    QCOMPARE(r.line()->against->bound, Bound::lower);
    QVERIFY(r.line()->against->value > 25.0);
    QVERIFY(r.line()->is_changed());
  }

  /// Two-sided: as often outside as one standard uncertainty says, not less.
  void the_scatter_of_a_line_is_what_is_stated() {
    std::vector<double> over_u;
    for (std::uint64_t seed = 1; seed <= 120; ++seed) {
      Touched made;
      made.seed = seed;
      made.length_s = 4.0;
      made.noise_dbc_hz = -78.0;
      made.lines = {{433.0, -60.0, 0.0, 4.0}};
      const TouchTest t = touch_test(touch_of_capture(made.open()), {}, {});
      const TouchLine* line = line_at(t.readings.front(), 433.0);
      QVERIFY(line != nullptr);
      over_u.push_back((line->level.value + 60.0) / line->level.contributions.back().u);
    }
    double mean = 0.0;
    double squares = 0.0;
    for (const double v : over_u) {
      mean += v / static_cast<double>(over_u.size());
      squares += v * v / static_cast<double>(over_u.size());
    }
    QVERIFY2(std::abs(mean) < 0.45, qPrintable(QString::number(mean)));
    QVERIFY2(squares > 0.6 && squares < 1.5, qPrintable(QString::number(squares)));
  }

  void noise_alone_shows_no_lines() {
    int lines = 0;
    for (std::uint64_t seed = 1; seed <= 40; ++seed) {
      Touched made;
      made.seed = seed;
      made.length_s = 12.0;
      const TouchTest t =
          touch_test(touch_of_capture(made.open()), plan_of("3-6 tap the lid\n7-11 touch it"), {});
      QCOMPARE(t.readings.size(), 3U);
      for (const TouchReading& r : t.readings) lines += static_cast<int>(r.lines.size());
    }
    // One in a hundred events is stated.
    QVERIFY2(lines <= 8, qPrintable(QString::number(lines)));
  }

  void what_stays_is_no_difference_and_what_goes_is_a_bound() {
    Touched made;
    made.lines = {{100.0, -54.0, 0.0, 12.0}, {300.0, -60.0, 6.0, 9.0}};
    const TouchTest t = touch_test(touch_of_capture(made.open()),
                                   plan_of("6-9 supply at 10 V\n13-19 on the battery"), -50.0);
    const TouchReading& low = t.readings[1];
    QVERIFY(!line_at(low, 100.0)->is_changed());
    QVERIFY(std::abs(line_at(low, 100.0)->against->value) < 0.1);
    QVERIFY(line_at(low, 300.0)->is_changed());
    // What has changed is told before what is higher and has not.
    QVERIFY(std::abs(low.line()->offset_hz - 300.0) < 1.0);
    const TouchLine* gone = line_at(t.readings[2], 100.0);
    QVERIFY(gone != nullptr && gone->level.bound == Bound::upper);
    QCOMPARE(gone->against->bound, Bound::upper);
    QVERIFY(gone->against->value < -20.0 && gone->is_changed());
    // But what is over its limit is told first.
    const TouchTest strict =
        touch_test(touch_of_capture(made.open()), plan_of("6-9 supply at 10 V"), -57.0);
    QVERIFY(std::abs(strict.readings[1].line()->offset_hz - 100.0) < 1.0);
  }

  void taps_are_judged_by_their_highest_frame_and_counted() {
    Touched made;
    for (const auto& [at, dbc] : {std::pair(5.0, -44.0), {6.5, -40.0}, {8.0, -42.0}})
      made.lines.push_back({812.0, dbc, at, at + 0.6});
    const TouchRecord record = touch_of_capture(made.open());
    const TouchTest taps = touch_test(record, plan_of("4.5-10 tap the lid"), {});
    const TouchReading& r = taps.readings[1];
    QVERIFY2(std::abs(r.line()->level.value + 40.0) < 0.3,
             qPrintable(QString::number(r.line()->level.value)));
    QCOMPARE(r.taps_db.size(), 3U);
    QVERIFY(std::abs(*std::max_element(r.taps_db.begin(), r.taps_db.end()) -
                     *std::min_element(r.taps_db.begin(), r.taps_db.end()) - 4.0) < 0.5);
    // Called otherwise it is a mean: so much lower as it is shorter than the event.
    const TouchTest mean = touch_test(record, plan_of("4.5-10 press the lid"), {});
    QVERIFY(mean.readings[1].line()->level.value < -44.0);
  }

  void more_noise_is_said() {
    Touched quiet;
    const TouchRecord a = touch_of_capture(quiet.open());
    TouchRecord both = a;
    quiet.noise_dbc_hz = -89.0;
    quiet.seed = 2;
    const TouchRecord b = touch_of_capture(quiet.open());
    const std::size_t half = both.near.dbc.size() / 2;
    std::copy(b.near.dbc.begin() + static_cast<std::ptrdiff_t>(half), b.near.dbc.end(),
              both.near.dbc.begin() + static_cast<std::ptrdiff_t>(half));
    const TouchTest t = touch_test(both, plan_of("0-9 hands off\n11-19 hand on it"), {});
    QVERIFY2(std::abs(t.readings[1].noise_db - 6.0) < 0.3,
             qPrintable(QString::number(t.readings[1].noise_db)));
    QVERIFY(has_remark(evaluate_touch(evidence_of(both, "11-19 hand on it")).remarks, "noise"));
    QVERIFY(!has_remark(evaluate_touch(evidence_of(a, "11-19 hand on it")).remarks, "noise"));
  }

  void a_lost_carrier_leaves_a_hole() {
    Touched made;
    made.lost_s = std::pair(9.0, 11.0);
    made.lines = {{400.0, -50.0, 0.0, 20.0}};
    const TouchRecord record = touch_of_capture(made.open());
    QVERIFY(has_remark(record.remarks, "carrier_lost"));
    const auto [from, to] = record.frames_in(9.5, 10.5);
    for (std::size_t f = from; f < to; ++f) QVERIFY(std::isnan(record.near.at(f, 20)));
    const TouchTest t = touch_test(record, plan_of("12-19 touch it"), {});
    for (const TouchReading& r : t.readings)
      QVERIFY(std::abs(line_at(r, 400.0)->level.value + 50.0) < 0.1);
    made.lost_s = std::pair(3.0, 11.0);
    QVERIFY_THROWS_EXCEPTION(InputError, touch_of_capture(made.open()));
    made.lost_s.reset();
    made.length_s = 1.0;
    QVERIFY_THROWS_EXCEPTION(InputError, touch_of_capture(made.open()));
  }

  void a_wide_recording_is_seen_far_out_through_a_wider_filter() {
    Touched made;
    made.rate_hz = 96000.0;
    made.length_s = 6.0;
    made.lines = {{15300.0, -55.0, 0.0, 6.0}};
    const TouchRecord record = touch_of_capture(made.open());
    QVERIFY(record.far.side > 0 && std::abs(record.far.reach_hz() - 24e3) < 100.0);
    QCOMPARE(record.far.rbw_hz, 40.0);
    TouchPlan plan;
    plan.span_hz = 20e3;
    const TouchTest t = touch_test(record, plan, {});
    QVERIFY(t.readings.front().line() != nullptr);
    QVERIFY(std::abs(t.readings.front().line()->offset_hz - 15300.0) < 20.0);
    QVERIFY(std::abs(t.readings.front().line()->level.value + 55.0) < 0.1);
    // A narrow one reaches only so far, and says so.
    made.rate_hz = 8000.0;
    made.lines.clear();
    Evidence e = evidence_of(touch_of_capture(made.open()), "2-4 touch it");
    e.settings["touch"]["span_hz"] = 20e3;
    QVERIFY(has_remark(evaluate_touch(e).remarks, "span"));
  }

  void records_come_back_and_damage_is_refused() {
    Touched made;
    made.length_s = 12.0;
    made.lost_s = std::pair(2.0, 2.5);
    const TouchRecord record = touch_of_capture(made.open());
    const nlohmann::json kept = to_json(record);
    const auto back = std::dynamic_pointer_cast<const TouchRecord>(
        read_touch_record(nlohmann::json::parse(kept.dump())));
    QVERIFY(back != nullptr);
    QCOMPARE(back->frames, record.frames);
    for (std::size_t i = 0; i < record.near.dbc.size(); ++i)
      QVERIFY(std::isnan(record.near.dbc[i])
                  ? std::isnan(back->near.dbc[i])
                  : std::abs(back->near.dbc[i] - record.near.dbc[i]) < 0.026F);
    QCOMPARE(to_json(*back).dump(), kept.dump());
    for (const char* key : {"frames", "frame_s", "near", "spectra", "format"}) {
      nlohmann::json bad = kept;
      bad[key] = -1;
      QVERIFY_THROWS_EXCEPTION(InputError, read_touch_record(bad));
      bad.erase(key);
      QVERIFY_THROWS_EXCEPTION(InputError, read_touch_record(bad));
    }
    nlohmann::json bad = kept;
    bad["frames"] = 100000;
    QVERIFY_THROWS_EXCEPTION(InputError, read_touch_record(bad));
    bad = kept;
    std::string levels = bad["near"]["levels"];
    levels[7] = '?';
    bad["near"]["levels"] = levels;
    QVERIFY_THROWS_EXCEPTION(InputError, read_touch_record(bad));
  }

  void traces_are_a_first_look_side_by_side() {
    const auto trace = [](const char* name, double line_dbc, std::uint64_t seed) {
      SpectrumTrace t;
      t.name = name;
      t.rbw_hz = 30.0;
      t.detector = TraceDetector::power_average;
      t.averages = 20;
      std::mt19937_64 random(seed);
      std::gamma_distribution<double> mean(20.0, 1.0 / 20.0);
      for (int i = 0; i <= 1000; ++i) {
        const double hz = 10.0 * (i - 500);
        double power = power_ratio_from_db(-70.0) * mean(random);
        for (const auto& [at, dbc] : {std::pair(0.0, 0.0), {800.0, line_dbc}, {-800.0, line_dbc}})
          power += power_ratio_from_db(dbc) * std::exp2(-4.0 * std::pow((hz - at) / 30.0, 2.0));
        t.frequency_hz.push_back(1440e6 + hz);
        t.level_dbm.push_back(-10.0 + db_from_power_ratio(power));
      }
      return t;
    };
    const TouchRecord before = touch_of_trace(trace("before", -50.0, 1));
    QCOMPARE(before.frames, 1U);
    const TouchTest one = touch_test(before, {}, {});
    QCOMPARE(one.readings.size(), 1U);
    QVERIFY2(std::abs(line_at(one.readings[0], 800.0)->level.value + 50.0) < 0.3,
             qPrintable(QString::number(line_at(one.readings[0], 800.0)->level.value)));
    Evidence e = evidence_of(before, "");
    EvidenceStep after;
    after.label = "after";
    after.analysis = read_touch_record(to_json(touch_of_trace(trace("after", -62.0, 2))));
    e.steps.push_back(after);
    const Result r = evaluate_touch(e);
    const Plot* plot = r.plot_at(0, "");
    QCOMPARE(plot->panels.size(), 1U);  // nothing over time
    QVERIFY(plot->note.ends_with("one trace"));
    QCOMPARE(std::count_if(plot->panels[0].layers.begin(), plot->panels[0].layers.end(),
                           [](const PlotLayer& l) { return l.kind == PlotLayer::Kind::curve; }),
             2);
    SpectrumTrace bad = trace("bad", -50.0, 3);
    bad.rbw_hz.reset();
    QVERIFY_THROWS_EXCEPTION(InputError, touch_of_trace(bad));
    bad = trace("bad", -50.0, 3);
    bad.level_dbm[500] = -75.0;
    for (int k = -20; k <= 20; ++k) bad.level_dbm[static_cast<std::size_t>(500 + k)] = -75.0;
    for (double& v : bad.level_dbm) v = std::min(v, -72.0);
    QVERIFY_THROWS_EXCEPTION(InputError, touch_of_trace(bad));
  }

  void events_are_typed_as_people_write_them() {
    const auto all = parse_touch_events(
        "9-14 tap the lid\n1.5 to 8 s hands off\n 24\u201330 s hand on the lid\n"
        "37 - 43 supply 12 to 10.5 V\n\n");
    QCOMPARE(all.size(), 4U);
    QCOMPARE(all[0].words, std::string("hands off"));
    QCOMPARE(all[0].from_s, 1.5);
    QVERIFY(all[0].is_hands_off() && all[1].is_tap() && !all[2].is_tap() && all[3].is_supply());
    QCOMPARE(all[3].words, std::string("supply 12 to 10.5 V"));
    QCOMPARE(touch_events_text(parse_touch_events(touch_events_text(all))), touch_events_text(all));
    for (const char* bad : {"tap the lid", "9 tap", "9-14", "14-9 tap", "9-1e9 tap", "-4-9 tap"})
      QVERIFY_THROWS_EXCEPTION(InputError, parse_touch_events(bad));
  }

  void cells_of_the_table_move_events() {
    Touched made;
    Evidence e = evidence_of(touch_of_capture(made.open()), "9-14 tap the lid");
    const auto typed = [&](const TypedCell& cell) {
      e.settings = touch_typed(e, cell);
      return touch_events_text(touch_plan(e).events);
    };
    const Result r = evaluate_touch(e);
    QCOMPARE(r.tables.front().rows.size(), 2U);
    QCOMPARE(r.tables.front().rows[0].cells[0].text, std::string("Hands off"));
    // Hands off that nobody typed becomes an event when somebody types into it.
    QCOMPARE(typed({0, "what", "hands off, lid on"}),
             std::string("0-9 hands off, lid on\n9-14 tap the lid\n"));
    QCOMPARE(typed({0, "span", "1-8"}), std::string("1-8 hands off, lid on\n9-14 tap the lid\n"));
    QCOMPARE(typed({2, "what", {}, std::pair(15.04, 17.96)}),
             std::string("1-8 hands off, lid on\n9-14 tap the lid\n15-18 event 3\n"));
    QCOMPARE(typed({2, "what", "knock the case"}),
             std::string("1-8 hands off, lid on\n9-14 tap the lid\n15-18 knock the case\n"));
    QCOMPARE(typed({1, "what", ""}), std::string("1-8 hands off, lid on\n15-18 knock the case\n"));
    QCOMPARE(typed({5, "what", "9-14 hand on it"}),
             std::string("1-8 hands off, lid on\n9-14 hand on it\n15-18 knock the case\n"));
    QVERIFY_THROWS_EXCEPTION(InputError, touch_typed(e, {5, "what", "hand on it"}));
    QVERIFY_THROWS_EXCEPTION(InputError, touch_typed(e, {1, "span", "14"}));
  }

  void the_sheet_says_what_to_do_and_what_it_could_not_see() {
    Evidence nothing;
    nothing.settings["touch"] = touch_method().usual_settings();
    QVERIFY(evaluate_touch(nothing).plots.front().empty_words.find("hands off first") !=
            std::string::npos);
    Touched made;
    made.lines = {{845.0, -45.0, 9.5, 10.0}, {845.0, -47.0, 11.5, 12.0}};
    const TouchRecord record = touch_of_capture(made.open());
    QVERIFY(has_remark(evaluate_touch(evidence_of(record, "")).remarks, "no_events"));
    Evidence e = evidence_of(record, "9-14 tap the lid\n15-19 hand on the lid\n40-50 too late");
    e.limit = Limit{"own", Sense::at_most, -50.0, "dB", "re carrier", 20.0};
    const Result r = evaluate_touch(e);
    QVERIFY(has_remark(r.remarks, "microphonic") && has_remark(r.remarks, "tap_spread"));
    QVERIFY(has_remark(r.remarks, "event_outside"));
    QCOMPARE(r.items.size(), 3U);
    // The worst is the headline; the others have answers of their own.
    QCOMPARE(r.answers.front().head, std::string("Tap the lid"));
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::fail);
    QVERIFY(r.answer_at(2, "") != nullptr);
    const PlotPanel& over_time = r.plot_at(1, "")->panels.back();
    QVERIFY(over_time.picture && over_time.own_x->range->second == 20.0);
    QCOMPARE(over_time.lanes.size(), 3U);
    const PlotPicture& p = *over_time.picture;
    QCOMPARE(p.levels->size(), p.columns * p.rows);
    QVERIFY(has_remark(evaluate_touch(evidence_of(record, "1-4 hand on it\n5-8 press it")).remarks,
                       "nothing_changed"));
    e.limit->unit = "dBm";
    QVERIFY(has_remark(evaluate_touch(e).remarks, "limit_unit"));
    // A second recording: events are of it, the first stands beside it.
    Touched other = made;
    other.rate_hz = 12000.0;
    EvidenceStep second;
    second.label = "on foam";
    second.analysis = std::make_shared<TouchRecord>(touch_of_capture(other.open()));
    e.steps.push_back(second);
    const Result both = evaluate_touch(e);
    QVERIFY(has_remark(both.remarks, "recordings"));
    const auto& layers = both.plot_at(0, "")->panels.front().layers;
    QCOMPARE(std::count_if(layers.begin(), layers.end(),
                           [](const PlotLayer& l) { return l.name == "case open"; }),
             1);
  }
};

HERON_LOOP_TEST(TouchChecks)

}  // namespace touch_tests

#include "touch_test.moc"
