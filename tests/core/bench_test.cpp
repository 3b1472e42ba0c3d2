// The bench: things with calibrations that age, their files, and what can be swapped.
#include <QtTest>
#include <random>

#include "core/chain/bench_item.h"
#include "core/chain/bench_json.h"
#include "core/chain/chain_json.h"
#include "core/chain/key_down_clock.h"
#include "core/chain/node_verdict.h"
#include "core/chain/swap.h"
#include "core/error.h"
#include "core/quantity/levels.h"
#include "tests/core/made_bench.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace bench_test {

class BenchTest : public QObject {
  Q_OBJECT
 private slots:
  /// What is shown as usual can be typed as it stands, and a blank thing has none of it.
  void usual_values_are_values_and_never_facts() {
    int count = 0;
    for (const BenchSort& sort : bench_sorts()) {
      bool has_u = false;
      for (const BenchField& field : bench_fields(sort.id)) {
        const std::string usual(usual_text(sort.id, field.key));
        has_u = has_u || (field.key == "u_db" && !usual.empty());
        if (usual.empty()) continue;
        ++count;
        BenchItem item = made_item(sort.id);
        set_field(item, field, usual);
        QVERIFY(!field_text(item, field).empty());
        if (field.key != "gain_db") QVERIFY(field_text(blank_item(sort.id), field).empty());
      }
      if (sort.kind != "instrument") QVERIFY2(has_u, sort.id.c_str());
    }
    QVERIFY(count > 40);
    QVERIFY(usual_text("attenuator", "name").empty());
  }

  void a_positive_loss_of_something_that_can_only_lose_is_a_loss() {
    for (const char* sort : {"attenuator", "cable", "step_attenuator", "load"}) {
      QCOMPARE(item(sort, {{"gain_db", "30 dB"}}).part.gain.largest_db(), -30.0);
      QCOMPARE(item(sort, {{"gain_db", "-30 dB"}}).part.gain.largest_db(), -30.0);
    }
    QCOMPARE(item("amplifier", {{"gain_db", "13 dB"}}).part.gain.largest_db(), 13.0);
    BenchItem blank = blank_item("attenuator");
    QVERIFY(!blank.part.is_gain_known);
    set_field(blank, field("attenuator", "gain_db"), "20 dB");
    QVERIFY(blank.part.is_gain_known);
    set_field(blank, field("attenuator", "gain_db"), "");
    QVERIFY(!blank.part.is_gain_known);
    QVERIFY(blank_item("sampler").part.is_gain_known);
  }

  void ageing_widens_in_quadrature_from_the_day_of_calibration() {
    Calibration c{"2026-01-01", 12.0, 0.0075};
    // 7 months of 30.44 days.
    const double u = ageing_u_db(c, 0.06, "2026-08-02");
    QVERIFY(std::abs(u - 0.0075 * 7.0) < 0.0004);
    QVERIFY(std::abs(2.0 * std::hypot(0.06, u) - 0.16) < 0.003);
    // Not stated: its own uncertainty comes again within one interval.
    c.ageing_u_db_per_month.reset();
    QVERIFY(std::abs(ageing_u_db(c, 0.06, "2027-01-01") - 0.06) < 0.0004);
    QCOMPARE(ageing_u_db(c, 0.06, "2025-12-01"), 0.0);  // before it was calibrated
    QCOMPARE(ageing_u_db(Calibration{}, 0.06, "2026-08-02"), 0.0);
    c.interval_months.reset();
    QCOMPARE(ageing_u_db(c, 0.06, "2030-08-02"), 0.0);
  }

  void due_and_overdue() {
    const Calibration c{"2026-01-01T10:00:00Z", 12.0, std::nullopt};
    QCOMPARE(calibration_state(c, "2026-06-01"), CalibrationState::in_date);
    QCOMPARE(calibration_state(c, "2026-12-10"), CalibrationState::due);
    QCOMPARE(calibration_state(c, "2027-01-05"), CalibrationState::overdue);
    QCOMPARE(calibration_state(Calibration{}, "2027-01-05"), CalibrationState::none);
    QVERIFY(!months_between("2026-13-01", "2026-01-01"));
    QVERIFY(!months_between("yesterday", "2026-01-01"));
    QVERIFY(!months_between("2026-02-30", "2026-03-01"));
  }

  void an_aged_chain_says_how_much_of_its_uncertainty_is_age() {
    Part p = pad("power pad", -40, 100, std::nullopt);
    p.u_db = 0.06;
    p.calibration = {"2025-01-01", 12.0, std::nullopt};
    const Chain chain = aged(chain_of({p, sampler()}), "2026-01-01");
    const ChainResult r = evaluate_chain(chain, {40.0, false, 14.2e6, std::nullopt, {}, {}, {}});
    double age = 0.0;
    for (const Contribution& c : r.contributions) {
      if (c.source == "calibration age of power pad") age = c.u;
    }
    QVERIFY(std::abs(age - 0.06) < 0.001);
    QVERIFY(std::abs(r.nodes[1].u_db - std::hypot(0.06, age)) < 1e-12);
  }

  void every_sort_has_fields_that_can_be_filled_and_read_back() {
    for (const BenchSort& sort : bench_sorts()) {
      BenchItem made = made_item(sort.id);
      for (const BenchField& f : bench_fields(sort.id)) {
        std::string text = f.key == "calibrated" ? "2026-03-14"
                           : !f.choices.empty()  ? f.choices.back()
                                                 : "7";
        if (f.key == "gain_db") text = sort.id == "amplifier" ? "12 dB" : "\u221212 dB";
        if (f.key == "best_low") text = "\u221220 dBm";
        if (f.key == "max_input_dbm" || f.key == "best_high" || f.key == "full_scale_dbm")
          text = "10 mW";
        set_field(made, f, text);
        QCOMPARE(field_text(made, f), text);
      }
      check_item(made);
      const BenchItem again = bench_item_from_json(to_json(made), "test", "item");
      QCOMPARE(to_json(again).dump(), to_json(made).dump());
      for (const BenchField& f : bench_fields(sort.id)) {
        if (f.key == "name") continue;
        set_field(made, f, "");
        QVERIFY2(field_text(made, f).empty() || f.key == "gain_db", f.key.c_str());
      }
    }
  }

  void fields_understand_any_unit_and_keep_what_was_typed() {
    const BenchItem made = item("attenuator", {{"gain_db", "100:1"},
                                               {"u_db", "3 %"},
                                               {"max_input_w", "43 dBm"},
                                               {"max_input_dbm", "100 W"},
                                               {"vswr", "26 dB"},
                                               {"time_constant_s", "2:00"}});
    QVERIFY(std::abs(made.part.gain.largest_db() + 40.0) < 1e-9);
    QVERIFY(std::abs(2.0 * made.part.u_db - 10.0 * std::log10(1.03)) < 1e-9);
    QVERIFY(std::abs(*made.part.max_input_w - 19.9526) < 1e-3);
    QVERIFY(std::abs(*made.part.max_input_dbm - 50.0) < 1e-9);
    QVERIFY(std::abs(*made.part.vswr - 1.1055) < 1e-3);
    QCOMPARE(*made.part.time_constant_s, 120.0);
    QCOMPARE(made.typed.at("max_input_w"), std::string("43 dBm"));
  }

  void a_gain_over_frequency_is_typed_as_a_table() {
    BenchItem made = item("cable", {{"gain_db", "1: -0,05; 30 MHz: \u22120.40 dB; 0.15 GHz: -1"}});
    QCOMPARE(made.part.gain.points().size(), 3U);
    QVERIFY(std::abs(made.part.gain.at(15.5e6, "c") + 0.225) < 1e-12);
    QVERIFY_EXCEPTION_THROWN(made.part.gain.at(160e6, "c"), InputError);
    const BenchItem again = bench_item_from_json(to_json(made), "test", "item");
    QCOMPARE(to_json(again).dump(), to_json(made).dump());
    made.typed.clear();
    BenchItem back = made_item("cable");
    set_field(back, field("cable", "gain_db"), field_text(made, field("cable", "gain_db")));
    QCOMPARE(back.part.gain.points().size(), 3U);
    for (const char* bad : {"1 MHz: -1; 1 MHz: -2", "1 MHz; 2 MHz: -1", "1 MHz: +2; 2 MHz: +3"})
      QVERIFY_EXCEPTION_THROWN(set_field(back, field("cable", "gain_db"), bad), InputError);
  }

  void a_generators_own_uncertainty_is_part_of_what_reaches_the_device() {
    Part device;
    device.name = "receiver";
    device.kind = "device";
    device.max_input_dbm = 10.0;
    device.vswr = 1.0;
    Chain chain = chain_of({pad("20 dB pad", -20, 1, std::nullopt), device});
    chain.source = "generator";
    chain.source_u_db = 0.25;
    chain.is_source_in_emf = true;
    const ChainResult r = evaluate_chain(chain, {-73.0, false, 7e6, std::nullopt, {}, {}, {}});
    QVERIFY(std::abs(r.nodes.back().level_dbm + 93.0) < 1e-12);
    QVERIFY(std::abs(r.nodes.back().u_db - 0.25) < 1e-12);
    QCOMPARE(r.contributions.front().source, std::string("generator"));
    const Chain again =
        chain_from_json(to_json(chain), "t", [](const std::string&) { return std::string(); });
    QVERIFY(again.is_source_in_emf && again.source_u_db == 0.25);
  }

  void what_cannot_be_stays_out_and_the_last_good_value_stays() {
    BenchItem made = item("attenuator", {{"gain_db", "\u221220 dB"}});
    const std::tuple<const char*, const char*, const char*> wrong[] = {
        {"gain_db", "+3 dB", "passive"},
        {"vswr", "0.9", "1 and more"},
        {"max_input_w", "0 W", "more than 0"},
        {"calibrated", "last spring", "date"},
        {"name", "", "empty"},
        {"u_db", "\u22121", "range"}};
    for (const auto& [key, text, said] : wrong) {
      const std::string before = to_json(made).dump();
      try {
        set_field(made, field("attenuator", key), text);
        QFAIL(key);
      } catch (const InputError& error) {
        QVERIFY2(std::string(error.what()).find(said) != std::string::npos, error.what());
      }
      QCOMPARE(to_json(made).dump(), before);
    }
  }

  void a_bench_file_reads_back_and_says_what_is_wrong_with_it() {
    BenchItem generator = item("generator", {{"name", "Generator"}, {"level_means", "emf"}});
    BenchItem part = item("attenuator", {{"gain_db", "\u221240 dB"}, {"calibrated", "2025-05-01"}});
    set_curve(part, "# MHz S DB R 50\n1 -30 0 -39.9 0 -39.9 0 -32 0\n100 -20 0 -42 0 -42 0 -22 0\n",
              "p.s2p");
    calibrate(part, "2026-05-01", std::nullopt, 0.05);
    const std::string text = bench_to_json({generator, part}).dump();
    const auto again = bench_from_text(text, "bench.json");
    QCOMPARE(again.size(), 2U);
    QCOMPARE(again[0].level_means, std::string("emf"));
    QCOMPARE(again[1].past.size(), 1U);
    QVERIFY(again[1].part.network.has_value());
    QVERIFY(std::abs(*again[1].part.input_vswr(1e6) - *part.part.input_vswr(1e6)) < 1e-9);
    const std::pair<std::string, std::string> wrong[] = {
        {"{", "JSON"},
        {R"({"format":"other"})", "not a bench file"},
        {R"({"format":"even-heron-bench","version":9,"items":[]})", "newer"},
        {R"({"format":"even-heron-bench","items":7})", "items"},
        {R"({"format":"even-heron-bench","items":[{"sort":"teapot"}]})", "item 1"},
        {R"({"format":"even-heron-bench","items":[{"sort":"cable","name":"c","gain_db":"x"}]})",
         "gain_db"},
        {R"({"format":"even-heron-bench","items":[{"sort":"cable","name":"c","gain_db":3}]})",
         "passive"}};
    for (const auto& [bad, said] : wrong) {
      try {
        bench_from_text(bad, "bench.json");
        QFAIL(bad.c_str());
      } catch (const InputError& error) {
        QVERIFY2(std::string(error.what()).find(said) != std::string::npos, error.what());
      }
    }
  }

  void a_chain_with_a_network_is_whole_in_its_record() {
    BenchItem part = item("attenuator", {{"name", "pad"}});
    set_curve(part,
              "# MHz S MA R 50\n1 0.05 10 0.01 -20 0.01 -20 0.04 5\n100 0.1 10 0.008 -20 0.008 -20 "
              "0.09 5\n",
              "p.s2p");
    part.part.bench_id = "bench-3";
    const Chain chain = chain_of({part.part, sampler()});
    const Chain again =
        chain_from_json(to_json(chain), "test", [](const std::string&) { return std::string(); });
    QCOMPARE(to_json(again).dump(), to_json(chain).dump());
    const Drive drive{40.0, true, 50e6, std::nullopt, {}, {}, {}};
    QCOMPARE(evaluate_chain(again, drive).nodes[1].level_dbm,
             evaluate_chain(chain, drive).nodes[1].level_dbm);
  }

  void the_same_thing_twice_is_a_circle() {
    Part p = pad("pad", -10, 10, std::nullopt);
    p.bench_id = "bench-1";
    try {
      evaluate_chain(chain_of({p, p, sampler()}), {30.0, false, 1e6, std::nullopt, {}, {}, {}});
      QFAIL("accepted");
    } catch (const InputError& error) {
      QVERIFY(std::string(error.what()).find("circle") != std::string::npos);
    }
  }

  void nodes_are_judged_by_what_binds_them() {
    const Part heavy = pad("pad", -40, 10, 118.0);
    const Part end = sampler();
    const auto verdict = [&](const Part& part, double dbm, std::optional<double> key_down,
                             double u_db) {
      ChainNode node;
      node.level_dbm = dbm;
      node.u_db = u_db;
      if (part.max_input_w)
        node.max_key_down_s = key_down_time_s({*part.max_input_w, part.time_constant_s},
                                              to_watt(Dbm{dbm - 3.0103}).value);
      return judge_node(part, node, {dbm, true, 1e6, key_down, {}, {}, {}});
    };
    QCOMPARE(verdict(heavy, 40.0, 12.0, 0.1).verdict, Verdict::pass);
    const NodeVerdict over = verdict(heavy, 44.77, 12.0, 0.1);  // 15 W mean into 10 W
    QCOMPARE(over.verdict, Verdict::too_close);
    QVERIFY(std::abs(*over.margin_db + 1.76) < 0.01);
    QVERIFY(over.is_average);
    QVERIFY2(over.limit.find("2:09") != std::string::npos, over.limit.c_str());
    QCOMPARE(verdict(heavy, 44.77, 600.0, 0.1).verdict, Verdict::fail);
    QCOMPARE(verdict(heavy, 44.77, std::nullopt, 0.1).verdict, Verdict::fail);
    QCOMPARE(verdict(pad("small", -20, 5, std::nullopt), 44.77, 1.0, 0.1).verdict, Verdict::fail);
    QCOMPARE(verdict(heavy, 42.9, 12.0, 0.1).verdict,
             Verdict::too_close);  // within its uncertainty
    QCOMPARE(verdict(end, -10.0, 12.0, 0.1).verdict, Verdict::pass);
    QCOMPARE(verdict(end, -1.0, 12.0, 0.1).verdict, Verdict::too_close);
    QCOMPARE(verdict(end, -40.0, 12.0, 0.1).verdict, Verdict::too_close);
    QCOMPARE(verdict(end, 6.0, 12.0, 0.1).verdict, Verdict::fail);
    Part bare;
    bare.name = "cable";
    bare.kind = "cable";
    QCOMPARE(verdict(bare, 44.0, 12.0, 0.1).verdict, Verdict::not_taken);
    QCOMPARE(verdict(bare, 44.0, 12.0, 0.1).limit, std::string("no rating stated"));
  }

  void power_into_what_nobody_rated_is_said() {
    Part bare;
    bare.name = "cable";
    bare.kind = "cable";
    const auto said = [&](double dbm) {
      const auto r =
          evaluate_chain(chain_of({bare, sampler()}), {dbm, false, 1e6, std::nullopt, {}, {}, {}});
      return std::any_of(r.remarks.begin(), r.remarks.end(),
                         [](const Remark& x) { return x.code == "rating_missing"; });
    };
    QVERIFY(said(40.0));
    QVERIFY(!said(-10.0));
  }

  void the_pad_that_puts_the_sampler_into_its_window_is_suggested() {
    const Chain chain = chain_of({pad("20 dB pad", -20, 50, 100.0), sampler()});
    const Drive drive{to_dbm(Watt{5.0}).value, true, 14e6, 10.0, {}, {}, {}};  // +37 dBm
    const std::vector<Part> bench = {pad("30 dB pad", -30, 50, std::nullopt),
                                     pad("50 dB pad", -50, 50, std::nullopt),
                                     pad("weak pad", -50, 0.1, std::nullopt)};
    const auto swap = suggest_swap(chain, drive, bench);
    QVERIFY(swap.has_value());
    QCOMPARE(swap->put_in, std::string("50 dB pad"));
    QVERIFY(!swap->is_added);
    QVERIFY2(swap->sentence.find("Swap 20 dB pad for 50 dB pad") == 0, swap->sentence.c_str());
    // What it promises is what comes.
    const auto then = evaluate_chain(swap->chain, drive);
    QVERIFY(then.is_safe);
    QVERIFY(std::abs(then.nodes.back().level_dbm - swap->end_level_dbm) < 1e-9);
    QVERIFY(then.nodes.back().level_dbm <= -6.0 && then.nodes.back().level_dbm >= -22.0);
    // Nothing to mend, nothing said.
    QVERIFY(!suggest_swap(swap->chain, drive, bench));
    QVERIFY(!suggest_swap(chain, drive, {}));
  }

  void an_unsafe_chain_is_only_mended_by_what_is_safe() {
    std::mt19937 random(3);
    std::uniform_real_distribution<double> gain(-60.0, -3.0);
    std::uniform_real_distribution<double> watt(0.1, 100.0);
    std::uniform_real_distribution<double> level(20.0, 50.0);
    int suggested = 0;
    for (int i = 0; i < 200; ++i) {
      const Chain chain = chain_of({pad("a", gain(random), watt(random), std::nullopt), sampler()});
      std::vector<Part> bench;
      for (int k = 0; k < 5; ++k)
        bench.push_back(pad("p" + std::to_string(k), gain(random), watt(random), std::nullopt));
      const Drive drive{level(random), true, 1e6, std::nullopt, {}, {}, {}};
      const auto swap = suggest_swap(chain, drive, bench);
      if (!swap) continue;
      ++suggested;
      QVERIFY(evaluate_chain(swap->chain, drive).is_safe);
    }
    QVERIFY(suggested > 30);
  }

  void the_key_down_clock_follows_the_heat() {
    KeyDownClock clock;
    const Chain chain = chain_of({pad("pad", -40, 10, 118.0), sampler()});
    const Drive drive{to_dbm(Watt{30.0}).value, true, 14e6, 12.0, {}, {}, {}};
    clock.set_chain(chain, drive, 0.0);
    QCOMPARE(clock.read(0.0).state, KeyDownState::idle);
    clock.key(10.0);
    const KeyDownReading start = clock.read(10.0);
    QCOMPARE(start.state, KeyDownState::keyed);
    const double most = 118.0 * std::log(3.0);  // -tau ln(1 - 10/15)
    QVERIFY(std::abs(*start.left_s - most) < 0.1);
    QCOMPARE(start.binding, std::string("pad"));
    QVERIFY(std::abs(*clock.read(70.0).left_s - (most - 60.0)) < 0.1);
    QCOMPARE(clock.read(10.0 + 0.9 * most).state, KeyDownState::caution);
    QCOMPARE(clock.read(11.0 + most).state, KeyDownState::stop);
    clock.unkey(10.0 + most);
    const KeyDownReading hot = clock.read(10.0 + most);
    QCOMPARE(hot.state, KeyDownState::resting);
    // After the rest that it asks for, the planned key-down just fits.
    const auto rest = rest_time_s({10, 118.0}, 1.0, 15.0, 12.0);
    QVERIFY(std::abs(hot.rest_s - *rest) < 0.01);
    const double later = 10.0 + most + hot.rest_s + 0.01;
    QCOMPARE(clock.read(later).state, KeyDownState::idle);
    clock.key(later);
    QVERIFY(std::abs(*clock.read(later).left_s - 12.0) < 0.05);
    // Another chain with the same pad does not make it cold.
    clock.set_chain(chain, drive, later + 1.0);
    QVERIFY(*clock.read(later + 1.0).left_s < 12.0);
    clock.unkey(later + 1.0);
    QCOMPARE(clock.read(later + 5000.0).state, KeyDownState::idle);
  }

  void a_pad_cools_while_another_chain_is_used() {
    const Chain hot = chain_of({pad("pad", -40, 10, 118.0), sampler()});
    const Chain other = chain_of({pad("other", -40, 10, 118.0), sampler()});
    const Drive drive{to_dbm(Watt{30.0}).value, true, 14e6, 12.0, {}, {}, {}};
    KeyDownClock clock;
    clock.set_chain(hot, drive, 0.0);
    clock.key(0.0);
    clock.unkey(100.0);
    clock.set_chain(other, drive, 100.0);
    QCOMPARE(clock.read(100.0).state, KeyDownState::idle);
    clock.set_chain(hot, drive, 150.0);
    clock.key(150.0);
    const double then =
        temperature_after({10, 118.0}, temperature_after({10, 118.0}, 0.0, 15.0, 100.0), 0.0, 50.0);
    QVERIFY(std::abs(*clock.read(150.0).left_s - *key_down_time_s({10, 118.0}, 15.0, then)) < 1e-9);
  }

  void a_part_without_a_time_constant_stops_at_once() {
    KeyDownClock clock;
    clock.set_chain(chain_of({pad("pad", -20, 5, std::nullopt), sampler()}),
                    {44.8, true, 1e6, 1.0, {}, {}, {}}, 0.0);
    clock.key(0.0);
    QCOMPARE(clock.read(0.0).state, KeyDownState::stop);
    clock.unkey(0.1);
    QCOMPARE(clock.read(0.1).state, KeyDownState::idle);
  }
};

HERON_TEST(BenchTest)

}  // namespace bench_test

#include "bench_test.moc"
