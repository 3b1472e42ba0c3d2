#include "core/chain/touchstone.h"

#include <QtTest>
#include <fmt/format.h>
#include <random>

#include "core/error.h"
#include "core/quantity/levels.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;

namespace touchstone_test {

namespace {

QString refused_text(const std::string& text) {
  return heron::testing::refusal([&] { parse_touchstone(text, "part.s2p"); });
}

bool close(std::complex<double> a, std::complex<double> b) {
  return std::abs(a - b) < 1e-9;
}

}  // namespace

class TouchstoneTest : public QObject {
  Q_OBJECT
 private slots:
  /// The same network in every form and unit is the same network.
  void every_form_and_unit_says_the_same() {
    std::mt19937 random(1);
    std::uniform_real_distribution<double> magnitude(0.01, 0.9);
    std::uniform_real_distribution<double> degrees(-180.0, 180.0);
    std::vector<TwoPort> truth;
    for (int i = 0; i < 7; ++i) {
      const auto s = [&] {
        return std::polar(magnitude(random), degrees(random) / 57.29577951308232);
      };
      truth.push_back({1e6 * (i + 1), s(), s(), s(), s()});
    }
    for (const auto& [unit, hz] : std::vector<std::pair<std::string, double>>{
             {"Hz", 1.0}, {"kHz", 1e3}, {"MHZ", 1e6}, {"ghz", 1e9}}) {
      for (const std::string form : {"DB", "ma", "RI"}) {
        std::string text = "! a comment\n# " + unit + " S " + form + " R 75\r\n";
        for (const TwoPort& p : truth) {
          text += fmt::format("{:.12g}", p.frequency_hz / hz);
          for (const auto s : {p.s11, p.s21, p.s12, p.s22}) {
            const double angle = std::arg(s) * 57.29577951308232;
            if (form == "RI")
              text += fmt::format(" {:.15g} {:.15g}", s.real(), s.imag());
            else
              text += fmt::format(" {:.15g}\t{:.15g}",
                                  form == "DB" ? db_from_voltage_ratio(std::abs(s)) : std::abs(s),
                                  angle);
          }
          text += " ! behind it\r\n";
        }
        const Touchstone read = parse_touchstone(text, "part.s2p");
        QCOMPARE(read.reference_ohm, 75.0);
        QCOMPARE(read.points.size(), truth.size());
        for (std::size_t i = 0; i < truth.size(); ++i) {
          QVERIFY(std::abs(read.points[i].frequency_hz - truth[i].frequency_hz) < 1e-3);
          QVERIFY(close(read.points[i].s11, truth[i].s11) &&
                  close(read.points[i].s21, truth[i].s21));
          QVERIFY(close(read.points[i].s12, truth[i].s12) &&
                  close(read.points[i].s22, truth[i].s22));
        }
      }
    }
  }

  void defaults_are_those_of_the_standard() {
    // No option line: GHz, magnitude and angle, 50 ohms.
    const Touchstone t = parse_touchstone("1 0.1 0 0.5 0 0.5 0 0.2 0\n", "part.s2p");
    QCOMPARE(t.points[0].frequency_hz, 1e9);
    QCOMPARE(t.reference_ohm, 50.0);
    QVERIFY(std::abs(t.gain("x").at(1e9, "x") + 6.0206) < 1e-4);
    QVERIFY(std::abs(t.input_vswr(1e9) - 1.1 / 0.9) < 1e-9);
    QVERIFY(std::abs(t.output_vswr(1e9) - 1.2 / 0.8) < 1e-9);
  }

  void version_2_with_either_order() {
    const auto file = [](const char* order) {
      return std::string("[Version] 2.0\n# MHz S MA R 50\n[Number of Ports] 2\n") +
             "[Two-Port Data Order] " + order +
             "\n[Number of Frequencies] 2\n[Reference] 50\n50\n[Begin Information]\n"
             "[Manufacturer] nobody\n[End Information]\n[Network Data]\n"
             "1 0.1 0 0.5 0 0.4 0 0.2 0\n2 0.1 0 0.6 0 0.3 0 0.2 0\n[Noise Data]\n1 2 3 4 "
             "5\n[End]\n";
    };
    const Touchstone a = parse_touchstone(file("21_12"), "part.s2p");
    const Touchstone b = parse_touchstone(file("12_21"), "part.s2p");
    QCOMPARE(a.points.size(), 2U);
    QVERIFY(close(a.points[0].s21, 0.5) && close(a.points[0].s12, 0.4));
    QVERIFY(close(b.points[0].s21, 0.4) && close(b.points[0].s12, 0.5));
  }

  void records_over_several_lines_and_noise_behind_them() {
    const Touchstone t = parse_touchstone(
        "# GHz S RI R 50\n"
        "1 0.1 0 0.5 0\n 0.4 0 0.2 0\n"
        "2 0.1 0 0.6 0\n 0.3 0 0.2 0\n"
        "! noise\n"
        "0.5 1.1 0.3 40 0.2\n"
        "1.0 1.2 0.3 50 0.2\n",
        "part.s2p");
    QCOMPARE(t.points.size(), 2U);
    QVERIFY(close(t.points[1].s21, 0.6));
  }

  void broken_files_are_refused_by_line_data() {
    QTest::addColumn<QByteArray>("text");
    QTest::addColumn<QString>("words");
    QTest::newRow("empty") << QByteArray("") << "no data";
    QTest::newRow("only comments") << QByteArray("! nothing\n! here\n") << "no data";
    QTest::newRow("one port") << QByteArray("# MHz S MA R 50\n1 0.5 0\n") << "line 2";
    QTest::newRow("impedances") << QByteArray("# MHz Z MA R 50\n") << "z parameters";
    QTest::newRow("odd option") << QByteArray("# MHz S XY R 50\n") << "xy";
    QTest::newRow("letters") << QByteArray("# MHz S MA R 50\n1 0.1 0 0.5 zero 0.5 0 0.2 0\n")
                             << "zero";
    QTest::newRow("not a number") << QByteArray("1 nan 0 0.5 0 0.5 0 0.2 0\n") << "nan";
    QTest::newRow("falling") << QByteArray("2 .1 0 .5 0 .5 0 .2 0\n1 .1 0 .5 0 .5 0 .2 0\n")
                             << "line 2";
    QTest::newRow("cut off") << QByteArray("1 .1 0 .5 0 .5 0 .2 0\n2 .1 0 .5 0\n")
                             << "instead of 9";
    QTest::newRow("too many") << QByteArray("1 .1 0 .5 0 .5 0 .2 0 7 7\n") << "instead of 9";
    QTest::newRow("four ports") << QByteArray("[Version] 2.0\n[Number of Ports] 4\n") << "4 ports";
    QTest::newRow("version 3") << QByteArray("[Version] 3.0\n") << "versions";
    QTest::newRow("fewer than promised")
        << QByteArray(
               "[Version] 2.0\n# GHz S MA R 50\n[Number of Ports] 2\n"
               "[Number of Frequencies] 3\n[Network Data]\n1 .1 0 .5 0 .5 0 .2 0\n")
        << "announces 3";
    QTest::newRow("open keyword") << QByteArray("[Version 2.0\n") << "not closed";
    QTest::newRow("reference") << QByteArray("# MHz S MA R zero\n") << "reference";
  }
  void broken_files_are_refused_by_line() {
    QFETCH(QByteArray, text);
    QFETCH(QString, words);
    const QString said = refused_text(text.toStdString());
    QVERIFY2(said.contains("part.s2p") && said.contains(words), qPrintable(said));
  }

  void random_damage_is_read_or_refused() {
    const std::string good =
        "[Version] 2.0\n# MHz S DB R 50\n[Number of Ports] 2\n[Two-Port Data Order] 21_12\n"
        "[Number of Frequencies] 2\n[Network Data]\n1 -20 0 -1 -90 -1 -90 -20 0\n"
        "2 -20 0 -1 -90 -1 -90 -20 0\n[End]\n";
    std::mt19937 random(4);
    int read = 0;
    int refused = 0;
    for (int i = 0; i < 3000; ++i) {
      std::string bad = good;
      const auto changes = 1 + random() % 3;
      for (unsigned c = 0; c < changes; ++c)
        bad[random() % bad.size()] = "0123456789.-+eE[]#!\n \xff"[random() % 22];
      try {
        const Touchstone t = parse_touchstone(bad, "part.s2p");
        QVERIFY(!t.points.empty());
        for (const TwoPort& p : t.points) QVERIFY(std::isfinite(std::abs(p.s21)));
        ++read;
      } catch (const InputError& error) {
        QVERIFY(!error.advice.empty());
        ++refused;
      }
    }
    QVERIFY(read > 100 && refused > 100);
  }
};

HERON_TEST(TouchstoneTest)

}  // namespace touchstone_test

#include "touchstone_test.moc"
