// The way in: the start page, the first device, what an evaluation begins with, and its plan.
#include <QSettings>
#include <QStandardPaths>
#include <QtTest>

#include "app/session/shack_edits.h"
#include "app/session/test_edits.h"
#include "app/shell/main_window.h"
#include "app/shell/plan_dialog.h"
#include "app/shell/shack_list.h"
#include "app/shell/start_view.h"
#include "app/shell/window_files.h"
#include "app/theme/qt_text.h"
#include "app/widget/push_button.h"
#include "report/gather.h"
#include "tests/app/open_window.h"
#include "tests/app/two_tone_session.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;

namespace first_hour_test {

using heron::testing::answer_fields;
using heron::testing::answer_next;
using heron::testing::OpenWindow;
using heron::testing::plan_next;

class FirstHourTest : public QObject {
  Q_OBJECT
  std::unique_ptr<OpenWindow> open_;
  Session& session() { return open_->window->session(); }

 private slots:
  void initTestCase() {
    QVERIFY(heron::testing::prepare_window_tests("even-heron-first-hour-test"));
  }
  void init() { open_ = std::make_unique<OpenWindow>(); }
  void cleanup() { open_.reset(); }

  void work_is_written_down_and_another_one_of_the_kind_added() {
    ShackView& shack = *open_->window->shack_view();
    const Id id = open_->made.device_id;
    const auto written = [this, id] { return journal(session().shack(), id); };
    const std::size_t before = written().size();
    const QString today = QDate::currentDate().toString(Qt::ISODate);
    answer_fields({"Driver bias set", "180", "320 mA", "R12", "Both of us", today});
    emit shack.work_asked(id);
    QCOMPARE(written().size(), before + 1);
    QCOMPARE(written().back().text,
             std::string("Driver bias set, 180 to 320 mA (R12), by Both of us"));
    const ReportDocument d = gather_report(session().shack(), open_->made.evaluation_id);
    const auto done = std::find_if(d.owner.begin(), d.owner.end(),
                                   [](const OwnerPart& part) { return part.head == "Done to it"; });
    QVERIFY(done != d.owner.end());
    QVERIFY(done->lines.back().ends_with("Driver bias set, 180 to 320 mA (R12), by Both of us"));
    session().undo_stack().undo();
    QCOMPARE(written().size(), before);
    session().undo_stack().redo();
    QCOMPARE(written().size(), before + 1);
    // Nothing done is nothing to write.
    QString hint;
    answer_fields({" ", "", "", "", "", today}, &hint);
    emit shack.work_asked(id);
    QVERIFY2(hint.contains("Say what was done."), qPrintable(hint));
    hint.clear();
    answer_fields({"Fan", "", "", "", "", "tomorrow"}, &hint);
    emit shack.work_asked(id);
    QVERIFY2(hint.contains("no day that has been"), qPrintable(hint));
    QCOMPARE(written().size(), before + 1);
    // Another one of its kind keeps to the same, and has a story of its own.
    const Device first = device(session().shack(), id);
    answer_fields({"The other one", "HF transceiver", "no. 9", ""});
    emit shack.device_copy_asked(id);
    const auto all = devices(session().shack());
    const auto other = std::find_if(all.begin(), all.end(),
                                    [](const Device& one) { return one.name == "The other one"; });
    QVERIFY(other != all.end());
    QCOMPARE(other->specification.size(), first.specification.size());
    QVERIFY(journal(session().shack(), other->id).empty());
    session().undo_stack().undo();
    QCOMPARE(devices(session().shack()).size(), all.size() - 1);
  }

  /// Who starts it for the first time has three ways on, and none is taken for them.
  void without_a_shack_there_is_a_start_page() {
    QSettings().clear();
    const QString data = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation);
    QDir(data + "/demo").removeRecursively();
    MainWindow first;
    first.resize(1280, 800);
    first.files()->open_last_shack(data + "/shack");
    first.show();
    QVERIFY(QTest::qWaitForWindowExposed(&first));
    QVERIFY(!first.session().is_open());
    QVERIFY(!QFileInfo::exists(data + "/shack/shack.sqlite"));
    StartView& start = *first.start_view();
    QVERIFY(start.isVisible() && start.make()->isVisible());
    QVERIFY(start.make()->text().contains("Make") && start.open()->text().contains("Open"));
    for (const PushButton* b : {start.make(), start.open(), start.demo()})
      QVERIFY(b->accessibleDescription().size() > 30);
    // The demo is made on the spot; under the sanitizers that takes minutes, so one is there.
    if (heron::testing::kFewDraws) Shack::create((data + "/demo").toStdString(), "Skerry Point");
    QTest::mouseClick(start.demo(), Qt::LeftButton);
    QTRY_VERIFY_WITH_TIMEOUT(first.session().is_open(), 240000);
    QVERIFY(first.shack_view()->isVisible());
    QCOMPARE(devices(first.session().shack()).size(), heron::testing::kFewDraws ? 0U : 6U);
    QVERIFY(!QFileInfo::exists(data + "/demo.part"));
    // The next start opens it again, and the page would offer it.
    MainWindow second;
    second.files()->open_last_shack(data + "/shack");
    QVERIFY(second.session().is_open());
    QCOMPARE(WindowFiles::recent(), QStringList{data + "/demo"});
    // One that is gone is told, and another is offered.
    QSettings().setValue("shack/folder", data + "/gone");
    MainWindow third;
    third.files()->open_last_shack(data + "/shack");
    third.show();
    QVERIFY(!third.session().is_open());
    QVERIFY(third.messages()->text().contains("gone"));
    QVERIFY(third.start_view()->isVisible());
    const auto offered = third.start_view()->findChildren<QAbstractButton*>();
    QVERIFY(std::any_of(offered.begin(), offered.end(),
                        [](const QAbstractButton* b) { return b->text().startsWith("demo,"); }));
    QDir(data + "/demo").removeRecursively();
  }

  void a_first_device_in_an_empty_shack() {
    QTemporaryDir fresh;
    QVERIFY(open_->window->files()->open_or_create_shack(fresh.filePath("s"), "Skerry Point"));
    const auto* model = open_->window->shack_view()->matrix()->model();
    QCOMPARE(model->rowCount(), 0);
    bool told = false;
    for (const QLabel* label : open_->window->shack_view()->findChildren<QLabel*>())
      told = told || label->text().contains("add the first device");
    QVERIFY(told);
    emit open_->window->shack_view()->device_asked();
    DeviceView& card = *open_->window->device_view();
    heron::testing::type_into(card.form()->name(), "Dunlin 6");
    heron::testing::type_into(card.form()->kind(), "transverter");
    heron::testing::type_into(card.form()->serial(), "no. 7");
    plan_next([](PlanDialog& dialog) { dialog.accept(); });
    card.primary()->click();
    QCOMPARE(devices(session().shack()).size(), 1U);
    const Device d = devices(session().shack())[0];
    QCOMPARE(d.kind, std::string("transverter"));
    QCOMPARE(d.serial, std::string("no. 7"));
    // What a transverter usually gets, the cold start first.
    QCOMPARE(session().course().size(), 6U);
    QCOMPARE(session().course().front().characteristic, std::string("drift"));
    QVERIFY(open_->window->evaluation_page()->isVisible());
    open_->window->show_shack();
    QCOMPARE(model->rowCount(), 1);
  }

  void an_evaluation_begins_with_what_its_kind_gets() {
    Device amplifier;
    amplifier.name = "Sluice 100";
    amplifier.kind = "HF linear amplifier";
    amplifier.specification = {{"gain", {"maker", Sense::at_least, 18.0, "dB", "", 20.0}}};
    ShackEdits(session()).add_device(amplifier);
    const Id device = devices(session().shack()).back().id;
    plan_next([](PlanDialog& dialog) {
      const auto offered = dialog.tests();
      QCOMPARE(offered.front(), std::string("first_power"));
      QCOMPARE(offered.size(), 5U);
      // All others can be taken, too, and every row says why it stands there.
      QVERIFY(dialog.list()->count() > 20);
      for (int i = 0; i < dialog.list()->count(); ++i)
        QVERIFY(dialog.list()->item(i)->data(Qt::AccessibleTextRole).toString().size() > 15);
      // Its first test is left out, the second one is moved down, all by the keyboard.
      dialog.list()->setFocus();
      dialog.list()->setCurrentRow(0);
      QTest::keyClick(dialog.list(), Qt::Key_Space);
      QCOMPARE(dialog.tests().front(), std::string("gain"));
      dialog.list()->setCurrentRow(1);
      QTest::keyClick(dialog.list(), Qt::Key_Down, Qt::AltModifier);
      QCOMPARE(dialog.list()->currentRow(), 2);
      QCOMPARE(dialog.tests().front(), std::string("response"));
      dialog.title_edit()->setText("");
      QTest::keyClick(dialog.title_edit(), Qt::Key_Return);
      QVERIFY(dialog.isVisible());  // it needs a name
      dialog.title_edit()->setText("After the repair");
      QTest::keyClick(dialog.title_edit(), Qt::Key_Return);
    });
    emit open_->window->shack_view()->new_evaluation_asked(device);
    const auto& course = session().course();
    QCOMPARE(course.size(), 4U);
    QCOMPARE(course[0].characteristic, std::string("response"));
    QCOMPARE(course[1].characteristic, std::string("gain"));
    // Its limit is that of the specification.
    QVERIFY(course[1].limit && course[1].limit->value == 18.0);
    QVERIFY(!course[0].limit);
    QCOMPARE(evaluations(session().shack(), device).front().title, std::string("After the repair"));
    session().undo_stack().undo();
    QVERIFY(evaluations(session().shack(), device).empty());
  }

  void tests_of_a_plan_are_renamed_moved_and_done_again() {
    open_->window->show_evaluation(open_->made.evaluation_id);
    TestEdits(session()).add_test("drift", "Drift", "cold");
    TestEdits(session()).add_test("output", "Output", "20 m");
    const auto titles = [&] {
      QStringList all;
      for (const Test& t : session().course()) all << qt_text(t.title);
      return all;
    };
    const QStringList before = titles();
    QCOMPARE(before.size(), 3);
    QListView* list = open_->window->rail()->list();
    list->setFocus();
    // The chosen one is the last; it goes up, and is still the chosen one.
    const Id output = session().test_id();
    QTest::keyClick(list, Qt::Key_Up, Qt::AltModifier);
    QCOMPARE(titles(), (QStringList{before[0], before[2], before[1]}));
    QCOMPARE(session().test_id(), output);
    session().undo_stack().undo();
    QCOMPARE(titles(), before);
    answer_next("Output, 15 m");
    QTest::keyClick(list, Qt::Key_F2);
    QCOMPARE(titles().last(), QString("Output, 15 m"));
    // Once more for another band: what was set goes along, what was measured does not.
    session().show_test(open_->made.test_id);
    session().settle();
    const auto first = heron::testing::two_tone_of(session());
    answer_next("Two-tone, 80 m");
    emit open_->window->rail()->duplicate_asked(open_->made.test_id);
    session().settle();
    const auto again = heron::testing::two_tone_of(session());
    QCOMPARE(qt_text(again->test.title), QString("Two-tone, 80 m"));
    QCOMPARE(titles()[1], QString("Two-tone, 80 m"));
    QCOMPARE(again->steps.size(), first->steps.size());
    QVERIFY(again->test.limit.has_value() && again->test.limit->value == first->test.limit->value);
    QVERIFY(!again->test.headline.has_value());
    for (const Step& step : again->steps) QVERIFY(!step.capture && step.readings.empty());
    session().undo_stack().undo();
    QCOMPARE(titles().size(), 3);
  }
};

HERON_WINDOW_TEST(FirstHourTest)

}  // namespace first_hour_test

#include "first_hour_test.moc"
