// The frame round the sheet: shack, header, command box, messages, and what happens between tests.
#include <QPlainTextEdit>
#include <QSettings>
#include <QSignalSpy>
#include <QStandardPaths>
#include <QtTest>

#include "app/session/shack_edits.h"
#include "app/session/test_edits.h"
#include "app/shell/main_window.h"
#include "app/shell/shack_list.h"
#include "app/shell/window_files.h"
#include "app/widget/list_card.h"
#include "tests/app/made_wav.h"
#include "tests/app/open_window.h"
#include "tests/app/two_tone_session.h"
#include "tests/draws.h"

using namespace heron;
using heron::testing::answer_fields;
using heron::testing::answer_next;
using heron::testing::OpenWindow;
using heron::testing::plan_next;
using heron::testing::write_wav;

namespace {

void escape_next() {
  QTimer::singleShot(60, qApp, [] {
    QVERIFY(QApplication::activeModalWidget() != nullptr);
    QTest::keyClick(QApplication::activeModalWidget(), Qt::Key_Escape);
  });
}

}  // namespace

class ShellTest : public QObject {
  Q_OBJECT
  std::unique_ptr<OpenWindow> open_;
  MethodSheet* sheet() { return open_->window->sheet(); }
  Session& session() { return open_->window->session(); }
  void run_command(const QString& words) {
    QTest::keyClick(open_->window.get(), Qt::Key_K, Qt::ControlModifier);
    QVERIFY(open_->window->command_box()->isVisible());
    QTest::keyClicks(open_->window->command_box()->edit(), words);
    QTest::keyClick(open_->window->command_box()->edit(), Qt::Key_Return);
  }

 private slots:
  void initTestCase() { QVERIFY(heron::testing::prepare_window_tests("even-heron-shell-test")); }
  void init() { open_ = std::make_unique<OpenWindow>(); }
  void cleanup() { open_.reset(); }

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

  void what_is_typed_stays_with_its_step_whatever_key_leads_away() {
    open_->window->show_evaluation(open_->made.evaluation_id);
    TestEdits(session()).add_test("two_tone", "Second", "7 MHz");
    const Id second = session().test_id();
    session().show_test(open_->made.test_id);
    QLineEdit* output = sheet()->readings()->output()->edit();
    output->setFocus();
    output->selectAll();
    QTest::keyClicks(output, "25 W");
    QTest::keyClick(open_->window.get(), Qt::Key_2, Qt::ControlModifier);
    QCOMPARE(session().test_id(), second);
    QCOMPARE(output->text(), QString());  // the second test's step has none
    QCOMPARE(steps(session().shack(), open_->made.test_id)[0].output->typed, std::string("25 W"));
    QTest::keyClick(output, Qt::Key_Return);
    QVERIFY(!steps(session().shack(), second)[0].output);
    // The same for a note.
    sheet()->readings()->note()->setFocus();
    QTest::keyClicks(sheet()->readings()->note(), "second note");
    QTest::keyClick(open_->window.get(), Qt::Key_1, Qt::ControlModifier);
    QCOMPARE(sheet()->readings()->note()->toPlainText(), QString());
    QCOMPARE(test(session().shack(), second).note, std::string("second note"));
    QCOMPARE(test(session().shack(), open_->made.test_id).note, std::string());
  }

  void an_unreadable_output_is_not_carried_to_another_step() {
    open_->window->show_evaluation(open_->made.evaluation_id);
    QLineEdit* output = sheet()->readings()->output()->edit();
    output->setFocus();
    output->selectAll();
    QTest::keyClicks(output, "thirty");
    sheet()->choose(1);
    QCOMPARE(output->text(), QString());
    sheet()->choose(0);
    QCOMPARE(output->text(), QString("30 W"));
  }

  void a_note_is_on_disk_while_it_is_typed() {
    open_->window->show_evaluation(open_->made.evaluation_id);
    sheet()->readings()->note()->setFocus();
    QTest::keyClicks(sheet()->readings()->note(), "fan");
    QTRY_COMPARE_WITH_TIMEOUT(test(session().shack(), open_->made.test_id).note, std::string("fan"),
                              4000);
    QTest::keyClicks(sheet()->readings()->note(), " off");
    QTRY_COMPARE_WITH_TIMEOUT(test(session().shack(), open_->made.test_id).note,
                              std::string("fan off"), 4000);
    QVERIFY(sheet()->readings()->note()->hasFocus());
    // Another program sees it too: it is in the file.
    const auto reader = Shack::open(open_->made.path());
    QVERIFY(reader->is_read_only());
    QCOMPARE(test(*reader, open_->made.test_id).note, std::string("fan off"));
    // All that typing is one step of undo.
    open_->window->session().undo_stack().undo();
    QCOMPARE(test(session().shack(), open_->made.test_id).note, std::string());
  }

  void the_shack_is_walked_by_keyboard() {
    auto* recent = open_->window->shack_view()->recent();
    std::vector<ShackList::Row> rows;
    for (int i = 0; i < 3; ++i)
      rows.push_back({QString("Test %1").arg(i), "line", {}, 20.0, false, i + 1, 10 + i});
    recent->set_rows(rows);
    QSignalSpy chosen(recent, &ShackList::chosen);
    // The window would open the evaluation: only the wish matters here.
    disconnect(recent, &ShackList::chosen, open_->window->shack_view(), nullptr);
    recent->setFocus(Qt::TabFocusReason);
    QTest::keyClick(recent, Qt::Key_Down);
    QVERIFY(recent->accessibleName().contains("Test 1"));
    QTest::keyClick(recent, Qt::Key_Down);
    QTest::keyClick(recent, Qt::Key_Down);  // stays on the last
    QTest::keyClick(recent, Qt::Key_Return);
    QCOMPARE(chosen.count(), 1);
    QCOMPARE(chosen[0][1].toLongLong(), 12LL);
    QTest::keyClick(recent, Qt::Key_Up);
    QTest::keyClick(recent, Qt::Key_Space);
    QCOMPARE(chosen[1][1].toLongLong(), 11LL);
    recent->set_rows({});
    QTest::keyClick(recent, Qt::Key_Return);
    QCOMPARE(chosen.count(), 2);
    QVERIFY(recent->accessibleName().contains("later evaluation"));
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
    answer_fields({"Dunlin 6", "transverter", "no. 7", ""}, nullptr,
                  [] { plan_next([](PlanDialog& dialog) { dialog.accept(); }); });
    emit open_->window->shack_view()->device_asked();
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

  void leaving_a_question_changes_nothing() {
    escape_next();
    emit open_->window->shack_view()->device_asked();
    QCOMPARE(devices(session().shack()).size(), 1U);
    escape_next();
    emit open_->window->shack_view()->new_evaluation_asked(open_->made.device_id);
    QCOMPARE(evaluations(session().shack(), open_->made.device_id).size(), 1U);
    open_->window->show_evaluation(open_->made.evaluation_id);
    open_->window->activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(open_->window.get()));
    escape_next();
    QTest::mouseClick(open_->window->sheet()->primary(), Qt::LeftButton);
    QVERIFY(!heron::testing::two_tone_of(session())->test.is_signed());
  }

  void commands_answer_to_other_words_and_hold_what_menus_hold() {
    open_->window->show_evaluation(open_->made.evaluation_id);
    const auto found = [&](const QString& words) {
      QTest::keyClick(open_->window.get(), Qt::Key_K, Qt::ControlModifier);
      QTest::keyClicks(open_->window->command_box()->edit(), words);
      const QStringList shown = open_->window->command_box()->shown();
      QTest::keyClick(open_->window->command_box()->edit(), Qt::Key_Escape);
      return shown;
    };
    QCOMPARE(found("make a new shack"), QStringList{"New shack"});
    QVERIFY(found("create shack").contains("New shack"));
    QVERIFY(found("theme").contains("Dark theme on or off"));
    QVERIFY(found("night").contains("Dark theme on or off"));
    QVERIFY(found("keyboard").contains("Keys of this view"));
    QVERIFY(found("xylophone").isEmpty());
    // What stands in the menus of the sheet, by its whole way; run from there it does the same.
    const QStringList limits = found("no limit");
    QVERIFY(!limits.isEmpty());
    QVERIFY2(limits.front().startsWith("Limit"), qPrintable(limits.front()));
    QVERIFY(heron::testing::two_tone_of(session())->test.limit.has_value());
    run_command("no limit");
    session().settle();
    QVERIFY(!heron::testing::two_tone_of(session())->test.limit.has_value());
    session().undo_stack().undo();
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

  void f1_lists_the_keys_of_where_one_stands() {
    const auto rows = [&] {
      QTest::keyClick(open_->window.get(), Qt::Key_F1);
      QStringList all;
      for (ListCard* card : open_->window->findChildren<ListCard*>()) {
        all = card->rows();
        delete card;
      }
      return all.join('\n');
    };
    open_->window->show_shack();
    const QString shack = rows();
    QVERIFY(shack.contains("device and characteristic") && shack.contains("Esc"));
    open_->window->show_evaluation(open_->made.evaluation_id);
    const QString sheet = rows();
    QVERIFY(sheet.contains("Ctrl U") && sheet.contains("RF off first"));
    QVERIFY(!sheet.contains("device and characteristic"));
    open_->window->show_bench();
    QVERIFY(rows().contains("part or instrument"));
  }

  void commands_do_what_they_say() {
    run_command("reedling before");
    QVERIFY(open_->window->evaluation_page()->isVisible());
    TestEdits(session()).set_note("x");
    run_command("undo note");
    QVERIFY(heron::testing::two_tone_of(session())->test.note.empty());
    run_command("redo note");
    QCOMPARE(heron::testing::two_tone_of(session())->test.note, std::string("x"));
    run_command("copy the table");
    QVERIFY(QApplication::clipboard()->text().startsWith("Drive step\t"));
    QVERIFY(QApplication::clipboard()->text().contains("30 W"));
    run_command("copy the figure");
    QVERIFY(QApplication::clipboard()->text().contains("Pass"));
    run_command("go to the shack");
    QVERIFY(open_->window->shack_view()->isVisible());
    QTest::keyClick(open_->window.get(), Qt::Key_K, Qt::ControlModifier);
    QTest::keyClicks(open_->window->command_box()->edit(), "there is no such thing");
    QCOMPARE(open_->window->command_box()->shown().size(), 0);
    QTest::keyClick(open_->window->command_box()->edit(), Qt::Key_Return);  // nothing to run
    QVERIFY(open_->window->command_box()->isVisible());
    QTest::keyClick(open_->window->command_box()->edit(), Qt::Key_Escape);
    QVERIFY(!open_->window->command_box()->isVisible());
  }

  void the_command_box_lists_exports_only_where_there_is_something() {
    QTest::keyClick(open_->window.get(), Qt::Key_K, Qt::ControlModifier);
    QTest::keyClicks(open_->window->command_box()->edit(), "export");
    QCOMPARE(open_->window->command_box()->shown().size(), 0);
    QTest::keyClick(open_->window->command_box()->edit(), Qt::Key_Escape);
    open_->window->show_evaluation(open_->made.evaluation_id);
    QTest::keyClick(open_->window.get(), Qt::Key_K, Qt::ControlModifier);
    QTest::keyClicks(open_->window->command_box()->edit(), "export");
    QCOMPARE(open_->window->command_box()->shown().size(), 5);
    QTest::keyClick(open_->window->command_box()->edit(), Qt::Key_Escape);
  }

  void messages_stay_until_read_and_good_news_does_not_cover_bad() {
    MessageBar* bar = open_->window->messages();
    bar->complain("tape.wav: it is torn", "Mend it");
    QCOMPARE(bar->text(), QString("tape.wav: it is torn. Mend it."));
    bar->tell("Saved");
    QVERIFY(bar->text().contains("torn"));
    QTest::keyClick(open_->window.get(), Qt::Key_Escape);
    QVERIFY(bar->text().isEmpty());
    bar->show_work("Writing x.zip");
    bar->set_progress(0.426);
    QCOMPARE(bar->text(), QString("Writing x.zip, 43 %"));
    // A complaint in the middle stays until it is closed; then the work is seen again.
    bar->complain("y.wav: it is torn", "Mend it");
    bar->set_progress(0.6);
    QVERIFY(bar->text().contains("torn"));
    QTest::mouseClick(bar->close_button(), Qt::LeftButton);
    QCOMPARE(bar->text(), QString("Writing x.zip, 60 %"));
    QSignalSpy stop(bar, &MessageBar::stop_asked);
    QTest::mouseClick(bar->close_button(), Qt::LeftButton);
    QCOMPARE(stop.count(), 1);
    bar->work_done();
    bar->set_progress(0.9);  // late news of work that is over
    QVERIFY(bar->text().isEmpty());
  }

  void a_damaged_import_is_told_and_changes_nothing() {
    const QString path = open_->made.folder.filePath("bad.zip");
    QFile file(path);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("PK\x03\x04 but then nothing that makes sense");
    file.close();
    open_->window->files()->import_from(path);
    QTRY_VERIFY(!open_->window->messages()->is_working());
    QVERIFY2(open_->window->messages()->text().contains("bad.zip"),
             qPrintable(open_->window->messages()->text()));
    QCOMPARE(devices(session().shack()).size(), 1U);
    QCOMPARE(evaluations(session().shack(), open_->made.device_id).size(), 1U);
  }

  void things_are_dropped_where_they_belong() {
    const auto drop = [&](const QString& path) {
      QMimeData mime;
      mime.setUrls({QUrl::fromLocalFile(path)});
      QDragEnterEvent enter(QPoint(300, 300), Qt::CopyAction, &mime, Qt::LeftButton,
                            Qt::NoModifier);
      QApplication::sendEvent(open_->window.get(), &enter);
      QVERIFY(enter.isAccepted());
      QDropEvent event(QPointF(300, 300), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
      QApplication::sendEvent(open_->window.get(), &event);
    };
    write_wav(open_->made.folder.filePath("a.wav"), -30.0);
    drop(open_->made.folder.filePath("a.wav"));
    QVERIFY(open_->window->messages()->text().contains("Open a test first"));
    QTest::keyClick(open_->window.get(), Qt::Key_Escape);
    QTemporaryDir other;
    Shack::create(other.filePath("s").toStdString(), "elsewhere").reset();
    drop(other.filePath("s"));
    QCOMPARE(session().shack().place(), std::string("elsewhere"));
  }

  void removing_a_test_can_be_undone() {
    open_->window->show_evaluation(open_->made.evaluation_id);
    TestEdits(session()).add_test("two_tone", "Second", "7 MHz");
    emit open_->window->rail()->removal_asked(session().test_id());
    QCOMPARE(session().course().size(), 1U);
    QCOMPARE(session().test_id(), open_->made.test_id);
    QTest::keyClick(open_->window.get(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(session().course().size(), 2U);
  }

  void both_themes_are_complete_and_nothing_keeps_the_other_ones_paper() {
    open_->window->show_evaluation(open_->made.evaluation_id);
    const auto lightness = [&](const QPoint& at) {
      QApplication::processEvents();
      return open_->window->grab().toImage().pixelColor(at).lightness();
    };
    // A point of the rail, of the sheet, of a card, of the table.
    const QPoint points[] = {{120, 600}, {620, 90}, {1140, 780}, {620, 650}};
    open_->window->set_dark(false);
    for (const QPoint& p : points)
      QVERIFY2(lightness(p) > 200, qPrintable(QString("%1").arg(p.x())));
    open_->window->set_dark(true);
    for (const QPoint& p : points)
      QVERIFY2(lightness(p) < 60, qPrintable(QString("%1").arg(p.x())));
    open_->window->set_dark(false);
  }
};

QTEST_MAIN(ShellTest)
#include "shell_test.moc"
