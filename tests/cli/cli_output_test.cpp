#include <QTemporaryDir>
#include <QtTest>
#include <fstream>

#include "tests/cli/run_cli.h"
#include "tests/test_program.h"

using namespace heron::testing;

namespace cli_output_test {

/// The command output: rows of a file as bands and settings, judged.
class CliOutputTest : public QObject {
  Q_OBJECT
  QTemporaryDir folder_;
  QString at(const char* name) const { return folder_.filePath(name); }

 private slots:
  void output_is_told_per_band_and_setting() {
    std::ofstream(at("out.csv").toStdString())
        << "frequency_hz,setting,pout_w,time_s,v_dc,i_dc,indicated_forward_w,spec_w\n"
           "14.2e6,full,84,60,13.2,17,,100\n"
           "14.2e6,full,94.3,0,13.5,17.8,100,100\n"
           "14.2e6,half,\"52,5\",0,,,,50\n"
           "28.4e6,full,,0,13.5,,,\n";
    const Reply reply = run({"output", at("out.csv"), "--json"});
    QVERIFY2(reply.status == 0, reply.err.constData());
    const auto j = reply.json();
    QVERIFY(all_numbers_finite(j));
    const auto& rows = j["rows"];
    QCOMPARE(rows.size(), 3U);
    const auto near = [&](int row, const char* key, double value, double within) {
      QVERIFY2(std::abs(rows[row][key].get<double>() - value) < within, key);
    };
    near(0, "pout_dbm", 49.745, 0.001);
    near(0, "u_db", 0.102, 0.001);
    near(0, "relative_to_spec_db", -0.255, 0.001);
    near(0, "droop_db", -0.502, 0.001);
    near(0, "meter_error_db", 0.255, 0.001);
    near(0, "efficiency", 0.3924, 0.0001);
    QCOMPARE(rows[1]["setting"], "half");
    near(1, "pout_dbm", 47.202, 0.001);
    QVERIFY(rows[1]["droop_db"].is_null() && rows[1]["efficiency"].is_null());
    QVERIFY(rows[2]["pout_dbm"].is_null());
    QCOMPARE(j["verdicts"].size(), 2U);
    QCOMPARE(j["verdicts"][0]["verdict"], "fail");
    QCOMPARE(run({"output", at("out.csv"), "--fail-on-verdict"}).status, 4);
    const Reply table = run({"output", at("out.csv")});
    QVERIFY(table.out.contains("Fail") && table.out.contains("84 W"));
    for (const char* wrong :
         {"frequency_hz,setting\n14e6,full\n", "pout_w\nloud\n", "pout_w\n-5\n", ""}) {
      std::ofstream(at("wrong.csv").toStdString()) << wrong;
      QCOMPARE(run({"output", at("wrong.csv"), "--json"}).status, 3);
    }
    std::ofstream(at("bare.csv").toStdString()) << "pout_dbm\n44.7\n";
    QCOMPARE(run({"output", at("bare.csv")}).status, 0);
    QCOMPARE(run({"output", at("bare.csv"), "--fail-on-verdict"}).status, 2);
  }
};

HERON_TEST(CliOutputTest)

}  // namespace cli_output_test

#include "cli_output_test.moc"
