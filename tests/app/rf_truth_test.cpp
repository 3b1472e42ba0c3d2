#include <QSignalSpy>
#include <QtTest>

#include "app/live/look_view.h"
#include "instrument/rf_state.h"
#include "simbench/sim_server.h"
#include "tests/app/live_window.h"
#include "tests/simbench/plain_bench.h"
#include "tests/test_program.h"

using namespace heron;

namespace rf_truth_test {

using heron::testing::LiveWindow;
using heron::testing::plain_bench;
using heron::testing::press;

namespace {

void key_by_hand(const sim::SimServer& server) {
  ScpiSession hand("hand", parse_address(server.address("generator")), generic_profile());
  hand.connect();
  hand.tell(Role::generator, "set_level", {{"dbm", -30.0}, {"v_rms", 0.007}, {"v_emf", 0.014}});
  hand.tell(Role::generator, "set_tone", {{"hz", 1000.0}});
  hand.tell(Role::generator, "output_on");
  hand.settle();
}

}  // namespace

/// The window never says more of RF than an instrument has confirmed.
class RfTruthTest : public QObject {
  Q_OBJECT
  static void connect_generator(MainWindow& w, const sim::SimServer& server) {
    w.live_instruments()->connect_to(Role::generator, "Generator",
                                     QString::fromStdString(server.address("generator")));
  }

 private slots:
  void initTestCase() { QVERIFY(heron::testing::prepare_window_tests("even-heron-rf-test")); }

  void connecting_asks_and_says_off_only_when_it_is_confirmed() {
    sim::SimServer server(plain_bench(100.0));
    LiveWindow window;
    QVERIFY(!window.w().live_instruments()->rf().has_value());
    connect_generator(window.w(), server);
    QTRY_VERIFY_WITH_TIMEOUT(window.w().live_instruments()->rf() == RfState::confirmed_off, 10000);
    QCOMPARE(window.w().key_clock()->words(), QString("RF off"));
  }

  void rf_found_on_is_said_at_once_and_off_is_offered() {
    sim::SimServer server(plain_bench(100.0));
    key_by_hand(server);
    QVERIFY(server.bench().is_keyed());
    LiveWindow window;
    QSignalSpy found(window.w().live_instruments(), &LiveInstruments::rf_found_on);
    connect_generator(window.w(), server);
    QVERIFY(found.wait(10000));
    QVERIFY(window.w().live_instruments()->rf() == RfState::on);
    QVERIFY2(window.w().key_clock()->words().startsWith("RF on"),
             qPrintable(window.w().key_clock()->words()));
    QVERIFY2(window.w().messages()->text().contains("found switched on"),
             qPrintable(window.w().messages()->text()));
    PushButton* offer = nullptr;
    for (auto* button : window.w().messages()->findChildren<PushButton*>()) {
      if (button->text() == "Switch RF off" && button->isVisible()) offer = button;
    }
    QVERIFY(offer != nullptr);
    QTest::mouseClick(offer, Qt::LeftButton);
    QTRY_VERIFY_WITH_TIMEOUT(!server.bench().is_keyed(), 10000);
    QTRY_VERIFY_WITH_TIMEOUT(window.w().live_instruments()->rf() == RfState::confirmed_off, 10000);
    QTRY_VERIFY(!window.w().messages()->text().contains("found switched on"));
  }

  void escape_switches_off_whatever_is_connected_without_a_run() {
    sim::SimServer server(plain_bench(100.0));
    LiveWindow window;
    connect_generator(window.w(), server);
    QTRY_VERIFY_WITH_TIMEOUT(window.w().live_instruments()->rf() == RfState::confirmed_off, 10000);
    // Somebody switches it on at its front panel: the program cannot know.
    key_by_hand(server);
    QVERIFY(server.bench().is_keyed());
    press(window.w(), window.window.get(), Qt::Key_Escape, Qt::NoModifier);
    QTRY_VERIFY_WITH_TIMEOUT(!server.bench().is_keyed(), 10000);
  }

  void a_program_that_was_killed_leaves_rf_on_and_the_next_one_says_so() {
    // What a kill -9 in mid-run leaves: a source that is on, and a window that knows of it.
    sim::SimServer server(plain_bench(100.0));
    LiveWindow window;
    connect_generator(window.w(), server);
    QTRY_VERIFY_WITH_TIMEOUT(window.w().live_instruments()->rf() == RfState::confirmed_off, 10000);
    key_by_hand(server);
    const QString folder = QString::fromStdString(window.w().session().shack().folder().string());
    QVERIFY(window.w().open_shack(folder));  // opened anew: nothing is known
    QVERIFY(window.w().live_instruments()->rf() == RfState::unknown);
    QCOMPARE(window.w().key_clock()->words(), QString("RF unknown"));
    QSignalSpy found(window.w().live_instruments(), &LiveInstruments::rf_found_on);
    window.w().live_instruments()->test(Role::generator);
    QVERIFY(found.wait(10000));
  }

  void an_instrument_that_does_not_answer_is_not_said_to_be_off() {
    sim::SimServer server(plain_bench(100.0));
    LiveWindow window;
    connect_generator(window.w(), server);
    QTRY_VERIFY_WITH_TIMEOUT(window.w().live_instruments()->rf() == RfState::confirmed_off, 10000);
    server.pull("generator");
    press(window.w(), window.window.get(), Qt::Key_Escape, Qt::NoModifier);
    QTRY_VERIFY_WITH_TIMEOUT(window.w().messages()->text().contains("may still be on"), 15000);
    QVERIFY(window.w().live_instruments()->rf() == RfState::unknown);
  }

  void what_is_said_of_rf_goes_when_it_is_no_longer_true() {
    LiveWindow window;
    MessageBar& bar = *window.w().messages();
    bar.tell("Stopped, RF is off", MessageTopic::rf);
    window.w().live_instruments()->use_simulation(true);
    bar.tell("Stopped, RF is off", MessageTopic::rf);
    QVERIFY(bar.isVisible());
    window.w().live_instruments()->set_rf(RfState::on);
    QVERIFY(!bar.isVisible());
    // An error of a page goes with the page, one of a file stays.
    bar.complain("Refused", "Try another way", MessageTopic::page);
    window.w().show_shack();
    QVERIFY(!bar.isVisible());
    bar.complain("A file is torn", "Copy it again");
    window.w().show_evaluation(window.w().session().evaluation_id());
    QVERIFY(bar.isVisible());
  }

  void messages_move_nothing() {
    LiveWindow window;
    const QRect page = window.w().evaluation_page()->geometry();
    const QPoint clock = window.w().key_clock()->mapTo(window.window.get(), QPoint());
    window.w().messages()->complain(
        "Something that takes a good many words to say, so that it "
        "needs more than one line in the bar at the foot of the window",
        "Do something about it that takes some words too");
    QApplication::processEvents();
    QCOMPARE(window.w().evaluation_page()->geometry(), page);
    QCOMPARE(window.w().key_clock()->mapTo(window.window.get(), QPoint()), clock);
    // It covers nothing that stops RF: the header, the live view's row, the column of cards.
    const QRect bar = window.w().messages()->geometry();
    QVERIFY(bar.top() > window.w().height() / 2);
    const QPoint right = window.w().sheet()->right_column()->mapTo(window.window.get(), QPoint());
    QVERIFY(bar.right() < right.x());
  }

  void what_stops_rf_does_not_move_with_its_words() {
    LiveWindow window;
    MethodSheet& sheet = *window.w().sheet();
    sheet.show_live_view();
    window.w().live_instruments()->use_simulation(true);
    sheet.look()->refresh();
    QApplication::processEvents();
    const QRect before = sheet.look()->key_button()->geometry();
    QTest::mouseClick(sheet.look()->look_button(), Qt::LeftButton);
    QTRY_VERIFY_WITH_TIMEOUT(sheet.look()->run()->frame().segments > 1, 10000);
    QTest::mouseClick(sheet.look()->key_button(), Qt::LeftButton);
    QApplication::processEvents();
    QCOMPARE(sheet.look()->key_button()->geometry(), before);
    sheet.look()->run()->end();
  }
};

HERON_WINDOW_TEST(RfTruthTest)

}  // namespace rf_truth_test

#include "rf_truth_test.moc"
