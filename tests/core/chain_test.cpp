// Hook-ups against closed forms: levels, uncertainty, ratings and heating.
#include "core/chain/chain.h"

#include <QtTest>
#include <fstream>
#include <nlohmann/json.hpp>
#include <random>

#include "core/chain/chain_json.h"
#include "core/quantity/levels.h"
#include "core/signal/normal_numbers.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;

namespace chain_test {

using heron::testing::has_remark;
using heron::testing::refusal;

namespace {

Part part(const char* name, const char* kind, double gain_db) {
  Part p;
  p.name = name;
  p.kind = kind;
  p.gain = Gain(gain_db);
  p.vswr = 1.0;
  return p;
}

/// Power pad, cable, sampler: the example of the documentation.
Chain skerry() {
  Part pad = part("power pad", "attenuator", -40.0);
  pad.u_db = 0.2;
  pad.max_input_w = 20.0;
  pad.time_constant_s = 120.0;
  pad.vswr = 1.15;
  Part cable = part("cable", "cable", -0.5);
  cable.u_db = 0.05;
  Part sampler = part("sampler", "instrument", 0.0);
  sampler.u_db = 0.5;
  sampler.max_input_dbm = 0.0;
  sampler.best_input_dbm = {{-25.0, -10.0}};
  Chain made;
  made.name = "Skerry";
  made.source_vswr = 1.0;
  made.parts = {pad, cable, sampler};
  return made;
}

bool close(double a, double b, double tolerance = 1e-9) {
  return std::abs(a - b) <= tolerance;
}

}  // namespace

class ChainTest : public QObject {
  Q_OBJECT
 private slots:
  void what_nobody_has_rated_is_not_known_to_be_safe() {
    // A cable behind 30 W, an instrument without a damage level: neither is over a rating, and
    // neither is known to be under one.
    Chain chain;
    chain.parts = {part("cable", "cable", -0.5), part("pad", "attenuator", -40.0),
                   part("meter", "instrument", 0.0)};
    chain.parts[1].max_input_w = 50.0;
    const Drive drive{to_dbm(Watt{30.0}).value, false, 14e6, std::nullopt};
    ChainResult r = evaluate_chain(chain, drive);
    QVERIFY(r.is_safe && !r.is_known_safe());
    QCOMPARE(r.unrated, (std::vector<std::string>{"cable", "meter"}));
    QVERIFY(has_remark(r.remarks, "rating_missing"));
    chain.parts[0].max_input_w = 100.0;
    chain.parts[2].max_input_dbm = 20.0;
    QVERIFY(evaluate_chain(chain, drive).is_known_safe());
    // Within what an instrument is made to measure nothing has to be known.
    chain.parts[2].max_input_dbm.reset();
    chain.parts[2].best_input_dbm = {{-20.0, 10.0}};
    QVERIFY(evaluate_chain(chain, drive).is_known_safe());
    // A milliwatt harms no cable.
    chain.parts[0].max_input_w.reset();
    QVERIFY(evaluate_chain(chain, {0.0, false, 14e6, std::nullopt}).is_known_safe());
  }

  void a_window_or_an_impedance_that_nobody_has_stated_is_said() {
    Chain chain = skerry();
    QVERIFY(!has_remark(evaluate_chain(chain, {20.0, false, 14e6, std::nullopt}).remarks,
                        "window_missing"));
    chain.parts.back().best_input_dbm.reset();
    const ChainResult r = evaluate_chain(chain, {20.0, false, 14e6, std::nullopt});
    for (const Remark& remark : r.remarks) {
      if (remark.code == "window_missing")
        QVERIFY2(remark.text.find("sampler") != std::string::npos &&
                     remark.text.find("20.5 dBm") != std::string::npos,
                 remark.text.c_str());
    }
    QVERIFY(has_remark(r.remarks, "window_missing"));
    auto record = to_json(chain);
    QVERIFY(chain_from_json(record, "x.json", {}).is_impedance_stated);
    record.erase("impedance_ohm");
    chain = chain_from_json(record, "x.json", {});
    QCOMPARE(chain.impedance_ohm, 50.0);
    QVERIFY(has_remark(evaluate_chain(chain, {20.0, false, 14e6, std::nullopt}).remarks,
                       "impedance_assumed"));
    // Nor does keeping it make it stated.
    QVERIFY(!chain_from_json(to_json(chain), "x.json", {}).is_impedance_stated);
  }

  void a_loss_that_nobody_has_entered_is_no_loss_of_zero() {
    Chain chain = skerry();
    chain.parts[1].is_gain_known = false;
    QVERIFY(refusal([&] {
              evaluate_chain(chain, {30.0, false, 14e6, std::nullopt});
            }).contains("cable"));
    QVERIFY(refusal([&] { total_gain_db(chain, 14e6); }).contains("its loss is not stated"));
    const Part back = part_from_json(to_json(chain.parts[1]), "x", "y", {});
    QVERIFY(!back.is_gain_known);
  }

  void levels_add_up_and_uncertainty_adds_in_squares() {
    const ChainResult r = evaluate_chain(skerry(), {30.0, false, 14.2e6, std::nullopt});
    QCOMPARE(r.nodes.size(), 3U);
    QVERIFY(close(r.nodes[0].level_dbm, 30.0));
    QVERIFY(close(r.nodes[1].level_dbm, -10.0));
    QVERIFY(close(r.nodes[2].level_dbm, -10.5));
    QVERIFY(close(r.total_gain_db, -40.5));
    QCOMPARE(r.nodes[0].u_db, 0.0);
    QVERIFY(close(r.nodes[1].u_db, 0.2));
    QVERIFY(close(r.nodes[2].u_db, std::hypot(0.2, 0.05)));
    QVERIFY(r.is_safe && !r.max_key_down_s);
    QCOMPARE(r.nodes[0].limit, std::string("continuous"));
    QVERIFY(close(*r.nodes[0].margin_db, to_dbm(Watt{20.0}).value - 30.0));
    QCOMPARE(r.nodes[2].limit, std::string("absolute"));
    QVERIFY(close(*r.nodes[2].margin_db, 10.5));
    QVERIFY(!r.nodes[1].rating_dbm && r.nodes[1].limit.empty());
    QVERIFY(r.remarks.empty());
  }

  void heating_follows_its_closed_form() {
    const ThermalRating pad{20.0, 120.0};
    QVERIFY(close(*key_down_time_s(pad, 30.0), 131.833, 5e-4));
    QVERIFY(!key_down_time_s(pad, 20.0));
    QCOMPARE(*key_down_time_s({20.0, std::nullopt}, 30.0), 0.0);
    // What is allowed for a time is what takes that time, and the temperature ends at the rating.
    std::mt19937 random(1);
    std::uniform_real_distribution<double> seconds(0.1, 600.0);
    for (int i = 0; i < 500; ++i) {
      const double t = seconds(random);
      const double power = allowed_power_w(pad, t);
      QVERIFY(close(*key_down_time_s(pad, power), t, 1e-6 * t));
      QVERIFY(close(temperature_after(pad, 0.0, power, t), 1.0, 1e-9));
      // After the rest it says, the same keying ends at the rating again.
      const double key_down = t * 0.5;
      const auto rest = rest_time_s(pad, 1.0, power, key_down);
      QVERIFY(rest.has_value() && *rest > 0.0);
      const double rested = temperature_after(pad, 1.0, 0.0, *rest);
      QVERIFY(close(temperature_after(pad, rested, power, key_down), 1.0, 1e-9));
    }
    // Two halves of a rest are the rest.
    QVERIFY(close(temperature_after(pad, temperature_after(pad, 0.8, 5.0, 40.0), 5.0, 60.0),
                  temperature_after(pad, 0.8, 5.0, 100.0), 1e-12));
    QVERIFY(!rest_time_s(pad, 1.0, 1000.0, 60.0));  // it never can
    QCOMPARE(*rest_time_s(pad, 1.0, 15.0, 60.0), 0.0);
  }

  void thirty_watts_into_a_twenty_watt_pad() {
    Chain chain = skerry();
    chain.parts[1] = part("second pad", "attenuator", -10.0);  // so that the sampler is at ease
    const double dbm = to_dbm(Watt{30.0}).value;
    const ChainResult carrier = evaluate_chain(chain, {dbm, false, 14.2e6, std::nullopt});
    QVERIFY(!carrier.is_safe);
    QVERIFY(close(*carrier.max_key_down_s, 131.833, 5e-4));
    QCOMPARE(carrier.binding, std::string("power pad"));
    QVERIFY(has_remark(carrier.remarks, "overload"));
    QCOMPARE(carrier.remarks.front().severity, Severity::fault);
    // Two tones of 30 W PEP are 15 W on average: within the rating.
    const ChainResult tones = evaluate_chain(chain, {dbm, true, 14.2e6, std::nullopt});
    QVERIFY(tones.is_safe && !tones.max_key_down_s);
    QVERIFY(close(*tones.nodes[0].rating_dbm, to_dbm(Watt{40.0}).value, 1e-6));
    // For a minute the pad stands more than for ever; for three minutes not enough.
    QVERIFY(evaluate_chain(chain, {dbm, false, 14.2e6, 60.0}).is_safe);
    const ChainResult minute = evaluate_chain(chain, {dbm, false, 14.2e6, 60.0});
    QCOMPARE(minute.nodes[0].limit, std::string("key-down"));
    QVERIFY(!evaluate_chain(chain, {dbm, false, 14.2e6, 180.0}).is_safe);
  }

  void an_absolute_rating_stands_no_key_down_at_all() {
    const ChainResult r = evaluate_chain(skerry(), {42.0, true, 14.2e6, 1.0});
    QVERIFY(!r.is_safe);
    QCOMPARE(*r.max_key_down_s, 0.0);
    QCOMPARE(r.binding, std::string("sampler"));
    Chain no_tau = skerry();
    no_tau.parts[0].time_constant_s.reset();
    const ChainResult pad = evaluate_chain(no_tau, {to_dbm(Watt{30.0}).value, false, 14.2e6, 1.0});
    QCOMPARE(*pad.max_key_down_s, 0.0);
    QCOMPARE(pad.nodes[0].limit, std::string("continuous"));
  }

  void mismatch_enters_where_both_sides_are_known() {
    Chain chain = skerry();
    chain.source_vswr = 2.0;
    chain.parts[1].vswr = 1.3;
    const ChainResult r = evaluate_chain(chain, {30.0, false, 14.2e6, std::nullopt});
    const double at_pad = u_mismatch_db(reflection_from_vswr(2.0), reflection_from_vswr(1.15));
    const double at_cable = u_mismatch_db(reflection_from_vswr(1.15), reflection_from_vswr(1.3));
    QVERIFY(close(r.nodes[0].u_db, at_pad));
    QVERIFY(close(r.nodes[1].u_db, std::sqrt(at_pad * at_pad + 0.04 + at_cable * at_cable)));
    QCOMPARE(r.nodes[1].contributions.size(), 3U);
    for (const Contribution& c : r.nodes[2].contributions) QVERIFY(c.scope == Scope::common);
  }

  /// First-order propagation against drawing every part's gain and every mismatch's phase.
  void uncertainty_agrees_with_monte_carlo() {
    Chain chain = skerry();
    chain.source_vswr = 1.5;
    chain.parts[1].vswr = 1.4;
    const ChainResult r = evaluate_chain(chain, {30.0, false, 14.2e6, std::nullopt});
    std::mt19937_64 random(2);
    NormalNumbers<double> normal;
    std::uniform_real_distribution<double> phase(0.0, 6.283185307);
    const auto mismatch = [&](double a, double b) {
      const double g = reflection_from_vswr(a) * reflection_from_vswr(b);
      return 20.0 * std::log10(std::abs(1.0 + std::polar(g, phase(random))));
    };
    double sum = 0.0;
    constexpr int kDraws = 200000;
    for (int i = 0; i < kDraws; ++i) {
      const double error =
          0.2 * normal(random) + 0.05 * normal(random) + mismatch(1.5, 1.15) + mismatch(1.15, 1.4);
      sum += error * error;
    }
    QVERIFY(close(r.nodes[2].u_db, std::sqrt(sum / kDraws), 0.01 * r.nodes[2].u_db));
  }

  void the_best_window_is_advised_with_a_number() {
    const ChainResult hot = evaluate_chain(skerry(), {37.0, false, 14.2e6, std::nullopt});
    QVERIFY(has_remark(hot.remarks, "above_best_window"));
    const ChainResult cold = evaluate_chain(skerry(), {0.0, false, 14.2e6, std::nullopt});
    QVERIFY(has_remark(cold.remarks, "below_best_window"));
    QVERIFY(cold.remarks[0].action.find("23 dB") != std::string::npos);  // to the middle, -17.5
  }

  void tables_are_straight_between_their_points_and_end_at_their_ends() {
    const Gain table({{1e6, -1.0}, {2e6, -3.0}, {4e6, -2.0}}, "cable");
    QVERIFY(close(table.at(1e6, "cable"), -1.0));
    QVERIFY(close(table.at(1.5e6, "cable"), -2.0));
    QVERIFY(close(table.at(3e6, "cable"), -2.5));
    QVERIFY(close(table.at(4e6, "cable"), -2.0));
    for (const double f : {0.999e6, 4.001e6, std::nan("")})
      QVERIFY(refusal([&] { table.at(f, "cable"); }).contains("cable"));
    QVERIFY(refusal([] { Gain({}, "x"); }).contains("no points"));
    QVERIFY(refusal([] { Gain({{2e6, 0.0}, {1e6, 0.0}}, "x"); }).contains("point 2"));
    QVERIFY(refusal([] { Gain({{1e6, 0.0}, {1e6, 0.0}}, "x"); }).contains("rise"));
  }

  void impossible_parts_are_refused_at_their_field_data() {
    QTest::addColumn<QString>("field");
    QTest::addColumn<QString>("words");
    QTest::newRow("gain_db") << "gain_db" << "passive";
    QTest::newRow("kind") << "kind" << "not known";
    QTest::newRow("u_db") << "u_db" << "0 or more";
    QTest::newRow("vswr") << "vswr" << "less than 1";
    QTest::newRow("max_input_w") << "max_input_w" << "above 0";
    QTest::newRow("time_constant_s") << "time_constant_s" << "without a continuous rating";
    QTest::newRow("best_input_dbm") << "best_input_dbm" << "lower end";
    QTest::newRow("middle") << "part 1" << "middle";
    QTest::newRow("empty") << "parts" << "no parts";
  }
  void impossible_parts_are_refused_at_their_field() {
    QFETCH(QString, field);
    QFETCH(QString, words);
    Chain chain = skerry();
    if (field == "gain_db") chain.parts[0].gain = Gain(3.0);
    if (field == "kind") chain.parts[0].kind = "spell";
    if (field == "u_db") chain.parts[0].u_db = -0.1;
    if (field == "vswr") chain.parts[0].vswr = 0.5;
    if (field == "max_input_w") chain.parts[0].max_input_w = 0.0;
    if (field == "time_constant_s") chain.parts[0].max_input_w.reset();
    if (field == "best_input_dbm") chain.parts[2].best_input_dbm = {{-10.0, -25.0}};
    if (field == "part 1") std::swap(chain.parts[0], chain.parts[2]);
    if (field == "parts") chain.parts.clear();
    const QString said =
        refusal([&] { evaluate_chain(chain, {30.0, false, 14.2e6, std::nullopt}); });
    QVERIFY2(said.contains(field) && said.contains(words), qPrintable(said));
  }

  void a_chain_comes_back_from_its_file() {
    Chain chain = skerry();
    chain.source_vswr = 1.8;
    chain.parts[1].gain = Gain({{1e6, -0.1}, {30e6, -0.6}}, "cable");
    const auto record = to_json(chain);
    const Chain back = chain_from_json(record, "x.json", {});
    QVERIFY(to_json(back) == record);
    const Drive drive{33.0, true, 14.2e6, 10.0};
    const ChainResult a = evaluate_chain(chain, drive);
    const ChainResult b = evaluate_chain(back, drive);
    for (std::size_t i = 0; i < a.nodes.size(); ++i) {
      QCOMPARE(a.nodes[i].level_dbm, b.nodes[i].level_dbm);
      QCOMPARE(a.nodes[i].u_db, b.nodes[i].u_db);
      QVERIFY(a.nodes[i].rating_dbm == b.nodes[i].rating_dbm);
    }
  }

  void wrong_files_are_refused_by_part_and_key_data() {
    QTest::addColumn<QByteArray>("change");
    QTest::addColumn<QString>("place");
    QTest::newRow("format") << QByteArray(R"({"format":"music"})") << "format";
    QTest::newRow("version") << QByteArray(R"({"version":7})") << "version";
    QTest::newRow("no parts") << QByteArray(R"({"parts":[]})") << "parts";
    QTest::newRow("part is text") << QByteArray(R"({"parts":["pad"]})") << "part 1";
    QTest::newRow("gain is text")
        << QByteArray(R"({"parts":[{"name":"pad","kind":"attenuator","gain_db":"40"}]})")
        << "part 1";
    QTest::newRow("gain missing") << QByteArray(R"({"parts":[{"name":"pad","kind":"attenuator"}]})")
                                  << "gain_db";
    QTest::newRow("torn point")
        << QByteArray(R"({"parts":[{"name":"c","kind":"cable","gain_db":[[1,2],[3]]}]})")
        << "gain_db";
    QTest::newRow("u is text")
        << QByteArray(R"({"parts":[{"name":"c","kind":"cable","gain_db":-1,"u_db":"some"}]})")
        << "u_db";
    QTest::newRow("source") << QByteArray(R"({"source_vswr":0.3})") << "source_vswr";
  }
  void wrong_files_are_refused_by_part_and_key() {
    QFETCH(QByteArray, change);
    QFETCH(QString, place);
    auto record = to_json(skerry());
    record.update(nlohmann::json::parse(change.toStdString()));
    const QString said = refusal([&] { chain_from_json(record, "x.json", {}); });
    QVERIFY2(said.contains("x.json") && said.contains(place), qPrintable(said));
  }

  void a_chain_file_finds_its_network_beside_it() {
    QTemporaryDir folder;
    const std::filesystem::path path = folder.filePath("chain.json").toStdString();
    std::ofstream(folder.filePath("cable.s2p").toStdString())
        << "! made up\n# MHz S DB R 50\n10 -20 0 -0.4 -90 -0.4 -90 -20 0\n"
           "20 -20 0 -0.6 -170 -0.6 -170 -20 0\n";
    auto record = to_json(skerry());
    record["parts"][1].erase("gain_db");
    record["parts"][1].erase("vswr");
    record["parts"][1]["touchstone"] = "cable.s2p";
    std::ofstream(path) << "\xef\xbb\xbf" << record.dump();
    const ChainResult r = evaluate_chain(read_chain(path), {30.0, false, 15e6, std::nullopt});
    QVERIFY(close(r.total_gain_db, -40.5, 1e-9));
    // Its own reflections, 20 dB down, meet those of the pad.
    QCOMPARE(r.nodes[1].contributions.size(), 2U);
    QVERIFY(refusal([&] {
              evaluate_chain(read_chain(path), {30.0, false, 50e6, std::nullopt});
            }).contains("10 MHz to 20 MHz"));
    std::filesystem::remove(folder.filePath("cable.s2p").toStdString());
    QVERIFY(refusal([&] { read_chain(path); }).contains("cable.s2p"));
    QVERIFY(refusal([&] { read_chain(folder.path().toStdString()); }).contains("folder"));
    std::ofstream(path) << "{";
    QVERIFY(refusal([&] { read_chain(path); }).contains("byte"));
  }
};

HERON_TEST(ChainTest)

}  // namespace chain_test

#include "chain_test.moc"
