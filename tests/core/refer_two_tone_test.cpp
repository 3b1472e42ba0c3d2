#include "core/method/two_tone/refer_two_tone.h"

#include <QtTest>

#include "core/error.h"
#include "core/method/measure/path_level.h"
#include "core/quantity/levels.h"
#include "tests/core/made_analysis.h"
#include "tests/test_program.h"

using namespace heron;

namespace refer_two_tone_test {

using heron::testing::made_analysis;

namespace {

constexpr double kCentre = 14.2e6;

Chain chain_of(Gain gain) {
  Part pad;
  pad.name = "pad";
  pad.kind = "attenuator";
  pad.gain = std::move(gain);
  pad.u_db = 0.2;
  Part sampler;
  sampler.name = "sampler";
  sampler.kind = "instrument";
  sampler.u_db = 0.5;
  sampler.max_input_dbm = 0.0;
  Chain chain;
  chain.parts = {pad, sampler};
  for (Part& part : chain.parts) part.vswr = 1.0;
  chain.source_vswr = 1.0;
  return chain;
}

bool close(double a, double b) {
  return std::abs(a - b) < 1e-9;
}

}  // namespace

class ReferTwoToneTest : public QObject {
  Q_OBJECT
 private slots:
  void a_flat_pad_moves_levels_and_no_ratio() {
    TwoToneAnalysis a = made_analysis({-30, -31, -45, -46});
    a.full_scale_dbm = 7.0;
    const TwoToneAnalysis b = refer_to_device(a, chain_of(Gain(-40.0)), kCentre);
    QVERIFY(close(*b.full_scale_dbm, 47.0));
    for (std::size_t i = 0; i < a.products.size(); ++i) {
      QVERIFY(close(a.products[i].level_dbc, b.products[i].level_dbc));
      QVERIFY(close(a.products[i].level_db_pep, b.products[i].level_db_pep));
    }
    QVERIFY(close(a.pep_dbfs, b.pep_dbfs));
  }

  /// A hook-up that loses s dB more per hertz: every line comes back by its own distance.
  void a_slope_is_taken_out_line_by_line() {
    const double slope = -2e-4;
    const Gain sloping({{kCentre - 1e5, -40.0 - slope * 1e5}, {kCentre + 1e5, -40.0 + slope * 1e5}},
                       "pad");
    TwoToneAnalysis a = made_analysis({-30, -31, -45, -46, -60, -61});
    const double one_tone = a.one_tone_dbfs;
    const TwoToneAnalysis b = refer_to_device(a, chain_of(sloping), kCentre);
    QVERIFY(close(b.tones[0].level_dbfs, a.tones[0].level_dbfs - slope * a.tones[0].frequency_hz));
    QVERIFY(close(b.tones[1].level_dbfs, a.tones[1].level_dbfs - slope * a.tones[1].frequency_hz));
    for (std::size_t i = 0; i < a.products.size(); ++i) {
      const double absolute_before = a.products[i].level_dbc + one_tone;
      const double absolute_after = b.products[i].level_dbc + b.one_tone_dbfs;
      QVERIFY(close(absolute_after - absolute_before, -slope * a.products[i].frequency_hz));
      QVERIFY(close(b.products[i].level_dbc - b.products[i].level_db_pep, b.pep_over_tone_db()));
    }
    // Sent out through the same slope again, it is what was recorded.
    const Gain back({{kCentre - 1e5, -40.0 + slope * 1e5}, {kCentre + 1e5, -40.0 - slope * 1e5}},
                    "pad");
    const TwoToneAnalysis c = refer_to_device(b, chain_of(back), kCentre);
    for (std::size_t i = 0; i < a.products.size(); ++i)
      QVERIFY(close(c.products[i].level_dbc, a.products[i].level_dbc));
  }

  void an_overloaded_hookup_speaks() {
    TwoToneAnalysis a = made_analysis({-30, -31});
    a.full_scale_dbm = 20.0;  // PEP at the sampler is 20 - 6 dBm: far above its 0 dBm
    const TwoToneAnalysis b = refer_to_device(a, chain_of(Gain(-40.0)), kCentre);
    QCOMPARE(b.remarks.front().code, std::string("overload"));
    QVERIFY(b.remarks.front().text.find("sampler") != std::string::npos);
    a.full_scale_dbm.reset();  // without levels nothing can be said
    QVERIFY(refer_to_device(a, chain_of(Gain(-40.0)), kCentre).remarks.empty());
  }

  void uncertainty_of_levels_is_the_hookups_and_the_instruments() {
    double sum = 0.0;
    for (const Contribution& c : level_contributions(chain_of(Gain(-40.0)), kCentre))
      sum += c.u * c.u;
    QVERIFY(close(std::sqrt(sum), std::hypot(0.2, 0.5)));
  }

  void a_frequency_outside_a_table_is_an_error() {
    const Gain narrow({{kCentre - 1e3, -40.0}, {kCentre + 1e3, -40.0}}, "pad");
    QVERIFY_EXCEPTION_THROWN(refer_to_device(made_analysis({-30, -31}), chain_of(narrow), kCentre),
                             InputError);
  }
};

HERON_TEST(ReferTwoToneTest)

}  // namespace refer_two_tone_test

#include "refer_two_tone_test.moc"
