// What people type into numeric fields: any unit, never a guess.
#include "core/quantity/parse_quantity.h"

#include <QtTest>
#include <random>

#include "core/error.h"
#include "core/quantity/level_desk.h"
#include "core/quantity/parse_level.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;

namespace parse_quantity_test {

using heron::testing::refusal;

class ParseQuantityTest : public QObject {
  Q_OBJECT

  static double value(const char* text, Quantity quantity) {
    return parse_quantity(text, quantity).value;
  }
  static bool is_near(double a, double b, double within = 1e-9) {
    return std::abs(a - b) <= within * std::max(1.0, std::abs(b));
  }

 private slots:
  void every_quantity_takes_its_units() {
    struct Case {
      const char* text;
      Quantity quantity;
      double value;
    };
    const Case cases[] = {{"14.2 MHz", Quantity::frequency, 14.2e6},
                          {"14200 kHz", Quantity::frequency, 14.2e6},
                          {"14,2", Quantity::frequency, 14.2e6},
                          {"650 Hz", Quantity::frequency, 650},
                          {"1.2962 GHz", Quantity::frequency, 1296.2e6},
                          {"12", Quantity::duration, 12},
                          {"2:10", Quantity::duration, 130},
                          {"1:02:30", Quantity::duration, 3750},
                          {"2:10 min", Quantity::duration, 130},
                          {"3 min", Quantity::duration, 180},
                          {"250 ms", Quantity::duration, 0.25},
                          {"\u221240 dB", Quantity::gain, -40},
                          {"10:1", Quantity::gain, -20},
                          {"1:10", Quantity::gain, 20},
                          {"0.3", Quantity::uncertainty, 0.3},
                          {"\u00b1 0.3 dB", Quantity::uncertainty, 0.3},
                          {"0.15 dB k=1", Quantity::uncertainty, 0.3},
                          {"5 %", Quantity::uncertainty, 10 * std::log10(1.05)},
                          {"1.2", Quantity::vswr, 1.2},
                          {"1.2:1", Quantity::vswr, 1.2},
                          {"20 dB", Quantity::vswr, 11.0 / 9.0},
                          {"50", Quantity::impedance, 50},
                          {"4.7 k\u03a9", Quantity::impedance, 4700},
                          {"500 ppb", Quantity::relative, 0.5},
                          {"2 years", Quantity::interval, 24},
                          {"320 mA", Quantity::current, 0.32},
                          {"\u221230", Quantity::limit, -30},
                          {"1 %", Quantity::limit, -40},
                          {"31 W", Quantity::level, 44.91361694},
                          {"43 dBm", Quantity::power, 19.9526231}};
    for (const Case& c : cases) QVERIFY2(is_near(value(c.text, c.quantity), c.value, 1e-8), c.text);
  }

  void a_mean_of_two_tones_is_three_decibels_below_their_envelope() {
    QuantityOptions two;
    two.is_two_tone = true;
    const double pep = parse_quantity("30 W pep", Quantity::level, two).value;
    QVERIFY(is_near(parse_quantity("15 W mean", Quantity::level, two).value, pep));
    // One tone's mean is its envelope.
    QVERIFY(is_near(parse_quantity("30 W mean", Quantity::level).value, pep));
  }

  void what_cannot_be_is_refused_with_a_form_that_works() {
    const std::pair<const char*, Quantity> cases[] = {
        {"", Quantity::frequency},        {"loud", Quantity::duration},
        {"14 dB", Quantity::frequency},   {"0.8", Quantity::vswr},
        {"-3", Quantity::uncertainty},    {"2:75", Quantity::duration},
        {"-5 s", Quantity::duration},     {"0 ohm", Quantity::impedance},
        {"10:0", Quantity::gain},         {"30", Quantity::limit},
        {"400 dB", Quantity::gain},       {"-1 W", Quantity::power},
        {"1e400 Hz", Quantity::frequency}};
    for (const auto& [text, quantity] : cases) {
      try {
        parse_quantity(text, quantity);
        QFAIL(text);
      } catch (const InputError& error) {
        QVERIFY(!error.reason.empty());
        QVERIFY2(error.advice.find(" or ") != std::string::npos, error.what());
      }
    }
  }

  /// What the program writes into a field means the same when it is read back.
  /// A comma before exactly three digits: nobody knows which it is, so it is asked.
  void a_comma_that_may_stand_for_thousands_is_questioned() {
    for (const int whole : {1, 12, 150, 999}) {
      for (const int part : {0, 5, 250, 999}) {
        char text[32];
        std::snprintf(text, sizeof text, "%d,%03d W", whole, part);
        QVERIFY2(refusal([&] { parse_quantity(text, Quantity::power); }).contains("may be"), text);
        std::snprintf(text, sizeof text, "%d,%03d MHz", whole, part);
        QVERIFY2(refusal([&] { parse_quantity(text, Quantity::frequency); }).contains("may be"),
                 text);
        std::snprintf(text, sizeof text, "%d.%03d W", whole, part);
        QVERIFY(std::abs(parse_quantity(text, Quantity::power).value - (whole + part / 1e3)) <
                1e-9);
      }
    }
    QVERIFY(std::abs(parse_quantity("1,5 W", Quantity::power).value - 1.5) < 1e-12);
    QVERIFY(std::abs(parse_quantity("0,500 W", Quantity::power).value - 0.5) < 1e-12);
    QVERIFY(std::abs(parse_quantity("1,5000 W", Quantity::power).value - 1.5) < 1e-12);
  }

  void hours_and_minutes_are_told_from_minutes_and_seconds() {
    for (int first = 0; first < 24; ++first) {
      for (const int second : {0, 7, 30, 59}) {
        char text[32];
        const auto seconds = [&](const char* form) {
          std::snprintf(text, sizeof text, form, first, second);
          return parse_quantity(text, Quantity::duration).value;
        };
        QCOMPARE(seconds("%d:%02d h"), first * 3600.0 + second * 60.0);
        QCOMPARE(seconds("%d:%02d min"), first * 60.0 + second);
        QCOMPARE(seconds("%d:%02d"), first * 60.0 + second);
        QCOMPARE(seconds("%d:%02d:30 h"), first * 3600.0 + second * 60.0 + 30.0);
      }
    }
  }

  void written_values_read_back() {
    std::mt19937 random(11);
    std::uniform_real_distribution<double> exponent(-2.0, 4.0);
    const Quantity all[] = {Quantity::level,    Quantity::power,     Quantity::frequency,
                            Quantity::duration, Quantity::gain,      Quantity::uncertainty,
                            Quantity::vswr,     Quantity::impedance, Quantity::relative,
                            Quantity::interval, Quantity::current};
    for (const Quantity quantity : all) {
      for (int i = 0; i < 300; ++i) {
        double v = std::pow(10.0, exponent(random));
        if (quantity == Quantity::vswr) v = 1.0 + v / 1e4;
        if (quantity == Quantity::level || quantity == Quantity::gain) v = v / 100.0 - 50.0;
        if (quantity == Quantity::uncertainty) v = std::min(v / 1e3, 50.0);
        if (quantity == Quantity::interval) v = 1.0 + v / 100.0;
        const std::string text = quantity_text(quantity, v);
        const double again = parse_quantity(text, quantity).value;
        const double step = quantity == Quantity::duration ? 0.51 : 0.0;
        QVERIFY2(std::abs(again - v) <= std::max({0.051, step, 2e-3 * v}), text.c_str());
        QVERIFY(!parse_quantity(text, quantity).understood.empty());
      }
    }
  }

  void every_form_on_the_level_desk_is_the_same_level() {
    std::mt19937 random(5);
    std::uniform_real_distribution<double> level(-150.0, 60.0);
    for (const double ohm : {50.0, 75.0, 600.0}) {
      for (int i = 0; i < 200; ++i) {
        const Dbm pep{level(random)};
        DeskView view;
        view.impedance = Ohm{ohm};
        view.is_two_tone = i % 2 == 1;
        for (const DeskRow& row : desk_rows(pep, view)) {
          if (row.id == "s_hf" || row.id == "s_vhf") continue;
          LevelInputOptions options;
          options.impedance = Ohm{ohm};
          std::string typed = row.text();
          if (row.id == "v_peak") typed += " peak";
          if (row.id == "v_pp") typed += " pp";
          if (row.id == "v_emf" || row.id == "dbuv_emf") typed += " emf";
          double dbm = parse_level(typed, options).level.value;
          if (row.id.starts_with("tone_")) dbm += 6.0206;
          if (row.id == "mean_watt") dbm += 3.0103;
          QVERIFY2(std::abs(dbm - pep.value) < 0.006, (row.id + " " + typed).c_str());
        }
      }
    }
  }

  void the_desk_agrees_with_the_textbook() {
    const auto find = [](const std::vector<DeskRow>& rows, const std::string& id) {
      for (const DeskRow& row : rows) {
        if (row.id == id) return row;
      }
      return DeskRow{};
    };
    DeskView two;
    two.is_two_tone = true;
    const auto rows = desk_rows(Dbm{44.9136}, two);  // 31 W
    QCOMPARE(find(rows, "tone_dbm").number, std::string("+38.89"));
    QCOMPARE(find(rows, "tone_watt").text(), std::string("7.75 W"));
    QCOMPARE(find(rows, "v_rms").text(), std::string("39.37 V"));
    QCOMPARE(find(rows, "v_emf").text(), std::string("78.74 V"));
    QCOMPARE(find(rows, "dbuv").number, std::string("+151.90"));
    QVERIFY(find(desk_rows(Dbm{-73.0}), "s_hf").number.starts_with("S9"));
    QVERIFY(find(desk_rows(Dbm{-93.0}), "s_vhf").number.starts_with("S9"));
    DeskView transmitter;
    transmitter.is_receiver_level = false;
    QCOMPARE(find(desk_rows(Dbm{44.0}, transmitter), "s_hf").number, std::string("\u2013"));
  }
};

HERON_TEST(ParseQuantityTest)

}  // namespace parse_quantity_test

#include "parse_quantity_test.moc"
