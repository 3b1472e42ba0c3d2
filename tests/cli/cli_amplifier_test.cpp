#include <QtTest>

#include "tests/cli/run_cli.h"
#include "tests/cli/written_files.h"
#include "tests/test_program.h"

using namespace heron::testing;

namespace cli_amplifier_test {

/// The command amplifier: drive steps and a sweep from one file.
class CliAmplifierTest : public QObject {
  Q_OBJECT
  WrittenFiles files_;

 private slots:
  void steps_and_response_of_one_file() {
    const QString file =
        files_.written("a.csv",
                       "\xEF\xBB\xBF"
                       "frequency_hz,pin_before_dbm,pin_after_dbm,pout_dbm,v_dc,i_dc,h2_dbc\r\n"
                       "1296.2e6,20.00,20.00,34.42,27.8,1.39,\r\n"
                       "1296.2e6,30.00,30.00,44.28,27.5,3.26,-64\r\n"
                       "1296.2e6,33.01,33.01,46.58,27.4,4.10,-61\r\n"
                       "1296.2e6,34.77,34.77,47.32,27.4,4.42,-58\r\n"
                       "1240e6,20.00,20.00,33.20,27.8,1.30,\r\n");
    const Reply reply =
        run({"amplifier", file, "--gain", "13", "--rated-in", "3 W", "--rated-out", "60 W",
             "--supply-limit", "4.5", "--nominal-volts", "28", "--least-p1db", "47 dBm", "--json"});
    QVERIFY2(reply.status == 0, reply.err.constData());
    const auto j = reply.json();
    QVERIFY(all_numbers_finite(j));
    QCOMPARE(j["steps"].size(), 4U);
    QVERIFY(std::abs(j["small_signal_gain_db"].get<double>() - 14.42) < 0.03);
    QVERIFY(std::abs(j["p1db_out_dbm"].get<double>() - 46.8) < 0.1);
    QVERIFY(j["p1db_bound"].is_null());
    QVERIFY(std::abs(j["max_efficiency"].get<double>() - 0.4455) < 0.001);
    QVERIFY(std::abs(j["steps"][3]["gain_db"].get<double>() - 12.55) < 1e-9);
    QVERIFY(j["steps"][3]["pae"].get<double>() < j["steps"][3]["efficiency"].get<double>());
    QVERIFY(std::abs(j["steps"][3]["heat_w"].get<double>() - 70.1) < 0.2);
    QCOMPARE(j["response"].size(), 2U);
    QVERIFY(std::abs(j["response"][0]["relative_db"].get<double>() + 1.22) < 1e-6);
    QCOMPARE(j["response"][1]["relative_db"].get<double>(), 0.0);
    QCOMPARE(j["verdicts"].size(), 3U);
    QVERIFY(reply.out.contains("supply_limit") && reply.out.contains("\"sag\""));
    const Reply table = run({"amplifier", file});
    QVERIFY(table.out.contains("Small-signal gain") && table.out.contains("1 dB compression"));
    QCOMPARE(run({"amplifier", file, "--least-p1db", "49 dBm", "--fail-on-verdict"}).status, 4);
    QCOMPARE(run({"amplifier", file, "--fail-on-verdict"}).status, 2);
  }

  void chains_refer_levels_to_the_device() {
    const QString out = files_.written(
        "out.json", R"({"format":"even-heron-chain","version":1,"impedance_ohm":50,"parts":[
      {"name":"pad","kind":"attenuator","gain_db":-40.0,"u_db":0.2,"max_input_w":100},
      {"name":"meter","kind":"instrument","gain_db":0,"u_db":0.1,"max_input_dbm":20}]})");
    const QString in = files_.written(
        "in.json", R"({"format":"even-heron-chain","version":1,"impedance_ohm":50,"parts":[
      {"name":"cable","kind":"cable","gain_db":-1.0,"u_db":0.1,"max_input_w":100},
      {"name":"device","kind":"device","gain_db":0,"max_input_w":5}]})");
    const QString file = files_.written("b.csv", "pin_dbm,pout_dbm\n11,-10\n21,0\n");
    const auto j = run({"amplifier", file, "--chain-in", in, "--chain-out", out, "--json"}).json();
    QVERIFY(std::abs(j["steps"][0]["pin_dbm"].get<double>() - 10.0) < 1e-9);
    QVERIFY(std::abs(j["steps"][0]["pout_dbm"].get<double>() - 30.0) < 1e-9);
    QVERIFY(std::abs(j["small_signal_gain_db"].get<double>() - 20.0) < 1e-9);
    QVERIFY(j["small_signal_gain_u_db"].get<double>() > 0.2);
    QCOMPARE(j["p1db_bound"], "lower");
    // One meter through one chain: its ± is gone.
    const QString both =
        files_.written("c.csv", "pin_before_dbm,pin_after_dbm,pout_dbm\n-30,-30,-10\n-20,-20,0\n");
    const auto one = run({"amplifier", both, "--one-meter", "--chain-out", out, "--json"}).json();
    QVERIFY(std::abs(one["small_signal_gain_db"].get<double>() - 20.0) < 1e-9);
    QVERIFY(one["small_signal_gain_u_db"].get<double>() < 0.05);
  }

  void what_cannot_be_read_is_named() {
    for (const char* wrong :
         {"pout_dbm\n47\n", "pin_dbm,pout_dbm\nloud,47\n", "pin_w,pout_w\n-1,10\n",
          "pin_w,pout_w\n1,0\n", "pin_dbm,pout_dbm,v_dc\n30,47,0\n",
          "pin_dbm,pout_dbm,i_dc\n30,47,-1\n", "pin_dbm,pout_dbm\n", ""}) {
      const Reply reply = run({"amplifier", files_.written("wrong.csv", wrong), "--json"});
      QCOMPARE(reply.status, 3);
      QVERIFY2(reply.out.isEmpty() && !reply.err.isEmpty(), wrong);
    }
    const Reply negative =
        run({"amplifier", files_.written("wrong.csv", "pin_w,pout_w\n1,10\n2,-5\n"), "--json"});
    QVERIFY2(negative.err.contains("line 3") && negative.err.contains("pout_w"),
             negative.err.constData());
    // A row that is odd does not take the others away.
    const auto j =
        run({"amplifier", files_.written("odd.csv", "pin_dbm,pout_dbm\n20,34.4\n30,12\n25,39.4\n"),
             "--json"})
            .json();
    QVERIFY(std::abs(j["small_signal_gain_db"].get<double>() - 14.4) < 0.01);
    QVERIFY(j["steps"][1]["gain_db"].is_null());
    bool is_named = false;
    for (const auto& r : j["remarks"])
      is_named =
          is_named || (r["code"] == "row" && r["text"].get<std::string>().find("line 3") == 0);
    QVERIFY(is_named);
    QCOMPARE(run({"amplifier", files_.written("one.csv", "pin_dbm,pout_dbm\n20,34.4\n"), "--json"})
                 .json()["p1db_out_dbm"]
                 .is_null(),
             true);
  }
};

HERON_LOOP_TEST(CliAmplifierTest)

}  // namespace cli_amplifier_test

#include "cli_amplifier_test.moc"
