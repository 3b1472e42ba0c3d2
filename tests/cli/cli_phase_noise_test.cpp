#include <QtTest>
#include <fstream>

#include "core/signal/write_wav.h"
#include "tests/cli/run_cli.h"
#include "tests/cli/written_files.h"
#include "tests/core/made_noise.h"
#include "tests/test_program.h"

using namespace heron::testing;

namespace cli_phase_noise_test {

/// The commands about phase noise, as a script sees them.
class CliPhaseNoiseTest : public QObject {
  Q_OBJECT
  WrittenFiles files_;

  QString flat() {
    return files_.written("flat.csv", "offset_hz,l_dbc_hz\n1000,-100\n1000000,-100\n");
  }

  QString recording() {
    MadeNoise made;
    made.frames = 200000;
    made.white = -115.0;
    made.white_frequency = -95.0;
    made.lines = {{150.0, -50.0}, {7000.0, -70.0, true}};
    const auto samples = made.samples();
    std::ofstream(files_.at("carrier.sigmf-data").toStdString(), std::ios::binary)
        .write(reinterpret_cast<const char*>(samples.data()),
               static_cast<std::streamsize>(samples.size() * sizeof samples[0]));
    return files_.written("carrier.sigmf-meta",
                          R"({"global": {"core:datatype": "cf32_le", "core:sample_rate": 100000,
                              "core:version": "1.0.0"},
                              "captures": [{"core:sample_start": 0, "core:frequency": 1440e6}],
                              "annotations": []})");
  }

 private slots:
  void a_recording_becomes_a_curve() {
    const auto j = json_of({"phase-noise", recording(), "--integrate", "100,10000", "--integrate",
                            "1000,10000", "--per-decade", "10"});
    QVERIFY(all_numbers_finite(j));
    QCOMPARE(j["method"], "phase-noise");
    QVERIFY(is_near(j["carrier"]["frequency_hz"], 3123.4, 0.2));
    QVERIFY(is_near(j["carrier"]["rf_hz"], 1440003123.4, 0.2));
    QVERIFY(is_near(j["carrier"]["level_dbfs"], 20.0 * std::log10(0.4), 0.05));
    MadeNoise made;
    made.white = -115.0;
    made.white_frequency = -95.0;
    int points = 0;
    for (const auto& p : j["curve"]) {
      const double hz = p["offset_hz"];
      // Bins stand at 10^(k / 10).
      QVERIFY(std::abs(10.0 * std::log10(hz) - std::round(10.0 * std::log10(hz))) < 1e-9);
      QVERIFY(is_near(p["l_dbc_hz"], made.mean_l(hz, 10), 0.3 + 4.0 * p["u_db"].get<double>()));
      QVERIFY(p["bound"].is_null());
      ++points;
    }
    QVERIFY(points > 25);
    QCOMPARE(j["spurs"].size(), 2U);
    QCOMPARE(j["spurs"][0]["kind"], "pm");
    QVERIFY(is_near(j["spurs"][0]["level_dbc"], -50.0, 0.3));
    QVERIFY(is_near(j["spurs"][0]["rf_level_dbc"], -50.0, 0.3));
    QCOMPARE(j["spurs"][1]["kind"], "one-sided");
    QVERIFY(is_near(j["spurs"][1]["rf_level_dbc"], -70.0, 0.3));
    QVERIFY(is_near(j["spurs"][1]["level_dbc"], -76.02, 0.3));
    QCOMPARE(j["integrals"].size(), 2U);
    const auto& i = j["integrals"][0];
    QVERIFY(i["with_spurs_rms_rad"].get<double>() > i["rms_rad"].get<double>());
    QVERIFY(is_near(i["jitter_s"],
                    i["rms_rad"].get<double>() / (2.0 * std::numbers::pi * 1440003123.4), 1e-18));
    QVERIFY(i["u_rel"].get<double>() > 0.0 && i["u_rel"].get<double>() < 0.1);
    QVERIFY(j["am_curve"].size() > 25U);
    QCOMPARE(j["figures"].size(), 2U);
    // At the fourth harmonic: 12.04 dB up, jitter as it was.
    const auto four =
        json_of({"phase-noise", recording(), "--integrate", "100,10000", "--multiply", "4"});
    QVERIFY(is_near(four["integrals"][0]["rms_rad"], 4.0 * i["rms_rad"].get<double>(), 1e-9));
    QVERIFY(is_near(four["integrals"][0]["jitter_s"], i["jitter_s"], 1e-20));
    QVERIFY(is_near(four["spurs"][0]["level_dbc"],
                    j["spurs"][0]["level_dbc"].get<double>() + 12.0412, 1e-3));
    QVERIFY(is_near(four["am_curve"][3]["l_dbc_hz"], j["am_curve"][3]["l_dbc_hz"], 1e-9));
  }

  void tables_are_integrated() {
    const auto j = json_of({"phase-noise", flat(), "--carrier-hz", "5.76e9"});
    QVERIFY(is_near(j["integrals"][0]["rms_rad"], 14.135e-3, 1e-6));
    QVERIFY(is_near(j["integrals"][0]["rms_deg"], 0.8099, 1e-4));
    QVERIFY(is_near(j["integrals"][0]["jitter_s"], 0.3906e-12, 1e-16));
    QVERIFY(j["integrals"][0]["u_rel"].is_null());
    QVERIFY(j["curve"][0]["u_db"].is_null());
    QVERIFY(!j.contains("am_curve"));
    QVERIFY(is_near(j["slopes"][0]["db_per_decade"], 0.0, 1e-9));
    QVERIFY(json_of({"phase-noise", flat()})["integrals"][0]["jitter_s"].is_null());
    QCOMPARE(run({"phase-noise", flat(), "--integrate", "10,1000"}).status, 3);
    QCOMPARE(run({"phase-noise", flat(), "--integrate", "1e5"}).status, 3);
    QCOMPARE(run({"phase-noise"}).status, 2);
    QCOMPARE(run({"phase-noise", flat(), "--multiply", "-2"}).status, 2);
    QCOMPARE(run({"phase-noise", files_.at("none.csv")}).status, 3);
    const Reply people = run({"phase-noise", flat()});
    QCOMPARE(people.status, 0);
    QVERIFY(people.out.contains("dBc/Hz"));
  }

  void a_floor_is_subtracted() {
    const QString floor = files_.written(
        "floor.csv", "offset_hz,l_dbc_hz,u_db\n1000,-103.0103,0.1\n1000000,-140,0.1\n");
    const QString curve = files_.written(
        "with_u.csv", "offset_hz,l_dbc_hz,u_db\n1000,-100,0.1\n1000000,-140.05,0.2\n");
    const auto j = json_of({"phase-noise", curve, "--floor", floor});
    QVERIFY(is_near(j["curve"][0]["l_dbc_hz"], -103.01, 0.01));
    QCOMPARE(j["curve"][1]["bound"], "upper");
    QCOMPARE(j["integrals"][0]["bound"], "upper");
    QCOMPARE(run({"phase-noise", curve, "--floor",
                  files_.written("far.csv", "offset_hz,l_dbc_hz\n1,-50\n10,-60\n")})
                 .status,
             3);
  }

  void traces_need_their_filter() {
    std::string points;
    for (int i = 0; i < 401; ++i) {
      const int offset = std::abs(i - 200);
      points += fmt::format("{},{}\n", 1440000000 + 100 * (i - 200),
                            offset == 0 ? -10.0 : -60.0 - 20.0 * std::log10(offset));
    }
    const std::string head = "# rbw_kind: noise\n# detector: power-average\n# averages: 50\n";
    const QString good =
        files_.written("span.csv", "# rbw_hz: 100\n" + head + "frequency_hz,level_dbm\n" + points);
    const auto j = json_of({"phase-noise", good});
    // -50 dBc in 100 Hz at the first point, falling 20 dB a decade.
    for (const auto& p : j["curve"])
      QVERIFY(is_near(p["l_dbc_hz"],
                      -70.0 - 20.0 * std::log10(p["offset_hz"].get<double>() / 100.0), 0.6));
    QVERIFY(is_near(j["carrier"]["level_dbm"], -10.0, 1e-9));
    QVERIFY(is_near(j["carrier"]["rf_hz"], 1440e6, 1e-3));
    for (const char* bad :
         {"", "# rbw_hz: 100\n# detector: power-average\n", "# rbw_hz: 100\n# rbw_kind: 3db\n"})
      QCOMPARE(
          run({"phase-noise",
               files_.written("bad.csv", std::string(bad) + "frequency_hz,level_dbm\n" + points)})
              .status,
          3);
  }

  void two_states_are_compared() {
    std::string before = "offset_hz,l_dbc_hz,u_db\n";
    std::string after = before;
    for (int k = 10; k <= 50; ++k) {
      const double hz = std::pow(10.0, k / 10.0);
      before += fmt::format("{},-90,0.2\n", hz);
      after += fmt::format("{},{},0.2\n", hz, hz > 5e3 ? -97.0 : -90.1);
    }
    const QString a = files_.written("before.csv", before);
    const QString b = files_.written("after.csv", after);
    const auto j = json_of({"phase-noise-compare", a, b});
    QCOMPARE(j["difference"].size(), 41U);
    QCOMPARE(j["difference"][0]["significant"], false);
    QVERIFY(is_near(j["difference"][40]["delta_db"], -7.0, 1e-9));
    QVERIFY(is_near(j["difference"][40]["u_db"], 0.2828, 1e-3));
    QCOMPARE(j["ranges"].size(), 2U);
    QCOMPARE(j["ranges"][0]["verdict"], "no difference");
    QCOMPARE(j["ranges"][1]["verdict"], "better");
    QVERIFY(j["spurs_gained"].empty() && j["spurs_lost"].empty());
    QCOMPARE(json_of({"phase-noise-compare", b, a})["ranges"][1]["verdict"], "worse");
    const auto bare = json_of({"phase-noise-compare", flat(), flat()});
    QVERIFY(bare["difference"][0]["u_db"].is_null());
    QVERIFY(bare["difference"][0]["significant"].is_null());
    QCOMPARE(run({"phase-noise-compare", a}).status, 2);
  }

  void a_family_has_a_pivot_and_a_best() {
    QStringList words{"phase-noise-family"};
    const double levels[][2] = {{-80.0, -110.0}, {-85.0, -105.0}, {-90.0, -100.0}};
    for (int i = 0; i < 3; ++i)
      words << QString("%1 mA=").arg(i + 1) +
                   files_.written(qPrintable(QString("f%1.csv").arg(i)),
                                  fmt::format("offset_hz,l_dbc_hz\n1000,{}\n100000,{}\n",
                                              levels[i][0], levels[i][1]));
    const auto j = json_of(words);
    QCOMPARE(j["crossings"].size(), 3U);
    QCOMPARE(j["crossings"][0]["a"], "1 mA");
    QVERIFY(is_near(j["pivot_hz"], 1e4, 1.0));
    const auto near = json_of(words + QStringList{"--offset", "2000"});
    QCOMPARE(near["best"]["setting"], "3 mA");
    QCOMPARE(near["best"]["unit"], "dBc/Hz");
    const auto far = json_of(words + QStringList{"--integrate", "50000,100000"});
    QCOMPARE(far["best"]["setting"], "1 mA");
    QCOMPARE(far["best"]["unit"], "rad");
    QCOMPARE(run({"phase-noise-family", "curve.csv", "b.csv"}).status, 3);
    QCOMPARE(run({"phase-noise-family", "1=" + flat()}).status, 3);
    QCOMPARE(run(words + QStringList{"--offset", "2000", "--integrate", "1,2"}).status, 2);
    // The same curve twice crosses nowhere.
    const auto same = json_of({"phase-noise-family", "a=" + flat(), "b=" + flat()});
    QVERIFY(same["crossings"].empty() && same["pivot_hz"].is_null());
  }

  void loops_and_reciprocal_mixing() {
    const QString file = files_.written(
        "loop.json",
        "\xef\xbb\xbf{\"charge_pump_a\": [0.5e-3, 1e-3], \"kvco_hz_per_v\": 30e6,\r\n"
        "\"n\": 144, \"r2_ohm\": 560, \"c1_f\": 1e-9, \"c2_f\": 22e-9}");
    const auto j = json_of({"loop", file});
    QCOMPARE(j["loops"].size(), 2U);
    QVERIFY(is_near(j["loops"][1]["crossover_hz"], 20840.0, 6.0));
    QVERIFY(is_near(j["loops"][1]["phase_margin_deg"], 54.2, 0.06));
    QVERIFY(j["loops"][1]["closed_loop_3db_hz"].get<double>() > 20840.0);
    const auto sick =
        json_of({"loop", files_.written("sick.json",
                                        R"({"charge_pump_a": 1e-3, "kvco_hz_per_v": 30e6, "n": 144,
                "r2_ohm": 5, "c1_f": 1e-9, "c2_f": 22e-9, "r3_ohm": 1e4, "c3_f": 1e-8})")});
    QVERIFY(sick["loops"][0]["peaking_db"].is_null());
    QCOMPARE(sick["remarks"][0]["severity"], "fault");
    QCOMPARE(run({"loop", files_.written("none.json", "{}")}).status, 3);
    const auto r = json_of({"reciprocal", flat(), "--offset", "20000", "--bandwidth", "500",
                            "--mds-dbm", "-135", "--interferer-dbm", "-62"});
    QVERIFY(is_near(r["limit_interferer_dbm"], -61.99, 0.01));
    QVERIFY(is_near(r["ratio_db"], 73.01, 0.01));
    QVERIFY(is_near(r["desensitisation_db"], 3.005, 0.01));
    QVERIFY(is_near(r["noise_in_channel_dbm"], -135.01, 0.01));
    const auto without = json_of(
        {"reciprocal", flat(), "--offset", "20000", "--bandwidth", "500", "--mds-dbm", "-135"});
    QVERIFY(without["desensitisation_db"].is_null() && without["noise_in_channel_dbm"].is_null());
    QCOMPARE(
        run({"reciprocal", flat(), "--offset", "10", "--bandwidth", "500", "--mds-dbm", "-135"})
            .status,
        3);
    QCOMPARE(run({"reciprocal", flat(), "--offset", "20000"}).status, 2);
  }

  void what_is_hidden_is_in_no_range() {
    std::string before = "offset_hz,l_dbc_hz,u_db,bound\n";
    std::string after = before;
    for (int k = 20; k <= 60; ++k) {
      const double hz = std::pow(10.0, k / 10.0);
      const char* bound = k > 30 && k < 40 ? "upper" : "";
      before += fmt::format("{},-90,0.2,{}\n", hz, bound);
      after += fmt::format("{},-97,0.2,{}\n", hz, bound);
    }
    const QString a = files_.written("hidden_before.csv", before);
    const QString b = files_.written("hidden_after.csv", after);
    const auto j = json_of({"phase-noise-compare", a, b});
    QCOMPARE(j["ranges"].size(), 2U);
    QVERIFY(is_near(j["ranges"][0]["high_hz"], 1e3, 1.0));
    QVERIFY(is_near(j["ranges"][1]["low_hz"], 1e4, 1.0));
    for (const auto& d : j["difference"]) {
      const double hz = d["offset_hz"];
      QCOMPARE(d["significant"].get<bool>(), hz < 1.1e3 || hz > 9.5e3);
    }
    const Reply people = run({"phase-noise-compare", a, b});
    QCOMPARE(people.out.count("hidden"), 9);
    QVERIFY(!people.out.contains("no difference"));
  }

  void lines_are_gained_where_they_would_have_been_seen() {
    // The same carrier twice, the second time with a line; and against a table, that shows none.
    MadeNoise made;
    made.frames = 150000;
    made.white = -105.0;
    const QString quiet = files_.at("quiet.wav");
    heron::write_wav(made.open(), quiet.toStdString());
    made.lines = {{4000.0, -60.0}};
    made.seed = 2;
    const QString lined = files_.at("lined.wav");
    heron::write_wav(made.open(), lined.toStdString());
    const auto j = json_of({"phase-noise-compare", quiet, lined});
    QCOMPARE(j["spurs_gained"].size(), 1U);
    QVERIFY(is_near(j["spurs_gained"][0]["offset_hz"], 4000.0, 0.5));
    QVERIFY(is_near(j["spurs_gained"][0]["level_dbc"], -60.0, 0.3));
    QVERIFY(j["spurs_lost"].empty());
    QCOMPARE(json_of({"phase-noise-compare", lined, quiet})["spurs_lost"].size(), 1U);
    const auto table = json_of({"phase-noise-compare", flat(), lined});
    QVERIFY(table["spurs_gained"].empty() && table["spurs_lost"].empty());
  }
};

HERON_LOOP_TEST(CliPhaseNoiseTest)

}  // namespace cli_phase_noise_test

#include "cli_phase_noise_test.moc"
