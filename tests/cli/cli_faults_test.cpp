// Bad input to the command line: status 3, a message that names file, reason and what to do on
// standard error, nothing on standard output, and never a crash or a hang.
#include <QProcess>
#include <QtTest>
#include <SQLiteCpp/SQLiteCpp.h>
#include <fstream>
#include <limits>
#include <nlohmann/json.hpp>
#include <random>
#include <sndfile.h>
#include <unistd.h>

#include "core/signal/normal_numbers.h"
#include "tests/store/made_shack.h"
#include "tests/test_program.h"

using namespace heron;

namespace cli_faults_test {

using heron::testing::MadeShack;
namespace fs = std::filesystem;

namespace {

struct Reply {
  bool ended_by_itself;
  int status;
  QString out;
  QString err;
};

Reply run(const QStringList& arguments) {
  QProcess process;
  process.start(EVEN_HERON_CLI, arguments);
  const bool ended = process.waitForFinished(60000);
  return {ended && process.exitStatus() == QProcess::NormalExit, process.exitCode(),
          QString::fromUtf8(process.readAllStandardOutput()),
          QString::fromUtf8(process.readAllStandardError())};
}

std::string wav(std::uint32_t riff_size, std::uint16_t channels, std::uint32_t rate,
                std::uint16_t bits, std::uint32_t data_size, const std::string& data) {
  const auto bytes = [](auto v) {
    std::string s(sizeof v, '\0');
    std::memcpy(s.data(), &v, sizeof v);
    return s;
  };
  const auto frame = static_cast<std::uint16_t>(channels * bits / 8);
  return "RIFF" + bytes(riff_size) + "WAVEfmt " + bytes(std::uint32_t{16}) +
         bytes(std::uint16_t{1}) + bytes(channels) + bytes(rate) + bytes(rate * frame) +
         bytes(frame) + bytes(bits) + "data" + bytes(data_size) + data;
}

/// Three seconds of two tones as 16-bit I and Q.
std::string two_tone_samples() {
  TwoToneSignal s;
  s.seconds = 3.0;
  s.nonlinearity.coefficients = {-0.3};
  s.noise_dbfs = -70.0;
  std::string data;
  for (const auto& v : generate_two_tone(s)) {
    for (const float part : {v.real(), v.imag()}) {
      const auto sample = static_cast<std::int16_t>(part * 32767.0F);
      data.append(reinterpret_cast<const char*>(&sample), 2);
    }
  }
  return data;
}

}  // namespace

class CliFaultsTest : public QObject {
  Q_OBJECT
  QTemporaryDir folder_;
  QString at(const QString& name) const { return folder_.filePath(name); }
  void write(const QString& name, const std::string& bytes) const {
    std::ofstream(at(name).toStdString(), std::ios::binary) << bytes;
  }

 private slots:
  void initTestCase() {
    const std::string noise(40000, '\x11');
    write("empty.wav", "");
    write("letter.wav", "Dear both of you, the bias is now 320 mA.");
    write("head only.wav", wav(36, 2, 48000, 16, 0, ""));
    write("half a head.wav", wav(36, 2, 48000, 16, 0, "").substr(0, 30));
    write("no rate.wav", wav(40036, 2, 0, 16, 40000, noise));
    write("no channels.wav", wav(40036, 0, 48000, 16, 40000, noise));
    write("nine channels.wav", wav(40036, 9, 48000, 16, 40000, noise));
    write("no bits.wav", wav(40036, 2, 48000, 0, 40000, noise));
    write("few samples.wav", wav(36 + 40, 2, 48000, 16, 40, std::string(40, 'a')));
    // Floating point with a sample that is not a number.
    std::vector<float> samples(20000, 0.1F);
    samples[7001] = std::numeric_limits<float>::quiet_NaN();
    SF_INFO info{};
    info.samplerate = 48000;
    info.channels = 2;
    info.format = SF_FORMAT_WAV | SF_FORMAT_FLOAT;
    SNDFILE* file = sf_open(at("nan.wav").toUtf8().constData(), SFM_WRITE, &info);
    sf_writef_float(file, samples.data(), 10000);
    sf_close(file);
    samples[7001] = std::numeric_limits<float>::infinity();
    file = sf_open(at("infinite.wav").toUtf8().constData(), SFM_WRITE, &info);
    sf_writef_float(file, samples.data(), 10000);
    sf_close(file);
    write("alone.sigmf-meta", R"({"global":{"core:datatype":"cf32_le","core:sample_rate":48000}})");
    write("torn.sigmf-meta", R"({"global":{"core:datatype":)");
    write("torn.sigmf-data", noise);
    write("deep.sigmf-meta", std::string(200000, '['));
    write("deep.sigmf-data", noise);
    write("headless.sigmf-data", noise);
    fs::create_directory(at("folder.wav").toStdString());
  }

  void unusable_recordings_are_refused_data() {
    QTest::addColumn<QString>("name");
    for (const char* name :
         {"absent.wav", "empty.wav", "letter.wav", "head only.wav", "half a head.wav",
          "no rate.wav", "no channels.wav", "nine channels.wav", "no bits.wav", "few samples.wav",
          "nan.wav", "infinite.wav", "alone.sigmf-meta", "torn.sigmf-meta", "deep.sigmf-meta",
          "headless.sigmf-data", "folder.wav"})
      QTest::newRow(name) << name;
  }
  void unusable_recordings_are_refused() {
    QFETCH(QString, name);
    for (const bool json : {false, true}) {
      QStringList arguments{"two-tone", at(name)};
      if (json) arguments << "--json";
      const Reply a = run(arguments);
      QVERIFY(a.ended_by_itself);
      QCOMPARE(a.status, 3);
      QVERIFY2(a.out.isEmpty(), qPrintable(a.out));
      QVERIFY2(a.err.contains(QFileInfo(name).completeBaseName()), qPrintable(a.err));
      // Subject, reason, and a sentence that says what to do; no inner words of the program.
      QVERIFY2(a.err.contains(": ") && a.err.trimmed().split(". ").size() >= 2, qPrintable(a.err));
      for (const char* inner : {"std::", "terminate", "exception", "what()", "nlohmann"})
        QVERIFY2(!a.err.contains(inner), qPrintable(a.err));
    }
  }

  void the_place_of_a_bad_sample_is_named() {
    for (const char* name : {"nan.wav", "infinite.wav"}) {
      const Reply a = run({"two-tone", at(name)});
      QVERIFY2(a.err.contains("3500"), qPrintable(a.err));  // value 7001 is Q of frame 3500
    }
  }

  void a_recording_without_permission_is_refused() {
    if (geteuid() == 0) QSKIP("the superuser may read everything");
    write("secret.wav", wav(36, 2, 48000, 16, 0, ""));
    fs::permissions(at("secret.wav").toStdString(), fs::perms::none);
    const Reply a = run({"two-tone", at("secret.wav")});
    QCOMPARE(a.status, 3);
    QVERIFY(a.err.contains("secret.wav"));
  }

  /// A header that promises more than there is: what is there is used, with a caution.
  void a_truncated_recording_is_used_with_a_caution() {
    const std::string data = two_tone_samples();
    write("cut.wav", wav(0x7fffffff, 2, 48000, 16, 0x7ffffff0, data.substr(0, data.size() - 3)));
    const Reply a = run({"two-tone", at("cut.wav"), "--json"});
    QCOMPARE(a.status, 0);
    const auto j = nlohmann::json::parse(a.out.toStdString());
    QCOMPARE(j["products"].size(), 10U);
    const bool told = std::any_of(j["remarks"].begin(), j["remarks"].end(), [](const auto& r) {
      return r["severity"] == "caution" &&
             r["text"].template get<std::string>().find("cut short") != std::string::npos;
    });
    QVERIFY2(told, j["remarks"].dump().c_str());
  }

  /// A recorder that crashed never wrote how much there is.
  void a_recording_whose_header_says_nothing_is_there_is_used_with_a_caution_data() {
    QTest::addColumn<quint32>("riff_size");
    QTest::newRow("both sizes open") << 0U;
    QTest::newRow("an empty file's size") << 36U;
  }
  void a_recording_whose_header_says_nothing_is_there_is_used_with_a_caution() {
    QFETCH(quint32, riff_size);
    const std::string data = two_tone_samples();
    write("open.wav", wav(riff_size, 2, 48000, 16, 0, data));
    const Reply a = run({"two-tone", at("open.wav"), "--json"});
    QVERIFY2(a.status == 0, qPrintable(a.err));
    const auto j = nlohmann::json::parse(a.out.toStdString());
    QVERIFY(std::abs(j["part"]["length_s"].get<double>() - 3.0) < 0.01);
    const bool told = std::any_of(j["remarks"].begin(), j["remarks"].end(), [](const auto& r) {
      return r["text"].template get<std::string>().find("did not finish") != std::string::npos;
    });
    QVERIFY2(told, j["remarks"].dump().c_str());
  }

  void a_flat_trace_has_no_tones() {
    std::string flat = "frequency_hz,level_dbm\n";
    std::string noisy = flat;
    std::mt19937 random(5);
    NormalNumbers<double> scatter(0.0, 2.0);
    for (int i = 0; i < 501; ++i) {
      flat += std::to_string(14.19e6 + 40.0 * i) + ",-100\n";
      noisy += std::to_string(14.19e6 + 40.0 * i) + "," + std::to_string(-100.0 + scatter(random)) +
               "\n";
    }
    for (const std::string& text : {flat, noisy}) {
      write("flat.csv", text);
      const Reply a = run({"two-tone", at("flat.csv"), "--json"});
      QVERIFY2(a.status == 0, qPrintable(a.err));
      const auto j = nlohmann::json::parse(a.out.toStdString());
      QVERIFY(j["tones"].empty());
      QVERIFY(j["products"].empty());
      QCOMPARE(j["remarks"][0]["severity"].get<std::string>(), std::string("fault"));
    }
  }

  void no_library_speaks_to_the_user() {
    for (const char* name : {"two-tone", "bandwidth"}) {
      write("odd.wav", "RIFF....WAVEjunk" + std::string(400, 'x'));
      const Reply a = run({name, at("odd.wav")});
      QCOMPARE(a.status, 3);
      for (const char* inner :
           {"json.exception", "sndfile", "Error in", "SQLite", "No Error", "psf"})
        QVERIFY2(!a.err.contains(inner), qPrintable(a.err));
    }
  }

  void wrong_usage_is_status_2_and_says_what_is_wrong_data() {
    QTest::addColumn<QStringList>("arguments");
    QTest::newRow("no command") << QStringList{};
    QTest::newRow("unknown command") << QStringList{"soar"};
    QTest::newRow("unknown option") << QStringList{"level", "30 W", "--volume", "11"};
    QTest::newRow("no file") << QStringList{"two-tone"};
    QTest::newRow("orders are words") << QStringList{"two-tone", "x.wav", "--orders", "many"};
    QTest::newRow("even order") << QStringList{"two-tone", "x.wav", "--orders", "4"};
    QTest::newRow("one tone named") << QStringList{"two-tone", "x.wav", "--tones", "650"};
    QTest::newRow("verdict without limit") << QStringList{"two-tone", "x.wav", "--fail-on-verdict"};
    QTest::newRow("unknown reference")
        << QStringList{"two-tone", "x.wav", "--limit", "-30", "--limit-relative", "the moon"};
    QTest::newRow("impedance of 0") << QStringList{"level", "1 V", "--impedance", "0"};
    QTest::newRow("passband turned round")
        << QStringList{"tone-pair", "650,1850", "--passband", "3000,300"};
    QTest::newRow("format unknown") << QStringList{"report", "x", "--format", "smoke"};
  }
  void wrong_usage_is_status_2_and_says_what_is_wrong() {
    QFETCH(QStringList, arguments);
    const Reply a = run(arguments);
    QVERIFY(a.ended_by_itself);
    QCOMPARE(a.status, 2);
    QVERIFY(a.out.isEmpty());
    QVERIFY(!a.err.trimmed().isEmpty());
  }

  void what_is_no_shack_is_refused_and_left_alone_data() {
    QTest::addColumn<QString>("kind");
    for (const char* kind : {"absent", "empty folder", "text", "another database", "newer"})
      QTest::newRow(kind) << kind;
  }
  void what_is_no_shack_is_refused_and_left_alone() {
    QFETCH(QString, kind);
    const QString shack = at("shack " + kind);
    const fs::path database = (shack + "/shack.sqlite").toStdString();
    if (kind != "absent") fs::create_directory(shack.toStdString());
    if (kind == "text") std::ofstream(database) << "not a database";
    if (kind == "another database" || kind == "newer") {
      SQLite::Database db(database.string(), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
      db.exec("CREATE TABLE birds(name TEXT)");
      if (kind == "newer") {
        db.exec("PRAGMA application_id = 0x4845524E");
        db.exec("PRAGMA user_version = 99");
      }
    }
    const auto size_before = fs::exists(database) ? fs::file_size(database) : 0;
    const Reply a = run({"report", shack});
    QVERIFY(a.ended_by_itself);
    QCOMPARE(a.status, 3);
    QVERIFY(a.out.isEmpty());
    QVERIFY2(a.err.contains("shack"), qPrintable(a.err));
    if (kind == "newer") QVERIFY2(a.err.contains("newer"), qPrintable(a.err));
    QCOMPARE(fs::exists(database) ? fs::file_size(database) : 0, size_before);
    if (kind == "absent") QVERIFY(!QFileInfo::exists(shack));
  }

  void a_report_that_cannot_be_written_is_status_3() {
    MadeShack made;
    made.shack.reset();
    const QString id = QString::number(made.evaluation_id);
    const Reply a =
        run({"report", made.folder.path(), "--evaluation", id, "--out", "/nowhere/at/all.html"});
    QCOMPARE(a.status, 3);
    QVERIFY(a.err.contains("all.html"));
    // A device is written to, not replaced by a file.
    const auto report_to = [&](const QString& path) {
      return run({"report", made.folder.path(), "--evaluation", id, "--out", path}).status;
    };
    QCOMPARE(report_to("/dev/full"), 3);
    QVERIFY(fs::is_character_file("/dev/full"));
    QCOMPARE(report_to(at("folder.wav")), 3);
    // A link leads to the file that is meant.
    write("real.html", "old");
    fs::create_symlink(at("real.html").toStdString(), at("link.html").toStdString());
    QCOMPARE(report_to(at("link.html")), 0);
    QVERIFY(fs::is_symlink(at("link.html").toStdString()));
    QVERIFY(QFileInfo(at("real.html")).size() > 1000);
  }

  void a_closed_pipe_ends_quietly() {
    QProcess shell;
    shell.start("sh",
                {"-c", QString("'%1' level '30 W' --json | true; echo done").arg(EVEN_HERON_CLI)});
    QVERIFY(shell.waitForFinished(20000));
    QVERIFY(shell.readAllStandardOutput().contains("done"));
    QVERIFY(!shell.readAllStandardError().contains("terminate"));
  }

  /// The documented options are those that exist, and each exists in the documentation.
  void broken_ladders_and_traces_are_explained() {
    const std::tuple<const char*, const char*, const char*> cases[] = {
        {"empty.csv", "", "no rows"},
        {"nohead.csv", "1,2,3\n4,5,6\n", "no heads"},
        {"nothing.csv", "setting,pout_w\n30 W,30\n", "no row has a capture"},
        {"word.csv", "setting,pout_w,im3_dbc\n30 W,loud,-30\n", "line 2, pout_w"},
        {"product.csv", "setting,pout_w,im3_dbc\n30 W,30,-30\n20 W,20,quiet\n", "line 3, im3_dbc"},
        {"gone.csv", "setting,pout_w,capture\n30 W,30,gone.wav\n", "gone.wav"}};
    for (const auto& [name, text, said] : cases) {
      write(name, text);
      const Reply a = run({"ladder", at(name), "--json"});
      QVERIFY(a.ended_by_itself);
      QCOMPARE(a.status, 3);
      QVERIFY(a.out.isEmpty());
      QVERIFY2(a.err.contains(said), qPrintable(a.err));
    }
    write("trace.csv", "frequency_hz,level_dbm\n1,2\n2,x\n");
    const Reply t = run({"two-tone", at("trace.csv"), "--json"});
    QCOMPARE(t.status, 3);
    QVERIFY2(t.err.contains("line 3"), qPrintable(t.err));
    write(
        "flat.csv",
        "frequency_hz,level_dbm\n1,-90\n2,-90\n3,-90\n4,-90\n5,-90\n6,-90\n7,-90\n8,-90\n9,-90\n");
    const Reply flat = run({"two-tone", at("flat.csv"), "--json"});
    QCOMPARE(flat.status, 0);
    QVERIFY(flat.out.contains("\"fault\""));
  }

  void the_documentation_names_every_option() {
    QFile file(HERON_DOCS "/cli.md");
    QVERIFY(file.open(QIODevice::ReadOnly));
    const QString text = QString::fromUtf8(file.readAll());
    const QRegularExpression option("--[a-z][a-z-]+");
    for (const char* command : {"level", "chain", "two-tone", "tone-pair", "report"}) {
      const QString help = run({command, "--help"}).out;
      QVERIFY(text.contains(QString("`") + command));
      auto found = option.globalMatch(help);
      int count = 0;
      while (found.hasNext()) {
        const QString name = found.next().captured();
        ++count;
        if (name == "--help" || name == "--json") continue;
        QVERIFY2(text.contains(name), qPrintable(QString("%1 %2").arg(command, name)));
      }
      QVERIFY(count >= 2);
    }
  }
};

HERON_LOOP_TEST(CliFaultsTest)

}  // namespace cli_faults_test

#include "cli_faults_test.moc"
