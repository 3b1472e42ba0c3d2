#include "app/live/knee_card.h"
#include "app/live/live_card.h"
#include "app/live/look_view.h"
#include "app/session/step_edits.h"
#include "app/shell/window_files.h"
#include "tests/app/live_window.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace live_test {

class LiveTest : public QObject {
  Q_OBJECT
 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-live-test")); }

  void without_instruments_nothing_is_keyed() {
    LiveWindow window;
    QVERIFY(!window.w().sheet()->primary()->text().contains("ladder"));
    QVERIFY(window.live().obstacle().what.contains("generator"));
    QVERIFY(window.w().header()->bench_words().contains("Bench"));
    window.w().live_instruments()->use_simulation(true);
    QCOMPARE(window.w().header()->bench_words(), QString("Simulated"));
    QCOMPARE(window.w().key_clock()->words(), QString("RF off"));
    QCOMPARE(window.w().sheet()->primary()->text(), QString("Measure all steps"));
    // Esc takes the first press back.
    press(window.w(), window.window.get(), Qt::Key_Return, Qt::ControlModifier);
    QVERIFY(window.w().sheet()->is_armed());
    press(window.w(), window.window.get(), Qt::Key_Escape, Qt::NoModifier);
    QVERIFY(!window.w().sheet()->is_armed());
    QVERIFY(!window.live().is_running());
  }

  void a_ladder_of_six_lands_row_by_row() {
    LiveWindow window;
    window.w().live_instruments()->set_time_factor(200.0);
    window.w().live_instruments()->use_simulation(true);
    QElapsedTimer timer;
    timer.start();
    window.key_twice();
    QVERIFY(window.live().is_running());
    QTRY_VERIFY_WITH_TIMEOUT(window.taken() >= 1, 20000);
    QVERIFY(window.w().sheet()->live_card()->isVisible());
    QTRY_VERIFY_WITH_TIMEOUT(!window.live().is_running(), 20000);
    QTRY_VERIFY_WITH_TIMEOUT(!window.w().sheet()->is_busy(), 20000);
    qInfo("six steps in %lld ms", timer.elapsed());
    QCOMPARE(window.taken(), 6);
    QVERIFY(!window.server().bench().is_keyed());
    QVERIFY(!window.w().key_clock()->is_keyed());
    QVERIFY(!window.w().sheet()->live_card()->isVisible());
    // Each output is the one asked for, as measured through the hook-up, within its uncertainty.
    const double watts[] = {1.0, 3.0, 6.0, 10.0, 16.0, 24.0};
    for (std::size_t i = 0; i < 6; ++i) {
      QVERIFY(window.test().outputs[i].has_value());
      QVERIFY(std::abs(window.test().outputs[i]->value - to_dbm(Watt{watts[i]}).value) < 0.3);
      QVERIFY(window.test().taken_on[i].has_value());
    }
    // The whole can be undone like any import, one recording at a time.
    window.w().session().undo_stack().undo();
    QCOMPARE(window.taken(), 5);
    window.w().session().undo_stack().redo();
    QCOMPARE(window.taken(), 6);
  }

  void a_pulled_sampler_pauses_and_resumes() {
    LiveWindow window;
    window.w().live_instruments()->set_time_factor(100.0);
    window.w().live_instruments()->use_simulation(true);
    window.key_twice();
    QTRY_VERIFY_WITH_TIMEOUT(window.live().taken() >= 2, 20000);
    window.server().pull("sampler");
    QTRY_VERIFY_WITH_TIMEOUT(window.live().state().kind == RunState::Kind::paused, 20000);
    QVERIFY(!window.server().bench().is_keyed());
    QVERIFY(!window.w().key_clock()->is_keyed());
    QVERIFY2(window.w().sheet()->live_card()->words().contains("Sampler"),
             qPrintable(window.w().sheet()->live_card()->words()));
    QVERIFY(window.w().messages()->isVisible());
    const auto before = window.live().taken();
    window.server().plug("sampler");
    QTest::mouseClick(window.w().sheet()->live_card()->pause_button(), Qt::LeftButton);
    QTRY_VERIFY_WITH_TIMEOUT(!window.live().is_running(), 30000);
    QTRY_VERIFY_WITH_TIMEOUT(!window.w().sheet()->is_busy(), 20000);
    QVERIFY(before >= 2);
    QCOMPARE(window.taken(), 6);
  }

  void esc_takes_rf_away_from_anywhere() {
    LiveWindow window;
    window.w().live_instruments()->set_time_factor(1.0);  // slow enough to be caught keyed
    window.w().live_instruments()->use_simulation(true);
    window.key_twice();
    QTRY_VERIFY_WITH_TIMEOUT(window.server().bench().is_keyed(), 20000);
    QTRY_VERIFY_WITH_TIMEOUT(window.w().key_clock()->is_keyed(), 20000);
    // The bench cannot be changed under it.
    window.w().live_instruments()->use_simulation(false);
    QVERIFY(window.w().live_instruments()->is_simulated());
    window.w().open_level_desk();
    QVERIFY(window.w().level_desk()->isVisible());
    press(window.w(), window.window.get(), Qt::Key_Escape, Qt::NoModifier);
    QTRY_VERIFY_WITH_TIMEOUT(!window.server().bench().is_keyed(), 1500);
    // RF first: the card is still there, and closes at the next press.
    QVERIFY(window.w().level_desk()->isVisible());
    QTRY_COMPARE_WITH_TIMEOUT(window.live().state().kind, RunState::Kind::paused, 10000);
    QTest::mouseClick(window.w().sheet()->live_card()->stop_button(), Qt::LeftButton);
    QTRY_VERIFY_WITH_TIMEOUT(!window.live().is_running(), 10000);
    QVERIFY(!window.server().bench().is_keyed());
  }

  void closing_the_window_takes_rf_away() {
    LiveWindow window;
    window.w().live_instruments()->set_time_factor(1.0);
    // A server of its own outlives the window.
    sim::SimConfig config;
    config.chain = live_chain();
    sim::SimServer server(config);
    for (const char* name : {"generator", "sampler"}) {
      window.w().live_instruments()->connect_to(find_role(name)->role, {},
                                                QString::fromStdString(server.address(name)));
      QTRY_VERIFY_WITH_TIMEOUT(window.w().live_instruments()->answers(find_role(name)->role),
                               10000);
    }
    QVERIFY(window.w().header()->bench_words().startsWith("Real"));
    press(window.w(), window.window.get(), Qt::Key_Return, Qt::ControlModifier);
    press(window.w(), window.window.get(), Qt::Key_Return, Qt::ControlModifier);
    QTRY_VERIFY_WITH_TIMEOUT(server.bench().is_keyed(), 20000);
    window.w().close();
    QTRY_VERIFY_WITH_TIMEOUT(!server.bench().is_keyed(), 2000);
  }

  void the_live_view_keys_only_when_told_twice_and_esc_ends_it() {
    LiveWindow window;
    window.w().live_instruments()->set_time_factor(1.0);
    MethodSheet& sheet = *window.w().sheet();
    sheet.show_live_view();
    QVERIFY(sheet.look()->isVisible() && !sheet.plot()->isVisible());
    LookView& look = *sheet.look();
    QVERIFY(!look.look_button()->isEnabled());
    window.w().live_instruments()->use_simulation(true);
    look.refresh();
    QTest::mouseClick(look.look_button(), Qt::LeftButton);
    QVERIFY(look.run()->is_running());
    QTRY_VERIFY_WITH_TIMEOUT(look.run()->frame().segments > 4, 10000);
    QVERIFY(!window.server().bench().is_keyed());
    // The ladder has to wait.
    QVERIFY(window.live().obstacle().what.contains("in use"));
    look.drive()->take("-34 dBm");
    QTest::mouseClick(look.key_button(), Qt::LeftButton);
    QVERIFY(look.is_armed());
    QVERIFY(!window.server().bench().is_keyed());
    QTest::mouseClick(look.key_button(), Qt::LeftButton);
    QTRY_VERIFY_WITH_TIMEOUT(window.server().bench().is_keyed(), 5000);
    QTRY_VERIFY_WITH_TIMEOUT(window.w().key_clock()->is_keyed(), 5000);
    QTRY_VERIFY_WITH_TIMEOUT(look.readout().contains("dBm PEP") && look.readout().contains("drive"),
                             5000);
    const double before = look.run()->frame().pep_dbm;
    QTest::keyClick(look.drive()->edit(), Qt::Key_Up);
    QTest::keyClick(look.drive()->edit(), Qt::Key_Up);
    QTRY_VERIFY_WITH_TIMEOUT(look.run()->frame().pep_dbm > before + 1.0, 5000);
    press(window.w(), window.window.get(), Qt::Key_Escape, Qt::NoModifier);
    QTRY_VERIFY_WITH_TIMEOUT(!window.server().bench().is_keyed(), 1500);
    QTRY_VERIFY_WITH_TIMEOUT(!window.w().key_clock()->is_keyed(), 5000);
    QVERIFY(look.run()->is_running());
    // Nobody looks any more: nothing is keyed.
    look.run()->key(true);
    QTRY_VERIFY_WITH_TIMEOUT(window.server().bench().is_keyed(), 5000);
    sheet.show_view(0);
    QVERIFY(!window.server().bench().is_keyed());
    QVERIFY(!look.run()->is_running());
    QVERIFY(window.live().obstacle().what.isEmpty());
  }

  void full_output_is_found_with_one_tone_and_becomes_a_step() {
    LiveWindow window;
    window.w().live_instruments()->set_time_factor(200.0);
    window.w().live_instruments()->use_simulation(true);
    MethodSheet& sheet = *window.w().sheet();
    sheet.find_full_output();
    KneeCard* knee = sheet.knee();
    QVERIFY(knee->isVisible());
    QTRY_VERIFY_WITH_TIMEOUT(!window.live().is_running(), 30000);
    QVERIFY(!window.server().bench().is_keyed());
    QTRY_VERIFY_WITH_TIMEOUT(knee->found().has_value(), 5000);
    // The level control holds 30 W, whatever the sampler's scale makes of it.
    QVERIFY(std::abs(knee->found()->output_dbm - to_dbm(Watt{30.0}).value) < 1.6);
    QVERIFY(std::abs(knee->found()->drive_dbm - knee->found()->each_tone_dbm - 6.02) < 0.01);
    QVERIFY(knee->text().contains("6.02 dB lower"));
    // Both with their uncertainty: the sampler's scale, and between which drives it lies.
    QCOMPARE(knee->text().count(QString::fromUtf8("±")), 2);
    const auto steps = window.test().steps.size();
    QTest::mouseClick(knee->use_button(), Qt::LeftButton);
    QCOMPARE(window.test().steps.size(), steps + 1);
    QVERIFY(window.test().steps.back().label.find(" W") != std::string::npos);
    QCOMPARE(window.taken(), 0);
  }

  void what_an_ended_run_still_says_is_not_about_the_next() {
    LiveWindow window;
    window.w().live_instruments()->set_time_factor(100.0);
    window.w().live_instruments()->use_simulation(true);
    window.live().start();
    QTRY_VERIFY_WITH_TIMEOUT(window.live().taken() >= 1, 20000);
    // Its last words are on their way while the next one begins.
    QThread::msleep(300);
    window.live().end();
    window.w().sheet()->find_full_output();
    QVERIFY(window.live().is_running());
    QCoreApplication::processEvents();
    QVERIFY(window.live().is_running());
    QVERIFY(!window.w().messages()->text().contains("Stopped after"));
    QTRY_VERIFY_WITH_TIMEOUT(!window.live().is_running(), 30000);
    QVERIFY(window.w().sheet()->knee()->found().has_value());
    QTRY_VERIFY_WITH_TIMEOUT(!window.w().sheet()->is_busy(), 20000);
    // What the first had taken is kept, each on its own step.
    const int kept = window.taken();
    QVERIFY(kept >= 1);
    for (int i = 0; i < kept; ++i) QVERIFY(window.test().analyses[static_cast<std::size_t>(i)]);
  }

  void an_instrument_is_connected_tested_and_watched() {
    LiveWindow window;
    sim::SimServer server(sim::SimConfig{});
    window.w().show_bench();
    QTest::mouseClick(window.w().bench_view()->instruments()->row(Role::power_meter),
                      Qt::LeftButton);
    InstrumentPanel* panel = window.w().instrument_panel();
    QVERIFY(panel->isVisible());
    QCOMPARE(panel->role(), Role::power_meter);
    type_into(panel->address(), "not an address:x");
    QVERIFY(window.w().messages()->isVisible());
    type_into(panel->address(), QString::fromStdString(server.address("power_meter")));
    QTRY_VERIFY_WITH_TIMEOUT(window.w().live_instruments()->answers(Role::power_meter), 10000);
    QVERIFY2(panel->state_words().contains("simulated power_meter"),
             qPrintable(panel->state_words()));
    type_into(panel->line(), "READ?");
    QTRY_VERIFY_WITH_TIMEOUT(panel->traffic().contains("-60.00"), 10000);
    type_into(panel->line(), "NO:SUCH 3");
    QTRY_VERIFY_WITH_TIMEOUT(panel->traffic().contains("-113"), 10000);
    // It is kept with the shack, and found again.
    QCOMPARE(known_instruments(window.w().session().shack()).size(), std::size_t{1});
    window.reopen();
    QVERIFY(window.w().live_instruments()->find(Role::power_meter) != nullptr);
    // By itself, and it says who answers.
    QTRY_VERIFY_WITH_TIMEOUT(window.w().live_instruments()->answers(Role::power_meter), 10000);
    QTRY_VERIFY2(window.w().messages()->text().contains("Answering: Power meter"),
                 qPrintable(window.w().messages()->text()));
    server.pull("power_meter");
    window.w().live_instruments()->test(Role::power_meter);
    QTRY_VERIFY_WITH_TIMEOUT(
        window.w().live_instruments()->find(Role::power_meter)->state == LinkState::failed, 15000);
    window.w().live_instruments()->forget(Role::power_meter);
    QVERIFY(known_instruments(window.w().session().shack()).empty());
  }

  void who_does_not_answer_at_the_start_is_only_shown() {
    LiveWindow window;
    {
      sim::SimServer server(sim::SimConfig{});
      window.w().live_instruments()->connect_to(
          Role::counter, "Counter", QString::fromStdString(server.address("counter")), {});
      QTRY_VERIFY_WITH_TIMEOUT(window.w().live_instruments()->answers(Role::counter), 10000);
    }
    window.reopen();
    QTRY_VERIFY_WITH_TIMEOUT(
        window.w().messages()->text().contains("No instrument answers: Counter"), 15000);
    QVERIFY(window.w().live_instruments()->find(Role::counter)->state == LinkState::failed);
  }

  void instruments_on_this_computer_are_found_and_connected() {
    LiveWindow window;
    sim::SimServer server(sim::SimConfig{});
    window.w().show_bench();
    QTest::mouseClick(window.w().bench_view()->instruments()->row(Role::counter), Qt::LeftButton);
    InstrumentPanel* panel = window.w().instrument_panel();
    // Nobody is at the first.
    panel->set_places({"127.0.0.1:1", server.address("power_meter"), server.address("counter")});
    QTest::mouseClick(panel->look_button(), Qt::LeftButton);
    QCOMPARE(panel->look_button()->text(), QString("Stop looking"));
    QTRY_COMPARE_WITH_TIMEOUT(panel->found()->actions().size(), 2, 15000);
    QCOMPARE(panel->look_button()->text(), QString("Look for it"));
    QVERIFY(panel->found()->actions().at(1)->text().contains("simulated counter"));
    panel->found()->actions().at(1)->trigger();
    panel->found()->close();
    QTRY_VERIFY_WITH_TIMEOUT(window.w().live_instruments()->answers(Role::counter), 10000);
    QVERIFY(!server.bench().is_keyed());
    // Nothing there says what to do.
    panel->set_places({"127.0.0.1:1"});
    panel->look();
    QTRY_VERIFY_WITH_TIMEOUT(window.w().messages()->text().contains("says who it is"), 15000);
  }

  void a_profile_with_a_missing_command_is_refused_with_its_name() {
    LiveWindow window;
    QTemporaryDir folder;
    QFile file(folder.filePath("p.json"));
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(R"({"format":"even-heron-profile","version":1,"name":"mine",)"
               R"("roles":{"counter":{"commands":{}}}})");
    file.close();
    QSignalSpy failed(window.w().instrument_panel(), &InstrumentPanel::failed);
    window.w().instrument_panel()->take_profile(file.fileName());
    QCOMPARE(failed.size(), 1);
    QVERIFY(failed[0][0].toString().contains("read"));
  }

  void steps_without_an_output_are_not_guessed() {
    LiveWindow window;
    window.w().live_instruments()->use_simulation(true);
    StepEdits(window.w().session()).set_step_label(2, "somewhat louder");
    QVERIFY(window.live().obstacle().what.contains("somewhat louder"));
    QVERIFY(!window.w().sheet()->primary()->text().contains("Measure all steps"));
  }

  void a_test_signal_is_written_with_the_reason_for_its_path() {
    LiveWindow window;
    QTemporaryDir folder;
    const QString path = folder.filePath("pair.wav");
    window.w().files()->write_signal(StimulusKind::two_tone, path);
    QTRY_VERIFY_WITH_TIMEOUT(window.w().messages()->text().contains("Saved"), 20000);
    QVERIFY(window.w().messages()->text().contains("voice memory"));
    QVERIFY(QFileInfo(path).size() > 60 * 48000 * 3);
    window.w().files()->write_signal(StimulusKind::tone, "/nowhere/tone.wav");
    QTRY_VERIFY_WITH_TIMEOUT(window.w().messages()->text().contains("nowhere"), 20000);
  }
};

HERON_WINDOW_TEST(LiveTest)

}  // namespace live_test

#include "live_test.moc"
