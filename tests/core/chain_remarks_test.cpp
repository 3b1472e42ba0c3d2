// What is said of a thing on the bench, and of a hook-up while it is built.
#include <QtTest>
#include <cmath>

#include "core/chain/bench_remarks.h"
#include "core/chain/hookup_remarks.h"
#include "tests/core/made_bench.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace chain_remarks_test {

class ChainRemarksTest : public QObject {
  Q_OBJECT

 private slots:
  void a_thing_says_what_is_not_known_of_it_and_where_it_is_over_its_rating() {
    BenchItem pad_item = item("attenuator", {{"gain_db", "20 dB"}});
    pad_item.part.u_db = 0.06;
    pad_item.part.calibration = {"2025-01-01", 12.0, std::nullopt};
    const std::vector<BenchUse> uses{
        {"With the 20 dB pad", "Reedling 30, Two-tone", "1 W average", -3.2, Verdict::fail},
        {"With the 20 dB pad", "Reedling 30, Two-tone", "1 W average", -3.2, Verdict::fail},
        {"With more", "Reedling 30, Two-tone", "1 W average", 7.0, Verdict::pass}};
    const auto remarks = bench_remarks(pad_item, uses, "2026-03-01");
    QCOMPARE(remarks.size(), 3U);
    QVERIFY(remarks[0].text.starts_with("Calibration overdue by 8 wk"));
    QCOMPARE(remarks[1].code, std::string("rating_missing"));
    QCOMPARE(remarks[2].text,
             std::string("Reedling 30, Two-tone in With the 20 dB pad: 1 W average, margin "
                         "\u22123.2 dB."));
    pad_item.part.calibration.date = "2026-02-01";
    pad_item.part.max_input_w = 20.0;
    QVERIFY(bench_remarks(pad_item, {}, "2026-03-01").empty());
    // One month of twelve adds a twelfth of the calibrated one, in quadrature: not worth a word.
    QVERIFY(calibration_sentence(pad_item.part, "2026-03-01").starts_with("Calibrated on"));
    QVERIFY(calibration_sentence(pad_item.part, "2026-12-01").starts_with("\u00b1 0.12 dB on"));
    QCOMPARE(bench_remarks(item("generator", {}), {}, "2026-03-01").front().code,
             std::string("dial"));
  }

  void a_hookup_says_what_binds_it_and_how_well_its_level_is_known() {
    Part first = pad("20 dB pad", -20, 20.0, std::nullopt);
    first.bench_id = "3";
    first.u_db = 0.1;
    first.vswr = 1.5;
    Part end = sampler();
    end.vswr = 1.5;
    Chain chain = chain_of({first, end});
    chain.source_vswr = 1.0;
    const Drive drive{37.0, false, 14.2e6, std::nullopt, {}, {}, {}};
    const ChainResult r = evaluate_chain(chain, drive);
    // One joint with reflections of 0.2 on both sides: 20 log 1 / (1 - 0.04), over the root of 2.
    QVERIFY(std::abs(r.u_mismatch_db - 0.2507) < 0.0001);
    double u = 0.0;
    for (const Contribution& c : r.contributions) u = std::hypot(u, c.u);
    const auto remarks = hookup_remarks(chain, &r, {first}, nullptr, "2026-03-01");
    const auto level = std::find_if(remarks.begin(), remarks.end(),
                                    [](const Remark& m) { return m.code == "chain_u"; });
    QVERIFY(level != remarks.end());
    QVERIFY(level->text.ends_with("mismatch makes \u00b1 0.50 dB of it."));
    QVERIFY(2.0 * u > 0.50 && 2.0 * u < 0.6);
    QVERIFY(!differs_from_bench(chain, {first}));
    Part changed = first;
    changed.max_input_w = 5.0;
    QVERIFY(differs_from_bench(chain, {changed}));
    QVERIFY(
        has_remark(hookup_remarks(chain, &r, {changed}, nullptr, "2026-03-01"), "bench_differs"));
    std::vector<NodeVerdict> verdicts;
    for (std::size_t i = 0; i < chain.parts.size(); ++i)
      verdicts.push_back(judge_node(chain.parts[i], r.nodes[i], drive));
    QCOMPARE(QString::fromStdString(rating_sentence(chain, r, verdicts, drive)),
             QString("The least margin is \u221212.0 dB, at sampler."));
    chain.parts[0].max_input_w.reset();
    const ChainResult unrated = evaluate_chain(chain, drive);
    QVERIFY(rating_sentence(chain, unrated, {}, drive)
                .starts_with("Nothing says what 20 dB pad is rated for."));
    chain.parts[0].max_input_w = 1.0;
    const ChainResult over = evaluate_chain(chain, drive);
    QVERIFY(over.max_key_down_s.has_value());
    QVERIFY(rating_sentence(chain, over, {}, drive).starts_with("20 dB pad: up to "));
    // A swap stands first, and what it mends is not said twice.
    const ChainSwap swap{chain, 0, false, "20 dB pad", "30 dB pad", -3.0, "Swap it."};
    QCOMPARE(hookup_remarks(chain, &over, {}, &swap, "2026-03-01").front().text,
             std::string("Swap it."));
  }
};

HERON_TEST(ChainRemarksTest)

}  // namespace chain_remarks_test

#include "chain_remarks_test.moc"
