// The card of a device in the real window: made from nothing, with lines, work and a photo.
#include "app/device/device_view.h"

#include <QImage>

#include "app/device/usual_lines_dialog.h"
#include "app/session/shack_edits.h"
#include "app/shell/command_box.h"
#include "store/clock.h"
#include "tests/app/open_window.h"
#include "tests/test_program.h"

using namespace heron;
using heron::testing::answer_fields;
using heron::testing::OpenWindow;
using heron::testing::plan_next;
using heron::testing::type_into;

namespace device_view_test {

class DeviceViewTest : public QObject {
  Q_OBJECT
  std::unique_ptr<OpenWindow> open_;
  MainWindow& window() { return *open_->window; }
  Session& session() { return window().session(); }
  DeviceView& view() { return *window().device_view(); }
  Device shown() { return device(session().shack(), view().device_id()); }

  /// Types into a cell as somebody does: it opens, takes the text, Return.
  void type_cell(int row, int column, const QString& text) {
    TypedGrid* lines = view().lines();
    lines->setFocus();
    lines->setCurrentIndex(lines->model()->index(row, column));
    QTest::keyClick(lines, Qt::Key_F2);
    type_open(text);
  }
  void type_open(const QString& text) {
    QLineEdit* edit = nullptr;
    QTRY_VERIFY((edit = view().lines()->findChild<QLineEdit*>()) != nullptr && edit->isVisible());
    edit->selectAll();
    QTest::keyClicks(edit, text);
    QTest::keyClick(edit, Qt::Key_Return);
    QTest::qWait(1);
  }

 private slots:
  void initTestCase() {
    QVERIFY(heron::testing::prepare_window_tests("even-heron-device-view-test"));
  }
  void init() { open_ = std::make_unique<OpenWindow>(); }
  void cleanup() { open_.reset(); }

  void a_device_is_made_with_its_specification_and_gets_its_evaluation() {
    emit window().shack_view() -> device_asked();
    QVERIFY(view().isVisible());
    QVERIFY(!view().primary()->isEnabled());
    QVERIFY(view().form()->name()->hasFocus());
    type_into(view().form()->name(), "Sluice 100");
    QVERIFY(view().device_id() != 0);
    type_into(view().form()->kind(), "HF linear amplifier");
    type_into(view().form()->most_drive()->edit(), "12 W");
    QCOMPARE(shown().kind, std::string("HF linear amplifier"));
    QVERIFY(shown().facts.most_drive_dbm && std::abs(*shown().facts.most_drive_dbm - 40.79) < 0.01);
    QTest::mouseClick(view().form()->modes()[1], Qt::LeftButton);
    QCOMPARE(shown().facts.modes, std::vector<std::string>{"SSB"});
    // A line: its characteristic by its beginning, then its limit, which is asked next.
    type_cell(0, LinesModel::kCharacteristic, "Outp");
    QCOMPARE(view().lines_model()->index(0, 0).data().toString(), QString("Output power"));
    QVERIFY(shown().specification.empty());  // without a limit it is no line yet
    type_open("at least 100 W");
    QCOMPARE(shown().specification.size(), 1U);
    QCOMPARE(shown().specification[0].limit.value, 100.0);
    type_cell(0, LinesModel::kCondition, "12 W drive, 48 V");
    type_cell(0, LinesModel::kSource, "maker");
    QCOMPARE(shown().specification[0].condition, std::string("12 W drive, 48 V"));
    QCOMPARE(shown().specification[0].limit.name, std::string("maker"));
    // The wrong way round is refused and says how; nothing is changed.
    type_cell(0, LinesModel::kLimit, "at most 5 W");
    QVERIFY2(window().messages()->text().contains("other way round"),
             qPrintable(window().messages()->text()));
    QCOMPARE(shown().specification[0].limit.value, 100.0);
    // Usual lines are offered, none is ticked, and what is there is not offered again.
    const DeviceKind& kind = *find_device_kind(shown().kind);
    UsualLinesDialog dialog(kind, shown().specification, &window());
    QCOMPARE(dialog.list()->count(), 4);
    QVERIFY(dialog.taken().isEmpty());
    dialog.list()->setCurrentRow(0);
    dialog.list()->item(0)->setCheckState(Qt::Checked);
    view().add_usual_lines(dialog.taken());
    QCOMPARE(shown().specification.size(), 2U);
    // The tests of a new evaluation take the limits over.
    plan_next([](PlanDialog& plan) { plan.accept(); });
    view().primary()->click();
    QVERIFY(window().evaluation_page()->isVisible());
    bool has_limit = false;
    for (const Test& t : session().course())
      has_limit = has_limit || (t.characteristic == "gain" && t.limit.has_value());
    QVERIFY(has_limit);
    window().show_device(device_of("Sluice 100"));
    // Delete on a characteristic takes its line away.
    view().lines()->setCurrentIndex(view().lines_model()->index(0, LinesModel::kCharacteristic));
    QTest::keyClick(view().lines(), Qt::Key_Delete);
    QCOMPARE(shown().specification.size(), 1U);
    session().undo_stack().undo();
    QCOMPARE(shown().specification.size(), 2U);
    QCOMPARE(view().lines_model()->filled_rows(), 2);
  }

  Id device_of(const std::string& name) {
    for (const Device& d : devices(session().shack()))
      if (d.name == name) return d.id;
    return 0;
  }

  void its_story_grows_and_can_be_taken_back() {
    window().show_device(open_->made.device_id);
    const int before = view().story_model()->rowCount();
    answer_fields({"Bias set", "180 mA", "320 mA", "R12", "Both of us", "2026-01-15"});
    emit view().work_asked(view().device_id());
    QCOMPARE(view().story_model()->rowCount(), before + 1);
    QString hint;
    answer_fields({"Two-tone", "-36 dB re one tone", "1", "14 MHz", "", "2026-01-15"}, &hint);
    emit view().outside_asked(view().device_id());
    QVERIFY2(hint.contains("Say who found it"), qPrintable(hint));
    answer_fields({"Two-tone", "-36 dB re one tone", "1", "14 MHz", "club test", "2026-01-15"});
    emit view().outside_asked(view().device_id());
    QCOMPARE(view().story_model()->rowCount(), before + 2);
    // Delete in the history takes it out, undo brings it back.
    for (int r = 0; r < view().story_model()->rowCount(); ++r)
      if (view().story_model()->row(r).kind == StoryRow::Kind::outside)
        view().story()->choose_row(r);
    view().story()->setFocus();
    QTest::keyClick(view().story(), Qt::Key_Delete);
    QCOMPARE(view().story_model()->rowCount(), before + 1);
    session().undo_stack().undo();
    QCOMPARE(view().story_model()->rowCount(), before + 2);
    // Return on an evaluation opens it.
    for (int r = 0; r < view().story_model()->rowCount(); ++r)
      if (view().story_model()->row(r).kind == StoryRow::Kind::evaluation)
        view().story()->choose_row(r);
    view().story()->setFocus();
    QTest::keyClick(view().story(), Qt::Key_Return);
    QVERIFY(window().evaluation_page()->isVisible());
  }

  void a_retired_one_leaves_the_shack_and_keeps_its_card() {
    const Id id = open_->made.device_id;
    const int rows = window().shack_view()->matrix()->model()->rowCount();
    ShackEdits(session()).set_retired(id, utc_now());
    QCOMPARE(window().shack_view()->matrix()->model()->rowCount(), rows - 1);
    window().show_device(id);
    QVERIFY(!view().primary()->isEnabled());
    session().undo_stack().undo();
    QVERIFY(view().primary()->isEnabled());
    window().show_shack();
    QCOMPARE(window().shack_view()->matrix()->model()->rowCount(), rows);
  }

  void commands_hold_what_the_card_can_do() {
    window().show_device(open_->made.device_id);
    const auto found = [&](const QString& words) {
      heron::testing::press(window(), &window(), Qt::Key_K, Qt::ControlModifier);
      QTest::keyClicks(window().command_box()->edit(), words);
      const QStringList shown = window().command_box()->shown();
      QTest::keyClick(window().command_box()->edit(), Qt::Key_Escape);
      return shown;
    };
    QVERIFY2(!found("retire").isEmpty(), qPrintable(found("retire").join("; ")));
    QVERIFY(!found("specification").isEmpty());
    QVERIFY(!found("published").isEmpty());
    // So are those of the bench.
    window().show_bench();
    QVERIFY2(!found("Export the bench").isEmpty(), qPrintable(found("bench").join("; ")));
    QVERIFY(!found("step attenuator").isEmpty());
  }

  void high_voltage_is_said_before_each_of_its_tests() {
    Device d = device(session().shack(), open_->made.device_id);
    d.facts.has_high_voltage = true;
    ShackEdits(session()).set_device(d.id, d);
    window().show_device(d.id);
    QVERIFY(view().caution()->isVisible());
    window().show_evaluation(open_->made.evaluation_id, open_->made.test_id);
    session().settle();
    bool is_told = false;
    for (const CautionCard* card : window().sheet()->findChildren<CautionCard*>())
      is_told = is_told || (card->isVisible() && card->accessibleName().contains("high voltage"));
    QVERIFY(is_told);
  }

  void a_photo_is_kept_small() {
    QTemporaryDir folder;
    QImage large(3000, 1500, QImage::Format_RGB32);
    large.fill(Qt::darkGreen);
    QVERIFY(large.save(folder.filePath("it.png")));
    window().show_device(open_->made.device_id);
    view().set_photo(folder.filePath("it.png"));
    QImage kept;
    const std::string content = device_photo(session().shack(), view().device_id());
    QVERIFY(kept.loadFromData(QByteArray::fromStdString(content)));
    QCOMPARE(kept.size(), QSize(1024, 512));
    QFile text(folder.filePath("not.png"));
    QVERIFY(text.open(QIODevice::WriteOnly) && text.write("no picture") > 0);
    text.close();
    view().set_photo(text.fileName());
    QVERIFY(window().messages()->text().contains("no picture that can be read"));
    session().undo_stack().undo();
    QVERIFY(device_photo(session().shack(), view().device_id()).empty());
  }
};

HERON_WINDOW_TEST(DeviceViewTest)

}  // namespace device_view_test

#include "device_view_test.moc"
