#include "core/method/cascade.h"

#include <QtTest>
#include <complex>
#include <random>

#include "core/quantity/levels.h"
#include "tests/core/made_analysis.h"

using namespace heron;
using heron::testing::made_analysis;

class CascadeTest : public QObject {
  Q_OBJECT
 private slots:
  void equal_products_rise_by_six_three_or_vanish() {
    const auto p = predict_cascade(made_analysis({-30, -40}), made_analysis({-30, -60}));
    QCOMPARE(p.size(), 2U);
    QVERIFY(std::abs(p[0].in_phase_dbc + 30 - 6.0206) < 1e-3);
    QVERIFY(std::abs(p[0].power_sum_dbc + 30 - 3.0103) < 1e-3);
    QCOMPARE(p[0].opposed_dbc, -300.0);
    // 20 dB apart: at most 0.83 dB up, 0.92 dB down, 0.04 dB in power.
    QVERIFY(std::abs(p[1].in_phase_dbc + 40 - 0.8279) < 1e-3);
    QVERIFY(std::abs(p[1].opposed_dbc + 40 + 0.9151) < 1e-3);
    QVERIFY(std::abs(p[1].power_sum_dbc + 40 - 0.0432) < 1e-3);
  }

  /// Whatever the phases are, the pair lies in the band, and its mean power is the power sum.
  void every_phase_lies_in_the_band() {
    std::mt19937_64 random(1);
    std::uniform_real_distribution<double> level(-70, -20);
    std::uniform_real_distribution<double> phase(0, 6.283185307);
    for (int i = 0; i < 50; ++i) {
      const double e = level(random);
      const double a = level(random);
      const CascadedProduct p = predict_cascade(made_analysis({e}), made_analysis({a}))[0];
      double mean = 0.0;
      constexpr int kDraws = 4000;
      for (int d = 0; d < kDraws; ++d) {
        const double sum = std::abs(std::polar(voltage_ratio_from_db(e), phase(random)) +
                                    std::polar(voltage_ratio_from_db(a), phase(random)));
        mean += sum * sum / kDraws;
        const TwoToneAnalysis pair = made_analysis({db_from_voltage_ratio(sum)}, 0.0, -200.0);
        QCOMPARE(compare_cascade(p, pair, 0.001), CascadeFinding::within);
      }
      QVERIFY(std::abs(db_from_power_ratio(mean) - p.power_sum_dbc) < 0.4);
    }
  }

  void outside_the_band_is_told_with_its_side() {
    const CascadedProduct p = predict_cascade(made_analysis({-30}), made_analysis({-50}))[0];
    QCOMPARE(compare_cascade(p, made_analysis({-28.0}), 0.1), CascadeFinding::above);
    QCOMPARE(compare_cascade(p, made_analysis({-29.3}), 0.1), CascadeFinding::within);
    QCOMPARE(compare_cascade(p, made_analysis({-33.0}), 0.1), CascadeFinding::below);
    QCOMPARE(compare_cascade(p, made_analysis({-33.0}), 2.0), CascadeFinding::within);
    QCOMPARE(compare_cascade(p, made_analysis({}), 0.1), CascadeFinding::unknown);
  }

  void bounds_leave_the_lower_end_open() {
    const CascadedProduct p = predict_cascade(made_analysis({-89}), made_analysis({-50}))[0];
    QVERIFY(p.is_bound);
    QCOMPARE(p.opposed_dbc, -300.0);
    QCOMPARE(compare_cascade(p, made_analysis({-80}), 0.1), CascadeFinding::within);
    QCOMPARE(compare_cascade(p, made_analysis({-40}), 0.1), CascadeFinding::above);
    // A measured bound above the band says nothing.
    const TwoToneAnalysis drowned = made_analysis({-48}, 0.1, -50.0);
    QVERIFY(drowned.products[0].is_bound);
    QCOMPARE(compare_cascade(p, drowned, 0.1), CascadeFinding::unknown);
  }
};

QTEST_APPLESS_MAIN(CascadeTest)
#include "cascade_test.moc"
