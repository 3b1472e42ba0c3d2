#include <QtTest>
#include <cmath>
#include <fmt/format.h>

#include "tests/cli/run_cli.h"
#include "tests/cli/written_files.h"
#include "tests/test_program.h"

using namespace heron::testing;

namespace cli_frequency_test {

/// The commands about frequency: tone, reference, adjust, drift, stability, lock-margin.
class CliFrequencyTest : public QObject {
  Q_OBJECT
  WrittenFiles files_;

 private slots:
  void a_tone_is_heard() {
    QVERIFY(run({"make-signal", "tone", files_.at("t.wav"), "--tones", "1000.25", "--seconds", "4"})
                .status == 0);
    const auto j = json_of({"tone", files_.at("t.wav")});
    QVERIFY(all_numbers_finite(j));
    QCOMPARE(j["method"], "tone");
    QVERIFY(is_near(j["tones"][0]["frequency_hz"], 1000.25, 1e-3));
    QCOMPARE(json_of({"tone", files_.at("t.wav"), "--segment", "1"})["tones"].size(), 4U);
    QCOMPARE(run({"tone", files_.at("nothing.wav"), "--json"}).status, 3);
  }

  void a_reference_by_counter_and_by_beat_note() {
    const auto j = json_of({"reference", "--nominal", "20e6", "--measured", "19999993.6", "--gate",
                            "1", "--timebase-ppm", "0.1", "--bands", "14e6,144e6"});
    QVERIFY(all_numbers_finite(j));
    QVERIFY(is_near(j["error_hz"], -6.4, 1e-6));
    QVERIFY(is_near(j["error_ppm"], -0.32, 1e-9));
    QVERIFY(is_near(j["bands"][0]["error_hz"], -4.48, 1e-6));
    QCOMPARE(j["counter_sufficient"], true);
    // Against a tighter tolerance it is not.
    QCOMPARE(json_of({"reference", "--nominal", "20e6", "--measured", "19999993.6",
                      "--timebase-ppm", "0.1", "--tolerance-ppm", "0.1"})["counter_sufficient"],
             false);
    const auto lsb = json_of({"reference", "--beat", "1004.5", "--dial", "9997000", "--carrier",
                              "9996000", "--sideband", "lsb"});
    QVERIFY(is_near(lsb["error_hz"], 4.5, 1e-6));
    QVERIFY(is_near(lsb["error_ppm"], 4.5 / 9.996, 1e-6));
    QCOMPARE(run({"reference", "--nominal", "20e6"}).status, 2);
    QCOMPARE(run({"reference"}).status, 2);
  }

  void a_stepped_setting_is_proposed() {
    const auto j = json_of(
        {"adjust", files_.written("a.csv", "setting,frequency_hz\n100,9999990\n110,9999995\n"),
         "--target", "10000000.2"});
    QCOMPARE(j["next_setting"], 120);
    QVERIFY(is_near(j["next_setting_exact"], 120.4, 1e-6));
    QVERIFY(is_near(j["slope_hz_per_step"], 0.5, 1e-9));
    QVERIFY(is_near(j["residual_hz"], -0.2, 1e-6));
    QCOMPARE(
        run({"adjust", files_.written("b.csv", "setting,frequency_hz\n1,5\n"), "--target", "5"})
            .status,
        3);
  }

  void a_log_drifts() {
    std::string text = "time_s,frequency_hz\n";
    for (int t = 0; t <= 5400; t += 20)
      text += fmt::format("{},{:.4f}\n", t,
                          14.2e6 - 3.0 + 40.0 * std::exp(-t / 600.0) + (t == 2000 ? 25.0 : 0.0) +
                              0.02 * std::sin(t * 1.7));
    const auto j = json_of({"drift", files_.written("d.csv", text), "--nominal", "14.2e6",
                            "--tolerance-hz", "5", "--bands", "14.2e6,28.4e6"});
    QVERIFY(all_numbers_finite(j));
    QVERIFY(is_near(j["final_hz"], -3.0, 0.02));
    QVERIFY(is_near(j["warm_up"]["amplitude_hz"], 40.0, 0.1));
    QVERIFY(is_near(j["warm_up"]["tau_s"], 600.0, 2.0));
    QVERIFY(is_near(j["warm_up"]["settle_s"], 965.7, 3.0));
    QCOMPARE(j["outliers"], 1);
    QVERIFY(is_near(j["outlier_times_s"][0], 2000.0, 0.0));
    QVERIFY(is_near(j["bands"][1]["error_hz"], -6.0, 0.05));
    QVERIFY(j["tempco_ppm_per_c"].is_null());
    const auto two = json_of({"drift",
                              files_.written("two.csv",
                                             "time_s,frequency_hz\n0,10000001\n"
                                             "1800,10000003\n"),
                              "--nominal", "10e6"});
    QVERIFY(is_near(two["rate_hz_per_h"], 4.0, 1e-9));
    QVERIFY(two["warm_up"].is_null());
  }

  void a_series_scatters() {
    std::string text = "frequency\n";
    std::uint64_t n = 1234567890;
    for (int i = 0; i < 1000; ++i) {
      text += fmt::format("{:.17g}\n", static_cast<double>(n) / 2147483647.0);
      n = 16807 * n % 2147483647;
    }
    const auto j =
        json_of({"stability", files_.written("s.csv", text), "--tau0", "1", "--taus", "1,10,100"});
    QVERIFY(all_numbers_finite(j));
    const auto value = [&](const char* key, std::size_t i) { return j[key][i]["value"]; };
    QVERIFY(is_near(value("adev", 2), 0.03897804, 5e-9));
    QVERIFY(is_near(value("oadev", 1), 0.09159953, 5e-9));
    QVERIFY(is_near(value("mdev", 1), 0.06172376, 5e-9));
    QVERIFY(is_near(value("tdev", 2), 1.253382, 5e-7));
    QVERIFY(j["oadev"][1]["low"] < value("oadev", 1) && j["oadev"][1]["high"] > value("oadev", 1));
    QCOMPARE(
        run({"stability", files_.at("s.csv"), "--tau0", "1", "--taus", "2.5", "--json"}).status, 3);
    QCOMPARE(run({"stability", files_.written("e.csv", "frequency\n1\n"), "--tau0", "1"}).status,
             3);
    QCOMPARE(run({"stability", files_.written("h.csv", "frequency_hz\n1\n2\n3\n"), "--tau0", "1"})
                 .status,
             3);  // nominal is not known
  }

  void a_lock_has_a_margin() {
    const QString file =
        files_.written("l.csv",
                       "attenuation_db,locked,frequency_hz\n0,yes,10e6\n3,yes,10e6\n"
                       "6,disturbed,\n7,no,10000012\n6,no,\n5,yes,10e6\n");
    const auto j = json_of({"lock-margin", file});
    QVERIFY(all_numbers_finite(j));
    QVERIFY(is_near(j["lost_at_db"], 6.0, 0.0) && is_near(j["regained_at_db"], 5.0, 0.0));
    QVERIFY(is_near(j["margin_db"], 3.0, 0.0) && j["margin_bound"].is_null());
    QCOMPARE(j["verdicts"][0]["verdict"], "too_close");
    QCOMPARE(run({"lock-margin", file, "--fail-on-verdict"}).status, 4);
    const auto never =
        json_of({"lock-margin", files_.written("n.csv", "attenuation_db,locked\n0,1\n10,1\n")});
    QVERIFY(never["lost_at_db"].is_null());
    QCOMPARE(never["margin_bound"], "lower");
    QCOMPARE(
        run({"lock-margin", files_.written("m.csv", "attenuation_db,locked\n0,maybe\n")}).status,
        3);
  }
};

HERON_LOOP_TEST(CliFrequencyTest)

}  // namespace cli_frequency_test

#include "cli_frequency_test.moc"
