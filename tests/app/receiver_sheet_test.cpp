// A receiver's sensitivity on the sheet that all methods share: typed into the grid, and heard in
// recordings.
#include <random>

#include "app/export/card_pdf.h"
#include "app/live/live_card.h"
#include "app/live/live_instruments.h"
#include "app/live/live_ladder.h"
#include "app/live/live_plan.h"
#include "app/plot/plot_view.h"
#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "app/sheet/hookup_strip.h"
#include "app/shell/message_bar.h"
#include "app/table/figure_table.h"
#include "app/table/typed_grid.h"
#include "app/theme/qt_text.h"
#include "app/widget/text_card.h"
#include "core/method/place_name.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "core/signal/write_wav.h"
#include "simbench/receiver.h"
#include "simbench/sim_server.h"
#include "tests/app/open_window.h"

using namespace heron;
using namespace heron::testing;

namespace {

struct ReceiverWindow : OpenWindow {
  QTemporaryDir files;
  std::string key;
  explicit ReceiverWindow(const char* method = "sensitivity") : key(method) {
    window->show_evaluation(made.evaluation_id);
    TestEdits(window->session()).add_test(method, "Receiver", "SSB");
    window->session().settle();
  }
  MethodSheet& sheet() { return *window->sheet(); }
  const GeneralTest& shown() {
    window->session().settle();
    return *window->session().general();
  }
  PlotAxis right_axis() { return shown().result.plots.front().panels.front().y_right.value(); }
  std::pair<double, double> left_range() {
    return shown().result.plots.front().panels.front().y.range.value();
  }
  void set(const char* name, const nlohmann::json& value) {
    nlohmann::json settings = window->session().settings();
    settings[key][name] = value;
    TestEdits(window->session()).set_settings("a setting", settings);
    window->session().settle();
  }
  /// A cell of the grid, as somebody types it.
  void type(int row, const char* head, const QString& text) {
    const auto& fields = shown().method->fields;
    const auto field = std::find_if(fields.begin(), fields.end(),
                                    [&](const TypedField& f) { return f.head == head; });
    QVERIFY(field != fields.end());
    const auto column = static_cast<int>(field - fields.begin()) + 1;
    QVERIFY(
        sheet().evidence()->setData(sheet().evidence()->index(row, column), text, Qt::EditRole));
    window->session().settle();
  }
  QString recording(const char* name, double noise, double tone) {
    constexpr double kRate = 8000.0;
    std::vector<float> x(static_cast<std::size_t>(6.0 * kRate));
    std::mt19937_64 random(tone > 0.0 ? 2 : 1);
    NormalNumbers<double> normal(0.0, noise);
    for (std::size_t i = 0; i < x.size(); ++i)
      x[i] = static_cast<float>(normal(random) + tone * std::sin(2.0 * 3.14159265358979 * 880.0 *
                                                                 static_cast<double>(i) / kRate));
    const QString path = files.filePath(name);
    write_wav(memory_capture(std::move(x), kRate), path.toStdString());
    return path;
  }
};

}  // namespace

class ReceiverSheetTest : public QObject {
  Q_OBJECT

 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-receiver-test")); }

  void bands_are_planned_typed_and_judged() {
    ReceiverWindow w;
    QCOMPARE(w.sheet().primary()->text(), QString("Plan the steps"));
    w.sheet().plan_steps();
    QCOMPARE(w.shown().steps.size(), 9U);
    QVERIFY(w.sheet().plot()->plot().empty_words.find("same volume") != std::string::npos);
    w.set("level_in", "uv_emf");
    w.set("bandwidth_hz", 2400.0);
    Limit limit{"own", Sense::at_most, -113.0, "dBm", "", 20.0};
    TestEdits(w.window->session()).set_limit(limit);
    // A bare number is what stands on the dial.
    w.type(4, "Level", "1");
    w.type(4, "Noise only", "48.2 50.1 46.9 51.3 48.8");
    w.type(4, "Tone and noise", "126 129 125 128 127 mV");
    const Result& r = w.shown().result;
    QCOMPARE(r.answers.size(), 1U);
    QVERIFY2(std::abs(r.answers.front().figure.value + 111.0) < 0.06,
             qPrintable(QString::number(r.answers.front().figure.value)));
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::fail);
    QVERIFY(r.answers.front().label.starts_with("0.63 \u00b5V PD"));
    // The lowest and highest do as well, and nothing is deaf.
    w.type(4, "Noise only", "46.9 to 51.3");
    QVERIFY(std::abs(w.shown().result.answers.front().figure.value + 111.0) < 0.2);
    w.type(6, "Level", "1 mV emf");
    w.type(6, "Tone and noise", "nothing");
    QCOMPARE(w.shown().result.answers.size(), 2U);
    QVERIFY(w.shown().result.answers.front().where == "14.2 MHz");  // the weakest that hears
    // What is none is refused and says what works; what was typed before stays.
    QString what;
    connect(&w.sheet(), &Sheet::failed, this, [&](const QString& a, const QString&) { what = a; });
    const int column = 3;
    w.sheet().evidence()->setData(w.sheet().evidence()->index(4, column), "loud", Qt::EditRole);
    w.window->session().settle();
    QCOMPARE(w.shown().result.answers.size(), 2U);
    // An unknown impedance widens what is said.
    const double sure = w.shown().result.answers.front().figure.expanded();
    w.set("impedance", "unknown");
    QVERIFY(w.shown().result.answers.front().figure.expanded() > sure + 2.0);
    w.set("impedance", "high");
    QVERIFY(std::abs(w.shown().result.answers.front().figure.value + 105.0) < 0.3);
  }

  void an_indicator_is_typed_by_band_and_reading() {
    ReceiverWindow w("indicator");
    QVERIFY(w.sheet().plot()->plot().empty_words.find("from below") != std::string::npos);
    w.sheet().plan_steps();
    QCOMPARE(w.shown().steps.size(), 7U);
    const char* levels[] = {"-110.5", "-103.8", "-96.2", "-87.6", "-78.4", "-59.8", "-38.6"};
    for (int i = 0; i < 7; ++i) w.type(i, "Level", levels[i]);
    Limit limit{"own", Sense::within, 3.0, "dB", "", 10.0};
    TestEdits(w.window->session()).set_limit(limit);
    const Result& r = w.shown().result;
    QCOMPARE(r.items.size(), 1U);
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::fail);
    QVERIFY(std::abs(r.answers.front().shown->value + 78.4) < 1e-9);
    QVERIFY2(r.answers.front().sentence.starts_with("Stingy up to S5: shows too little; generous"),
             r.answers.front().sentence.c_str());
    QCOMPARE(r.tables.front().rows.size(), 7U);
    QVERIFY(std::any_of(r.remarks.begin(), r.remarks.end(),
                        [](const Remark& m) { return m.code == "s9_trimmer"; }));
    // The handbook's school beside it, then in its place.
    w.set("handbook_dbm", -79.0);
    QCOMPARE(w.shown().result.figure_cards.front().judgement->verdict, Verdict::pass);
    w.set("school", "handbook");
    QCOMPARE(w.shown().result.answers.front().judgement->verdict, Verdict::pass);
    QCOMPARE(w.shown().result.figure_cards.front().judgement->verdict, Verdict::fail);
    // A second band needs more for S9: gain, never sensitivity.
    StepEdits(w.window->session()).add_step("28 MHz, S9");
    StepEdits(w.window->session()).add_step("28 MHz, S9+20");
    w.type(7, "Level", "-73");
    w.type(8, "Level", "-53");
    QCOMPARE(w.shown().result.items.size(), 2U);
    QVERIFY(std::any_of(w.shown().result.remarks.begin(), w.shown().result.remarks.end(),
                        [](const Remark& m) { return m.code == "front_end"; }));
    // What says no reading is left out, and says so.
    StepEdits(w.window->session()).add_step("28 MHz, loud");
    w.type(9, "Level", "-43");
    QVERIFY(std::any_of(w.shown().result.remarks.begin(), w.shown().result.remarks.end(),
                        [](const Remark& m) { return m.code == "row"; }));
  }

  void segments_have_levels_and_no_scale() {
    ReceiverWindow w("indicator");
    for (const char* step : {"7.1 MHz, 1", "7.1 MHz, 2", "7.1 MHz, 3"})
      StepEdits(w.window->session()).add_step(step);
    const char* lights[] = {"-105", "-98", "-90"};
    const char* out[] = {"-107", "-101", "-92"};
    for (int i = 0; i < 3; ++i) {
      w.type(i, "Level", lights[i]);
      w.type(i, "Goes out at", out[i]);
    }
    w.set("dark_segments", 1.0);
    const Result& r = w.shown().result;
    QCOMPARE(r.tables.front().title, std::string("Segments"));
    QCOMPARE(r.tables.front().rows[1].cells[3].text, std::string("3.0"));
    QVERIFY(r.tables.front().rows[0].cells[5].text.starts_with("lit without signal"));
    QVERIFY(r.answers.empty());
    QVERIFY(w.sheet().plot()->plot().has_points());
  }

  void conversion_gain_shows_its_arithmetic_and_proves_no_compression() {
    ReceiverWindow w("conversion");
    for (const char* step : {"7.1 MHz", "14.2 MHz", "21.2 MHz"})
      StepEdits(w.window->session()).add_step(step);
    const char* out[] = {"-14.0 dBm", "-13.7 dBm", "-21.3 dBm"};
    for (int i = 0; i < 3; ++i) {
      w.type(i, "Input", "1 mV emf");
      w.type(i, "At the IF", out[i]);
    }
    QVERIFY(std::any_of(w.shown().result.remarks.begin(), w.shown().result.remarks.end(),
                        [](const Remark& m) { return m.code == "not_repeated"; }));
    TestEdits(w.window->session()).set_limit(Limit{"own", Sense::at_least, 34.0, "dB", "", 20.0});
    const Result& r = w.shown().result;
    QVERIFY(r.answers.front().where == "21.2 MHz");
    QVERIFY2(std::abs(r.answers.front().figure.value - 31.7) < 0.05,
             qPrintable(QString::number(r.answers.front().figure.value)));
    QVERIFY(r.answers.front().label.find("\u221253.0 dBm in") != std::string::npos);
    QVERIFY(std::any_of(r.remarks.begin(), r.remarks.end(),
                        [](const Remark& m) { return m.code == "front_end"; }));
    // A 10:1 probe takes 20 dB off.
    w.set("probe", 10.0);
    QVERIFY(std::abs(w.shown().result.answers.front().figure.value - 51.7) < 0.05);
    w.type(1, "Input, lower", "-63 dBm");
    w.type(1, "IF, lower", "-21.7 dBm");
    QVERIFY(std::any_of(w.shown().result.remarks.begin(), w.shown().result.remarks.end(),
                        [](const Remark& m) { return m.code == "compressed"; }));
    w.type(1, "IF, lower", "-23.7 dBm");
    QVERIFY(std::none_of(w.shown().result.remarks.begin(), w.shown().result.remarks.end(),
                         [](const Remark& m) { return m.code == "compressed"; }));
  }

  /// Generator and voltmeter of the simulated bench, nobody at the dial.
  void a_receiver_is_heard_live_on_all_bands() {
    ReceiverWindow w;
    LiveInstruments& bench = *w.window->live_instruments();
    bench.use_simulation(true);
    bench.set_time_factor(400.0);
    for (const char* step : {"7.1 MHz", "14.2 MHz", "24.94 MHz"})
      StepEdits(w.window->session()).add_step(step);
    w.set("bandwidth_hz", 2400.0);
    TestEdits(w.window->session()).set_limit(Limit{"own", Sense::at_most, -113.0, "dBm", "", 20.0});
    w.window->session().settle();
    QTRY_COMPARE(w.sheet().primary()->text(), QString("Measure all steps"));
    QSignalSpy told(&w.sheet(), &Sheet::failed);
    w.sheet().primary()->click();
    LiveLadder& run = *w.window->live_ladder();
    QTRY_VERIFY_WITH_TIMEOUT(run.is_running(), 5000);
    QTRY_VERIFY_WITH_TIMEOUT(!run.is_running(), 120000);
    QVERIFY2(told.isEmpty(), qPrintable(told.isEmpty() ? "" : told.front().front().toString()));
    QCOMPARE(bench.rf(), std::optional(RfState::confirmed_off));
    const Result& r = w.shown().result;
    QCOMPARE(r.answers.size(), 3U);
    QCOMPARE(r.answers.front().where, std::string("24.94 MHz"));
    const sim::ReceiverDesign truth;
    for (const StepFigure& f : r.step_figures) {
      if (f.figure.id != "noise_figure") continue;
      const double hz = *named_frequency_hz(f.step);
      for (const auto& band : truth.bands)
        if (hz > band.low_hz && hz < band.high_hz)
          QVERIFY2(
              std::abs(f.figure.value - band.noise_figure_db) < 1.5 * f.figure.expanded() + 0.5,
              qPrintable(QString::number(f.figure.value)));
    }
    // Every reading is kept as it was read, and can be typed over.
    const Reading* on = find_reading(w.shown().evidence.steps[0].readings, "audio_on");
    QVERIFY(on != nullptr && on->source == ReadingSource::live);
    QCOMPARE(QString::fromStdString(on->typed).count(' '), 6);
    QVERIFY(on->typed.ends_with("mV"));
    // Nothing is left to do: the button signs.
    QCOMPARE(w.sheet().primary()->text(), QString("Sign off this test"));
    w.window->session().undo_stack().undo();
    QCOMPARE(w.shown().result.answers.size(), 2U);
    QCOMPARE(w.sheet().primary()->text(), QString("Measure this step"));
  }

  void an_indicator_is_read_on_the_simulated_bench() {
    ReceiverWindow w("indicator");
    LiveInstruments& bench = *w.window->live_instruments();
    bench.use_simulation(true);
    bench.set_time_factor(400.0);
    w.sheet().plan_steps();
    w.shown();
    QTRY_COMPARE(w.sheet().primary()->text(), QString("Measure all steps"));
    QVERIFY(w.sheet().head()->consequence()->text().contains("rising from below"));
    QSignalSpy failed(&w.sheet(), &Sheet::failed);
    w.sheet().primary()->click();
    LiveLadder& run = *w.window->live_ladder();
    QTRY_VERIFY_WITH_TIMEOUT(run.is_running(), 5000);
    QTRY_VERIFY_WITH_TIMEOUT(!run.is_running(), 120000);
    QVERIFY2(failed.isEmpty(), qPrintable(failed.isEmpty() ? "" : failed[0][0].toString()));
    QCOMPARE(bench.rf(), std::optional(RfState::confirmed_off));
    const Result& r = w.shown().result;
    QCOMPARE(r.tables.front().rows.size(), 7U);
    // Where the simulated one shows S9, at 14.2 MHz in the middle of its band.
    sim::Receiver truth{sim::ReceiverDesign{}};
    truth.tune(14.2e6 - 1000.0);
    const double s9 = r.answers.front().shown->value;
    QVERIFY2(std::abs(truth.indicated(sim::Receiver::Signal{14.2e6, s9}) - 9.0) < 0.2,
             qPrintable(QString::number(s9)));
    QCOMPARE(w.sheet().primary()->text(), QString("Sign off this test"));
  }

  /// Instruments behind real ports: the level is moved by keys, and by the buttons.
  void somebody_moves_the_level_until_it_shows_that() {
    sim::SimConfig config;
    config.receiver = sim::ReceiverDesign{};
    sim::SimServer server(config);
    ReceiverWindow w("indicator");
    LiveInstruments& bench = *w.window->live_instruments();
    bench.connect_to(Role::generator, "Generator",
                     QString::fromStdString(server.address("generator")));
    for (const char* step : {"14.2 MHz, S5", "14.2 MHz, S9, attenuator 20 dB"})
      StepEdits(w.window->session()).add_step(step);
    w.shown();
    QTRY_COMPARE_WITH_TIMEOUT(w.sheet().primary()->text(), QString("Measure all steps"), 10000);
    w.sheet().primary()->click();
    LiveLadder& run = *w.window->live_ladder();
    LiveCard& card = *w.sheet().live_card();
    const auto is_at = [&run](RunState::Kind kind) { return run.state().kind == kind; };
    QTRY_VERIFY_WITH_TIMEOUT(is_at(RunState::Kind::switching), 20000);
    QCOMPARE(card.words(), QString("RF is off. Dial to 14.199 MHz USB, or 14.201 MHz LSB"));
    card.pause_button()->click();
    QTRY_VERIFY_WITH_TIMEOUT(is_at(RunState::Kind::moving), 20000);
    // From a unit below S5 on: -73 - 24 - 6 dBm.
    QCOMPARE(run.state().level_dbm, -103.0);
    QVERIFY(card.words() == "Now \u2212103.0 dBm: move it until the receiver shows S5");
    QVERIFY(server.bench().is_keyed());
    QTest::keyClick(&card, Qt::Key_Up);
    QTRY_COMPARE_WITH_TIMEOUT(run.state().level_dbm, -102.0, 10000);
    QTest::keyClick(&card, Qt::Key_Down, Qt::ShiftModifier);
    QTRY_COMPARE_WITH_TIMEOUT(run.state().level_dbm, -102.1, 10000);
    QTest::keyClick(&card, Qt::Key_Return);
    QTRY_VERIFY_WITH_TIMEOUT(is_at(RunState::Kind::switching), 20000);
    QVERIFY(!server.bench().is_keyed());
    QCOMPARE(w.shown().evidence.steps[0].readings.front().value, -102.1);
    // The attenuator is another hand.
    QVERIFY(card.words().endsWith("; switch in 20 dB"));
    card.pause_button()->click();
    QTRY_VERIFY_WITH_TIMEOUT(is_at(RunState::Kind::moving), 20000);
    QCOMPARE(run.state().level_dbm, -59.0);
    card.stop_button()->click();
    QTRY_VERIFY_WITH_TIMEOUT(!run.is_running(), 20000);
    QVERIFY(!server.bench().is_keyed());
    QVERIFY(w.shown().evidence.steps[1].readings.empty());
  }

  void on_a_real_bench_somebody_is_asked_to_tune() {
    ReceiverWindow w;
    for (const char* step : {"14.2 MHz", "somewhere"})
      StepEdits(w.window->session()).add_step(step);
    w.shown();
    const LoadedTest& test = w.window->session().loaded();
    QVERIFY(roles_needed(test) == (std::vector<Role>{Role::generator, Role::voltmeter}));
    const LivePlan plan = live_plan(test, {0});
    QVERIFY2(plan.refusal.what.isEmpty(), qPrintable(plan.refusal.what));
    QCOMPARE(plan.run.steps.front().prompt,
             std::string("Dial to 14.199 MHz USB, or 14.201 MHz LSB"));
    // Where the dial moves by itself nobody is asked.
    QVERIFY(live_plan(test, {0}, false).run.steps.front().prompt.empty());
    // A place that nobody knows is not heard.
    QVERIFY(live_plan(test, {1}).refusal.what.contains("somewhere"));
    w.set("mode", "am");
    w.set("depth", 80.0);
    const LivePlan am = live_plan(w.window->session().loaded(), {0});
    QCOMPARE(am.run.steps.front().prompt, std::string("Dial to 14.2 MHz, AM"));
    QVERIFY(am.run.steps.front().listen->am == std::pair(80.0, 1000.0));
    w.set("mode", "fm");
    QVERIFY(live_plan(w.window->session().loaded(), {0}).refusal.what.contains("quiets the noise"));
  }

  void its_strip_ends_at_the_receiver_and_a_card_is_saved() {
    ReceiverWindow w("indicator");
    w.sheet().plan_steps();
    const char* levels[] = {"-110.5", "-103.8", "-96.2", "-87.6", "-78.4", "-59.8", "-38.6"};
    for (int i = 0; i < 7; ++i) w.type(i, "Level", levels[i]);
    QVERIFY(w.sheet().strip()->accessibleName().contains("Generator"));
    const QString device = qt_text(devices(w.window->session().shack()).front().name);
    QVERIFY2(w.sheet().strip()->accessibleName().lastIndexOf(device) >
                 w.sheet().strip()->accessibleName().indexOf("Generator"),
             qPrintable(w.sheet().strip()->accessibleName()));
    const auto& card = w.shown().result.print_card;
    QVERIFY(card.has_value());
    const QString path = w.files.filePath("card.pdf");
    write_card_pdf(*card, device, "2026-05-02", path);
    QFile file(path);
    QVERIFY(file.open(QIODevice::ReadOnly));
    const QByteArray bytes = file.readAll();
    QVERIFY(bytes.startsWith("%PDF"));
    // 85 x 54 mm in points.
    QVERIFY2(bytes.contains("MediaBox [0 0 240.9") || bytes.contains("MediaBox [0 0 241"),
             qPrintable(QString::fromLatin1(bytes.mid(bytes.indexOf("MediaBox"), 40))));
    QImage drawn(482, 306, QImage::Format_RGB32);
    drawn.fill(Qt::white);
    QPainter p(&drawn);
    p.scale(2.0, 2.0);
    draw_print_card(p, QRectF(0, 0, 241, 153), *card, device, "2026-05-02");
    p.end();
    int dark = 0;
    for (int y = 0; y < drawn.height(); ++y)
      for (int x = 0; x < drawn.width(); ++x)
        if (qGray(drawn.pixel(x, y)) < 90) ++dark;
    QVERIFY(dark > 2000 && dark < 30000);
  }

  void a_cell_of_the_grid_opens_its_sheet() {
    ReceiverWindow w;
    const Id sensitivity = w.shown().test.id;
    for (const char* step : {"7.1 MHz", "14.2 MHz"}) StepEdits(w.window->session()).add_step(step);
    for (int row = 0; row < 2; ++row) {
      w.type(row, "Level", "-113 dBm");
      w.type(row, "Noise only", "50 51 49 mV");
      w.type(row, "Tone and noise", "158 157 159 mV");
    }
    TestEdits(w.window->session()).add_test("indicator", "Signal indicator", "");
    w.window->session().settle();
    const Id indicator = w.shown().test.id;
    TestEdits(w.window->session()).add_test("receiver", "Receiver grid", "");
    w.window->session().settle();
    auto* table = w.sheet().table();
    const auto press = [table, session = &w.window->session()](int row, int column) {
      table->setCurrentIndex(table->model()->index(row, column));
      table->setFocus();
      QTest::keyClick(table, Qt::Key_Return);
      session->settle();
    };
    const Id grid = w.shown().test.id;
    press(1, 1);
    QCOMPARE(w.shown().test.id, sensitivity);
    QCOMPARE(w.shown().result.items[static_cast<std::size_t>(w.sheet().chosen())].name,
             std::string("14.2 MHz"));
    // One that is still to be measured is added there, to be typed.
    w.window->show_evaluation(w.made.evaluation_id, grid);
    w.window->session().settle();
    QCOMPARE(table->model()->index(0, 2).data().toString(), QString("measure next"));
    press(0, 2);
    QCOMPARE(w.shown().test.id, indicator);
    QCOMPARE(w.shown().steps.size(), 1U);
    QVERIFY(w.shown().steps[0].label.starts_with("7.1 MHz"));
    // It is read there; then its figure opens the band and adds nothing.
    StepEdits(w.window->session()).add_step("7.1 MHz, S7");
    w.type(0, "Level", "-74 dBm");
    w.type(1, "Level", "-87 dBm");
    QVERIFY(w.shown().result.remarks.empty() || w.shown().result.remarks.front().code != "row");
    w.window->show_evaluation(w.made.evaluation_id, grid);
    w.window->session().settle();
    QVERIFY(table->model()->index(0, 2).data().toString().contains("74"));
    press(0, 2);
    QCOMPARE(w.shown().test.id, indicator);
    QCOMPARE(w.shown().steps.size(), 2U);
    QCOMPARE(w.shown().result.items[static_cast<std::size_t>(w.sheet().chosen())].name,
             std::string("7.1 MHz"));
    // M measures it there; without instruments it says what is missing.
    w.window->show_evaluation(w.made.evaluation_id, grid);
    w.window->session().settle();
    table->setCurrentIndex(table->model()->index(1, 1));
    table->setFocus();
    QTest::keyClick(table, Qt::Key_M);
    w.window->session().settle();
    QCOMPARE(w.shown().test.id, sensitivity);
    QTRY_VERIFY2(w.window->messages()->text().contains("No generator is connected"),
                 qPrintable(w.window->messages()->text()));
    // F2 asks what the bands share.
    w.window->show_evaluation(w.made.evaluation_id, grid);
    w.window->session().settle();
    table->setFocus();
    QTest::keyClick(table, Qt::Key_F2);
    TextCard* card = w.sheet().text_card();
    QVERIFY(card != nullptr && card->isVisible());
    card->set_text("7.1 MHz: X6, coil E");
    emit card->accepted();
    QCOMPARE(w.shown().evidence.settings["receiver"]["parts"].size(), 1U);
  }

  /// The same levels in another unit, chosen at the title of the axis.
  void the_right_axis_says_microvolts_or_noise_figure() {
    ReceiverWindow w;
    StepEdits(w.window->session()).add_step("14.2 MHz");
    w.type(0, "Level", "-113 dBm");
    w.type(0, "Noise only", "50 51 49 mV");
    w.type(0, "Tone and noise", "158 157 159 mV");
    QCOMPARE(w.right_axis().title, std::string("\u00b5V PD"));
    // 0 dBm is 223.6 mV in 50 ohm.
    QVERIFY(std::abs(w.right_axis().range->second /
                         (223606.8 * std::pow(10.0, w.left_range().second / 20.0)) -
                     1.0) < 1e-6);
    QVERIFY(w.right_axis().is_logarithmic);
    PlotView& plot = *w.sheet().plot();
    QSignalSpy asked(&plot, &PlotView::axis_asked);
    plot.resize(700, 320);
    plot.replot();
    const QRect area = plot.axisRect(0)->rect();
    QTimer::singleShot(0, [] {
      if (auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget())) {
        menu->actions().at(2)->trigger();
        menu->close();
      }
    });
    QTest::mouseClick(&plot, Qt::LeftButton, {}, QPoint(area.right() + 20, area.top() - 16));
    QCOMPARE(asked.count(), 1);
    const auto chosen = [session = &w.window->session()] {
      return session->settings()
          .value("sensitivity", nlohmann::json::object())
          .value("right_axis", std::string());
    };
    QTRY_COMPARE(chosen(), std::string("nf"));
    // Not without a bandwidth.
    QCOMPARE(w.right_axis().title, std::string("\u00b5V PD"));
    w.set("bandwidth_hz", 2400.0);
    QCOMPARE(w.right_axis().title, std::string("NF, dB"));
    QVERIFY(std::abs(w.right_axis().range->first -
                     (w.left_range().first + 174.0 - 33.802 - 9.542)) < 0.01);
    w.set("right_axis", "emf");
    QVERIFY(std::abs(w.right_axis().range->second /
                         (447213.6 * std::pow(10.0, w.left_range().second / 20.0)) -
                     1.0) < 1e-6);
  }

  void recordings_of_noise_and_tone_are_one_band() {
    ReceiverWindow w;
    w.sheet().add_recordings(
        {w.recording("14.2 MHz.wav", 0.05, 0.2), w.recording("14.2 MHz, noise.wav", 0.05, 0.0)});
    QTRY_VERIFY_WITH_TIMEOUT(!w.sheet().is_busy(), 30000);
    QCOMPARE(w.shown().steps.size(), 2U);
    QCOMPARE(w.shown().result.items.size(), 1U);
    // The level is typed: then it is a sensitivity.
    QVERIFY(w.shown().result.answers.empty());
    const int row = w.shown().steps[0].label == "14.2 MHz" ? 0 : 1;
    w.type(row, "Level", "-110 dBm");
    const Result& r = w.shown().result;
    QCOMPARE(r.answers.size(), 1U);
    const double sn = 10.0 * std::log10(0.02 / 0.0025);
    QVERIFY2(std::abs(r.answers.front().figure.value - (-110.0 + 9.54 - sn)) < 0.25,
             qPrintable(QString::number(r.answers.front().figure.value)));
  }
};

QTEST_MAIN(ReceiverSheetTest)
#include "receiver_sheet_test.moc"
