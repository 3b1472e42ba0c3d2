#include <QtTest>
#include <complex>
#include <random>

#include "core/error.h"
#include "core/quantity/figure.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_level.h"
#include "tests/test_program.h"

using namespace heron;

namespace quantity_test {

namespace {
bool close(double a, double b, double tolerance) {
  return std::abs(a - b) <= tolerance;
}
}  // namespace

class QuantityTest : public QObject {
  Q_OBJECT
 private slots:
  void levels_agree_with_closed_forms() {
    QVERIFY(close(to_dbm(to_watt(VoltPd{12.7e-3})).value, -24.914, 5e-4));
    QVERIFY(close(to_dbm(to_watt(VoltPd{0.16e-6})).value, -122.907, 5e-4));
    QVERIFY(close(to_dbm(to_watt(VoltPd{50e-6})).value, -73.010, 5e-4));
    QVERIFY(close(to_dbm(to_watt(VoltPd{5e-6})).value, -93.010, 5e-4));
    QVERIFY(close(to_pd(VoltEmf{0.32e-6}).value, 0.16e-6, 1e-15));
    QVERIFY(close(to_watt(Dbm{44.0}).value, 25.119, 5e-4));
    QVERIFY(close(voltage_ratio_from_db((probe_loss(10.0) + Db{6.0}).value), 19.953, 5e-4));
    QVERIFY(close(multiplication_penalty(4.0).value, 12.041, 5e-4));
    QVERIFY(close(pep_over_one_tone(1.0).value, 6.0206, 1e-4));
    QVERIFY(close(pep_over_one_tone(0.0).value, db_from_power_ratio(2.0), 1e-12));
  }

  void s_units_follow_six_db_a_unit() {
    QCOMPARE(s_units_text(Dbm{-73.0}), std::string("S9.0"));
    QCOMPARE(s_units_text(Dbm{-61.0}), std::string("S9+12.0"));
    QCOMPARE(s_units_text(Dbm{-83.2}), std::string("S7.3"));
    QCOMPARE(s_units_text(Dbm{-130.0}), std::string("<S0"));
    QCOMPARE(s_units_text(Dbm{-93.0}, SMeterRange::vhf), std::string("S9.0"));
    for (double units = 1.0; units <= 9.0; units += 0.5) {
      QCOMPARE(from_s_units(units, 0.0).value, -73.0 - 6.0 * (9.0 - units));
    }
  }

  void typed_levels_data() {
    QTest::addColumn<QString>("typed");
    QTest::addColumn<double>("dbm");
    QTest::newRow("millivolts") << "12.7 mVrms" << -24.914;
    QTest::newRow("comma") << "12,7 mV" << -24.914;
    QTest::newRow("no space") << "-73dBm" << -73.0;
    QTest::newRow("true minus") << QString::fromUtf8("−73 dBm") << -73.0;
    QTest::newRow("watts") << "30 W" << 44.771;
    QTest::newRow("kilowatt") << "1.5kW" << 61.761;
    QTest::newRow("milliwatt") << "2 mW" << 3.010;
    QTest::newRow("megawatt is not milliwatt") << "2 MW" << 93.010;
    QTest::newRow("emf") << "0.32 uV emf" << -122.907;
    QTest::newRow("micro sign") << QString::fromUtf8("0.32 µV EMF") << -122.907;
    QTest::newRow("greek mu") << QString::fromUtf8("0.16 μV PD") << -122.907;
    QTest::newRow("s9 plus") << "S9+10" << -63.0;
    QTest::newRow("s9 plus db") << "s9 + 10 dB" << -63.0;
    QTest::newRow("s7") << "S7" << -85.0;
    QTest::newRow("peak to peak") << "2 Vpp" << 10.0;
    QTest::newRow("peak") << "1 Vpk" << 10.0;
    QTest::newRow("dbuv") << "34 dBuV" << -72.990;
    QTest::newRow("dbw") << "-3 dBW" << 27.0;
    QTest::newRow("exponent") << "1e-3 W" << 0.0;
    QTest::newRow("pep") << "30 W pep" << 44.771;
    QTest::newRow("generator in emf dbm") << "-73 dBm emf" << -79.021;
  }
  void typed_levels() {
    QFETCH(QString, typed);
    QFETCH(double, dbm);
    const TypedLevel level = parse_level(typed.toStdString());
    QVERIFY2(close(level.level.value, dbm, 5.1e-4),
             qPrintable(QString::number(level.level.value, 'f', 5)));
    QVERIFY(!level.understood.empty());
  }

  void nonsense_is_refused_with_advice_data() {
    QTest::addColumn<QString>("typed");
    for (const char* text :
         {"", "   ", "W", "12", "12 parsecs", "1.2.3 W", "-5 W", "0 V", "S12", "S7+3", "1e400 W",
          "nan W", "inf dBm", "3 mdBm", "5 Wpp", "--3 dBm", "1e999 dBm", "9999 dBm"}) {
      QTest::newRow(text) << text;
    }
  }
  void nonsense_is_refused_with_advice() {
    QFETCH(QString, typed);
    try {
      parse_level(typed.toStdString());
      QFAIL("was accepted");
    } catch (const InputError& error) {
      QVERIFY(!error.reason.empty());
      QVERIFY(QString::fromStdString(error.advice).contains("30 W"));
    }
  }

  void units_round_trip() {
    std::mt19937_64 random(3);
    std::uniform_real_distribution<double> level(-150.0, 70.0);
    std::uniform_real_distribution<double> impedance(1.0, 600.0);
    for (int i = 0; i < 2000; ++i) {
      const Dbm dbm{level(random)};
      const Ohm ohm{impedance(random)};
      const VoltPd pd = to_pd(to_watt(dbm), ohm);
      QVERIFY(close(to_dbm(to_watt(pd, ohm)).value, dbm.value, 1e-9));
      LevelInputOptions options;
      options.impedance = ohm;
      const auto typed = [&](const char* form, double value) {
        return parse_level(QString::asprintf(form, value).toStdString(), options).level.value;
      };
      QVERIFY(close(typed("%.12g uVrms", pd.value * 1e6), dbm.value, 1e-8));
      QVERIFY(close(typed("%.12g V emf", 2.0 * pd.value), dbm.value, 1e-8));
      QVERIFY(close(typed("%.12g Vpp", peak_to_peak_volts(pd)), dbm.value, 1e-8));
      QVERIFY(close(typed("%.12g dBuV", dbuv(pd)), dbm.value, 1e-8));
    }
  }

  void values_are_rounded_to_their_uncertainty() {
    Figure f;
    f.unit = "dB";
    const auto shown = [&](double value, double expanded, Rounding rounding) {
      f.value = value;
      f.contributions = {{"all", expanded / 2.0, Scope::independent}};
      return QString::fromStdString(figure_text(f, rounding));
    };
    QCOMPARE(shown(-30.4234, 0.7, Rounding::two_digits), QString::fromUtf8("−30.42 ± 0.70 dB"));
    QCOMPARE(shown(-30.4234, 0.7, Rounding::compact), QString::fromUtf8("−30.4 ± 0.7 dB"));
    QCOMPARE(shown(-30.4234, 0.14, Rounding::compact), QString::fromUtf8("−30.42 ± 0.14 dB"));
    QCOMPARE(shown(12345.6, 37.2, Rounding::two_digits), QString::fromUtf8("12346 ± 37 dB"));
    QCOMPARE(shown(1.0, 0.0996, Rounding::two_digits), QString::fromUtf8("1.00 ± 0.10 dB"));
    QCOMPARE(shown(-0.001, 0.5, Rounding::two_digits), QString::fromUtf8("0.00 ± 0.50 dB"));
    f.bound = Bound::upper;
    QCOMPARE(shown(-48.44, 0.5, Rounding::two_digits), QString::fromUtf8("≤ −48.4 dB"));
    QCOMPARE(number_text(std::nan(""), 1), std::string("\u2013"));
    QCOMPARE(engineering_text(14.2013e6, "Hz", 6), std::string("14.2013 MHz"));
    QCOMPARE(engineering_text(1000.0, "Hz"), std::string("1 kHz"));
  }

  void common_contributions_cancel_in_a_difference() {
    Figure before;
    before.value = -30.0;
    before.contributions = {{"linearity", 0.3, Scope::common}, {"noise", 0.1, Scope::independent}};
    Figure after = before;
    after.value = -32.0;
    const Figure d = difference(after, before);
    QCOMPARE(d.value, -2.0);
    QVERIFY(close(d.u(), std::sqrt(2.0) * 0.1, 1e-12));
    QVERIFY(!is_no_difference(d));
    after.value = -30.25;
    QVERIFY(is_no_difference(difference(after, before)));
    after.contributions[0].scope = Scope::independent;
    QVERIFY(close(difference(after, before).u(), std::sqrt(2 * 0.01 + 2 * 0.09), 1e-12));
  }

  void type_b_contributions_follow_their_distributions() {
    QVERIFY(close(u_rectangular(1.0), 0.57735, 1e-5));
    QVERIFY(close(reflection_from_vswr(1.5), 0.2, 1e-12));
    // Monte Carlo of the phase between two reflections against the U-shaped formula.
    std::mt19937_64 random(5);
    std::uniform_real_distribution<double> phase(0.0, 6.283185307);
    double sum = 0.0;
    constexpr int kDraws = 200000;
    for (int i = 0; i < kDraws; ++i) {
      const double e = 20.0 * std::log10(std::abs(1.0 + std::polar(0.02, phase(random))));
      sum += e * e;
    }
    QVERIFY(close(u_mismatch_db(0.1, 0.2), std::sqrt(sum / kDraws), 0.003));
  }
};

HERON_TEST(QuantityTest)

}  // namespace quantity_test

#include "quantity_test.moc"
