// What diagram, clock and tables say of a made hook-up and bench, without a window.
#include <QtTest>
#include <QtWidgets>

#include "app/bench/bench_model.h"
#include "app/bench/used_model.h"
#include "app/hookup/level_diagram.h"
#include "app/hookup/part_model.h"
#include "app/shell/key_clock.h"
#include "core/error.h"
#include "core/quantity/levels.h"
#include "store/bench.h"
#include "tests/app/open_window.h"
#include "tests/test_program.h"

using namespace heron;

namespace pictures_test {

namespace {

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

class PicturesTest : public QObject {
  Q_OBJECT
 private slots:
  void initTestCase() { QVERIFY(heron::testing::prepare_window_tests("even-heron-picture-test")); }

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

HERON_WINDOW_TEST(PicturesTest)

}  // namespace pictures_test

#include "pictures_test.moc"
