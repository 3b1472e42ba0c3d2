// Good enough is a result: accepted by name, shown as that everywhere, and taken back.
#include <QApplication>
#include <QMenu>
#include <QTimer>

#include "app/session/shack_edits.h"
#include "app/session/test_edits.h"
#include "app/sheet/method_sheet.h"
#include "app/shell/course_rail.h"
#include "app/shell/message_bar.h"
#include "app/shell/shack_list.h"
#include "app/shell/shack_view.h"
#include "app/table/evidence_model.h"
#include "app/widget/verdict_card.h"
#include "report/gather.h"
#include "report/html.h"
#include "store/evaluation.h"
#include "store/exchange.h"
#include "tests/app/grid_column.h"
#include "tests/app/open_window.h"
#include "tests/app/two_tone_session.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace acceptance_test {

class AcceptanceTest : public QObject {
  Q_OBJECT

 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-acceptance-test")); }

  void a_failing_figure_is_accepted_shown_reported_and_taken_back() {
    OpenWindow w;
    w.window->show_evaluation(w.made.evaluation_id, w.made.test_id);
    Session& session = w.window->session();
    session.settle();
    // What passes has no such entry.
    QVERIFY(!choose_entry(w.window->sheet()->more()->menu(), "Accept as good enough"));
    TestEdits(session).set_limit(Limit{"own", Sense::at_most, -60.0, "dB", kRePep, 20.0});
    session.settle();
    const auto verdict = [&] {
      session.settle();
      return session.general()->result.answers.front().judgement->verdict;
    };
    const auto headline = [&] {
      return test(session.shack(), w.made.test_id).headline->judgement.verdict;
    };
    QCOMPARE(verdict(), Verdict::fail);
    // Without a reason it stays.
    QString hint;
    answer_fields({"M. Tern", ""}, &hint);
    QVERIFY(choose_entry(w.window->sheet()->more()->menu(), "Accept as good enough"));
    QVERIFY2(hint.contains("Say why it is good enough"), qPrintable(hint));
    QCOMPARE(verdict(), Verdict::fail);
    answer_fields({"M. Tern", "only ever driven to 5 W"});
    QVERIFY(choose_entry(w.window->sheet()->more()->menu(), "Accept as good enough"));
    QCOMPARE(verdict(), Verdict::accepted);
    QCOMPARE(headline(), Verdict::accepted);
    QVERIFY(session.general()->result.remarks.front().text.find("only ever driven to 5 W") !=
            std::string::npos);
    // Neither passed nor failed in the report.
    const ReportDocument report = gather_report(session.shack(), w.made.evaluation_id);
    const std::string html = report_html(report);
    QVERIFY(html.find("Accepted as good enough") != std::string::npos);
    QVERIFY(html.find("Does not keep to its limit") == std::string::npos);
    QVERIFY(html.find("only ever driven to 5 W") != std::string::npos);
    // One press of undo, and of redo; or by its own entry.
    session.undo_stack().undo();
    QCOMPARE(verdict(), Verdict::fail);
    session.undo_stack().redo();
    QCOMPARE(verdict(), Verdict::accepted);
    // Another test for another band starts without it.
    TestEdits(session).duplicate_test(w.made.test_id, "Two-tone, 80 m");
    session.settle();
    QVERIFY(!session.settings().contains("accepted"));
    w.window->show_evaluation(w.made.evaluation_id, w.made.test_id);
    session.settle();
    QVERIFY(choose_entry(w.window->sheet()->more()->menu(), "Withdraw the acceptance"));
    QCOMPARE(verdict(), Verdict::fail);
    QCOMPARE(headline(), Verdict::fail);
  }

  /// A rough measurement counts, hollow in the shack, and is planned to be repeated.
  void a_provisional_test_says_why_and_is_to_be_repeated() {
    OpenWindow w;
    w.window->show_evaluation(w.made.evaluation_id, w.made.test_id);
    Session& session = w.window->session();
    session.settle();
    answer_next("a borrowed power meter");
    QVERIFY(choose_entry(w.window->sheet()->more()->menu(), "Mark as provisional"));
    session.settle();
    QCOMPARE(session.general()->result.remarks.front().text,
             std::string("Provisional: a borrowed power meter."));
    const auto headline = [&] { return *test(session.shack(), w.made.test_id).headline; };
    QVERIFY(headline().is_provisional);
    // In words, too, where a mark alone could be missed.
    const QAbstractItemModel& plan = *w.window->findChild<CourseRail*>()->list()->model();
    QStringList said;
    for (int row = 0; row < plan.rowCount(); ++row) said << plan.index(row, 0).data().toString();
    QVERIFY2(said.join("; ").contains(", provisional"), qPrintable(said.join("; ")));
    QCOMPARE(headline().judgement.verdict,
             session.general()->result.answers.front().judgement->verdict);
    const std::string html = report_html(gather_report(session.shack(), w.made.evaluation_id));
    QVERIFY(html.find("Repeat, measured provisionally: Two-tone products.") != std::string::npos);
    // The next evaluation of the device takes it again, and says why.
    QString planned;
    plan_next([&](PlanDialog& next) {
      for (int i = 0; i < next.list()->count(); ++i)
        if (const auto* item = next.list()->item(i); item->checkState() == Qt::Checked)
          planned += item->data(Qt::AccessibleTextRole).toString() + ";";
    });
    emit w.window->shack_view()->new_evaluation_asked(w.made.device_id);
    QVERIFY2(planned.contains("Two-tone products") && planned.contains("is provisional"),
             qPrintable(planned));
    // The shack plans it, too.
    w.window->show_shack();
    QStringList shown;
    for (const QLabel* label : w.window->shack_view()->findChildren<QLabel*>())
      shown << label->text();
    QVERIFY2(shown.join(";").contains("1 to be repeated"), qPrintable(shown.join(";")));
    shown.clear();
    for (const ShackList* list : w.window->shack_view()->findChildren<ShackList*>())
      shown << list->accessibleName() + list->accessibleDescription();
    QVERIFY2(shown.join(";").contains("provisional: to be repeated"), qPrintable(shown.join(";")));
    w.window->show_evaluation(w.made.evaluation_id, w.made.test_id);
    session.settle();
    QVERIFY(choose_entry(w.window->sheet()->more()->menu(), "No longer provisional"));
    session.settle();
    QVERIFY(!headline().is_provisional);
    session.undo_stack().undo();
    QVERIFY(headline().is_provisional);
  }

  /// Typed with a tilde or marked by its menu; a reading of an instrument, too.
  void a_reading_can_be_provisional_by_itself() {
    OpenWindow w;
    w.window->show_evaluation(w.made.evaluation_id, w.made.test_id);
    Session& session = w.window->session();
    TestEdits(session).add_test("output", "Output power", "");
    session.settle();
    auto* sheet = dynamic_cast<MethodSheet*>(w.window->sheet());
    QVERIFY(sheet != nullptr);
    EvidenceModel& model = *sheet->evidence();
    const int cold = grid_column(model, "Cold");
    for (const auto& [row, watts] : {std::pair{0, "31 W"}, std::pair{1, "~ 25 W"}}) {
      QVERIFY(
          model.setData(model.index(row, 0), QString("%1 MHz").arg(7 * (row + 1)), Qt::EditRole));
      session.settle();
      QVERIFY(model.setData(model.index(row, cold), watts, Qt::EditRole));
      session.settle();
    }
    QCOMPARE(model.index(1, cold).data().toString(), QString("~ 25 W"));
    QCOMPARE(model.index(1, cold).data(Qt::AccessibleTextRole).toString(),
             QString("~ 25 W, provisional"));
    TestEdits(session).set_limit(Limit{"maker", Sense::at_least, 44.3, "dBm", "", 20.0});
    session.settle();
    const auto said = [&] { return sheet->verdict()->accessibleName(); };
    const auto is_provisional = [&] {
      return test(session.shack(), session.test_id()).headline->is_provisional;
    };
    QVERIFY(is_provisional());
    QVERIFY2(said().endsWith("Pass, limit at least 44.3 dBm"), qPrintable(said()));
    sheet->show_grid();
    sheet->grid()->setCurrentIndex(model.index(1, cold));
    QVERIFY2(said().contains(", provisional"), qPrintable(said()));
    const std::string html = report_html(gather_report(session.shack(), w.made.evaluation_id));
    QVERIFY(html.find("Fail, provisional") != std::string::npos);
    QVERIFY(html.find("Repeat, measured provisionally: Output power.") != std::string::npos);
    // Its menu takes the mark away, and gives it back to what an instrument read, too.
    const auto by_menu = [&](int row) {
      sheet->grid()->setCurrentIndex(model.index(row, cold));
      QTimer::singleShot(0, [] {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        if (menu == nullptr) return;
        choose_entry(menu, "Provisional");
        menu->close();
      });
      emit sheet->grid()->customContextMenuRequested({5, 5});
      session.settle();
    };
    by_menu(1);
    QVERIFY(!is_provisional());
    QCOMPARE(model.index(1, cold).data().toString(), QString("25 W"));
    Reading live;
    live.quantity = "output";
    live.value = 43.0;
    live.unit = "dBm";
    live.source = ReadingSource::live;
    StepEdits(session).add_readings(session.test_id(), session.general()->steps[1].id, "live",
                                    {live});
    session.settle();
    by_menu(1);
    QVERIFY(is_provisional());
    session.undo_stack().undo();
    session.settle();
    QVERIFY(!is_provisional());
    session.undo_stack().redo();
    session.settle();
    QVERIFY(is_provisional());
    // Typed anew it is relied on.
    QVERIFY(model.setData(model.index(1, cold), "24.9 W", Qt::EditRole));
    session.settle();
    QVERIFY(!is_provisional());
  }

  /// It stands above the test plan and in the report; ended in part it says why, and what is next.
  void an_evaluation_has_a_goal_and_may_end_in_part() {
    OpenWindow w;
    w.window->show_evaluation(w.made.evaluation_id, w.made.test_id);
    Session& session = w.window->session();
    ShackEdits edits(session);
    const auto rail_says = [&](const QString& words) {
      for (const QLabel* label : w.window->findChild<CourseRail*>()->findChildren<QLabel*>())
        if (label->isVisible() && label->text().contains(words)) return true;
      return false;
    };
    QVERIFY(!rail_says("25 W"));
    edits.set_goal(w.made.evaluation_id, "Is it clean at 25 W?");
    QTRY_VERIFY(rail_says("Is it clean at 25 W?"));
    edits.end_evaluation(w.made.evaluation_id, EvaluationEnd{"2026-11-02T10:00:00Z", true,
                                                             "no dummy load", "Borrow one"});
    QTRY_VERIFY(rail_says("Ended in part: no dummy load. Next: Borrow one"));
    const ReportDocument report = gather_report(session.shack(), w.made.evaluation_id);
    const std::string html = report_html(report);
    for (const char* said : {"Is it clean at 25 W?", "Ended in part: no dummy load", "Borrow one."})
      QVERIFY2(html.find(said) != std::string::npos, said);
    // It goes along in an archive, and comes back.
    QTemporaryDir folder;
    const QString zip = folder.filePath("evaluation.zip");
    QVERIFY(exported(*w.window, zip));
    const auto other = Shack::create(folder.filePath("other").toStdString(), "Elsewhere");
    const auto added =
        add_unpacked(*other, unpack_evaluation(zip.toStdString(), other->captures_folder()));
    const Evaluation there = evaluation(*other, added.evaluation);
    QCOMPARE(there.goal, std::string("Is it clean at 25 W?"));
    QVERIFY(there.end && there.end->is_partial && there.end->next == "Borrow one");
    session.undo_stack().undo();
    QTRY_VERIFY(!rail_says("Ended in part"));
    QVERIFY(rail_says("Is it clean at 25 W?"));
  }

  /// A limit that moved away further than what was accepted is not covered by it.
  void it_does_not_cover_what_is_worse() {
    OpenWindow w;
    w.window->show_evaluation(w.made.evaluation_id, w.made.test_id);
    Session& session = w.window->session();
    TestEdits(session).set_limit(Limit{"own", Sense::at_most, -50.0, "dB", kRePep, 20.0});
    session.settle();
    const Result& before = session.general()->result;
    TestEdits(session).accept(Acceptance{"M. Tern", "enough", "2026-11-01T00:00:00Z",
                                         before.answers.front().judgement->margin});
    session.settle();
    QCOMPARE(session.general()->result.answers.front().judgement->verdict, Verdict::accepted);
    TestEdits(session).set_limit(Limit{"own", Sense::at_most, -70.0, "dB", kRePep, 20.0});
    session.settle();
    const Result& now = session.general()->result;
    QCOMPARE(now.answers.front().judgement->verdict, Verdict::fail);
    QCOMPARE(now.remarks.front().code, std::string("no_longer_accepted"));
  }
};

HERON_WINDOW_TEST(AcceptanceTest)

}  // namespace acceptance_test

#include "acceptance_test.moc"
