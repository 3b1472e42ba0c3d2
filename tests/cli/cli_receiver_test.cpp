#include <QtTest>
#include <random>

#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "core/signal/write_wav.h"
#include "tests/cli/run_cli.h"
#include "tests/cli/written_files.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace cli_receiver_test {

/// The commands about receivers, as a script sees them.
class CliReceiverTest : public QObject {
  Q_OBJECT
  WrittenFiles files_;

  QString audio(const char* name, double tone, double rate = 8000.0) {
    std::vector<float> x(static_cast<std::size_t>(8.0 * rate));
    std::mt19937_64 random(tone > 0.0 ? 2 : 1);
    NormalNumbers<double> normal(0.0, 0.05);
    for (std::size_t i = 0; i < x.size(); ++i)
      x[i] = static_cast<float>(normal(random) + tone * std::sin(2.0 * 3.14159265358979 * 880.0 *
                                                                 static_cast<double>(i) / rate));
    write_wav(memory_capture(std::move(x), rate), files_.at(name).toStdString());
    return files_.at(name);
  }

 private slots:
  void a_table_becomes_levels_for_ten_decibels() {
    const QString file = files_.written(
        "s.csv",
        "frequency_hz,level,level_unit,u_level_db,audio_off,audio_on,audio_unit,meter,bandwidth_hz,"
        "spec_level,spec_unit\n"
        "14200000,1,uV_emf,0.5,0,10,dB,true-rms,2400,0.5,uV_pd\n"
        "14200000,0.5,uV_pd,0.5,0,10.833,dB,average,2400,,\n"
        "24940000,-113,dBm,0.5,49.08,127.0,mV,true-rms,2400,-113,dBm\n"
        "1850000,-130,dBm,0.5,0,3.0103,dB,,2400,,\n");
    const auto j = json_of({"sensitivity", file});
    QVERIFY(all_numbers_finite(j));
    const auto& rows = j["rows"];
    QCOMPARE(rows.size(), 4U);
    QVERIFY(is_near(rows[0]["level_dbm"], -113.01, 0.01));
    QVERIFY(is_near(rows[0]["level_for_10db_dbm"], -113.01, 0.01));
    QVERIFY(is_near(rows[0]["level_for_10db_uv_pd"], 0.5, 0.001));
    QVERIFY(is_near(rows[0]["level_for_10db_uv_emf"], 1.0, 0.002));
    QVERIFY(is_near(rows[0]["sn_db"], 9.542, 0.001));
    QVERIFY(is_near(rows[1]["sn_n_db"], 10.0, 0.003));
    QVERIFY(is_near(rows[2]["level_for_10db_dbm"], -111.0, 0.05));
    QVERIFY(is_near(rows[3]["mds_dbm"], -130.0, 0.01));
    QVERIFY(is_near(rows[3]["nf_db"], 10.2, 0.01));
    QCOMPARE(j["verdicts"].size(), 2U);
    QCOMPARE(run({"sensitivity", file, "--fail-on-verdict"}).status, 4);
    // A bandwidth changes the noise figure only.
    const auto narrow = json_of({"sensitivity", file, "--bandwidth", "500"});
    QVERIFY(is_near(narrow["rows"][3]["nf_db"], 10.2 + 6.81, 0.01));
    QVERIFY(is_near(narrow["rows"][3]["mds_dbm"], -130.0, 0.01));
    QVERIFY(run({"sensitivity", file}).out.contains("for 10 dB"));
  }

  void pads_between_are_taken_off() {
    const QString file = files_.written("p.csv",
                                        "frequency_hz,level,audio_off,audio_on,audio_unit\n"
                                        "14200000,-93,0,10,dB\n");
    const QString chain = files_.written(
        "pad.json", R"({"format": "even-heron-chain", "version": 1, "impedance_ohm": 50,
                        "parts": [{"name": "pad", "kind": "attenuator", "gain_db": -20, "u_db": 0.2}]})");
    const auto j = json_of({"sensitivity", file, "--chain", chain});
    QVERIFY(is_near(j["rows"][0]["level_dbm"], -113.0, 0.001));
    QVERIFY(j["rows"][0]["nf_db"].is_null());
    QVERIFY(j["rows"][0]["u_db"].get<double>() > 0.5);
  }

  void two_recordings_are_one_row() {
    const QString noise = audio("noise.wav", 0.0);
    const QString signal = audio("signal.wav", 0.2);
    const auto j = json_of({"sensitivity", "--noise", noise, "--signal", signal, "--level",
                            "0.5 uV", "--frequency", "14.2e6"});
    const auto& row = j["rows"][0];
    const double sn = 10.0 * std::log10(0.02 / 0.0025);
    QVERIFY(is_near(row["sn_db"], sn, 0.2));
    QVERIFY(is_near(row["level_for_10db_dbm"], -113.01 + 9.542 - sn, 0.2));
    QVERIFY(is_near(row["tone_hz"], 880.0, 0.2));
    QVERIFY(is_near(row["sinad_db"], row["sn_n_db"].get<double>(), 0.5));
    QVERIFY(row["bandwidth_hz"].get<double>() > 3500.0 &&
            row["bandwidth_hz"].get<double>() < 4200.0);
    QCOMPARE(run({"sensitivity", "--noise", noise, "--signal", signal, "--level", "loud"}).status,
             3);
    QCOMPARE(run({"sensitivity", "--noise", noise}).status, 2);
    QCOMPARE(run({"sensitivity"}).status, 2);
    QCOMPARE(run({"sensitivity", "--noise", signal, "--signal", noise, "--level", "1 uV"}).status,
             3);
  }

  void what_cannot_be_used_says_where() {
    const QString dead = files_.written("d.csv",
                                        "level,audio_off,audio_on,audio_unit\n"
                                        "-113,10,10,dB\n");
    QCOMPARE(run({"sensitivity", dead}).status, 3);
    // Beside a good row it is a fault and null.
    const QString both = files_.written("b.csv",
                                        "level,audio_off,audio_on,audio_unit\n"
                                        "-113,10,10,dB\n-113,0,10,dB\n");
    const auto j = json_of({"sensitivity", both});
    QVERIFY(j["rows"][0]["sn_n_db"].is_null() && j["rows"][1]["sn_n_db"].is_number());
    QCOMPARE(j["remarks"][0]["severity"], "fault");
    for (const char* text : {"level,audio_off\n-113,0\n", "level,audio_off,audio_on\nx,0,10\n",
                             "level,audio_off,audio_on,audio_unit\n-113,0,10,furlongs\n",
                             "level,level_unit,audio_off,audio_on\n-1,uV_pd,1,2\n",
                             "level,audio_off,audio_on,audio_unit\n-113,0,10,mV\n", ""}) {
      const Reply r = run({"sensitivity", files_.written("bad.csv", text)});
      QCOMPARE(r.status, 3);
      QVERIFY(!r.err.isEmpty() && r.out.isEmpty());
    }
  }

  void a_conversion_gain_shows_its_arithmetic() {
    const auto j = json_of({"conversion-gain", "--in-dbm", "-53", "--out-dbm", "-14.1", "--u-in",
                            "0.3", "--u-out", "0.4"});
    QVERIFY(is_near(j["gain_db"], 38.9, 1e-9) && is_near(j["u_db"], 0.5, 1e-9));
    QVERIFY(run({"conversion-gain", "--in-dbm", "-53", "--out-dbm", "-14.1"}).out.contains("38.9"));
    QCOMPARE(run({"conversion-gain", "--in-dbm", "-53"}).status, 2);
  }

  void an_indicator_is_read_in_units_and_segments() {
    const QString file = files_.written(
        "i.csv",
        "frequency_hz,level_dbm,reading\n14200000,-110.5,S1\n14200000,-96.2,S5\n"
        "14200000,-78.4,S9\n14200000,-59.8,S9+20\n50000000,-99,S8\n50000000,-93,S9\n");
    const auto j = json_of({"indicator", file});
    QCOMPARE(j["kind"], "s-units");
    QVERIFY(is_near(j["s9_dbm"], -78.4, 1e-9) && is_near(j["s9_error_db"], 5.4, 1e-9));
    QVERIFY(is_near(j["points"][0]["error_db"], -10.5, 1e-9));
    QCOMPARE(j["points"][0]["reading"], "S1");
    QVERIFY(is_near(j["slopes"][0]["db_per_unit"], 3.575, 1e-9));
    QCOMPARE(j["bands"].size(), 2U);
    QVERIFY(is_near(j["bands"][1]["s9_error_db"], 0.0, 1e-9));  // VHF has its own
    QVERIFY(is_near(json_of({"indicator", file, "--s9-dbm", "-79"})["s9_error_db"], -0.6, 1e-9));
    const auto open =
        json_of({"indicator",
                 files_.written("o.csv", "level,level_unit,reading\n5,uV_pd,S5\n20,uV_pd,S7\n")});
    QVERIFY(open["s9_dbm"].is_null() && open["remarks"].size() == 1U);
    const auto bar =
        json_of({"indicator", files_.written("b.csv", "level_dbm,reading\n-100,3\n-80,6\n")});
    QCOMPARE(bar["kind"], "segments");
    QVERIFY(bar["points"][0]["error_db"].is_null() && bar["points"][0]["reading_db"].is_null());
    for (const char* text :
         {"level_dbm\n-100\n", "level_dbm,reading\n-100,S12\n-90,S9\n",
          "level_dbm,reading\n-100,S5\n-90,6\n", "level_dbm,reading\n-100,S5\n"}) {
      const Reply r = run({"indicator", files_.written("bad.csv", text)});
      QCOMPARE(r.status, 3);
      QVERIFY(!r.err.isEmpty());
    }
  }
};

HERON_LOOP_TEST(CliReceiverTest)

}  // namespace cli_receiver_test

#include "cli_receiver_test.moc"
