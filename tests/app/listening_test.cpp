// What runs by itself is listened to: nothing is keyed. On the simulated bench, with a synthesizer.
#include "app/live/live_card.h"
#include "app/plot/plot_view.h"
#include "app/shell/message_bar.h"
#include "core/method/phase_noise/noise_record.h"
#include "core/method/touch/touch_settings.h"
#include "store/taking.h"
#include "tests/app/live_window.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace listening_test {

namespace {

constexpr double kBeaconHz = 5760e6;

/// A test with these steps, through a pad of 20 dB; recordings as long as that.
struct ListeningWindow : OpenWindow {
  Id test_id = 0;
  ListeningWindow(const char* method, const std::vector<std::string>& steps, double length_s = 8.0,
                  double rate_hz = 48000.0) {
    window.reset();
    made.reopen();
    Shack& shack = *made.shack;
    set_simulation_seed(shack, 7);
    Test t;
    t.evaluation_id = made.evaluation_id;
    t.characteristic = method;
    t.title = "Listened to";
    Chain chain = pad_and_sampler(20.0);
    chain.parts[0].max_input_w = 1.0;
    chain.parts[1].max_input_dbm = 0.0;
    chain.parts[1].full_scale_dbm = -12.0;
    t.hookup_id = add_hookup(shack, "Hook-up A", chain);
    t.drive = Drive{2.2, false, kBeaconHz, 3600.0};
    t.drive->typed = "2.2 dBm";
    TakingSettings taking;
    taking.length_s = length_s;
    taking.rate_hz = rate_hz;
    t.settings = with_taking_settings(nlohmann::json::object(), taking);
    test_id = add_test(shack, t);
    for (const std::string& label : steps) add_step(shack, test_id, label);
    made.shack.reset();
    reopen();
    window->show_evaluation(made.evaluation_id, test_id);
    window->live_instruments()->set_time_factor(60.0);
    window->live_instruments()->use_simulation(true);
  }
  MainWindow& w() { return *window; }
  LiveLadder& live() { return *window->sheet()->live(); }
  const GeneralTest& shown() {
    window->session().settle();
    return *window->session().general();
  }
  void record() {
    const std::size_t before = taken();
    press(w(), window.get(), Qt::Key_Return, Qt::ControlModifier);
    QVERIFY(live().is_running());
    QTRY_VERIFY_WITH_TIMEOUT(!live().is_running(), 60000);
    QTRY_VERIFY_WITH_TIMEOUT(!w().sheet()->is_busy(), 60000);
    QCOMPARE(taken(), before + 1);
  }
  std::size_t taken() {
    std::size_t n = 0;
    for (const EvidenceStep& s : shown().evidence.steps) n += s.analysis ? 1U : 0U;
    return n;
  }
  const NoiseCurve& curve(std::size_t step) {
    return dynamic_cast<const NoiseRecord&>(*shown().evidence.steps[step].analysis).curve;
  }
};

}  // namespace

class ListeningTest : public QObject {
  Q_OBJECT

 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-listening-test")); }

  void before_and_after_are_recorded_without_a_key() {
    ListeningWindow w("phase_noise", {"before", "after", "floor"});
    QCOMPARE(w.w().sheet()->primary()->text(), QString("Record \u201cbefore\u201d"));
    w.record();  // one press: no transmitter is keyed
    QCOMPARE(w.w().sheet()->primary()->text(), QString("Record \u201cafter\u201d"));
    w.record();
    w.record();
    // The generator never heard a word.
    for (const std::string& line : w.w().live_instruments()->simulation()->heard("generator"))
      QVERIFY2(line.find("OUTP ON") == std::string::npos, line.c_str());
    // What comes out is the synthesizer's own law, at 2 kHz inside the loop and at 20 kHz.
    const sim::SynthesizerDesign built;
    const sim::Synthesizer before(sim::as_named(built, "before"));
    const sim::Synthesizer after(sim::as_named(built, "after"));
    for (const double hz : {2000.0, 10000.0}) {
      const auto a = curve_at(w.curve(0).points, hz);
      const auto b = curve_at(w.curve(1).points, hz);
      QVERIFY(a && b);
      QVERIFY2(std::abs(a->l_dbc_hz - db_from_power_ratio(before.noise(hz))) < 1.2,
               qPrintable(QString("%1 Hz: %2").arg(hz).arg(a->l_dbc_hz)));
      QVERIFY2(std::abs(b->l_dbc_hz - db_from_power_ratio(after.noise(hz))) < 1.2,
               qPrintable(QString("%1 Hz: %2").arg(hz).arg(b->l_dbc_hz)));
    }
    QVERIFY(std::abs(*w.curve(0).rf_hz - kBeaconHz) < 50.0);
    const auto line =
        std::find_if(w.curve(1).spurs.begin(), w.curve(1).spurs.end(),
                     [](const NoiseSpur& s) { return std::abs(s.offset_hz - 100) < 1; });
    QVERIFY(line != w.curve(1).spurs.end() && std::abs(line->level_dbc + 54.0) < 0.3);
    QVERIFY(w.shown().result.answers.front().sentence.find("etter by") != std::string::npos);
  }

  void a_span_is_swept_with_the_analyser_and_joined() {
    ListeningWindow w("phase_noise", {"after, 2 MHz span", "after, 200 kHz span"});
    w.record();
    w.record();
    const sim::Synthesizer built((sim::SynthesizerDesign()));
    QCOMPARE(w.shown().result.items.size() > 0, true);
    for (std::size_t step : {0U, 1U}) {
      double worst = 0.0;
      for (const CurvePoint& p : w.curve(step).points)
        worst =
            std::max(worst, std::abs(p.l_dbc_hz - db_from_power_ratio(built.noise(p.offset_hz))) -
                                3.0 * p.u_db);
      QVERIFY2(worst < 0.6, qPrintable(QString::number(worst)));
    }
    QVERIFY(w.curve(0).high_hz() > 8e5);
    QVERIFY(w.curve(1).low_hz() < 3e3);
  }

  void a_family_turns_the_charge_pump() {
    ListeningWindow w("noise_setting", {"0.5 mA", "4 mA"}, 4.0);
    w.record();
    w.record();
    const auto low = curve_at(w.curve(0).points, 9000.0);
    const auto high = curve_at(w.curve(1).points, 9000.0);
    // The narrow loop peaks where the wide one still holds its oscillator down.
    QVERIFY(low && high && low->l_dbc_hz > high->l_dbc_hz + 3.0);
  }

  void an_event_is_marked_while_it_is_recorded() {
    ListeningWindow w("touch", {"case open"}, 30.0, 12000.0);
    w.w().live_instruments()->set_time_factor(1.0);
    // It says what it is for.
    press(w.w(), w.window.get(), Qt::Key_F8, Qt::NoModifier);
    QVERIFY(w.w().messages()->text().contains("drag over the picture"));
    w.w().live_instruments()->set_time_factor(10.0);
    w.w().live_instruments()->simulation()->set_slow("sampler", 0.6);
    press(w.w(), w.window.get(), Qt::Key_Return, Qt::ControlModifier);
    QTRY_VERIFY_WITH_TIMEOUT(w.live().taking_s().has_value(), 20000);
    QVERIFY(w.w().sheet()->live_card()->isVisible());
    press(w.w(), w.window.get(), Qt::Key_F8, Qt::NoModifier);
    QTest::keyClick(w.w().sheet()->plot(), Qt::Key_1);
    QVERIFY2(w.w().messages()->text().startsWith("tap"), qPrintable(w.w().messages()->text()));
    QTRY_VERIFY_WITH_TIMEOUT(!w.live().is_running(), 60000);
    QTRY_VERIFY_WITH_TIMEOUT(!w.w().sheet()->is_busy(), 60000);
    // What was still open when it ended lasted until then.
    Evidence e = w.shown().evidence;
    const auto events = touch_plan(e).events;
    QCOMPARE(events.size(), 1U);
    QCOMPARE(events[0].words, std::string("tap"));
    QVERIFY(events[0].to_s > events[0].from_s);
    QCOMPARE(w.taken(), 1U);
    QVERIFY(w.shown().result.plots.front().panels.back().picture.has_value());
  }

  void esc_stops_and_nothing_is_kept() {
    ListeningWindow w("touch", {"case open"}, 30.0, 12000.0);
    w.w().live_instruments()->simulation()->set_slow("sampler", 1.0);
    press(w.w(), w.window.get(), Qt::Key_Return, Qt::ControlModifier);
    QVERIFY(w.live().is_running());
    press(w.w(), w.window.get(), Qt::Key_Escape, Qt::NoModifier);
    QTRY_VERIFY_WITH_TIMEOUT(!w.live().is_running(), 20000);
    QCOMPARE(w.taken(), 0U);
    QVERIFY(w.w().messages()->text().contains("nothing was kept"));
    QCOMPARE(w.w().sheet()->primary()->text(), QString("Record \u201ccase open\u201d"));
  }
};

HERON_WINDOW_TEST(ListeningTest)

}  // namespace listening_test

#include "listening_test.moc"
