// What the message bar says stays as long as it is true, and it never moves what it lies over.
#include "app/shell/message_bar.h"

#include <QSignalSpy>
#include <random>

#include "app/hookup/label_room.h"
#include "tests/app/open_window.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace message_bar_test {

namespace {

struct Bar {
  QWidget over;
  MessageBar bar{&over};
  Bar() {
    over.resize(1280, 800);
    over.show();
  }
  PushButton* offered() {
    for (PushButton* b : bar.findChildren<PushButton*>())
      if (b != bar.close_button() && b->isVisible()) return b;
    return nullptr;
  }
};

}  // namespace

class MessageBarTest : public QObject {
  Q_OBJECT
 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-message-bar")); }

  void a_message_goes_with_its_own_cause_only() {
    const MessageTopic topics[] = {MessageTopic::general, MessageTopic::page, MessageTopic::rf};
    for (const MessageTopic said : topics) {
      for (const MessageTopic gone : topics) {
        Bar b;
        b.bar.complain("The bridge is open", "Close it", said);
        QCOMPARE(b.bar.text(), QString("The bridge is open. Close it."));
        b.bar.retract(gone);
        QCOMPARE(b.bar.text().isEmpty(), said == gone);
      }
    }
  }

  void good_news_does_not_cover_bad() {
    Bar b;
    b.bar.complain("RF may be on", "Switch it off at the generator", MessageTopic::rf);
    b.bar.tell("Saved");
    QVERIFY(b.bar.text().startsWith("RF may be on"));
    b.bar.retract(MessageTopic::rf);
    b.bar.tell("Saved");
    QCOMPARE(b.bar.text(), QString("Saved"));
    b.bar.complain("No file", "", MessageTopic::page);
    QCOMPARE(b.bar.text(), QString("No file."));
  }

  void work_is_shown_until_it_is_done_and_can_be_stopped() {
    Bar b;
    QSignalSpy stop(&b.bar, &MessageBar::stop_asked);
    b.bar.show_work("Analysing deck.wav");
    for (const double f : {0.0, 0.25, 0.5, 1.0}) {
      b.bar.set_progress(f);
      QCOMPARE(b.bar.text(), QString("Analysing deck.wav, %1 %").arg(qRound(100 * f)));
    }
    b.bar.tell("Saved");  // waits its turn: the work is still going on
    QVERIFY(b.bar.text().startsWith("Analysing"));
    QCOMPARE(b.bar.close_button()->text(), QString("Stop"));
    b.bar.complain("mast.wav cannot be read", "Record again");
    b.bar.set_progress(0.6);
    QVERIFY(b.bar.text().startsWith("mast.wav"));
    QCOMPARE(b.bar.close_button()->text(), QString("Close"));
    b.bar.close_button()->click();
    QCOMPARE(stop.count(), 0);  // closing a complaint does not stop the work
    QVERIFY(b.bar.text().startsWith("Analysing"));
    b.bar.close_button()->click();
    QCOMPARE(stop.count(), 1);
    b.bar.work_done();
    QVERIFY(b.bar.text().isEmpty() && !b.bar.is_working());
  }

  void an_offer_is_done_once_and_goes_with_what_it_was_about() {
    Bar b;
    int done = 0;
    b.bar.offer("RF was found on", "Switch RF off", [&] { ++done; }, MessageTopic::rf);
    QVERIFY(b.offered() != nullptr);
    QCOMPARE(b.offered()->text(), QString("Switch RF off"));
    b.offered()->click();
    QCOMPARE(done, 1);
    b.bar.offer("RF was found on", "Switch RF off", [&] { ++done; }, MessageTopic::rf);
    b.bar.complain("Another matter", "");
    QVERIFY(b.offered() == nullptr);
    QCOMPARE(done, 1);
  }

  /// Over the foot, inside, never over the header, and wide enough for its words.
  void it_stays_inside_whatever_the_window_is() {
    std::mt19937 random(3);
    std::uniform_int_distribution<int> wide(900, 2600);
    std::uniform_int_distribution<int> high(560, 1600);
    std::uniform_int_distribution<int> words(1, 60);
    Bar b;
    for (int i = 0; i < 120; ++i) {
      b.over.resize(wide(random), high(random));
      QString said;
      for (int k = words(random); k > 0; --k) said += "attenuator ";
      b.bar.complain(said.trimmed(), "Check it", MessageTopic::page);
      const QRect at = b.bar.geometry();
      QVERIFY(b.over.rect().contains(at));
      QVERIFY(at.top() > b.over.height() / 2);
      const auto* label = b.bar.findChild<QLabel*>();
      QVERIFY(label->height() >= label->heightForWidth(label->width()));
    }
  }

  /// The window does not move when the bar comes and goes.
  void nothing_moves_when_it_comes_and_goes() {
    OpenWindow w;
    w.window->show_evaluation(w.made.evaluation_id);
    const auto places = [&] {
      QList<QRect> all;
      for (const QWidget* child : w.window->findChildren<QWidget*>()) {
        if (child->isVisible() && child != w.window->messages() &&
            !w.window->messages()->isAncestorOf(child))
          all << QRect(child->mapTo(w.window.get(), QPoint()), child->size());
      }
      return all;
    };
    w.window->messages()->retract(MessageTopic::general);
    QCoreApplication::processEvents();
    const QList<QRect> before = places();
    QVERIFY(before.size() > 30);
    w.window->messages()->complain("A long complaint about something", "Do something about it");
    QCoreApplication::processEvents();
    QCOMPARE(places(), before);
    w.window->messages()->retract(MessageTopic::general);
    QCoreApplication::processEvents();
    QCOMPARE(places(), before);
  }

  /// Labels of the level diagram: none over another while there is room, none moved sideways.
  void labels_take_the_nearest_free_place() {
    std::mt19937 random(11);
    std::uniform_real_distribution<double> x(0, 500);
    std::uniform_real_distribution<double> y(0, 380);
    for (int round = 0; round < 200; ++round) {
      LabelRoom room;
      const QRectF bounds(0, 0, 600, 400);
      room.clear(bounds);
      for (int i = 0; i < 14; ++i) {
        const QRectF wanted(x(random), y(random), 60, 16);
        const bool was_free =
            std::none_of(room.taken().begin(), room.taken().end(),
                         [&](const QRectF& other) { return other.intersects(wanted); });
        const QRectF place = room.take(wanted);
        QCOMPARE(place.left(), wanted.left());
        QCOMPARE(place.size(), wanted.size());
        if (was_free) QCOMPARE(place, wanted);
        QVERIFY(bounds.contains(place));
      }
      for (std::size_t a = 0; a < room.taken().size(); ++a)
        for (std::size_t b = a + 1; b < room.taken().size(); ++b)
          QVERIFY(!room.taken()[a].intersects(room.taken()[b]));
    }
  }
};

HERON_WINDOW_TEST(MessageBarTest)

}  // namespace message_bar_test

#include "message_bar_test.moc"
