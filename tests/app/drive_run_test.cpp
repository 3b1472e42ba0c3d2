#include <QUndoStack>

#include "app/live/live_card.h"
#include "core/method/live_quantity.h"
#include "core/method/measure/whole_answer.h"
#include "tests/app/live_window.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace drive_run_test {

/// Drive steps of an amplifier, keyed by the program on the simulated bench and seen in the window.
class DriveRunTest : public QObject {
  Q_OBJECT

  /// A test of gain of an amplifier, behind a pad whose end is a power meter.
  struct AmplifierWindow : OpenWindow {
    Id test_id = 0;
    explicit AmplifierWindow(const nlohmann::json& settings,
                             const QStringList& labels = {"0.2 W", "1 W", "no drive", "2 W"}) {
      window.reset();
      made.reopen();
      Shack& shack = *made.shack;
      set_simulation_seed(shack, 7);
      const Id device = add_device(shack, {0, "Sluice 100", "amplifier", "no. 7", "", {}});
      made.evaluation_id = add_evaluation(shack, device, "On its own");
      Test t;
      t.evaluation_id = made.evaluation_id;
      t.characteristic = "gain";
      t.title = "Gain";
      t.settings["amplifier"] = settings;
      Chain chain = pad_and_sampler(50.0);
      chain.parts[0].max_input_w = 200.0;
      chain.parts[1].name = "power meter";
      chain.parts[1].max_input_dbm = 23.0;
      chain.parts[1].full_scale_dbm.reset();
      t.hookup_id = add_hookup(shack, "Behind the amplifier", chain);
      Drive drive{to_dbm(Watt{100.0}).value, false, 14.2e6, 12.0};
      drive.typed = "100 W";
      t.drive = drive;
      test_id = add_test(shack, t);
      for (const QString& label : labels) add_step(shack, test_id, label.toStdString());
      made.shack.reset();
      reopen();
      window->show_evaluation(made.evaluation_id, test_id);
      window->live_instruments()->use_simulation(true);
      window->live_instruments()->set_time_factor(200.0);
    }
    LiveLadder& live() { return *window->sheet()->live(); }
    sim::SimWorld& bench() { return window->live_instruments()->simulation()->bench(); }
    LiveCard& card() { return *window->sheet()->live_card(); }
    const GeneralTest& shown() { return *window->session().general(); }
    void key_twice() {
      press(*window, window.get(), Qt::Key_Return, Qt::ControlModifier);
      QVERIFY2(window->sheet()->is_armed(),
               qPrintable(live().obstacle().what + " " + live().obstacle().what_to_do));
      press(*window, window.get(), Qt::Key_Return, Qt::ControlModifier);
      QVERIFY(live().is_running());
    }
    bool waits_for_switch() { return live().state().kind == RunState::Kind::switching; }
    const EvidenceStep& step(const char* label) {
      const auto& steps = shown().evidence.steps;
      return *std::find_if(steps.begin(), steps.end(),
                           [&](const EvidenceStep& s) { return s.label == label; });
    }
  };
  static nlohmann::json one_meter() {
    return {{"one_meter", true},   {"driven_by", "transmitter"}, {"specified_gain_db", 14.0},
            {"nominal_v", 48.0},   {"rated_input_dbm", 35.0},    {"rated_output_dbm", 49.0},
            {"stop_down", "none"}, {"reads_harmonics", true}};
  }

 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-drive-run-test")); }

  void one_meter_is_prompted_through_bypass_and_line() {
    AmplifierWindow w(one_meter());
    QVERIFY(w.window->sheet()->head()->consequence()->text().contains("bypassed"));
    w.key_twice();
    QStringList prompts;
    int switches = 0;
    while (w.live().is_running() && switches < 4) {
      QTRY_VERIFY_WITH_TIMEOUT(!w.live().is_running() || w.waits_for_switch(), 60000);
      if (!w.live().is_running()) break;
      ++switches;
      // Off before anybody touches a connector, and said so.
      QVERIFY(!w.bench().is_keyed());
      QCOMPARE(*w.window->live_instruments()->rf(), RfState::confirmed_off);
      QVERIFY(w.card().isVisible());
      prompts << w.card().words();
      QCOMPARE(w.card().pause_button()->text(), QString("Go on"));
      QTest::mouseClick(w.card().pause_button(), Qt::LeftButton);
      QTRY_VERIFY_WITH_TIMEOUT(!w.waits_for_switch() || !w.live().is_running(), 10000);
    }
    QCOMPARE(switches, 3);
    QVERIFY(prompts[0].contains("without the device"));
    QVERIFY(prompts[1].contains("back in line"));
    QVERIFY(prompts[2].contains("without the device"));
    QVERIFY(!w.bench().is_keyed());
    w.window->session().settle();
    for (const char* label : {"0.2 W", "1 W", "2 W"}) {
      const EvidenceStep& s = w.step(label);
      const Reading* before = find_reading(s.readings, "drive", ReadingRole::before);
      const Reading* after = find_reading(s.readings, "drive", ReadingRole::after);
      const Reading* out = find_reading(s.readings, "output");
      QVERIFY(before != nullptr && after != nullptr && out != nullptr);
      QVERIFY(out->u > 0.0 && out->source == ReadingSource::live);
      QVERIFY(find_reading(s.readings, kSupplyCurrent, ReadingRole::before) != nullptr);
      QVERIFY(find_reading(s.readings, kSupplyCurrent)->u > 0.0);
      QVERIFY(find_reading(s.readings, kPowerMeter) != nullptr);  // as it was shown
      QVERIFY(find_reading(s.readings, "second_harmonic") != nullptr);
      QVERIFY(find_condition(s.conditions, "key_down")->value > 0.0);
    }
    QVERIFY(find_reading(w.step("no drive").readings, kSupplyCurrent) != nullptr);
    // Gain within what does not cancel; the simulated amplifier has 14.6 dB less what warmth costs.
    const Answer& gain =
        *std::find_if(w.shown().result.answers.begin(), w.shown().result.answers.end(),
                      [](const Answer& a) { return a.figure.id == "small_signal_gain"; });
    QVERIFY2(std::abs(gain.figure.value - 14.6) < gain.figure.expanded() + 0.1,
             qPrintable(QString("%1 +- %2").arg(gain.figure.value).arg(gain.figure.expanded())));
    QVERIFY(gain.figure.expanded() < 0.35);
    QCOMPARE(w.live().due().size(), std::size_t{0});
    // Each reading can be taken back.
    const std::size_t kept = w.step("2 W").readings.size();
    w.window->session().undo_stack().undo();
    w.window->session().settle();
    QVERIFY(w.step("2 W").readings.size() < kept);
  }

  void a_generator_of_known_level_needs_no_bypass_and_the_supply_ends_it() {
    nlohmann::json settings = one_meter();
    settings["one_meter"] = false;
    settings["driven_by"] = "generator";
    settings["reads_harmonics"] = false;
    settings["supply_limit_a"] = 2.5;
    AmplifierWindow w(settings, {"0.1 W", "0.2 W", "0.5 W", "1 W", "2 W"});
    // Nobody has said what lies between generator and device.
    QVERIFY(w.live().obstacle().what.contains("not known"));
    settings["driver_gain_db"] = w.bench().config().driver_db;
    nlohmann::json all = w.window->session().settings();
    all["amplifier"] = settings;
    TestEdits(w.window->session()).set_settings("amplifier", all);
    w.window->session().settle();
    QStringList told;
    connect(&w.live(), &LiveLadder::told, this, [&](const QString& text) { told << text; });
    w.key_twice();
    QTRY_VERIFY2_WITH_TIMEOUT(!w.live().is_running(), qPrintable(w.live().words()), 20000);
    w.window->session().settle();
    QCOMPARE(told.size(), 1);
    QVERIFY2(told[0].startsWith("Ended before") && told[0].contains("the supply stops at 2.5 A"),
             qPrintable(told[0]));
    QVERIFY(find_reading(w.step("0.5 W").readings, "output") != nullptr);
    QVERIFY(find_reading(w.step("1 W").readings, "output") == nullptr);
    const auto& remarks = w.shown().result.remarks;
    QVERIFY(std::any_of(remarks.begin(), remarks.end(),
                        [](const Remark& r) { return r.code == "stop"; }));
    QVERIFY(!w.bench().is_keyed());
  }

  void escape_switches_rf_off_at_once() {
    AmplifierWindow w(one_meter());
    w.window->live_instruments()->set_time_factor(2.0);
    w.key_twice();
    QTRY_VERIFY_WITH_TIMEOUT(w.waits_for_switch(), 20000);
    QTest::mouseClick(w.card().pause_button(), Qt::LeftButton);
    QTRY_VERIFY_WITH_TIMEOUT(w.bench().is_keyed(), 20000);
    press(*w.window, w.window.get(), Qt::Key_Escape, Qt::NoModifier);
    QTRY_VERIFY_WITH_TIMEOUT(!w.bench().is_keyed(), 3000);
    QTRY_COMPARE_WITH_TIMEOUT(w.live().state().kind, RunState::Kind::paused, 10000);
    QTest::mouseClick(w.card().stop_button(), Qt::LeftButton);
    QTRY_VERIFY_WITH_TIMEOUT(!w.live().is_running(), 10000);
  }
};

HERON_WINDOW_TEST(DriveRunTest)

}  // namespace drive_run_test

#include "drive_run_test.moc"
