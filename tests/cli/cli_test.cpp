#include <QtTest>
#include <fstream>
#include <nlohmann/json.hpp>
#include <random>

#include "core/signal/write_wav.h"
#include "tests/cli/run_cli.h"
#include "tests/core/made_trace.h"
#include "tests/store/made_shack.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace cli_test {

class CliTest : public QObject {
  Q_OBJECT
  QTemporaryDir folder_;
  QString at(const char* name) const { return folder_.filePath(name); }

  void write(const char* name, const TwoToneSignal& signal) {
    write_wav(memory_capture(generate_two_tone(signal), signal.sample_rate_hz),
              at(name).toStdString());
  }

 private slots:
  void initTestCase() {
    TwoToneSignal s;
    s.seconds = 3.0;
    s.nonlinearity.coefficients = {-0.3, 0.1};
    s.noise_dbfs = -75.0;
    write("two.wav", s);
    s.imbalance_db = 200.0;
    write("one.wav", s);
  }

  void a_ladder_of_typed_readings_is_judged() {
    std::ofstream(at("l.csv").toStdString())
        << "# condition: typed from a screen\nsetting;pout_w;im3_dbc;im5_dbc\n30 "
           "W;30,2;-20;-19\n20 "
           "W;20,1;-28;-29,5\n10 W;10;-33,5;-37\n5 W;5;-44;<-55\n";
    const Reply a = run({"ladder", at("l.csv"), "--limit", "-30", "--ceiling", "25 W", "--json"});
    QCOMPARE(a.status, 0);
    const auto j = a.json();
    QVERIFY(all_numbers_finite(j));
    QCOMPARE(j["steps"].size(), 4U);
    QCOMPARE(j["sweet_spot"]["setting"].get<std::string>(), "20 W");
    QCOMPARE(j["quietest"]["setting"].get<std::string>(), "5 W");
    QCOMPARE(j["steps"][3]["products"][1]["bound"].get<std::string>(), "upper");
    QCOMPARE(j["dominance_changes"].size(), 1U);
    QCOMPARE(j["dominance_changes"][0]["to_order"].get<int>(), 5);
    // Straight in dB over dB: IM5 reaches -24 dBc between 20.1 W (-29.5) and 30.2 W (-19); IM3 at
    // that place is -28 + 8/10.5 * 5.5 = -23.8: it is the one that counts.
    const double x0 = 10.0 * std::log10(20100.0);
    const double x1 = 10.0 * std::log10(30200.0);
    const double limit = -30.0 + 6.0206;
    const double at_limit = x0 + (x1 - x0) * std::min((limit + 28.0) / 8.0, (limit + 29.5) / 10.5);
    QVERIFY(std::abs(j["limit_reached"]["pout_dbm"].get<double>() - at_limit) < 0.02);
    QVERIFY(j["limit_reached"]["sure_dbm"].get<double>() < at_limit);
    QVERIFY(j["at_ceiling"]["value"].is_number());
    QVERIFY(j["oip3_dbm"].is_null());
    QCOMPARE(run({"ladder", at("l.csv"), "--limit", "-60", "--fail-on-verdict"}).status, 4);
    QVERIFY(run({"ladder", at("l.csv")}).out.contains("sweet spot"));
  }

  void a_ladder_of_recordings_with_a_hookup_and_an_amplifier_behind() {
    std::ofstream(at("chain.json").toStdString())
        << R"({"format":"even-heron-chain","version":1,"source_vswr":1,"parts":[{"name":"pad","kind":"attenuator","gain_db":-40,"u_db":0.1,"vswr":1},)"
           R"({"name":"sampler","kind":"instrument","full_scale_dbm":10,"vswr":1}]})";
    std::ofstream(at("r.csv").toStdString())
        << "setting,capture,pout_dbm\nfull,two.wav,\nhalf,two.wav,40\n";
    const Reply a =
        run({"ladder", at("r.csv"), "--chain", at("chain.json"), "--center", "14200000", "--json"});
    QVERIFY2(a.status == 0, a.err.constData());
    const auto j = a.json();
    // Two tones of amplitude 0.25 through the polynomial: 0.2369 each, PEP -6.49 dBFS.
    QVERIFY(std::abs(j["steps"][0]["pout_dbm"].get<double>() - (-12.508 + 6.0206 + 10.0 + 40.0)) <
            0.01);
    // The sampler does not say how good its scale is: 0.25 dB is assumed beside the pad's 0.1 dB.
    QVERIFY(std::abs(j["steps"][0]["u_pout_db"].get<double>() - std::hypot(0.1, 0.25)) < 1e-9);
    QCOMPARE(j["steps"][1]["pout_dbm"].get<double>(), 40.0);
    std::ofstream(at("e.csv").toStdString()) << "setting,pout_w,im3_dbc\n5 W,5,-44\n20 W,20,-30\n";
    std::ofstream(at("a.csv").toStdString())
        << "setting,pout_w,im3_dbc\n4 W,40,-40\n16 W,120,-28\n";
    std::ofstream(at("p.csv").toStdString()) << "setting,pout_w,im3_dbc\n10 W,85,-20\n";
    const auto d = run({"ladder", at("e.csv"), "--amplifier", at("a.csv"), "--pair", at("p.csv"),
                        "--limit", "-36", "--json"})
                       .json()["driven"];
    QVERIFY(d["points"].size() > 40);
    QCOMPARE(d["measured"][0]["place"].get<std::string>(), "above");
    QVERIFY(d["exciter_at_limit_dbm"].is_number());
  }

  void a_trace_is_read_like_a_recording() {
    std::ofstream(at("trace.csv").toStdString(), std::ios::binary)
        << "\xEF\xBB\xBF" + heron::testing::made_trace("\r\n");
    const auto j = run({"two-tone", at("trace.csv"), "--json"}).json();
    QVERIFY(all_numbers_finite(j));
    QVERIFY(std::abs(j["tones"][0]["frequency_hz"].get<double>() - 14200650) < 2.0);
    QVERIFY(std::abs(j["worst_dbc"].get<double>() + 29.0) < 0.1);
    QVERIFY(std::abs(j["pep_dbm"].get<double>() + 0.98) < 0.05);
    const auto c = run({"two-tone", at("trace.csv"), "--center", "14200000", "--json"}).json();
    QVERIFY(std::abs(c["tones"][0]["frequency_hz"].get<double>() - 650) < 2.0);
    QVERIFY(std::abs(c["tones"][0]["rf_hz"].get<double>() - 14200650) < 2.0);
    std::ofstream(at("pad.json").toStdString())
        << R"({"format":"even-heron-chain","version":1,"parts":[{"name":"pad","kind":"attenuator","gain_db":[[14e6,-40],[15e6,-41]],"u_db":0.1},)"
           R"({"name":"analyser","kind":"instrument"}]})";
    const auto r = run({"two-tone", at("trace.csv"), "--chain", at("pad.json"), "--json"}).json();
    QVERIFY2(std::abs(r["pep_dbm"].get<double>() - (-0.98 + 40.2013)) < 0.05,
             qPrintable(QString::number(r["pep_dbm"].get<double>())));
    QCOMPARE(run({"two-tone", at("trace.csv"), "--start", "1"}).status, 2);
  }

  void age_widens_a_chain_with_its_date() {
    std::ofstream(at("old.json").toStdString())
        << R"({"format":"even-heron-chain","version":1,"source_vswr":1,"parts":[{"name":"pad","kind":"attenuator","gain_db":-40,"u_db":0.1,"vswr":1,)"
           R"("calibrated":"2025-01-01","interval_months":12,"ageing_u_db_per_month":0.01},{"name":"sampler","kind":"instrument"}]})";
    const auto u = [&](const QStringList& more) {
      return run(QStringList{"chain", at("old.json"), "--in-dbm", "30", "--freq", "1e6", "--json"} +
                 more)
          .json()["nodes"][1]["u_db"]
          .get<double>();
    };
    QVERIFY(std::abs(u({}) - 0.1) < 1e-9);
    QVERIFY(std::abs(u({"--date", "2026-01-01"}) - std::hypot(0.1, 0.01 * 365.0 / 30.436875)) <
            1e-6);
  }

  void level_answers_in_every_unit() {
    const Reply a = run({"level", "12.7 mVrms", "--json"});
    QCOMPARE(a.status, 0);
    const auto j = a.json();
    QVERIFY(std::abs(j["dbm"].get<double>() + 24.914) < 5e-4);
    for (const char* key : {"tool", "version", "method", "input", "figures", "remarks", "verdicts",
                            "watt", "v_rms", "v_peak", "v_pp", "v_emf", "dbuv", "s_units_hf"})
      QVERIFY2(j.contains(key), key);
    QVERIFY(std::abs(run({"level", "0.32 uV", "--emf", "--json"}).json()["dbm"].get<double>() +
                     122.907) < 5e-4);
    QVERIFY(
        std::abs(run({"level", "1 V", "--impedance", "75", "--json"}).json()["dbm"].get<double>() -
                 11.249) < 5e-4);
    QVERIFY(std::abs(run({"level", "-73 dBm", "--json"}).json()["v_rms"].get<double>() - 50.06e-6) <
            1e-8);
    QVERIFY(run({"level", "30 W"}).out.contains("44.771 dBm"));
  }

  void two_tone_keeps_its_contract() {
    const Reply a = run(
        {"two-tone", at("two.wav"), "--json", "--full-scale-dbm", "50", "--center", "14200000"});
    QCOMPARE(a.status, 0);
    QVERIFY(a.err.isEmpty());
    const auto j = a.json();
    QVERIFY(all_numbers_finite(j));
    for (const char* key :
         {"sample_rate_hz", "rbw_hz", "window", "averages", "tones", "pep_dbfs", "pep_dbm",
          "products", "worst_dbc", "worst_db_pep", "worst_order", "carrier_dbc",
          "usable_dynamic_range_db", "figures", "remarks", "verdicts"})
      QVERIFY2(j.contains(key), key);
    QVERIFY(std::abs(j["worst_dbc"].get<double>() + 35.028) < 0.02);
    QVERIFY(std::abs(j["worst_db_pep"].get<double>() + 41.049) < 0.02);
    QVERIFY(std::abs(j["tones"][0]["level_dbm"].get<double>() - (50.0 - 12.508)) < 0.02);
    QVERIFY(std::abs(j["tones"][0]["rf_hz"].get<double>() - 14200650.0) < 0.1);
    const auto& p = j["products"][0];
    for (const char* key : {"order", "side", "frequency_hz", "level_dbc", "level_db_pep", "u_db",
                            "bound", "floor_dbc"})
      QVERIFY2(p.contains(key), key);
    QVERIFY(j["verdicts"].empty());
  }

  void exit_statuses_are_those_of_the_contract() {
    QCOMPARE(run({}).status, 2);
    QCOMPARE(run({"two-tone"}).status, 2);
    QCOMPARE(run({"fly"}).status, 2);
    QCOMPARE(run({"two-tone", at("two.wav"), "--orders", "many"}).status, 2);
    QCOMPARE(run({"--help"}).status, 0);
    QCOMPARE(run({"--version"}).status, 0);
    const Reply absent = run({"two-tone", at("absent.wav"), "--json"});
    QCOMPARE(absent.status, 3);
    QVERIFY(absent.out.isEmpty() && absent.err.contains("absent.wav"));
    QCOMPARE(run({"two-tone", folder_.path()}).status, 3);
    QCOMPARE(run({"level", "junk"}).status, 3);
    QCOMPARE(run({"two-tone", at("two.wav"), "--limit", "-30", "--fail-on-verdict"}).status, 0);
    QCOMPARE(run({"two-tone", at("two.wav"), "--limit", "-50", "--fail-on-verdict"}).status, 4);
    QCOMPARE(run({"two-tone", at("two.wav"), "--limit", "-50"}).status, 0);
    QCOMPARE(run({"two-tone", at("two.wav"), "--limit", "-38", "--limit-relative", "one-tone",
                  "--fail-on-verdict"})
                 .status,
             4);
  }

  void one_tone_is_a_fault_not_a_failure() {
    const Reply a = run({"two-tone", at("one.wav"), "--json"});
    QCOMPARE(a.status, 0);
    const auto j = a.json();
    QVERIFY(j["products"].empty());
    QCOMPARE(j["remarks"][0]["severity"].get<std::string>(), std::string("fault"));
    QVERIFY(j["worst_dbc"].is_null());
  }

  void parts_and_named_tones_are_used() {
    const auto j = run({"two-tone", at("two.wav"), "--json", "--start", "1", "--length", "1.5",
                        "--tones", "650,1850", "--orders", "5"})
                       .json();
    QVERIFY(std::abs(j["worst_dbc"].get<double>() + 35.028) < 0.03);
    QCOMPARE(j["products"].size(), 4U);
    QCOMPARE(run({"two-tone", at("two.wav"), "--start", "9"}).status, 3);
    QCOMPARE(run({"two-tone", at("two.wav"), "--tones", "650,99000"}).status, 3);
  }

  void a_recording_that_begins_before_the_key_says_what_was_measured() {
    TwoToneSignal s;
    s.seconds = 3.0;
    s.nonlinearity.coefficients = {-0.3, 0.1};
    s.noise_dbfs = -75.0;
    auto x = generate_two_tone(s);
    std::vector<std::complex<float>> before(4 * 48000);
    std::mt19937_64 random(3);
    add_noise(before, -75.0, random);
    before.insert(before.end(), x.begin(), x.end());
    write_wav(memory_capture(before, 48000.0), at("early.wav").toStdString());
    const auto j = run({"two-tone", at("early.wav"), "--json"}).json();
    QVERIFY(std::abs(j["worst_dbc"].get<double>() + 35.028) < 0.03);
    QVERIFY(j["part"]["start_s"].get<double>() >= 4.0);
    QCOMPARE(j["part"]["chosen"].get<bool>(), false);
    QCOMPARE(j["keyed"].size(), 1U);
    QVERIFY(std::any_of(j["remarks"].begin(), j["remarks"].end(),
                        [](const auto& r) { return r["code"] == "keyed_part"; }));
    const auto chosen =
        run({"two-tone", at("early.wav"), "--json", "--start", "5", "--length", "1.5"}).json();
    QCOMPARE(chosen["part"]["chosen"].get<bool>(), true);
    QCOMPARE(chosen["part"]["start_s"].get<double>(), 5.0);
    QCOMPARE(run({"bandwidth", at("early.wav"), "--json"}).json()["keyed"].size(), 1U);
    const auto lines = run({"purity", at("early.wav"), "--carrier", "14200650", "--center",
                            "14200000", "--mask", "none", "--json", "--start", "4.5"});
    QCOMPARE(lines.status, 0);
  }

  void an_unknown_recorder_is_assumed_and_said() {
    const auto find = [](const nlohmann::json& j, const char* code) {
      return std::any_of(j["remarks"].begin(), j["remarks"].end(),
                         [&](const auto& r) { return r["code"] == code; });
    };
    const auto assumed = run({"two-tone", at("two.wav"), "--json"}).json();
    QVERIFY(find(assumed, "linearity_assumed"));
    QVERIFY(assumed["products"][0]["u_db"].get<double>() >= 0.25);
    const auto stated = run({"two-tone", at("two.wav"), "--json", "--linearity", "0.4"}).json();
    QVERIFY(std::abs(stated["products"][0]["u_db"].get<double>() - 0.4) < 0.01);
    QVERIFY(!find(stated, "linearity_assumed"));
    const auto out = run({"two-tone", at("two.wav"), "--json", "--linearity", "0"}).json();
    QVERIFY(find(out, "linearity_left_out"));
    QVERIFY(out["products"][0]["u_db"].get<double>() < 0.05);
    const auto lines = run({"purity", at("two.wav"), "--carrier", "14200650", "--center",
                            "14200000", "--mask", "none", "--json"})
                           .json();
    QVERIFY(find(lines, "linearity_assumed"));
  }

  void a_hookup_refers_levels_to_the_device() {
    std::ofstream(at("chain.json").toStdString())
        << R"({"format":"even-heron-chain","version":1,"source_vswr":1,"parts":[)"
        << R"({"name":"pad","kind":"attenuator","gain_db":-40,"u_db":0.2,"vswr":1},)"
        << R"({"name":"sampler","kind":"instrument","u_db":0.5,"vswr":1}]})";
    const QStringList common{"two-tone", at("two.wav"),      "--json",
                             "--chain",  at("chain.json"),   "--center",
                             "14200000", "--full-scale-dbm", "7"};
    const auto j = run(common).json();
    QVERIFY(std::abs(j["tones"][0]["level_dbm"].get<double>() - (47.0 - 12.508)) < 0.02);
    QVERIFY(std::abs(j["worst_dbc"].get<double>() + 35.028) < 0.02);
    for (const auto& f : j["figures"]) {
      if (f["id"] == "pep") QVERIFY(std::abs(f["u"].get<double>() - std::hypot(0.2, 0.5)) < 0.01);
    }
    // Parts with plain numbers lose the same at any frequency; a table asks for one.
    const auto plain = run({"two-tone", at("two.wav"), "--chain", at("chain.json"),
                            "--full-scale-dbm", "7", "--json"});
    QCOMPARE(plain.status, 0);
    QVERIFY(std::abs(plain.json()["pep_dbm"].get<double>() - j["pep_dbm"].get<double>()) < 1e-6);
    std::ofstream(at("table.json").toStdString())
        << R"({"format":"even-heron-chain","version":1,"parts":[)"
        << R"({"name":"pad","kind":"attenuator","gain_db":[[1e6,-40],[3e7,-39]]},)"
        << R"({"name":"sampler","kind":"instrument"}]})";
    QCOMPARE(run({"two-tone", at("two.wav"), "--chain", at("table.json")}).status, 2);
    QCOMPARE(run({"two-tone", at("two.wav"), "--chain", at("absent.json"), "--center", "0"}).status,
             3);
    const auto c = run({"chain", at("chain.json"), "--in-dbm", "30", "--freq", "14.2e6", "--json"});
    QCOMPARE(c.status, 0);
    QVERIFY(std::abs(c.json()["nodes"][1]["level_dbm"].get<double>() + 10.0) < 1e-9);
    // 1 W into a pad that nobody has rated is not known to be safe.
    QCOMPARE(c.json()["safe"].get<bool>(), false);
    QCOMPARE(c.json()["unrated"], nlohmann::json::array({"pad"}));
    std::ofstream(at("rated.json").toStdString())
        << R"({"format":"even-heron-chain","version":1,"parts":[)"
        << R"({"name":"pad","kind":"attenuator","gain_db":-40,"max_input_w":20},)"
        << R"({"name":"sampler","kind":"instrument","max_input_dbm":10}]})";
    const auto rated =
        run({"chain", at("rated.json"), "--in-dbm", "30", "--freq", "14.2e6", "--json"}).json();
    QCOMPARE(rated["safe"].get<bool>(), true);
    QVERIFY(rated["unrated"].empty());
    QVERIFY(rated["max_key_down_s"].is_null());
  }

  void tone_pairs_are_judged() {
    QCOMPARE(run({"tone-pair", "900,1800", "--json"}).json()["usable"].get<bool>(), false);
    const auto j = run({"tone-pair", "650,1850", "--json"}).json();
    QCOMPARE(j["usable"].get<bool>(), true);
    QVERIFY(j["suggestions"].size() >= 1);
    QCOMPARE(run({"tone-pair", "650,650"}).status, 2);
  }

  void a_report_comes_out_of_a_shack() {
    MadeShack made;
    const QString shack = made.folder.path();
    made.shack.reset();
    QVERIFY(run({"report", shack}).out.contains("Reedling 30"));
    const QString id = QString::number(made.evaluation_id);
    QVERIFY(run({"report", shack, "--evaluation", id}).out.startsWith("<!doctype html>"));
    QVERIFY(run({"report", shack, "--evaluation", id, "--format", "csv"})
                .out.startsWith("test,step,figure"));
    QVERIFY(all_numbers_finite(run({"report", shack, "--evaluation", id, "--json"}).json()));
    QCOMPARE(run({"report", shack, "--evaluation", id, "--out", at("r.html")}).status, 0);
    QVERIFY(QFile(at("r.html")).size() > 1000);
    QCOMPARE(run({"report", shack, "--evaluation", "999"}).status, 3);
    QCOMPARE(run({"report", at("nowhere")}).status, 3);
  }

  void signals_are_made_and_their_bandwidth_told() {
    const Reply made = run({"make-signal", "notched-noise", at("n.wav"), "--seconds", "20",
                            "--bits", "16", "--rate", "44100", "--json"});
    QCOMPARE(made.status, 0);
    const nlohmann::json m = made.json();
    QVERIFY(m["path"] == at("n.wav").toStdString() && m["bits"] == 16 && m["rate_hz"] == 44100.0);
    QVERIFY(std::abs(m["peak_dbfs"].get<double>() + 3.0) < 0.05);
    QVERIFY(std::abs(m["peak_dbfs"].get<double>() - m["rms_dbfs"].get<double>() + 3.0103 -
                     m["crest_factor_db"].get<double>()) < 1e-6);
    const Reply width = run({"bandwidth", at("n.wav"), "--json"});
    QCOMPARE(width.status, 0);
    const nlohmann::json w = width.json();
    QVERIFY(all_numbers_finite(w));
    QVERIFY(std::abs(w["occupied_bandwidth_hz"].get<double>() - 2370.0) < 25.0);
    QVERIFY(w["lower_hz"] < 330.0 && w["upper_hz"] > 2660.0);
    QVERIFY(w["x26_hz"] > w["occupied_bandwidth_hz"]);
    QVERIFY(!w["acpr"].empty() && w["acpr"][0]["ratio_db"] < 0.0);
    QCOMPARE(run({"bandwidth", at("n.wav"), "--limit", "2500", "--fail-on-verdict"}).status, 0);
    QCOMPARE(run({"bandwidth", at("n.wav"), "--limit", "2000", "--fail-on-verdict"}).status, 4);
    QCOMPARE(run({"bandwidth", at("n.wav"), "--fail-on-verdict"}).status, 2);
    QCOMPARE(run({"make-signal", "two-tone", at("x.wav"), "--tones", "650,99000"}).status, 3);
    QCOMPARE(run({"make-signal", "warble", at("x.wav")}).status, 2);
    QVERIFY(!QFile::exists(at("x.wav")));
  }

  void purity_is_judged_by_a_mask() {
    // A transmitter at 100 kHz as a fast sampler sees all of it: second harmonic at -45 dBc.
    std::vector<Sinusoid> lines{{100e3, 0.5},
                                {200e3, 0.5 * std::pow(10.0, -45.0 / 20.0)},
                                {300e3, 0.5 * std::pow(10.0, -65.0 / 20.0)}};
    write_wav(memory_capture(generate_sinusoids(lines, 1e6, 1U << 19U, -75.0, 3), 1e6),
              at("p.wav").toStdString());
    const QStringList base{"purity", at("p.wav"), "--carrier", "100000", "--json"};
    const nlohmann::json relative = run(base).json();
    QVERIFY(relative["carrier_dbm"].is_null() && relative["worst_margin_db"].is_null());
    const Reply answer = run(base + QStringList{"--full-scale-dbm", "50.79"});
    QCOMPARE(answer.status, 0);
    const nlohmann::json j = answer.json();
    QVERIFY(all_numbers_finite(j));
    QVERIFY(std::abs(j["carrier_dbm"].get<double>() - 44.77) < 0.02);
    // 30 W: 50 dB below 30 MHz.
    QVERIFY(std::abs(j["worst_margin_db"].get<double>() + 5.0) < 0.1);
    QVERIFY(j["lines"][0]["kind"] == "carrier" && j["lines"][0]["harmonic"] == 1);
    int harmonics = 0;
    for (const auto& line : j["lines"]) harmonics += line["kind"] == "harmonic" ? 1 : 0;
    QCOMPARE(harmonics, 3);  // the fourth as a bound
    QVERIFY(j["filter"]["order"] == 3);
    QCOMPARE(j["verdicts"][0]["verdict"], "fail");
    QCOMPARE(run(base + QStringList{"--full-scale-dbm", "50.79", "--fail-on-verdict"}).status, 4);
    QCOMPARE(run(base + QStringList{"--mask", "none", "--fail-on-verdict"}).status, 2);
    std::ofstream(at("m.json").toStdString())
        << R"({"format":"even-heron-mask","version":1,"name":"wide","segments":)"
           R"([{"from_hz":1000,"to_hz":1000000,"limit_dbc":-40}]})";
    const Reply wide = run(base + QStringList{"--mask", at("m.json"), "--fail-on-verdict"});
    QVERIFY(std::abs(wide.json()["worst_margin_db"].get<double>() - 5.0) < 0.1);
    // The recording ends before the mask does: no pass.
    QCOMPARE(wide.status, 4);
    QCOMPARE(wide.json()["verdict"], "incomplete");
    QVERIFY(std::abs(wide.json()["unjudged"][0]["from_hz"].get<double>() - 450e3) < 10.0);
    std::ofstream(at("n.json").toStdString())
        << R"({"format":"even-heron-mask","version":1,"name":"narrow","segments":)"
           R"([{"from_hz":1000,"to_hz":450000,"limit_dbc":-40}]})";
    const Reply narrow = run(base + QStringList{"--mask", at("n.json"), "--fail-on-verdict"});
    QCOMPARE(narrow.status, 0);
    QCOMPARE(narrow.json()["verdict"], "pass");
    std::ofstream(at("bad.json").toStdString()) << R"({"format":"even-heron-mask","version":1})";
    const Reply bad = run(base + QStringList{"--mask", at("bad.json")});
    QCOMPARE(bad.status, 3);
    QVERIFY(bad.out.isEmpty() && bad.err.contains("segments"));
    const Reply nowhere = run({"purity", at("p.wav"), "--carrier", "350000", "--json"});
    QCOMPARE(nowhere.status, 3);
    QVERIFY(nowhere.err.contains("100.0000 kHz") || nowhere.err.contains("100"));
    QCOMPARE(run({"purity", at("p.wav"), "--json"}).status, 2);
  }
};

HERON_LOOP_TEST(CliTest)

}  // namespace cli_test

#include "cli_test.moc"
