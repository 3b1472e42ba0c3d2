// What holds for every chain, whatever it is made of.
#include <QtTest>
#include <complex>
#include <random>

#include "core/chain/chain.h"
#include "core/chain/chain_json.h"
#include "core/chain/key_down_clock.h"
#include "core/chain/node_verdict.h"
#include "core/chain/swap.h"
#include "core/error.h"
#include "core/quantity/levels.h"
#include "core/signal/normal_numbers.h"
#include "tests/test_program.h"

using namespace heron;

namespace chain_property_test {

namespace {

class Dice {
 public:
  explicit Dice(unsigned seed) : random_(seed) {}
  double between(double low, double high) {
    return std::uniform_real_distribution<double>(low, high)(random_);
  }
  bool chance(double part) { return between(0, 1) < part; }
  int up_to(int most) { return std::uniform_int_distribution<int>(0, most)(random_); }
  std::mt19937& engine() { return random_; }

  Part part(int number) {
    Part p;
    p.name = "part " + std::to_string(number);
    p.kind = chance(0.5) ? "attenuator" : "cable";
    if (chance(0.3))
      p.gain = Gain({{1e6, between(-50, -1)}, {10e6, between(-50, -1)}, {100e6, between(-50, -1)}},
                    p.name);
    else
      p.gain = Gain(between(-50, 0));
    p.u_db = between(0, 0.5);
    if (chance(0.6)) p.vswr = between(1.0, 2.0);
    if (chance(0.7)) p.max_input_w = std::pow(10.0, between(-2, 2));
    if (p.max_input_w && chance(0.5)) p.time_constant_s = between(5, 400);
    if (chance(0.5)) p.max_input_dbm = between(0, 60);
    return p;
  }

  Chain chain() {
    Chain c;
    if (chance(0.5)) c.source_vswr = between(1.0, 1.5);
    const int count = 1 + up_to(4);
    for (int i = 0; i < count; ++i) c.parts.push_back(part(i));
    Part end;
    end.name = "end";
    end.kind = "instrument";
    end.u_db = between(0, 0.5);
    if (chance(0.5)) end.vswr = between(1.0, 1.5);
    end.max_input_dbm = between(0, 30);
    if (chance(0.5)) end.best_input_dbm = std::pair{-30.0, -5.0};
    c.parts.push_back(end);
    return c;
  }

  Drive drive() {
    return {between(-20, 50),
            chance(0.5),
            between(1e6, 100e6),
            chance(0.5) ? std::optional(between(1, 300)) : std::nullopt,
            {},
            {},
            {}};
  }

 private:
  std::mt19937 random_;
};

}  // namespace

class ChainPropertyTest : public QObject {
  Q_OBJECT
 private slots:
  void levels_add_up_and_uncertainties_add_in_squares() {
    Dice dice(1);
    for (int i = 0; i < 500; ++i) {
      const Chain c = dice.chain();
      const Drive d = dice.drive();
      const ChainResult r = evaluate_chain(c, d);
      QCOMPARE(r.nodes.size(), c.parts.size());
      double level = d.pep_dbm;
      for (std::size_t k = 0; k < c.parts.size(); ++k) {
        QVERIFY(std::abs(r.nodes[k].level_dbm - level) < 1e-9);
        double square = 0.0;
        for (const Contribution& u : r.nodes[k].contributions) square += u.u * u.u;
        QVERIFY(std::abs(r.nodes[k].u_db - std::sqrt(square)) < 1e-12);
        if (k + 1 < c.parts.size()) level += c.parts[k].gain.at(d.frequency_hz, "");
      }
      QVERIFY(std::abs(total_gain_db(c, d.frequency_hz) - (level - d.pep_dbm)) < 1e-9);
      // Uncertainty never shrinks along a chain.
      for (std::size_t k = 1; k < r.nodes.size(); ++k)
        QVERIFY(r.nodes[k].u_db >= r.nodes[k - 1].u_db - 1e-12);
    }
  }

  void safe_means_within_every_rating_and_the_weakest_part_binds() {
    Dice dice(2);
    int unsafe = 0;
    for (int i = 0; i < 500; ++i) {
      const Chain c = dice.chain();
      const Drive d = dice.drive();
      const ChainResult r = evaluate_chain(c, d);
      bool safe = true;
      std::optional<double> least;
      for (const ChainNode& n : r.nodes) {
        // With all of what the level is known to.
        safe = safe && (!n.margin_db || *n.margin_db >= 2.0 * n.u_db);
        if (n.max_key_down_s && (!least || *n.max_key_down_s < *least)) least = n.max_key_down_s;
      }
      QCOMPARE(r.is_safe, safe);
      QCOMPARE(r.max_key_down_s.has_value(), least.has_value());
      if (least) QCOMPARE(*r.max_key_down_s, *least);
      if (d.key_down_s && least && safe) QVERIFY(*least >= *d.key_down_s - 1e-9);
      unsafe += safe ? 0 : 1;
    }
    QVERIFY(unsafe > 50 && unsafe < 450);
  }

  void more_drive_is_never_safer() {
    Dice dice(3);
    for (int i = 0; i < 200; ++i) {
      const Chain c = dice.chain();
      Drive d = dice.drive();
      bool was_safe = true;
      double longest = 1e300;
      for (d.pep_dbm = -20.0; d.pep_dbm < 55.0; d.pep_dbm += 5.0) {
        const ChainResult r = evaluate_chain(c, d);
        QVERIFY(was_safe || !r.is_safe);
        const double now = r.max_key_down_s.value_or(1e300);
        QVERIFY(now <= longest);
        was_safe = r.is_safe;
        longest = now;
      }
    }
  }

  void a_record_reads_back_to_the_same_levels() {
    Dice dice(4);
    for (int i = 0; i < 200; ++i) {
      const Chain c = dice.chain();
      const Chain again =
          chain_from_json(to_json(c), "t", [](const std::string&) { return std::string(); });
      QCOMPARE(to_json(again).dump(), to_json(c).dump());
      const Drive d = dice.drive();
      QCOMPARE(evaluate_chain(again, d).nodes.back().level_dbm,
               evaluate_chain(c, d).nodes.back().level_dbm);
      QCOMPARE(evaluate_chain(again, d).is_safe, evaluate_chain(c, d).is_safe);
      const Drive kept = drive_from_json(to_json(d), "t", "drive");
      QCOMPARE(kept.pep_dbm, d.pep_dbm);
      QCOMPARE(kept.key_down_s, d.key_down_s);
      QCOMPARE(kept.is_two_tone, d.is_two_tone);
    }
  }

  void a_verdict_agrees_with_the_chain_about_what_must_not_be_keyed() {
    Dice dice(5);
    for (int i = 0; i < 500; ++i) {
      const Chain c = dice.chain();
      const Drive d = dice.drive();
      const ChainResult r = evaluate_chain(c, d);
      for (std::size_t k = 0; k < r.nodes.size(); ++k) {
        const NodeVerdict v = judge_node(c.parts[k], r.nodes[k], d);
        const bool over = r.nodes[k].margin_db && *r.nodes[k].margin_db < -1e-9;
        // What the chain calls unsafe never passes, and what fails by a rating is unsafe.
        if (over) QVERIFY2(v.verdict != Verdict::pass, v.limit.c_str());
        if (v.verdict == Verdict::fail && v.margin_db && *v.margin_db < -1e-9) QVERIFY(over);
        // A row and the card over all rows say the same of a rating.
        if (v.verdict == Verdict::fail && v.range == RangePlace::not_bound)
          QCOMPARE(rating_verdict(r), Verdict::fail);
      }
    }
  }

  /// Levels drawn with every part's own error and with reflections of random phase: their scatter
  /// is what first order promises.
  void first_order_agrees_with_monte_carlo() {
    Dice dice(6);
    for (int trial = 0; trial < 6; ++trial) {
      Chain c = dice.chain();
      const Drive d = dice.drive();
      const ChainResult r = evaluate_chain(c, d);
      const double promised = r.nodes.back().u_db;
      if (promised < 1e-3) continue;
      double sum = 0.0;
      double square = 0.0;
      constexpr int kDraws = 20000;
      for (int i = 0; i < kDraws; ++i) {
        double level = 0.0;
        // What is not stated is taken as 1.5 of a device, 1.2 of a part.
        double before = c.source_vswr.value_or(1.5);
        for (std::size_t k = 0; k < c.parts.size(); ++k) {
          const Part& p = c.parts[k];
          const double own = p.vswr.value_or(1.2);
          const double gamma = reflection_from_vswr(before) * reflection_from_vswr(own);
          const double phase = dice.between(0, 6.283185307);
          level -= 20.0 * std::log10(std::abs(1.0 - std::polar(gamma, phase)));
          if (k + 1 < c.parts.size()) level += NormalNumbers<double>(0.0, p.u_db)(dice.engine());
          before = own;
        }
        sum += level;
        square += level * level;
      }
      const double mean = sum / kDraws;
      const double scatter = std::sqrt(square / kDraws - mean * mean);
      QVERIFY2(std::abs(scatter - promised) < 0.04 * promised + 0.002,
               qPrintable(QString("%1 against %2").arg(scatter).arg(promised)));
    }
  }

  /// Nothing is safe whose level, with all that it is known to, reaches a rating; no key-down time
  /// is longer than the highest level stands; a moment is no excuse beyond ten times the rating.
  void safe_has_a_guard_band() {
    Dice dice(31);
    int near = 0;
    int capped = 0;
    for (int i = 0; i < 3000; ++i) {
      const Chain c = dice.chain();
      Drive d = dice.drive();
      const ChainResult r = evaluate_chain(c, d);
      for (std::size_t k = 0; k < r.nodes.size(); ++k) {
        const ChainNode& n = r.nodes[k];
        const Part& p = c.parts[k];
        const double highest = n.level_dbm + 2.0 * n.u_db;
        if (n.rating_dbm && highest > *n.rating_dbm + 1e-9) QVERIFY(!r.is_safe);
        if (n.margin_db && *n.margin_db > 0.0 && *n.margin_db < 2.0 * n.u_db) {
          ++near;
          QVERIFY(std::any_of(r.remarks.begin(), r.remarks.end(), [](const Remark& remark) {
            return remark.code == "rating_too_close" || remark.code == "overload";
          }));
        }
        if (p.max_input_w) {
          const double average = to_watt(Dbm{highest - peak_to_average_db(d)}).value;
          const ThermalRating rating{*p.max_input_w, p.time_constant_s};
          const auto stands = key_down_time_s(rating, average);
          if (n.max_key_down_s && stands) QVERIFY(*n.max_key_down_s <= *stands + 1e-9);
          if (!n.max_key_down_s) QVERIFY(!stands);
          if (!p.max_input_dbm && highest > to_dbm(Watt{10.0 * *p.max_input_w}).value) {
            ++capped;
            QCOMPARE(n.max_key_down_s.value_or(1.0), 0.0);
            QVERIFY(!r.is_safe);
          }
        }
      }
    }
    QVERIFY2(near > 20 && capped > 20, qPrintable(QString("%1 %2").arg(near).arg(capped)));
  }

  /// A part nobody rated is never the advice, however low the level that reaches it.
  void a_swap_never_puts_in_what_nobody_rated() {
    Dice dice(37);
    int suggested = 0;
    for (int i = 0; i < 400; ++i) {
      Chain c = dice.chain();
      c.parts[0].kind = "attenuator";
      std::vector<Part> bench;
      for (int k = 0; k < 5; ++k) {
        Part p = dice.part(100 + k);
        p.kind = "attenuator";
        if (dice.chance(0.5)) {
          p.max_input_w.reset();
          p.max_input_dbm.reset();
          p.time_constant_s.reset();
        }
        bench.push_back(p);
      }
      const auto swap = suggest_swap(c, dice.drive(), bench);
      if (!swap) continue;
      ++suggested;
      const auto put = std::find_if(bench.begin(), bench.end(),
                                    [&](const Part& p) { return p.name == swap->put_in; });
      QVERIFY(put != bench.end() && put->is_rated());
    }
    QVERIFY(suggested > 20);
  }

  /// A network measured in one impedance and used in another: the same wave as from its chain of
  /// impedances, and there and back it is itself.
  void networks_are_renormalised() {
    Dice dice(41);
    for (int i = 0; i < 200; ++i) {
      const double ohm = dice.between(20.0, 300.0);
      // A series and a shunt resistor between two systems: known in closed form.
      const double series = dice.between(0.0, 200.0);
      const double shunt = dice.between(20.0, 2000.0);
      const auto s_of = [&](double z) {
        // ABCD of series then shunt.
        const double a = 1.0 + series / shunt;
        const double b = series;
        const double cc = 1.0 / shunt;
        const double dd = 1.0;
        const double sum = a + b / z + cc * z + dd;
        TwoPort p;
        p.frequency_hz = 1e6;
        p.s11 = (a + b / z - cc * z - dd) / sum;
        p.s21 = 2.0 / sum;
        p.s12 = 2.0 * (a * dd - b * cc) / sum;
        p.s22 = (-a + b / z - cc * z + dd) / sum;
        return p;
      };
      Touchstone in_50;
      in_50.points = {s_of(50.0)};
      const Touchstone there = in_50.referred_to(ohm);
      const TwoPort expected = s_of(ohm);
      QVERIFY(std::abs(there.points[0].s11 - expected.s11) < 1e-9);
      QVERIFY(std::abs(there.points[0].s21 - expected.s21) < 1e-9);
      QVERIFY(std::abs(there.points[0].s12 - expected.s12) < 1e-9);
      QVERIFY(std::abs(there.points[0].s22 - expected.s22) < 1e-9);
      Chain c;
      c.impedance_ohm = ohm;
      Part p;
      p.name = "network";
      p.kind = "attenuator";
      p.network = in_50;
      p.network->points.push_back(p.network->points[0]);
      p.network->points[1].frequency_hz = 2e6;
      p.gain = p.network->gain("network");
      Part end;
      end.name = "end";
      end.kind = "instrument";
      c.parts = {p, end};
      QVERIFY(std::abs(total_gain_db(c, 1.5e6) - db_from_voltage_ratio(std::abs(expected.s21))) <
              1e-9);
    }
  }

  /// The clock's closed form against small steps of the same heat equation.
  void the_clock_agrees_with_small_steps() {
    Dice dice(7);
    for (int trial = 0; trial < 20; ++trial) {
      Part p;
      p.name = "pad";
      p.kind = "attenuator";
      p.gain = Gain(-40.0);
      p.max_input_w = 10.0;
      p.time_constant_s = dice.between(20, 300);
      p.vswr = 1.0;
      Part end;
      end.name = "end";
      end.kind = "instrument";
      Chain c;
      c.parts = {p, end};
      const double watt = dice.between(11, 60);
      KeyDownClock clock;
      clock.set_chain(c, {to_dbm(Watt{watt}).value, false, 1e6, 5.0, {}, {}, {}}, 0.0);
      double heat = 0.0;
      double now = 0.0;
      bool keyed = false;
      for (int turn = 0; turn < 6; ++turn) {
        keyed = !keyed;
        if (keyed)
          clock.key(now);
        else
          clock.unkey(now);
        const double lasts = dice.between(1, 60);
        for (double t = 0.0; t < lasts; t += 0.01) {
          heat += 0.01 * ((keyed ? watt / 10.0 : 0.0) - heat) / *p.time_constant_s;
          now += 0.01;
        }
        const KeyDownReading r = clock.read(now);
        if (keyed)
          QVERIFY2(std::abs(r.temperature - heat) < 0.01,
                   qPrintable(QString("%1 %2").arg(r.temperature).arg(heat)));
        if (keyed && heat > 1.02) QCOMPARE(r.state, KeyDownState::stop);
      }
    }
  }

  void ageing_only_ever_widens() {
    Dice dice(8);
    for (int i = 0; i < 200; ++i) {
      Chain c = dice.chain();
      for (Part& p : c.parts) {
        if (dice.chance(0.7))
          p.calibration.date = "2024-0" + std::to_string(1 + dice.up_to(8)) + "-10";
        if (dice.chance(0.5)) p.calibration.interval_months = dice.between(3, 36);
        if (dice.chance(0.5)) p.calibration.ageing_u_db_per_month = dice.between(0, 0.05);
      }
      const Drive d = dice.drive();
      double before = evaluate_chain(c, d).nodes.back().u_db;
      for (const char* day : {"2024-01-01", "2025-01-01", "2026-01-01", "2030-01-01"}) {
        const double now = evaluate_chain(aged(c, day), d).nodes.back().u_db;
        QVERIFY(now >= before - 1e-12);
        before = now;
      }
    }
  }
};

HERON_TEST(ChainPropertyTest)

}  // namespace chain_property_test

#include "chain_property_test.moc"
