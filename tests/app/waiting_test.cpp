// What the window shows while a test is worked out, and that nothing is lost meanwhile.
#include <random>

#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "app/sheet/method_sheet.h"
#include "app/shell/main_window.h"
#include "app/widget/veil.h"
#include "tests/app/made_wav.h"
#include "tests/app/open_window.h"
#include "tests/app/two_tone_session.h"
#include "tests/test_program.h"

using namespace heron;

namespace waiting_test {

using heron::testing::MadeShack;
using heron::testing::OpenWindow;

class WaitingTest : public QObject {
  Q_OBJECT
 private slots:
  void initTestCase() { QVERIFY(heron::testing::prepare_window_tests("heron-waiting-test")); }
  void cleanup() { Session::patience = std::chrono::minutes(10); }

  /// Edits that come faster than the figures: each is on disk, builds on the one before, and all of
  /// them go back one by one.
  void edits_that_do_not_wait_lose_nothing() {
    MadeShack made;
    made.shack.reset();
    Session session;
    session.open(made.folder.path());
    session.show_evaluation(made.evaluation_id);
    Session::patience = std::chrono::milliseconds(0);
    std::mt19937 random(5);
    const auto state = [&] {
      const Test t = heron::test(session.shack(), made.test_id);
      const Step s = steps(session.shack(), made.test_id).front();
      return t.note + "|" + (t.limit ? std::to_string(t.limit->value) : "-") + "|" +
             t.settings.dump() + "|" + t.conditions + "|" + s.label + "|" +
             (s.output ? s.output->typed : "-");
    };
    std::vector<std::string> states{state()};
    for (int i = 0; i < 40; ++i) {
      const QString word = QStringLiteral("%1").arg(i);
      switch (random() % 5) {
        case 0: {
          nlohmann::json settings = session.settings();
          settings["ladder"]["linearity_db"] = 0.1 + i * 0.01;
          TestEdits(session).set_settings("linearity", settings);
          break;
        }
        case 1: {
          nlohmann::json settings = session.settings();
          settings["made"][word.toStdString()] = i;
          TestEdits(session).set_settings("another", settings);
          break;
        }
        case 2:
          TestEdits(session).set_conditions(word);
          break;
        case 3: {
          Limit limit = MadeShack::limit();
          limit.value = -30.0 - i;
          TestEdits(session).set_limit(limit);
          break;
        }
        default:
          StepEdits(session).set_output(0, word + " W", 40.0 + i * 0.1);
      }
      states.push_back(state());
      QVERIFY(session.is_waiting() && states.back() != states[states.size() - 2]);
      if (i % 9 == 8) QTest::qWait(5);
    }
    for (auto before = states.rbegin() + 1; before != states.rend(); ++before) {
      session.undo_stack().undo();
      QCOMPARE(state(), *before);
    }
    QTRY_VERIFY(!session.is_waiting());
    QCOMPARE(session.general()->test.note, std::string());
    QCOMPARE(session.general()->steps[0].output->typed, std::string("30 W"));
  }

  void older_figures_are_pale_until_the_new_are_there() {
    OpenWindow open;
    open.window->show_evaluation(open.made.evaluation_id, 0);
    auto* sheet = open.window->findChild<MethodSheet*>();
    Session& session = open.window->session();
    const auto is_pale = [&] { return Veil::is_over(sheet->verdict()); };
    QVERIFY(!is_pale() && session.general() != nullptr);
    Session::patience = std::chrono::milliseconds(0);
    Limit strict = MadeShack::limit();
    strict.value = -60.0;
    TestEdits(session).set_limit(strict);
    QVERIFY(session.is_waiting() && is_pale());
    QCOMPARE(session.general()->test.limit->value, -30.0);
    // What is being replaced is not signed.
    sheet->primary_action();
    QVERIFY(QApplication::activeModalWidget() == nullptr);
    sheet->ask_signature();
    QVERIFY(QApplication::activeModalWidget() == nullptr);
    QVERIFY2(open.window->messages()->text().contains("being worked out"),
             qPrintable(open.window->messages()->text()));
    QTRY_VERIFY(!session.is_waiting());
    QVERIFY(!is_pale());
    QCOMPARE(session.general()->test.limit->value, -60.0);
    // Who may not go by anything older waits, and then it is shown at once.
    TestEdits(session).set_limit(std::nullopt);
    QVERIFY(session.is_waiting() && is_pale());
    session.settle();
    QVERIFY(!session.is_waiting() && !is_pale());
    QVERIFY(!session.general()->test.limit);
    session.undo_stack().undo();
    QTRY_VERIFY(!session.is_waiting());
    // The rail and the shack show it too.
    QCOMPARE(heron::test(session.shack(), open.made.test_id).headline->judgement.verdict,
             Verdict::fail);
    QCOMPARE(session.course().front().headline->judgement.verdict, Verdict::fail);
  }

  /// Opening a test that takes its time: its name stands there at once, and the keyboard stays
  /// where it was.
  void a_test_that_is_read_says_so_and_the_keyboard_stays() {
    OpenWindow open;
    open.window->show_evaluation(open.made.evaluation_id, 0);
    auto* sheet = open.window->findChild<MethodSheet*>();
    Session& session = open.window->session();
    TestEdits(session).add_test("noise", "Notched noise", "20 m");
    const Id noise = session.test_id();
    session.show_test(open.made.test_id);
    sheet->table()->setFocus();
    QVERIFY(sheet->table()->hasFocus());
    Session::patience = std::chrono::milliseconds(0);
    session.show_test(noise);
    QVERIFY(session.is_waiting());
    QCOMPARE(sheet->head()->title()->text(), QStringLiteral("Notched noise"));
    QVERIFY(!sheet->isEnabled() && session.general() == nullptr);
    QVERIFY(sheet->head()->consequence()->text().startsWith("Reading its recordings"));
    for (const QWidget* old :
         std::initializer_list<const QWidget*>{sheet->strip(), sheet->verdict(), sheet->readings()})
      QVERIFY(Veil::is_over(old));
    QTRY_VERIFY(!session.is_waiting());
    QVERIFY(sheet->isEnabled() && !Veil::is_over(sheet->strip()));
    QCOMPARE(session.general()->test.id, noise);
    QVERIFY(sheet->isAncestorOf(QApplication::focusWidget()));
    // Faster than anything can be read: the last one chosen is what stands there.
    for (int i = 0; i < 21; ++i) session.show_test(i % 2 == 0 ? open.made.test_id : noise);
    QTRY_VERIFY(!session.is_waiting());
    QCOMPARE(session.general()->test.id, open.made.test_id);
    QCOMPARE(session.test_id(), open.made.test_id);
  }

  /// A recording that lands while figures are worked out is chosen as soon as it can be.
  void a_recording_that_lands_is_chosen_when_it_is_there() {
    OpenWindow open;
    open.window->show_evaluation(open.made.evaluation_id, 0);
    auto* sheet = open.window->findChild<MethodSheet*>();
    const QString path = open.made.folder.filePath("late.wav");
    heron::testing::write_wav(path, -40.0, 3);
    Session::patience = std::chrono::milliseconds(0);
    sheet->add_recordings({path});
    QTRY_VERIFY_WITH_TIMEOUT(!sheet->is_busy() && !open.window->session().is_waiting(), 60000);
    QTRY_COMPARE(sheet->chosen(), 1);
    QVERIFY(open.window->session().general()->steps[1].capture.has_value());
    QVERIFY(!sheet->plot()->plot().panels.front().layers.empty());
  }

  /// Leaving at once keeps what the rail shows next time.
  void what_is_being_worked_out_is_kept_when_the_window_closes() {
    OpenWindow open;
    open.window->show_evaluation(open.made.evaluation_id, 0);
    Session::patience = std::chrono::milliseconds(0);
    Limit strict = MadeShack::limit();
    strict.value = -60.0;
    TestEdits(open.window->session()).set_limit(strict);
    open.window.reset();
    const auto shack = Shack::open(open.made.path());
    QCOMPARE(heron::test(*shack, open.made.test_id).headline->judgement.verdict, Verdict::fail);
  }
};

HERON_WINDOW_TEST(WaitingTest)

}  // namespace waiting_test

#include "waiting_test.moc"
