// What sheet, chart and tables say of a made ladder, hook-up and bench, without a window.
#include "app/sheet/ladder_picture.h"

#include <QtTest>
#include <QtWidgets>

#include "app/bench/bench_model.h"
#include "app/bench/used_model.h"
#include "app/hookup/level_diagram.h"
#include "app/hookup/part_model.h"
#include "app/sheet/pair_card.h"
#include "app/shell/key_clock.h"
#include "app/table/readings_model.h"
#include "core/error.h"
#include "core/quantity/levels.h"
#include "store/bench.h"
#include "tests/app/open_window.h"
#include "tests/store/made_ladder.h"

using namespace heron;
using heron::testing::made_analysis;
using heron::testing::made_test;

namespace {

Limit pep_limit(double db) {
  return {"Marsh club", Sense::at_most, db, "dB", kRePep, 20.0};
}

/// 10, 20 and 30 W; the highest fails, IM5 leads there.
TwoToneTest three_steps() {
  return made_test({made_analysis({-44, -45, -50, -52}), made_analysis({-34, -35, -38, -39}),
                    made_analysis({-25, -26, -22, -23})},
                   pep_limit(-30));
}

HookupScene made_scene(double dbm) {
  Part pad;
  pad.name = "Power pad";
  pad.kind = "attenuator";
  pad.gain = Gain({{1e6, -40.0}, {30e6, -40.2}}, "pad");
  pad.u_db = 0.05;
  pad.max_input_w = 10.0;
  pad.time_constant_s = 118.0;
  pad.vswr = 1.1;
  pad.calibration = {"2020-01-01", 12.0, std::nullopt};
  Part sampler;
  sampler.name = "Sampler";
  sampler.kind = "instrument";
  sampler.best_input_dbm = std::pair{-22.0, 0.0};
  sampler.max_input_dbm = 20.0;
  HookupScene scene;
  scene.source = "Reedling 30";
  scene.chain.parts = {pad, sampler};
  scene.drive = {dbm, true, 14.2e6, 12.0, {}, {}, {}};
  scene.result = evaluate_chain(scene.chain, scene.drive);
  for (std::size_t i = 0; i < 2; ++i)
    scene.verdicts.push_back(judge_node(scene.chain.parts[i], scene.result->nodes[i], scene.drive));
  return scene;
}

}  // namespace

class LadderPictureTest : public QObject {
  Q_OBJECT
 private slots:
  void initTestCase() { QVERIFY(heron::testing::prepare_window_tests("even-heron-picture-test")); }

  void the_picture_has_traces_limit_crossing_and_sweet_spot() {
    const TwoToneTest t = three_steps();
    const LadderPicture p = ladder_picture(t, kRePep, 1, true);
    QCOMPARE(p.traces.size(), 2U);
    QCOMPARE(p.traces[0].points.size(), 3U);
    QCOMPARE(*p.limit_db, -30.0);
    QCOMPARE(p.crossings.size(), 1U);
    QVERIFY2(p.crossings[0].words.startsWith("IM5 overtakes IM3 at"),
             qPrintable(p.crossings[0].words));
    QVERIFY(std::abs(*p.sweet_dbm - to_dbm(Watt{20.0}).value) < 1e-9);
    QVERIFY(std::abs(*p.quiet_dbm - 40.0) < 1e-9);
    QVERIFY(std::abs(*p.chosen_dbm - to_dbm(Watt{20.0}).value) < 1e-9);
    // The other convention moves limit and levels together.
    const LadderPicture one = ladder_picture(t, kReOneTone, 1, true);
    QVERIFY(std::abs(*one.limit_db - *p.limit_db - 6.0206) < 1e-3);
    QVERIFY(std::abs(one.traces[0].points[0].level_db - p.traces[0].points[0].level_db - 6.0206) <
            1e-3);
  }

  void an_empty_ladder_says_what_is_missing() {
    TwoToneTest t = made_test({std::nullopt, std::nullopt}, pep_limit(-30));
    QVERIFY(ladder_picture(t, kRePep, 0, true).empty_words.contains("No step is measured"));
    t = three_steps();
    for (auto& output : t.outputs) output.reset();
    QVERIFY(ladder_picture(t, kRePep, 0, true).empty_words.contains("output"));
    QVERIFY(!ceiling_verdict(t, kRePep).has_value());
  }

  void the_ceiling_is_judged_between_steps() {
    TwoToneTest t = three_steps();
    QVERIFY(!ceiling_verdict(t, kRePep).has_value());
    t.ladder_settings.ceiling_dbm = to_dbm(Watt{25.0}).value;
    const auto card = ceiling_verdict(t, kRePep);
    QVERIFY(card.has_value());
    QVERIFY(card->where.contains("25.0 W"));
    QVERIFY(card->explanation.contains("between steps"));
    QVERIFY2(card->sentence.contains("with certainty up to"), qPrintable(card->sentence));
    // On a step it is that step's figure.
    t.ladder_settings.ceiling_dbm = to_dbm(Watt{20.0}).value;
    const auto step = ceiling_verdict(t, kRePep);
    QVERIFY(!step->explanation.contains("between"));
    QCOMPARE(step->value, step_verdict(&t, 1, kRePep, -1).value);
    t.ladder_settings.ceiling_dbm = to_dbm(Watt{99.0}).value;
    QVERIFY(!ceiling_verdict(t, kRePep).has_value());
    t.test.limit.reset();
    t.ladder_settings.ceiling_dbm = to_dbm(Watt{25.0}).value;
    reevaluate(t);
    QVERIFY(ceiling_verdict(t, kRePep)->sentence.contains("No limit"));
  }

  void a_comparison_leaves_out_what_both_share() {
    TwoToneTest t = three_steps();
    for (auto& a : t.analyses) a->linearity.u_db = 0.5;
    const QString better = comparison_words(t, 0, 1, kRePep);
    QVERIFY2(better.contains("better than 20 W") && better.contains("10.0"), qPrintable(better));
    QVERIFY(comparison_words(t, 1, 0, kRePep).contains("worse than 10 W"));
    QVERIFY(comparison_words(t, 1, 1, kRePep).isEmpty());
    // On the same hook-up 0.6 dB is a difference; on another the recorders' scales do not cancel.
    t = made_test({made_analysis({-40, -41}), made_analysis({-40.6, -41.6})}, pep_limit(-30));
    for (auto& a : t.analyses) a->linearity.u_db = 0.5;
    QVERIFY2(comparison_words(t, 1, 0, kRePep).contains("better"),
             qPrintable(comparison_words(t, 1, 0, kRePep)));
    HookupVersion one;
    one.id = 1;
    HookupVersion two;
    two.id = 2;
    t.taken_on[0] = one;
    t.taken_on[1] = two;
    QVERIFY(comparison_words(t, 1, 0, kRePep).contains("No difference"));
  }

  void a_driven_amplifier_has_a_verdict_of_its_own() {
    TwoToneTest t = three_steps();
    t.amplifier_name = "Curlew 120";
    for (int i = 0; i <= 10; ++i)
      t.driven.points.push_back(
          {40.0 + 0.5 * i, 50.0 + 0.5 * i, -34.0 + 0.5 * i, -31.5 + 0.5 * i, 0.3, 3});
    PairCard card;
    card.set_test(&t, 40.0);
    QVERIFY(card.isVisibleTo(nullptr) || !card.isHidden());
    QVERIFY2(card.text().contains("Curlew 120") && card.text().contains("Pass"),
             qPrintable(card.text()));
    card.set_test(&t, 43.0);
    QVERIFY(card.text().contains("Too close"));
    card.set_test(&t, 20.0);
    QVERIFY(card.isHidden());
    card.set_test(nullptr, 40.0);
    QVERIFY(card.isHidden());
    const LadderPicture p = ladder_picture(t, kReOneTone, 0, true);
    QVERIFY(std::abs(p.driven.points[0].in_phase_db - (-31.5 + 6.0206)) < 1e-3);
  }

  void the_table_of_parts_says_what_limits_each() {
    PartModel model;
    model.set_scene(made_scene(to_dbm(Watt{30.0}).value), "2026-01-01");
    QCOMPARE(model.rowCount(), 3);
    const auto text = [&](int row, int column) {
      return model.index(row, column).data().toString();
    };
    QCOMPARE(text(0, PartModel::kName), QString("Reedling 30"));
    QVERIFY(text(1, PartModel::kLoss).startsWith("40.09 ±"));
    QCOMPARE(text(1, PartModel::kVswr), QString("1.10"));
    QVERIFY2(text(1, PartModel::kLimit).startsWith("10 W average: 2:"),
             qPrintable(text(1, PartModel::kLimit)));
    QVERIFY(text(1, PartModel::kMarginDb).startsWith(QString::fromUtf8("−1.8")));
    QVERIFY(model.row(1).is_overdue);
    QVERIFY2(text(2, PartModel::kLimit).contains("above its input range"),
             qPrintable(text(2, PartModel::kLimit)));
    QVERIFY(model.headerData(PartModel::kLoss, Qt::Horizontal, Qt::DisplayRole)
                .toString()
                .contains("14.2 MHz"));
    QVERIFY(model.index(1, 0).data(Qt::AccessibleTextRole).toString().contains("Too close"));
    // Outside its data the loss is not made up.
    HookupScene outside = made_scene(30.0);
    outside.drive.frequency_hz = 144e6;
    outside.result.reset();
    outside.verdicts.clear();
    model.set_scene(outside, "2026-01-01");
    QCOMPARE(text(1, PartModel::kLoss), QString("no data"));
  }

  void the_diagram_reads_out_what_it_draws() {
    const HookupScene scene = made_scene(to_dbm(Watt{30.0}).value);
    QVERIFY(LevelDiagram::read_out(scene, 0).contains("+44.8 dBm"));
    QVERIFY2(LevelDiagram::read_out(scene, 1).contains("1.8 dB over"),
             qPrintable(LevelDiagram::read_out(scene, 1)));
    QVERIFY(LevelDiagram::read_out(made_scene(20.0), 1).contains("under 10 W average"));
    LevelDiagram diagram;
    diagram.resize(760, 340);
    diagram.set_scene(&scene);
    const QImage picture = diagram.grab().toImage();
    int water = 0;
    const QColor line = light_theme().water;
    for (int x = 0; x < picture.width(); ++x) {
      for (int y = 0; y < picture.height(); ++y) water += picture.pixelColor(x, y) == line ? 1 : 0;
    }
    QVERIFY(water > 300);  // the level line is there
  }

  void readings_are_put_in_blocks_or_not_at_all() {
    ReadingsModel model;
    model.set_test(three_steps(), kRePep, true);
    QCOMPARE(model.rowCount(), 4);
    const auto block =
        model.with_block(2, ReadingsModel::kStep, {{"25 W", "24,5 W", "-31", "<-60"}, {"", "5 W"}});
    QCOMPARE(block.size(), 2U);
    QCOMPARE(block[0].id, Id{3});
    QCOMPARE(block[0].label, std::string("25 W"));
    QVERIFY(std::abs(block[0].output->dbm - to_dbm(Watt{24.5}).value) < 1e-9);
    QVERIFY(block[0].products[1].is_bound);
    QCOMPARE(block[1].id, Id{0});
    QCOMPARE(block[1].label, std::string("step 4"));
    try {
      model.with_block(0, ReadingsModel::kOutputPep, {{"5 W"}, {"loud"}});
      QFAIL("accepted");
    } catch (const InputError& error) {
      QVERIFY2(QString::fromStdString(error.place).contains("row 2"), error.what());
    }
    QVERIFY(!(model.flags(model.index(0, ReadingsModel::kDoubt)) & Qt::ItemIsEditable));
    ReadingsModel closed;
    closed.set_test(three_steps(), kRePep, false);
    QCOMPARE(closed.rowCount(), 3);
    QVERIFY(!(closed.flags(closed.index(0, ReadingsModel::kOutputPep)) & Qt::ItemIsEditable));
    QCOMPARE(model.understood(0), QString("+40.00 dBm"));
  }

  void the_bench_is_grouped_and_says_what_is_due() {
    std::vector<BenchEntry> entries(3);
    entries[0].id = 1;
    entries[0].item = made_item("attenuator");
    entries[0].item.part.calibration.date = "2020-01-01";
    entries[1].id = 2;
    entries[1].item = made_item("generator");
    entries[1].item.level_means = "emf";
    entries[2].id = 3;
    entries[2].item = made_item("cable");
    entries[2].is_retired = true;
    BenchModel model;
    model.set_bench(entries, "2026-01-01");
    QCOMPARE(model.rowCount(), 6);  // three heads, three things
    QCOMPARE(model.index(4, 0).data().toString(), QString("Retired"));
    QCOMPARE(model.row_of(2), 3);
    QCOMPARE(model.row_of(99), -1);
    QVERIFY(model.index(1, 0).data(Qt::AccessibleTextRole).toString().contains("Overdue"));
    QVERIFY(model.index(3, 0).data(Qt::AccessibleTextRole).toString().contains("EMF"));
    QVERIFY(model.flags(model.index(0, 0)) == Qt::NoItemFlags);
    QCOMPARE(calibration_verdict(entries[0].item, "2026-01-01"), Verdict::stale);
    QCOMPARE(calibration_verdict(entries[1].item, "2026-01-01"), Verdict::not_taken);
  }

  void the_clock_says_its_state_in_words() {
    KeyClock clock;
    QString refused;
    connect(&clock, &KeyClock::refused, this, [&](const QString& what) { refused = what; });
    clock.press();
    QVERIFY(refused.contains("nothing to watch"));
    const HookupScene scene = made_scene(to_dbm(Watt{30.0}).value);
    clock.set_chain(scene.chain, scene.drive, false);
    clock.press();
    QVERIFY(refused.contains("Do not key"));
    QVERIFY(!clock.is_keyed());
    clock.set_chain(scene.chain, scene.drive, true);
    QTest::mouseClick(&clock, Qt::LeftButton);
    QVERIFY(clock.is_keyed());
    QVERIFY2(clock.words().contains("of 2:0"), qPrintable(clock.words()));
    clock.advance(110);
    QCOMPARE(clock.state(), KeyDownState::caution);
    QVERIFY(clock.words().contains("Key up in"));
    // Another test is looked at meanwhile: what is keyed stays watched.
    clock.clear_chain();
    QVERIFY(clock.is_keyed());
    clock.advance(60);
    QCOMPARE(clock.state(), KeyDownState::stop);
    QCOMPARE(clock.accessibleName(), QString("Key up now"));
    QVERIFY(clock.release());
    QVERIFY(!clock.release());
    clock.set_chain(scene.chain, scene.drive, true);
    QCOMPARE(clock.state(), KeyDownState::resting);
    QVERIFY2(clock.words().startsWith("rest "), qPrintable(clock.words()));
  }
};

QTEST_MAIN(LadderPictureTest)
#include "ladder_picture_test.moc"
