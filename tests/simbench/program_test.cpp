#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>

#include "instrument/scpi_session.h"
#include "simbench/sim_server.h"
#include "tests/test_program.h"

using namespace heron;

namespace program_test {

/// The simulated bench as a program of its own.
class SimProgramTest : public QObject {
  Q_OBJECT
 private:
  struct Running {
    QProcess process;
    QMap<QString, QString> addresses;
    explicit Running(const QStringList& arguments) {
      process.start(HERON_SIMBENCH, arguments);
      while (addresses.size() < 10 && (process.canReadLine() || process.waitForReadyRead(15000))) {
        while (process.canReadLine()) {
          const QStringList words = QString(process.readLine()).simplified().split(' ');
          if (words.size() == 2) addresses[words[0]] = words[1];
        }
      }
    }
    ~Running() {
      if (process.state() == QProcess::NotRunning) return;
      process.kill();
      process.waitForFinished(5000);
    }
    std::string ask(const QString& instrument, const char* line) {
      ScpiSession session(instrument.toStdString(),
                          parse_address(addresses.value(instrument).toStdString()),
                          generic_profile());
      return session.ask(line);
    }
  };

 private slots:
  void it_tells_its_ports_answers_and_ends_in_order() {
    Running bench({"--port", "0", "--seed", "9", "--amplifier"});
    QCOMPARE(bench.addresses.size(), 10);
    for (auto i = bench.addresses.begin(); i != bench.addresses.end(); ++i)
      QCOMPARE(bench.ask(i.key(), "*IDN?"),
               "Even Heron,simulated " + i.key().toStdString() + ",9,1");
    QCOMPARE(bench.ask("device", "KEYED?"), std::string("0"));
    bench.process.terminate();
    QVERIFY(bench.process.waitForFinished(10000));
    QCOMPARE(bench.process.exitStatus(), QProcess::NormalExit);
    QCOMPARE(bench.process.exitCode(), 0);
  }

  void what_it_cannot_do_is_said_with_status_3() {
    const sim::SimServer taken{sim::SimConfig{}};
    QTemporaryDir folder;
    QFile chain(folder.filePath("chain.json"));
    QVERIFY(chain.open(QIODevice::WriteOnly));
    chain.write("{ \"format\": \"something else\" }");
    chain.close();
    for (const QStringList& arguments :
         {QStringList{"--port", QString::number(taken.port("generator"))},
          QStringList{"--port", "0", "--chain", chain.fileName()},
          QStringList{"--port", "0", "--chain", folder.filePath("none.json")}}) {
      QProcess process;
      process.start(HERON_SIMBENCH, arguments);
      QVERIFY2(process.waitForFinished(15000), qPrintable(arguments.join(' ')));
      QCOMPARE(process.exitCode(), 3);
      QVERIFY(process.readAllStandardError().startsWith("even-heron-simbench: "));
    }
    QProcess wrong;
    wrong.start(HERON_SIMBENCH, {"--speed", "-4"});
    QVERIFY(wrong.waitForFinished(15000));
    QVERIFY(wrong.exitCode() != 0);
  }
};

HERON_LOOP_TEST(SimProgramTest)

}  // namespace program_test

#include "program_test.moc"
