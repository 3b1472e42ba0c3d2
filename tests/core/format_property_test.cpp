// Properties of what is shown and of what is typed, over random values.
#include <QtTest>
#include <random>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_level.h"
#include "tests/test_program.h"

using namespace heron;

namespace format_property_test {

namespace {

double shown_number(const std::string& text) {
  return QString::fromStdString(text).replace(QString::fromUtf8("−"), "-").toDouble();
}

int significant_digits(const std::string& text) {
  std::string digits;
  for (const char c : text) {
    if (std::isdigit(static_cast<unsigned char>(c))) digits += c;
  }
  const auto first = digits.find_first_not_of('0');
  return first == std::string::npos ? 0 : static_cast<int>(digits.size() - first);
}

Figure figure_of(double value, double expanded) {
  Figure f;
  f.value = value;
  f.unit = "dB";
  f.contributions = {{"all", expanded / 2.0, Scope::independent}};
  return f;
}

}  // namespace

class FormatPropertyTest : public QObject {
  Q_OBJECT
 private slots:
  /// Rounding moves a value by no more than half its last digit, and U keeps two digits.
  void rounding_follows_the_uncertainty() {
    std::mt19937_64 random(1);
    std::uniform_real_distribution<double> value(-200.0, 200.0);
    std::uniform_real_distribution<double> exponent(-3.0, 0.99);
    for (int i = 0; i < 20000; ++i) {
      const double v = value(random);
      const double expanded = std::pow(10.0, exponent(random));
      const FormattedFigure f = format_figure(figure_of(v, expanded), Rounding::two_digits);
      QVERIFY2(significant_digits(f.uncertainty) == 2 ||
                   (significant_digits(f.uncertainty) == 3 && shown_number(f.uncertainty) >= 9.95),
               f.uncertainty.c_str());
      const auto point = f.uncertainty.find('.');
      const int decimals =
          point == std::string::npos ? 0 : static_cast<int>(f.uncertainty.size() - point - 1);
      const double half = 0.5 * std::pow(10.0, -decimals) * (1.0 + 1e-9);
      QVERIFY(std::abs(shown_number(f.value) - v) <= half);
      QVERIFY(std::abs(shown_number(f.uncertainty) - expanded) <= half);
      QCOMPARE(decimals, std::max(0, decimals_for(expanded, Rounding::two_digits)));
      // Value and U end at the same decimal place.
      const auto value_point = f.value.find('.');
      QCOMPARE(
          value_point == std::string::npos ? 0 : static_cast<int>(f.value.size() - value_point - 1),
          decimals);
      QVERIFY(f.value.find('-') == std::string::npos);  // a true minus sign
    }
  }

  /// Above a hundred too: tens and hundreds are rounded, not printed.
  void large_uncertainties_round_what_stands_before_the_point() {
    QVERIFY(figure_text(figure_of(2724.4, 235.0)).starts_with("2720 \u00b1 240"));
    QVERIFY(figure_text(figure_of(-99963.0, 1234.0)).starts_with("\u2212100000 \u00b1 1200"));
    QCOMPARE(number_text(-3.0, -1), std::string("0"));
    std::mt19937_64 random(6);
    std::uniform_real_distribution<double> value(-1e7, 1e7);
    std::uniform_real_distribution<double> exponent(2.0, 6.0);
    for (int i = 0; i < 5000; ++i) {
      const double v = value(random);
      const double expanded = std::pow(10.0, exponent(random));
      const double place = std::pow(10.0, -decimals_for(expanded, Rounding::two_digits));
      const FormattedFigure f = format_figure(figure_of(v, expanded));
      for (const auto& [text, exact] :
           {std::pair(f.value, v), std::pair(f.uncertainty, expanded)}) {
        QVERIFY(std::abs(shown_number(text) - exact) <= 0.5 * place * (1.0 + 1e-9));
        QVERIFY(std::abs(std::remainder(shown_number(text), place)) < 1e-6);
      }
      QVERIFY(expanded / place >= 9.9 && expanded / place <= 100.0);
    }
  }

  void screens_never_show_more_digits_than_reports() {
    std::mt19937_64 random(2);
    std::uniform_real_distribution<double> exponent(-3.0, 1.0);
    for (int i = 0; i < 2000; ++i) {
      const double expanded = std::pow(10.0, exponent(random));
      QVERIFY(decimals_for(expanded, Rounding::compact) <=
              decimals_for(expanded, Rounding::two_digits));
    }
  }

  void nothing_is_written_as_minus_zero() {
    for (int decimals = 0; decimals < 6; ++decimals) {
      const std::string text = number_text(-0.4 * std::pow(10.0, -decimals), decimals);
      QVERIFY2(text.find("\u2212") == std::string::npos, text.c_str());
    }
  }

  void engineering_prefixes_keep_one_to_three_digits_before_the_point() {
    std::mt19937_64 random(3);
    std::uniform_real_distribution<double> exponent(-11.0, 11.0);
    for (int i = 0; i < 5000; ++i) {
      const double v = std::pow(10.0, exponent(random));
      const QString text = QString::fromStdString(engineering_text(v, "Hz", 5));
      const double number = text.section(' ', 0, 0).toDouble();
      QVERIFY2(number >= 0.99999 && number < 1000.01, qPrintable(text));
      QVERIFY2(text.endsWith("Hz"), qPrintable(text));
    }
  }

  /// What the program writes about a level it can read again, in every unit.
  void levels_are_read_back_as_written() {
    std::mt19937_64 random(4);
    std::uniform_real_distribution<double> level(-140.0, 60.0);
    for (int i = 0; i < 3000; ++i) {
      const Dbm dbm{level(random)};
      const Watt watt = to_watt(dbm);
      const double volts = to_pd(watt).value;
      const auto same = [&](const std::string& typed, double tolerance) {
        return std::abs(parse_level(typed).level.value - dbm.value) < tolerance;
      };
      QVERIFY(same(number_text(dbm.value, 3) + " dBm", 6e-4));
      const std::string in_watt = engineering_text(watt.value, "W", 8);
      QVERIFY2(same(in_watt, 1e-5), in_watt.c_str());
      const std::string in_volt = engineering_text(volts, "V", 8) + " rms";
      QVERIFY2(same(in_volt, 1e-5), in_volt.c_str());
      // S units are written with one decimal below S9, where people read whole units.
      if (dbm.value > -73.0 && dbm.value < 20.0) {
        const std::string s = s_units_text(dbm);
        QVERIFY2(same(s, 0.06), s.c_str());
      }
    }
  }

  void a_comma_is_a_decimal_point_and_spaces_do_not_matter() {
    std::mt19937_64 random(5);
    std::uniform_real_distribution<double> level(-99.0, 99.0);
    for (int i = 0; i < 500; ++i) {
      const QString number = QString::number(level(random), 'f', 2);
      const double wanted = number.toDouble();
      for (QString form :
           {number, QString(number).replace('.', ','),
            QString(number).replace('-', QString::fromUtf8("−")), " " + number + " "}) {
        for (const char* unit : {"dBm", " dBm", "  dbm "}) {
          const double read = parse_level((form + unit).toStdString()).level.value;
          QVERIFY2(std::abs(read - wanted) < 1e-9, qPrintable(form + unit));
        }
        QCOMPARE(*parse_number(form.toStdString()), wanted);
      }
    }
  }

  /// Any text is either read or refused with advice; nothing else ever comes out.
  void random_text_never_surprises() {
    std::mt19937_64 random(6);
    const std::string alphabet = "0123456789.,+-eEdDbBmMuUkKwWvVsSpPrRfF \xc2\xb5\xe2\x88\x92\xff";
    int read = 0;
    int refused = 0;
    for (int i = 0; i < 20000; ++i) {
      std::string text;
      const auto length = random() % 12;
      for (std::size_t k = 0; k < length; ++k) text += alphabet[random() % alphabet.size()];
      try {
        const TypedLevel level = parse_level(text);
        QVERIFY(std::isfinite(level.level.value));
        QVERIFY(!level.understood.empty());
        ++read;
      } catch (const InputError& error) {
        QVERIFY(!error.advice.empty());
        ++refused;
      }
    }
    QVERIFY(read > 20 && refused > 1000);
  }

  void emf_is_twice_pd_and_6_db() {
    std::mt19937_64 random(7);
    std::uniform_real_distribution<double> microvolts(0.01, 1e6);
    LevelInputOptions generator;
    generator.volts_are_emf = true;
    for (int i = 0; i < 500; ++i) {
      const std::string text = QString::number(microvolts(random), 'g', 8).toStdString() + " uV";
      const double pd = parse_level(text).level.value;
      QVERIFY(std::abs(parse_level(text, generator).level.value - pd + 20 * std::log10(2.0)) <
              1e-9);
      QVERIFY(std::abs(parse_level(text + " emf").level.value - pd + 20 * std::log10(2.0)) < 1e-9);
    }
  }
};

HERON_TEST(FormatPropertyTest)

}  // namespace format_property_test

#include "format_property_test.moc"
