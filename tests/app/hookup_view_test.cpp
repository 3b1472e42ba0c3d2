// The hook-up editor as a person uses it: by keyboard, with any unit, and never past a rating.
#include "app/hookup/hookup_view.h"

#include <QtTest>
#include <QtWidgets>

#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "app/sheet/uncertainty_card.h"
#include "app/theme/qt_text.h"
#include "core/chain/chain_json.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "store/bench.h"
#include "store/device.h"
#include "tests/app/made_wav.h"
#include "tests/app/open_window.h"
#include "tests/app/two_tone_session.h"
#include "tests/app/whole_words.h"
#include "tests/test_program.h"

using namespace heron;

namespace hookup_view_test {

using heron::testing::answer_next;
using heron::testing::OpenWindow;

namespace {

BenchItem bench_thing(const char* sort, const char* name, double gain_db, double watt) {
  BenchItem item = made_item(sort);
  item.part.name = name;
  item.part.gain = Gain(gain_db);
  item.part.u_db = 0.05;
  if (watt > 0.0) item.part.max_input_w = watt;
  return item;
}

}  // namespace

class HookupViewTest : public QObject {
  Q_OBJECT
  std::unique_ptr<OpenWindow> open_;

  MainWindow* window() { return open_->window.get(); }
  HookupView* view() { return window()->hookup_view(); }
  Shack& shack() { return window()->session().shack(); }
  Id test_id() { return open_->made.test_id; }
  std::string chain() {
    std::string names;
    for (const Part& p : view()->scene().chain.parts) names += (names.empty() ? "" : ", ") + p.name;
    return names;
  }
  /// In the menu that is about to open, types the name and presses Return.
  static void choose_next(const QString& name) {
    QTimer::singleShot(60, qApp, [name] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      QVERIFY(menu != nullptr);
      for (QAction* action : menu->actions()) {
        if (action->isSeparator() || !action->text().startsWith(name)) continue;
        menu->setActiveAction(action);
        QTest::keyClick(menu, Qt::Key_Return);
        return;
      }
      menu->close();
      QFAIL(qPrintable("no entry " + name));
    });
  }
  void key(QWidget* w, int k, Qt::KeyboardModifiers m = Qt::NoModifier) {
    heron::testing::press(*window(), w, k, m);
  }
  void type(QLineEdit* edit, const QString& text) { heron::testing::type_into(edit, text); }

 private slots:
  void initTestCase() { QVERIFY(heron::testing::prepare_window_tests("even-heron-hookup-test")); }

  void init() {
    open_ = std::make_unique<OpenWindow>();
    for (const BenchItem& item : {bench_thing("attenuator", "Pad, 20 dB", -20, 5),
                                  bench_thing("attenuator", "Pad, 40 dB", -40, 50),
                                  bench_thing("cable", "Cable", -0.1, 100)})
      add_bench_item(shack(), item);
    BenchItem sampler = made_item("sampler");
    sampler.part.name = "Sampler";
    sampler.part.max_input_dbm = 20.0;
    sampler.part.full_scale_dbm = 8.0;
    sampler.part.best_input_dbm = std::pair{-20.0, 6.0};
    add_bench_item(shack(), sampler);
    window()->show_evaluation(open_->made.evaluation_id, test_id());
    window()->activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(window()));
  }
  void cleanup() { open_.reset(); }

  void a_chain_is_built_by_keyboard_alone() {
    key(window(), Qt::Key_H, Qt::ControlModifier);
    QTRY_VERIFY(view()->isVisible() && view()->band()->hasFocus());
    QCOMPARE(chain(), std::string("Pad, 20 dB, Sampler"));  // a first one from what the bench has
    // Replace the pad, add a cable behind it, move the cable to the front.
    key(view()->band(), Qt::Key_Home);
    key(view()->band(), Qt::Key_Right);
    choose_next("Pad, 40 dB");
    key(view()->band(), Qt::Key_Return);
    QCOMPARE(chain(), std::string("Pad, 40 dB, Sampler"));
    choose_next("Cable");
    key(view()->band(), Qt::Key_Insert);
    QCOMPARE(chain(), std::string("Pad, 40 dB, Cable, Sampler"));
    QCOMPARE(view()->scene().chosen, 2);
    key(view()->band(), Qt::Key_Left, Qt::ControlModifier);
    QCOMPARE(chain(), std::string("Cable, Pad, 40 dB, Sampler"));
    // Taken out, and back by undo; redo and undo again.
    key(view()->band(), Qt::Key_Delete);
    QCOMPARE(chain(), std::string("Pad, 40 dB, Sampler"));
    key(window(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(chain(), std::string("Cable, Pad, 40 dB, Sampler"));
    key(window(), Qt::Key_Y, Qt::ControlModifier);
    key(window(), Qt::Key_Z, Qt::ControlModifier);
    // Down into the diagram and the table; what stands there is read out.
    key(view()->band(), Qt::Key_Right);
    key(view()->band(), Qt::Key_Down);
    QVERIFY(view()->diagram()->hasFocus());
    QVERIFY2(view()->diagram()->accessibleDescription().contains("dBm"),
             qPrintable(view()->diagram()->accessibleDescription()));
    key(view()->diagram(), Qt::Key_Down);
    QVERIFY(view()->table()->hasFocus());
    // Kept under a name, for this test.
    answer_next("Bench A");
    key(window(), Qt::Key_Return, Qt::ControlModifier);
    QCOMPARE(hookups(shack()).size(), 1U);
    QCOMPARE(test(shack(), test_id()).hookup_id, hookups(shack())[0].id);
    QCOMPARE(latest_version(shack(), hookups(shack())[0].id).chain.parts.size(), 3U);
    key(window(), Qt::Key_Return, Qt::ControlModifier);
    QVERIFY(!view()->isVisible() && window()->sheet()->isVisible());
    QVERIFY2(window()->sheet()->strip()->accessibleName().contains("Pad, 40 dB"),
             qPrintable(window()->sheet()->strip()->accessibleName()));
    // The recording that had no hook-up is referred through it now.
    QVERIFY(heron::testing::two_tone_of(window()->session())->taken_on[0].has_value());
  }

  void the_same_part_cannot_stand_twice_and_an_end_is_needed() {
    window()->show_hookup(0, test_id());
    view()->add_part(1, view()->scene().part(1));
    QVERIFY(!view()->scene().result);
    QVERIFY2(view()->scene().trouble.contains("circle"), qPrintable(view()->scene().trouble));
    QVERIFY(!view()->primary()->isEnabled());
    QVERIFY(view()->undo_draft());
    view()->remove_part(2);
    QVERIFY2(view()->scene().trouble.contains("instrument"), qPrintable(view()->scene().trouble));
    view()->remove_part(1);
    QVERIFY(!view()->scene().result);
    QVERIFY(view()->undo_draft() && view()->undo_draft());
    QVERIFY(view()->scene().result.has_value());
    QVERIFY(!view()->undo_draft());
  }

  void fields_take_any_unit_and_keep_the_last_good_value() {
    window()->show_hookup(0, test_id());
    type(view()->drive()->edit(), "15 W mean");
    QVERIFY(std::abs(view()->scene().drive.pep_dbm - to_dbm(Watt{30.0}).value) < 1e-6);
    QCOMPARE(test(shack(), test_id()).drive->typed, std::string("15 W mean"));
    type(view()->drive()->edit(), "5.5 Vrms");
    QVERIFY(std::abs(view()->scene().drive.pep_dbm - 27.818) < 0.01);
    type(view()->drive()->edit(), "loud");
    QVERIFY(view()->drive()->is_invalid());
    QVERIFY2(view()->drive()->message().contains("30 W"), qPrintable(view()->drive()->message()));
    QVERIFY(std::abs(view()->scene().drive.pep_dbm - 27.818) < 0.01);
    type(view()->frequency()->edit(), "3650 kHz");
    QCOMPARE(view()->scene().drive.frequency_hz, 3.65e6);
    type(view()->key_down()->edit(), "2:10");
    QCOMPARE(*view()->scene().drive.key_down_s, 130.0);
    type(view()->key_down()->edit(), "");
    QVERIFY(!view()->scene().drive.key_down_s);
    // One tone: its envelope is its mean.
    type(view()->drive()->edit(), "30 W");
    view()->tones()->setFocus();
    key(view()->tones()->focusProxy(), Qt::Key_Left);
    QVERIFY(!view()->scene().drive.is_two_tone);
    QVERIFY(!test(shack(), test_id()).drive->is_two_tone);
    key(window(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(test(shack(), test_id()).drive->is_two_tone);
  }

  void a_level_that_may_reach_the_rating_is_too_close_with_its_highest_power() {
    window()->show_hookup(0, test_id());
    answer_next("A: 20 dB");
    view()->primary_action();
    type(view()->key_down()->edit(), "");
    const auto& card = view()->survival()->content();
    for (const auto& [drive, verdict] :
         {std::pair{"9.9 W pep", Verdict::too_close}, std::pair{"30 W pep", Verdict::fail},
          std::pair{"2 W pep", Verdict::pass}}) {
      type(view()->drive()->edit(), drive);
      QCOMPARE(view()->survival()->content().mark.verdict, verdict);
      if (verdict == Verdict::pass) continue;
      const ChainNode& node = view()->scene().result->nodes.front();
      const double most = to_watt(Dbm{node.level_dbm + 2.0 * node.u_db - 3.0103}).value;
      QVERIFY2(card.sentence.contains("up to " + qt_text(engineering_text(most, "W", 3)) +
                                      " on average, rated for 5 W"),
               qPrintable(card.sentence));
    }
  }

  void an_unsafe_chain_is_refused_until_somebody_answers_for_it() {
    window()->show_hookup(0, test_id());
    type(view()->drive()->edit(), "30 W pep");  // 15 W mean into 5 W
    answer_next("A: 20 dB");
    view()->primary_action();
    QVERIFY(view()->scene().result && !view()->scene().result->is_safe);
    QCOMPARE(view()->survival()->content().mark.verdict, Verdict::fail);
    QVERIFY(view()->remarks()->text().contains("over its rating"));
    // Nothing is taken, and the clock does not start.
    window()->sheet()->choose(1);
    const QString wav = open_->made.folder.filePath("x.wav");
    heron::testing::write_wav(wav, -30.0);
    window()->sheet()->add_recordings({wav});
    QVERIFY(!window()->sheet()->is_busy());
    QVERIFY2(window()->messages()->text().contains("not safe"),
             qPrintable(window()->messages()->text()));
    QVERIFY(!heron::testing::two_tone_of(window()->session())->steps[1].capture);
    key(window(), Qt::Key_F9);
    QVERIFY(!window()->key_clock()->is_keyed());
    // A name without a reason is no answer.
    QString hint;
    answer_next("Both of us", &hint);
    view()->primary_action();
    QVERIFY2(hint.contains("reason"), qPrintable(hint));
    QVERIFY(all_vouched(shack(), test_id()).empty());
    answer_next("Both of us: one second, hand on the switch");
    view()->primary_action();
    QCOMPARE(all_vouched(shack(), test_id()).size(), 1U);
    const auto entries = journal(shack(), open_->made.device_id);
    QVERIFY(entries.back().text.find("one second") != std::string::npos);
    window()->show_evaluation(open_->made.evaluation_id, test_id());
    window()->sheet()->choose(1);
    window()->sheet()->add_recordings({wav});
    QTRY_VERIFY_WITH_TIMEOUT(!window()->sheet()->is_busy(), 20000);
    QVERIFY(heron::testing::two_tone_of(window()->session())->steps[1].capture.has_value());
    QVERIFY(window()->sheet()->remarks()->text().contains("overr"));
  }

  void labels_of_the_diagram_never_cover_each_other() {
    window()->show_hookup(0, test_id());
    for (const char* drive : {"1 mW", "100 mW", "2 W pep", "5 W pep", "30 W pep", "200 W pep"}) {
      for (const int width : {1100, 1280, 1600}) {
        window()->resize(width, 800);
        type(view()->drive()->edit(), drive);
        view()->diagram()->grab();
        const auto& labels = view()->diagram()->labels();
        QVERIFY(labels.size() > 3);
        for (std::size_t i = 0; i < labels.size(); ++i) {
          for (std::size_t k = i + 1; k < labels.size(); ++k)
            QVERIFY2(
                !labels[i].intersects(labels[k]),
                qPrintable(QString("%1 at %2: %3 and %4").arg(drive).arg(width).arg(i).arg(k)));
        }
      }
    }
  }

  void what_is_suggested_can_be_put_in_with_one_press() {
    window()->show_hookup(0, test_id());
    type(view()->drive()->edit(), "30 W pep");
    QVERIFY(view()->scene().swap.has_value());
    QVERIFY(view()->suggestion()->isVisible());
    QVERIFY(view()->remarks()->text().contains("Pad, 40 dB"));
    QTest::mouseClick(view()->suggestion(), Qt::LeftButton);
    QVERIFY(chain().find("Pad, 40 dB") != std::string::npos);
    QVERIFY(view()->scene().result->is_safe);
    QVERIFY(!view()->suggestion()->isVisible());
  }

  void changing_a_used_hookup_makes_a_version_and_leaves_old_results_alone() {
    window()->show_hookup(0, test_id());
    answer_next("A");
    view()->primary_action();
    StepEdits(window()->session()).set_output(0, {}, std::nullopt);
    const double before = heron::testing::two_tone_of(window()->session())->outputs[0]->value;
    const Id hookup = view()->hookup_id();
    for (const BenchEntry& e : bench(shack())) {
      if (e.item.part.name == "Pad, 40 dB") view()->replace_part(1, e.part());
    }
    QVERIFY(view()->has_draft());
    view()->primary_action();
    QCOMPARE(latest_version(shack(), hookup).number, 2);
    QCOMPARE(heron::testing::two_tone_of(window()->session())->outputs[0]->value, before);
    QCOMPARE(heron::testing::two_tone_of(window()->session())->taken_on[0]->number, 1);
    // Undone, the first version is the present one again.
    key(window(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(latest_version(shack(), hookup).number, 1);
    QCOMPARE(view()->scene().chain.parts[0].name, std::string("Pad, 20 dB"));
  }

  void a_part_that_changed_on_the_bench_is_offered_not_taken() {
    window()->show_hookup(0, test_id());
    answer_next("A");
    view()->primary_action();
    for (BenchEntry e : bench(shack())) {
      if (e.item.part.name != "Pad, 20 dB") continue;
      calibrate(e.item, "2026-05-01", -20.3, 0.04);
      set_bench_item(shack(), e.id, e.item);
    }
    view()->refresh();
    QCOMPARE(view()->scene().chain.parts[0].gain.largest_db(), -20.0);
    QVERIFY(view()->remarks()->text().contains("changed on the bench"));
  }

  void the_clock_counts_and_escape_lifts_the_key_first() {
    window()->show_hookup(0, test_id());
    type(view()->drive()->edit(), "12 W pep");  // 6 W mean into 5 W, no time constant: never
    type(view()->drive()->edit(), "9 W pep");
    answer_next("A");
    view()->primary_action();
    key(window(), Qt::Key_F9);
    QVERIFY(window()->key_clock()->is_keyed());
    window()->key_clock()->advance(75.0);
    QVERIFY2(window()->key_clock()->words().contains("1:15"),
             qPrintable(window()->key_clock()->words()));
    window()->open_level_desk();
    QVERIFY(window()->level_desk()->isVisible());
    window()->setFocus();
    key(window(), Qt::Key_Escape);
    QVERIFY(!window()->key_clock()->is_keyed());
    QVERIFY(window()->level_desk()->isVisible());  // the key first, the card next
    key(window(), Qt::Key_Escape);
    QVERIFY(!window()->level_desk()->isVisible());
  }

  void a_part_is_dragged_to_another_place() {
    window()->show_hookup(0, test_id());
    for (const BenchEntry& e : bench(shack())) {
      if (e.item.part.name == "Cable") view()->add_part(1, e.part());
    }
    QCOMPARE(chain(), std::string("Pad, 20 dB, Cable, Sampler"));
    ChainBand* band = view()->band();
    const HookupColumns c{static_cast<double>(band->width()), 4};
    const QPoint from(static_cast<int>(c.centre(2)), 24);
    const QPoint to(static_cast<int>(c.centre(0) + c.column() / 2), 24);
    QTest::mousePress(band, Qt::LeftButton, {}, from);
    for (int i = 1; i <= 8; ++i) QTest::mouseMove(band, from + (to - from) * i / 8);
    QTest::mouseRelease(band, Qt::LeftButton, {}, to);
    QCOMPARE(chain(), std::string("Cable, Pad, 20 dB, Sampler"));
    QVERIFY(view()->undo_draft());
    QCOMPARE(chain(), std::string("Pad, 20 dB, Cable, Sampler"));
  }

  void words_are_whole_at_every_width_data() { heron::testing::add_widths_and_themes(); }
  void words_are_whole_at_every_width() {
    QFETCH(int, width);
    QFETCH(bool, dark);
    window()->set_dark(dark);
    window()->resize(width, 760);
    window()->show_hookup(0, test_id());
    type(view()->drive()->edit(), "30 W pep");
    QTest::qWait(60);
    heron::testing::verify_whole_words(*window(), 12);
    // Nodes, diagram and table show the same chain.
    QCOMPARE(view()->table()->model()->rowCount(), view()->scene().columns());
    window()->set_dark(false);
  }

  void any_uncertainty_of_the_strip_opens_its_budget() {
    window()->show_hookup(0, test_id());
    answer_next("A");
    view()->primary_action();
    window()->show_evaluation(open_->made.evaluation_id, test_id());
    HookupStrip* strip = window()->sheet()->strip();
    QSignalSpy asked(strip, &HookupStrip::uncertainty_asked);
    strip->grab();  // the boxes are where it painted them
    for (int x = 10; x < strip->width(); x += 12) {
      QTest::mouseClick(strip, Qt::LeftButton, {}, QPoint(x, 48));
      if (!asked.isEmpty()) break;
      if (view()->isVisible()) window()->show_evaluation(open_->made.evaluation_id, test_id());
    }
    QCOMPARE(asked.size(), 1);
    auto* card = window()->findChild<UncertaintyCard*>();
    QVERIFY(card != nullptr && card->isVisible());
    QVERIFY2(card->text().contains("common to all steps"), qPrintable(card->text()));
  }

  void the_rail_follows_the_test_whose_hookup_is_shown() {
    TestEdits(window()->session()).add_test("two_tone", "Two-tone, 80 m", "3.650 MHz");
    const Id other = window()->session().test_id();
    QVERIFY(other != test_id());
    window()->show_hookup(0, test_id());
    QCOMPARE(window()->session().test_id(), test_id());
    QCOMPARE(view()->test_id(), test_id());
  }

  void nothing_is_changed_in_a_signed_or_read_only_test() {
    TestEdits(window()->session()).sign("Both of us");
    window()->show_hookup(0, test_id());
    type(view()->drive()->edit(), "10 W");
    QVERIFY(!test(shack(), test_id()).drive.has_value());
    QVERIFY(view()->scene().result.has_value());  // one may look all the same
  }
};

HERON_WINDOW_TEST(HookupViewTest)

}  // namespace hookup_view_test

#include "hookup_view_test.moc"
