#include <QUndoStack>
#include <SQLiteCpp/SQLiteCpp.h>
#include <csignal>
#include <sys/wait.h>
#include <unistd.h>

#include "app/live/log_keeper.h"
#include "app/session/log_import.h"
#include "app/session/test_edits.h"
#include "app/sheet/reminders.h"
#include "app/sheet/taking_card.h"
#include "app/shell/message_bar.h"
#include "app/widget/needle_view.h"
#include "core/method/live_quantity.h"
#include "report/document.h"
#include "report/gather.h"
#include "store/series.h"
#include "tests/app/live_window.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace log_test {

/// Logs of a counter in the window: from files, from the simulated bench, and after a power cut.
class LogTest : public QObject {
  Q_OBJECT

  struct DriftWindow : OpenWindow {
    Id test_id = 0;
    explicit DriftWindow(const nlohmann::json& settings = {{"nominal_hz", 10e6},
                                                           {"source_ppm", 0.1},
                                                           {"every_s", 20.0},
                                                           {"length_s", 5400.0}},
                         const char* method = "drift") {
      window.reset();
      made.reopen();
      Test t;
      t.evaluation_id = made.evaluation_id;
      t.characteristic = method;
      t.title = "Drift from cold";
      t.settings[method] = settings;
      t.limit = Limit{"maker", Sense::within, 0.5, "ppm", "", 0.5};
      test_id = add_test(*made.shack, t);
      made.shack.reset();
      reopen();
      window->show_evaluation(made.evaluation_id, test_id);
    }
    MethodSheet& sheet() { return *window->sheet(); }
    const GeneralTest& shown() {
      window->session().settle();
      return *window->session().general();
    }
    std::size_t logged() {
      std::size_t n = 0;
      for (const EvidenceStep& s : shown().evidence.steps)
        for (const SeriesPtr& log : s.series)
          if (log->quantity == kCountedFrequency) n += log->samples.size();
      return n;
    }
    void simulate(double factor) {
      window->live_instruments()->use_simulation(true);
      window->live_instruments()->set_time_factor(factor);
    }
  };

  static QString write(const QTemporaryDir& dir, const QString& name, const QByteArray& text) {
    QFile file(dir.filePath(name));
    if (!file.open(QIODevice::WriteOnly)) return {};
    file.write(text);
    return file.fileName();
  }

  static QByteArray warm_up_file(int readings) {
    QByteArray text = "time,frequency_hz,temperature_c\n";
    for (int i = 0; i < readings; ++i) {
      const double t = 20.0 * i;
      const double ppm = 0.2 + 1.5 * std::exp(-t / 500.0) + 0.01 * ((i * 7919) % 13 - 6) / 6.0;
      const QTime at = QTime(6, 0).addSecs(static_cast<int>(t));
      text += "2026-03-02T" + at.toString("hh:mm:ss").toUtf8() + "Z," +
              QByteArray::number(10e6 * (1.0 + 1e-6 * ppm), 'f', 4) + ",22.0\n";
    }
    return text;
  }

 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-log-test")); }

  void a_dropped_file_becomes_a_record_and_can_be_undone() {
    DriftWindow w;
    QTemporaryDir dir;
    QVERIFY(!w.sheet().plot()->plot().empty_words.empty());
    w.sheet().add_recordings({write(dir, "cold.csv", warm_up_file(270))});
    QTRY_VERIFY(!w.sheet().is_reading_logs());
    QCOMPARE(w.logged(), 270U);
    const Result& r = w.shown().result;
    QVERIFY(!r.answers.empty());
    QVERIFY(std::abs(r.answers.front().figure.value - 0.2) < 0.02);
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::pass);
    QVERIFY(w.sheet().plot()->plot().panels.front().find(PlotLayer::Kind::dots) != nullptr);
    // The rail knows it too.
    QVERIFY(w.window->session().course().back().headline.has_value());
    w.window->session().undo_stack().undo();
    QCOMPARE(w.logged(), 0U);
    QVERIFY(w.shown().result.answers.empty());
    w.window->session().undo_stack().redo();
    QCOMPARE(w.logged(), 270U);
  }

  /// A long one is written while the window goes on, is seen only when whole, and can be stopped.
  void a_long_log_is_written_in_pieces() {
    DriftWindow w;
    QTemporaryDir dir;
    const int readings = heron::testing::kFewDraws ? 50000 : 150000;
    QByteArray text = "time_s,frequency_hz\n";
    for (int i = 0; i < readings; ++i)
      text +=
          QByteArray::number(i) + "," + QByteArray::number(10e6 + 0.01 * (i % 7), 'f', 3) + "\n";
    const QString file = write(dir, "week.csv", text);
    LogImport& import = w.sheet().log_files();
    Session& session = w.window->session();
    const int before = session.undo_stack().count();
    std::vector<double> fractions;
    std::size_t seen_early = 0;
    connect(&import, &LogImport::progressed, this, [&](double fraction) {
      fractions.push_back(fraction);
      if (fraction < 1.0) seen_early += w.logged();
    });
    w.sheet().add_recordings({file});
    QTRY_VERIFY_WITH_TIMEOUT(!w.sheet().is_reading_logs(), 120000);
    QCOMPARE(w.logged(), static_cast<std::size_t>(readings));
    QCOMPARE(seen_early, 0U);
    QVERIFY(fractions.size() > 3 && fractions.back() == 1.0);
    QVERIFY(std::is_sorted(fractions.begin(), fractions.end()));
    QCOMPARE(session.undo_stack().count(), before + 1);
    // As it is on disk, too.
    Session again;
    again.open(QString::fromStdString(session.shack().folder().string()));
    again.show_evaluation(session.evaluation_id());
    again.show_test(w.test_id);
    again.settle();
    QCOMPARE(again.general()->evidence.steps.back().series.front()->samples.size(),
             static_cast<std::size_t>(readings));
    session.undo_stack().undo();
    QCOMPARE(w.logged(), 0U);
    // Stopped in the middle, by its button: nothing of it is left, nor is there anything to undo.
    const int undone = session.undo_stack().count();
    connect(&import, &LogImport::progressed, this, [&](double fraction) {
      // Esc stops it like its button.
      if (fraction > 0.5) QTest::keyClick(w.window.get(), Qt::Key_Escape);
    });
    QVERIFY(!w.sheet().taking()->isVisible());
    w.sheet().add_recordings({file});
    QVERIFY(w.sheet().taking()->isVisible());
    QTRY_VERIFY_WITH_TIMEOUT(!w.sheet().is_reading_logs(), 120000);
    QVERIFY(fractions.back() > 0.5 && fractions.back() < 1.0);
    QVERIFY(!w.sheet().taking()->isVisible());
    QCOMPARE(w.logged(), 0U);
    QCOMPARE(session.undo_stack().count(), undone);
    int kept = 0;
    session.shack().read(
        [&](SQLite::Database& db) { kept = db.execAndGet("SELECT COUNT(*) FROM series_sample"); });
    QCOMPARE(kept, readings);  // those of the first, which redo would bring back
  }

  void a_file_that_is_none_says_what_to_do() {
    DriftWindow w;
    QTemporaryDir dir;
    QString what;
    QString todo;
    connect(&w.sheet(), &Sheet::failed, this, [&](const QString& a, const QString& b) {
      what = a;
      todo = b;
    });
    w.sheet().add_recordings({write(dir, "prices.csv", "pears,plums\n1,2\n")});
    QTRY_VERIFY(!what.isEmpty());
    QVERIFY(todo.contains("frequency_hz"));
    QVERIFY(!w.sheet().is_reading_logs());
    QCOMPARE(w.logged(), 0U);
  }

  void events_are_noted_on_the_time_axis() {
    DriftWindow w;
    QTemporaryDir dir;
    w.sheet().add_recordings({write(dir, "cold.csv", warm_up_file(270))});
    QTRY_VERIFY(!w.sheet().is_reading_logs());
    answer_fields({"heater fitted", "2026-03-02T06:30:00Z"});
    QAction* other = nullptr;
    for (QMenu* menu : w.sheet().more()->menu()->findChildren<QMenu*>())
      for (QAction* a : menu->actions())
        if (a->text().startsWith("Other words")) other = a;
    QVERIFY(other != nullptr);
    other->trigger();
    QCOMPARE(w.shown().evidence.events.size(), 1U);
    const PlotLayer* moments =
        w.sheet().plot()->plot().panels.front().find(PlotLayer::Kind::moment);
    QVERIFY(moments != nullptr);
    QCOMPARE(moments->points.back().word, std::string("heater fitted"));
    QCOMPARE(moments->points.back().x, 30.0);  // min
    w.window->session().undo_stack().undo();
    QVERIFY(w.shown().evidence.events.empty());
  }

  void the_counter_is_logged_while_the_figures_follow() {
    DriftWindow w;
    w.simulate(1800.0);  // 90 min in three seconds
    QTRY_VERIFY(w.sheet().can_log());
    QCOMPARE(w.sheet().primary()->text(), QString("Start the log"));
    w.sheet().start_log();
    QVERIFY(w.sheet().log()->is_running());
    QVERIFY(w.sheet().log_card()->isVisible());
    QCOMPARE(w.sheet().primary()->text(), QString("Logging"));
    QTRY_VERIFY_WITH_TIMEOUT(w.logged() > 20, 20000);
    w.sheet().note_event("lid on");
    QTRY_VERIFY_WITH_TIMEOUT(!w.sheet().log()->is_running(), 60000);
    QVERIFY(!w.sheet().log_card()->isVisible());
    const GeneralTest& t = w.shown();
    // A busy machine misses some of the 271 times.
    QVERIFY2(w.logged() > 60, qPrintable(QString::number(w.logged())));
    QVERIFY(!t.result.answers.empty());
    // The simulated oscillator settles at 0.21 ppm.
    const Figure& f = t.result.answers.front().figure;
    QVERIFY2(std::abs(f.value - 0.21) < 3.0 * f.u() + 0.05, qPrintable(QString::number(f.value)));
    QCOMPARE(t.evidence.steps.size(), 1U);
    QCOMPARE(t.evidence.steps.front().series.size(), 2U);  // temperature beside it
    QCOMPARE(t.evidence.events.size(), 1U);
    // On again: a second log in the same place.
    w.sheet().start_log();
    const std::size_t before = w.logged();
    QTRY_VERIFY_WITH_TIMEOUT(w.logged() > before, 20000);
    w.sheet().log()->stop();
    QTRY_VERIFY(!w.sheet().log()->is_running());
    QCOMPARE(w.shown().evidence.steps.size(), 1U);
    // And on paper.
    const ReportDocument doc = gather_report(w.window->session().shack(), w.made.evaluation_id);
    const auto section =
        std::find_if(doc.sections.begin(), doc.sections.end(),
                     [](const ReportSection& s) { return s.title == "Drift from cold"; });
    QVERIFY(section != doc.sections.end());
    QVERIFY(!section->plots.empty());
    QVERIFY(section->answer.find("ppm") != std::string::npos);
  }

  void the_needle_follows_and_space_says_when_the_tool_is_on() {
    DriftWindow w({{"nominal_hz", 10e6}, {"source_ppm", 0.01}, {"every_s", 1.0}, {"length_s", 1e5}},
                  "adjust");
    w.simulate(20.0);
    QTRY_VERIFY(w.sheet().can_log());
    QVERIFY(!w.sheet().needle()->isVisible());
    w.sheet().start_log();
    QTRY_VERIFY_WITH_TIMEOUT(w.sheet().needle()->isVisible(), 20000);
    NeedleView& needle = *w.sheet().needle();
    QCOMPARE(needle.needle().state, Needle::State::hands_off);
    QVERIFY(!w.sheet().grid()->isVisible());
    // Cold, the simulated oscillator is 1.6 ppm high: 16 Hz.
    QTRY_VERIFY_WITH_TIMEOUT(needle.needle().value && *needle.needle().value > 8.0, 20000);
    QTRY_VERIFY_WITH_TIMEOUT(needle.needle().order.find("Down") == 0, 20000);
    needle.setFocus();
    QTest::keyClick(&needle, Qt::Key_Space);
    QTRY_VERIFY_WITH_TIMEOUT(needle.needle().state == Needle::State::tool_on, 20000);
    QTest::qWait(700);
    QTest::keyClick(&needle, Qt::Key_Space);
    QTRY_VERIFY_WITH_TIMEOUT(needle.needle().state == Needle::State::hands_off, 30000);
    QCOMPARE(w.shown().evidence.events.size(), 2U);
    QVERIFY(needle.accessibleName().startsWith("Hands off"));
    // Large, and back.
    QTest::keyClick(&needle, Qt::Key_F11);
    QVERIFY(needle.is_plain() && !w.sheet().right_column()->isVisible());
    QTest::keyClick(&needle, Qt::Key_F11);
    QVERIFY(!needle.is_plain() && w.sheet().right_column()->isVisible());
    // A needle without readings does not stand still.
    w.window->live_instruments()->simulation()->set_fault("counter", sim::Fault::over_range, 0,
                                                          1000);
    QTRY_VERIFY_WITH_TIMEOUT(needle.needle().state == Needle::State::no_reading, 20000);
    w.sheet().log()->stop();
    QTRY_VERIFY(!w.sheet().log()->is_running());
    // Nothing is noted while nothing is read.
    w.sheet().turn_hand();
    QCOMPARE(w.shown().evidence.events.size(), 2U);
    // What is typed stands beside it on wish.
    w.sheet().show_grid();
    QVERIFY(w.sheet().grid()->isVisible() && needle.isVisible());
  }

  void the_tone_of_a_receiver_is_logged_too() {
    DriftWindow w({{"way", "tone"},
                   {"nominal_hz", 10e6},
                   {"tone_hz", 1000.0},
                   {"source_ppm", 0.01},
                   {"every_s", 20.0},
                   {"length_s", 5400.0}});
    w.simulate(1200.0);
    QTRY_VERIFY(w.sheet().can_log());
    w.sheet().start_log();
    QTRY_VERIFY_WITH_TIMEOUT(!w.sheet().log()->is_running(), 90000);
    const GeneralTest& t = w.shown();
    QCOMPARE(t.evidence.steps.size(), 1U);
    QCOMPARE(t.evidence.steps.front().series.front()->quantity, std::string(kHeardTone));
    QCOMPARE(t.evidence.steps.front().series.front()->instrument,
             std::string("simulated receiver"));
    QVERIFY(!t.result.answers.empty());
    const Figure& f = t.result.answers.front().figure;
    // The simulated oscillator settles at 0.21 ppm: the tone 2.1 Hz below a kilohertz.
    QVERIFY2(std::abs(f.value - 0.21) < 3.0 * f.u() + 0.05, qPrintable(QString::number(f.value)));
  }

  void something_is_due_later() {
    DriftWindow w;
    w.sheet().reminders()->set_minute_ms(2);
    QAction* soon = nullptr;
    for (QMenu* menu : w.sheet().more()->menu()->findChildren<QMenu*>())
      for (QAction* a : menu->actions())
        if (a->text() == "in 30 min") soon = a;
    QVERIFY(soon != nullptr);
    soon->trigger();
    w.window->show_shack();
    QTRY_VERIFY(w.window->messages()->text().contains("Read again: Drift from cold"));
  }

  void an_attenuator_is_run_down_and_up_until_lock_is_lost() {
    DriftWindow w({{"nominal_hz", 10e6}, {"source_dbm", 3.3}, {"shared", true}}, "lock");
    w.simulate(60.0);
    QTRY_VERIFY(w.sheet().can_log());
    QCOMPARE(w.sheet().primary()->text(), QString("Start the run"));
    // Without an offset loss would not be seen.
    w.sheet().start_log();
    QVERIFY(!w.sheet().log()->is_running());
    nlohmann::json settings = w.window->session().settings();
    settings["lock"]["offset_hz"] = 12.0;
    TestEdits(w.window->session()).set_settings("offset", settings);
    w.sheet().start_log();
    QVERIFY(w.sheet().log()->is_running());
    QTRY_VERIFY_WITH_TIMEOUT(!w.sheet().log()->is_running(), 60000);
    const GeneralTest& t = w.shown();
    QCOMPARE(t.steps.size(), 33U);
    QCOMPARE(t.evidence.steps.front().readings.size(), 5U);
    // The simulated one holds down to -6 dBm and is disturbed within 1 dB of that: 8 of 9.3 dB.
    const Answer& a = t.result.answers.front();
    QVERIFY2(a.figure.value == 8.0 || a.figure.value == 9.0,
             qPrintable(QString::number(a.figure.value)));
    QCOMPARE(a.judgement->verdict, Verdict::incomplete);  // the offset is not restored yet
    const auto& remarks = t.result.remarks;
    QVERIFY(std::any_of(remarks.begin(), remarks.end(),
                        [](const Remark& r) { return r.code == "hysteresis"; }));
    // It stands as at first again.
    auto& bench = w.window->live_instruments()->simulation()->bench();
    QCOMPARE(QString::fromStdString(*bench.speak("step_attenuator", "INP:ATT?")), QString("0"));
    // Another run takes the place of this one; stopped, the attenuator comes back too.
    w.sheet().start_log();
    QTRY_VERIFY_WITH_TIMEOUT(*bench.speak("step_attenuator", "INP:ATT?") == "4", 30000);
    w.sheet().log()->stop();
    QTRY_VERIFY_WITH_TIMEOUT(!w.sheet().log()->is_running(), 20000);
    QCOMPARE(QString::fromStdString(*bench.speak("step_attenuator", "INP:ATT?")), QString("0"));
    QCOMPARE(w.shown().evidence.steps.front().readings.size(), 5U);
  }

  void states_are_typed_by_a_key_each() {
    DriftWindow w({{"source_dbm", 3.3}}, "lock");
    for (const char* label : {"0 dB, falling", "3 dB, falling", "6 dB, falling", "9 dB, falling"})
      add_step(w.window->session().shack(), w.test_id, label);
    w.window->session().reload();
    w.shown();
    w.sheet().choose(0);
    for (const Qt::Key key : {Qt::Key_H, Qt::Key_H, Qt::Key_D, Qt::Key_L}) {
      QTest::keyClick(&w.sheet(), key);
      w.shown();
    }
    const GeneralTest& t = w.shown();
    QCOMPARE(t.result.answers.front().figure.value, 3.0);
    QCOMPARE(t.evidence.steps[2].readings.front().typed, std::string("disturbed"));
    QCOMPARE(w.sheet().evidence()->index(3, 4).data().toString(), QString("lost"));
    w.window->session().undo_stack().undo();
    QVERIFY(w.shown().evidence.steps[3].readings.empty());
  }

  void a_signed_test_is_not_logged_into() {
    DriftWindow w;
    QTemporaryDir dir;
    w.sheet().add_recordings({write(dir, "cold.csv", warm_up_file(270))});
    QTRY_VERIFY(!w.sheet().is_reading_logs());
    sign_test(w.window->session().shack(), w.test_id, "O. Reed", "2026-03-02T08:00:00Z");
    w.window->session().reload();
    w.simulate(600.0);
    w.sheet().start_log();
    QVERIFY(!w.sheet().log()->is_running());
    w.sheet().add_recordings({write(dir, "again.csv", warm_up_file(10))});
    QTest::qWait(50);
    QCOMPARE(w.logged(), 270U);
  }

  void a_silent_counter_leaves_a_gap() {
    DriftWindow w(
        {{"nominal_hz", 10e6}, {"source_ppm", 0.1}, {"every_s", 20.0}, {"length_s", 2000.0}});
    w.simulate(1000.0);
    QTRY_VERIFY(w.sheet().can_log());
    w.window->live_instruments()->simulation()->set_fault("counter", sim::Fault::over_range, 20,
                                                          20);
    w.sheet().start_log();
    QTRY_VERIFY_WITH_TIMEOUT(!w.sheet().log()->is_running(), 60000);
    QVERIFY(w.logged() > 30);
    const auto& remarks = w.shown().result.remarks;
    QVERIFY(std::any_of(remarks.begin(), remarks.end(),
                        [](const Remark& r) { return r.code == "gap"; }));
  }

  /// A process of its own is killed in the middle of a log; the shack has all but the last reading.
  void a_power_cut_keeps_what_was_read() {
    DriftWindow w;
    const std::filesystem::path folder = w.made.path();
    const Id test = w.test_id;
    w.window.reset();
    int pipe_ends[2];
    QCOMPARE(pipe(pipe_ends), 0);
    const pid_t child = fork();
    if (child == 0) {
      // No windows here: what keeps a log is the store.
      const auto shack = Shack::open(folder);
      const Id step = add_step(*shack, test, "Log");
      Series log;
      log.quantity = kCountedFrequency;
      log.unit = "Hz";
      log.started_at = "2026-03-02T06:00:00Z";
      const Id id = add_series(*shack, step, log);
      for (int i = 0;; ++i) {
        append_samples(*shack, id, {{20.0 * i, 10e6 + 2.0}});
        const char one = 'x';
        if (::write(pipe_ends[1], &one, 1) != 1) _exit(1);
      }
    }
    constexpr int kRead = 50;
    for (int i = 0; i < kRead; ++i) {
      char one = 0;
      QCOMPARE(::read(pipe_ends[0], &one, 1), 1);
    }
    QCOMPARE(kill(child, SIGKILL), 0);
    int status = 0;
    QCOMPARE(waitpid(child, &status, 0), child);
    QVERIFY(WIFSIGNALED(status));
    close(pipe_ends[0]);
    close(pipe_ends[1]);
    w.reopen();
    w.window->show_evaluation(w.made.evaluation_id, test);
    QVERIFY2(w.logged() >= kRead, qPrintable(QString::number(w.logged())));
    // And goes on in the same place.
    w.simulate(1000.0);
    QTRY_VERIFY(w.sheet().can_log());
    w.sheet().start_log();
    const std::size_t before = w.logged();
    QTRY_VERIFY_WITH_TIMEOUT(w.logged() > before + 3, 20000);
    w.sheet().log()->stop();
    QTRY_VERIFY(!w.sheet().log()->is_running());
    QCOMPARE(w.shown().evidence.steps.size(), 1U);
  }

  void a_long_log_pans_smoothly() {
    DriftWindow w;
    Series log;
    log.quantity = kCountedFrequency;
    log.unit = "Hz";
    log.started_at = "2026-03-02T06:00:00Z";
    constexpr int kReadings = 200000;
    for (int i = 0; i < kReadings; ++i)
      log.samples.push_back({static_cast<double>(i), 10e6 + 2.0 + 0.001 * ((i * 7919) % 101)});
    Shack& shack = w.window->session().shack();
    add_series(shack, add_step(shack, w.test_id, "Log"), log);
    w.window->session().reload(w.test_id);
    QCOMPARE(w.logged(), static_cast<std::size_t>(kReadings));
    QTRY_VERIFY(w.sheet().plot()->plot().panels.front().find(PlotLayer::Kind::dots) != nullptr);
    PlotView& plot = *w.sheet().plot();
    QCPAxis* x = plot.axisRect(0)->axis(QCPAxis::atBottom);
    const QCPRange all = x->range();
    // It looks closer, and comes back.
    QTest::keyClick(&plot, Qt::Key_Plus);
    QVERIFY(x->range().size() < all.size());
    QTest::keyClick(&plot, Qt::Key_Home);
    QCOMPARE(x->range().upper, all.upper);
  }
};

HERON_WINDOW_TEST(LogTest)

}  // namespace log_test

#include "log_test.moc"
