// The frame round the sheet: shack, header, command box, messages, and what happens between tests.
#include <QPlainTextEdit>
#include <QSignalSpy>
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
#include "tests/test_program.h"

using namespace heron;

namespace shell_test {

using heron::testing::answer_fields;
using heron::testing::OpenWindow;
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

  void leaving_a_question_changes_nothing() {
    // An empty card that is left without a name is no device.
    emit open_->window->shack_view()->device_asked();
    open_->window->show_shack();
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

HERON_WINDOW_TEST(ShellTest)

}  // namespace shell_test

#include "shell_test.moc"
