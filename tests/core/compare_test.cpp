// What a change is called: against closed forms, and at random.
#include "core/method/compare.h"

#include <QtTest>
#include <cmath>
#include <random>

#include "core/quantity/budget.h"
#include "tests/test_program.h"

using namespace heron;

namespace compare_test {
namespace {

Figure figure(double value, double common_u, double own_u, const char* unit = "dB") {
  Figure f;
  f.id = "gain";
  f.value = value;
  f.unit = unit;
  f.contributions = {{"meter", common_u, Scope::common}, {"reading", own_u, Scope::independent}};
  return f;
}

}  // namespace

class CompareTest : public QObject {
  Q_OBJECT
 private slots:
  /// What both share cancels only where they were read in the same way.
  void what_is_shared_cancels_on_the_same_way_only() {
    const Figure then = figure(13.9, 0.4, 0.03);
    const Figure now = figure(14.4, 0.4, 0.04);
    QCOMPARE(change_between(now, then, true).u(), 0.05);
    QVERIFY(std::abs(change_between(now, then, false).u() - std::hypot(0.4, 0.4, 0.05)) < 1e-12);
    QVERIFY(std::abs(change_between(now, then, true).value - 0.5) < 1e-12);
    QCOMPARE(change_words(change_between(now, then, true), true, true),
             std::string("better by 0.50 \u00b1 0.10 dB"));
    QCOMPARE(change_words(change_between(now, then, false), true, true),
             std::string("no difference"));
  }

  void which_way_is_better_is_the_callers() {
    const Figure change = change_between(figure(-30.0, 0.0, 0.1), figure(-27.0, 0.0, 0.1), true);
    QVERIFY(change_words(change, true, false).starts_with("better by 3.00 \u00b1 0.28"));
    QVERIFY(change_words(change, false, false).starts_with("worse by 3.0"));
    // Where neither is better its sign says how it went.
    QVERIFY2(change_words(change, std::nullopt, false).starts_with("\u22123.00 \u00b1 0.28"),
             change_words(change, std::nullopt, false).c_str());
    QVERIFY(!change_words(change, true, false).ends_with("dB"));
  }

  /// Two levels differ by a ratio, not by a level.
  void levels_differ_in_decibels() {
    const Figure change =
        change_between(figure(-115.0, 0.0, 0.2, "dBm"), figure(-111.0, 0.0, 0.2, "dBm"), true);
    const std::string words = change_words(change, true, true);
    QVERIFY2(words.ends_with(" dB") && words.find("dBm") == std::string::npos, words.c_str());
    Answer now;
    now.figure = figure(-115.0, 0.0, 0.2, "dBm");
    Answer then;
    then.figure = figure(-111.0, 0.0, 0.2, "dBm");
    then.where = "7.1 MHz";
    const std::string sentence = comparison_words(now, then, Sense::at_most, true);
    QVERIFY2(sentence.find("dB better than 7.1 MHz.") != std::string::npos, sentence.c_str());
    then.figure.convention = "EMF";
    QVERIFY(comparison_words(now, then, Sense::at_most, true).empty());
  }

  /// On the other side of zero it is off by as much as it is.
  void an_error_counts_by_its_size() {
    const Figure change = change_of_error(figure(-2.0, 0.0, 0.1), figure(5.0, 0.0, 0.1), true);
    QCOMPARE(change.value, -3.0);
    QCOMPARE(change_of_error(figure(2.0, 0.0, 0.1), figure(-2.0, 0.0, 0.1), true).value, 0.0);
  }

  /// A difference is called one when it is larger than its U, and by its size: at random.
  void no_difference_is_what_is_within_its_u() {
    std::mt19937 draw(20);
    std::uniform_real_distribution<double> value(-5.0, 5.0);
    std::uniform_real_distribution<double> u(0.01, 1.0);
    int none = 0;
    for (int i = 0; i < 2000; ++i) {
      const Figure now = figure(value(draw), 0.0, u(draw));
      const Figure then = figure(value(draw), 0.0, u(draw));
      const Figure change = change_between(now, then, i % 2 == 0);
      const std::string words = change_words(change, change.value > 0.0, true);
      const double limit = 2.0 * std::hypot(now.u(), then.u());
      const double d = now.value - then.value;
      if (std::abs(d) <= limit) {
        QCOMPARE(words, std::string("no difference"));
        ++none;
        continue;
      }
      QVERIFY(words.starts_with(d > 0.0 ? "better by " : "worse by "));
      const double said = std::stod(words.substr(words.find("by ") + 3));
      // Rounded to its uncertainty: off by no more than that.
      QVERIFY2(said > 0.0 && std::abs(said - std::abs(d)) <= limit, words.c_str());
    }
    QVERIFY(none > 100 && none < 1500);
  }
};

HERON_TEST(CompareTest)

}  // namespace compare_test

#include "compare_test.moc"
