// Phase noise on the sheet that all methods share: what is dropped, and what is typed.
#include <fstream>

#include "app/plot/plot_view.h"
#include "app/session/test_edits.h"
#include "app/shell/message_bar.h"
#include "app/table/figure_table.h"
#include "app/widget/fact_band.h"
#include "app/widget/push_button.h"
#include "app/widget/what_if_panel.h"
#include "core/method/method.h"
#include "core/method/phase_noise/loop_text.h"
#include "core/signal/write_wav.h"
#include "report/document.h"
#include "report/gather.h"
#include "tests/app/open_window.h"
#include "tests/core/made_noise.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace noise_sheet_test {

class NoiseSheetTest : public QObject {
  Q_OBJECT

  struct NoiseWindow : OpenWindow {
    QTemporaryDir files;
    explicit NoiseWindow(const char* method = "phase_noise") {
      window->show_evaluation(made.evaluation_id);
      TestEdits(window->session()).add_test(method, "Phase noise", "1440 MHz");
    }
    MethodSheet& sheet() { return *window->sheet(); }
    const GeneralTest& shown() {
      window->session().settle();
      return *window->session().general();
    }
    QString table(const char* name, double level) {
      const QString path = files.filePath(name);
      std::ofstream out(path.toStdString());
      out << "offset_hz,l_dbc_hz,u_db\n";
      for (int k = 20; k <= 120; ++k)
        out << std::pow(10.0, k / 20.0) << "," << level - k / 2.0 << ",0.1\n";
      return path;
    }
    /// What stands in the table below the plot.
    QString cell(int row, int column) {
      return sheet().table()->model()->index(row, column).data().toString();
    }
    void set(const char* method, const char* key, const nlohmann::json& value) {
      nlohmann::json settings = window->session().settings();
      settings[method][key] = value;
      TestEdits(window->session()).set_settings("a setting", settings);
      window->session().settle();
    }
    void drop(const QStringList& paths) {
      sheet().add_recordings(paths);
      QTRY_VERIFY_WITH_TIMEOUT(!sheet().is_busy(), 30000);
    }
  };

 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-noise-test")); }

  void tables_that_are_dropped_become_states() {
    NoiseWindow w;
    QVERIFY(w.sheet().plot()->plot().empty_words.find("before") != std::string::npos);
    w.drop({w.table("before.csv", -60.0), w.table("after.csv", -67.0)});
    const GeneralTest& t = w.shown();
    QCOMPARE(t.steps.size(), 2U);
    QCOMPARE(t.result.plots.front().panels.size(), 2U);
    QVERIFY(t.result.answers.front().sentence.starts_with("Better by 7 dB everywhere"));
    QVERIFY(w.sheet().plot()->isVisible());
    QVERIFY(w.window->session().course().back().headline.has_value());
    // On paper, too, with both panels.
    const ReportDocument doc = gather_report(w.window->session().shack(), w.made.evaluation_id);
    const auto section =
        std::find_if(doc.sections.begin(), doc.sections.end(),
                     [](const ReportSection& s) { return s.title == "Phase noise"; });
    QVERIFY(section != doc.sections.end() && !section->plots.empty());
    // What was dropped together goes together.
    w.window->session().undo_stack().undo();
    QCOMPARE(w.shown().steps.size(), 0U);
    w.window->session().undo_stack().redo();
    QCOMPARE(w.shown().steps.size(), 2U);
  }

  void a_recording_is_read_in_the_background() {
    NoiseWindow w;
    MadeNoise made;
    made.frames = 200000;
    made.white = -105.0;
    made.white_frequency = -90.0;
    made.lines = {{100.0, -50.0}};
    const QString path = w.files.filePath("after.wav");
    write_wav(made.open(), path.toStdString());
    w.drop({path});
    const GeneralTest& t = w.shown();
    QCOMPARE(t.steps.size(), 1U);
    QVERIFY(!t.result.answers.empty());
    QCOMPARE(t.result.tables[1].rows.size(), 1U);
    QVERIFY(t.result.tables[1].rows[0].cells[1].text.starts_with("mains"));
    // What is no carrier says so and changes nothing.
    QString what;
    connect(&w.sheet(), &Sheet::failed, this, [&](const QString& a, const QString&) { what = a; });
    std::ofstream(w.files.filePath("prices.csv").toStdString()) << "pears,plums\n1,2\n3,4\n";
    w.drop({w.files.filePath("prices.csv")});
    QTRY_VERIFY(!what.isEmpty() || !w.window->messages()->text().isEmpty());
    QCOMPARE(w.shown().steps.size(), 1U);
  }

  void curves_are_read_with_the_keyboard() {
    NoiseWindow w;
    w.drop({w.table("before.csv", -60.0), w.table("after.csv", -67.0)});
    PlotView& plot = *w.sheet().plot();
    QVERIFY(plot.cursor_words().isEmpty());
    plot.setFocus();
    QTest::keyClick(&plot, Qt::Key_End);
    QVERIFY2(plot.cursor_words().startsWith("1 MHz, before \u2212120.0, after \u2212127.0, "),
             qPrintable(plot.cursor_words()));
    // What changed stands behind them.
    QVERIFY(plot.cursor_words().endsWith("\u22127.0"));
    QTest::keyClick(&plot, Qt::Key_Left, Qt::ShiftModifier);
    QVERIFY(plot.cursor_words().startsWith("100 kHz,"));
    QTest::keyClick(&plot, Qt::Key_Right);
    QVERIFY2(plot.cursor_words().startsWith("112.2"), qPrintable(plot.cursor_words()));
    QTest::keyClick(&plot, Qt::Key_Left);
    QVERIFY(plot.cursor_words().startsWith("100 kHz,"));
    QCOMPARE(plot.accessibleDescription(), plot.cursor_words());
    // At the ends it stays.
    for (int i = 0; i < 9; ++i) QTest::keyClick(&plot, Qt::Key_Left, Qt::ShiftModifier);
    QVERIFY(plot.cursor_words().startsWith("10 Hz,"));
    QTest::keyClick(&plot, Qt::Key_Left);
    QVERIFY(plot.cursor_words().startsWith("10 Hz,"));
  }

  void a_calculated_sheet_has_facts_and_no_hook_up() {
    NoiseWindow w;
    w.drop({w.table("after.csv", -60.0)});
    TestEdits(w.window->session()).add_test("reciprocal", "Reciprocal mixing", "CW");
    QVERIFY(!w.sheet().strip()->isVisible());
    QVERIFY(!w.sheet().facts()->isVisible());  // nothing is known yet
    QCOMPARE(w.sheet().primary()->text(), QString("Say what it is for"));
    nlohmann::json settings = w.window->session().settings();
    settings["reciprocal"] = {{"interferer_dbm", -73.0}, {"mds_dbm", -142.0}};
    TestEdits(w.window->session()).set_settings("levels", settings);
    QVERIFY(!w.shown().result.answers.empty());
    QVERIFY(w.sheet().facts()->isVisible());
    QVERIFY(w.sheet().facts()->accessibleName().contains("Strong signal"));
    QVERIFY(w.sheet().plot()->plot().has_points());
    // Back where something is hooked up the strip is there again.
    const auto course = w.window->session().course();
    w.window->show_evaluation(w.made.evaluation_id, course.front().id);
    w.window->session().settle();
    QVERIFY(w.sheet().strip()->isVisible() && !w.sheet().facts()->isVisible());
  }

  void a_family_is_dropped_by_its_settings() {
    NoiseWindow w("noise_setting");
    w.drop({w.table("0.5 mA.csv", -60.0), w.table("1 mA.csv", -62.0), w.table("2 mA.csv", -66.0)});
    const GeneralTest& t = w.shown();
    QCOMPARE(t.steps.size(), 3U);
    QCOMPARE(t.result.items.front().name, std::string("2 mA"));
    QVERIFY(!t.result.figure_cards.empty());
    nlohmann::json settings = w.window->session().settings();
    settings["noise_setting"]["in_use"] = "1 mA";
    TestEdits(w.window->session()).set_settings("setting in use", settings);
    const Result& r = w.shown().result;
    QCOMPARE(r.figure_cards.front().head, std::string("Best of 3: 2 mA"));
    QVERIFY(r.answers.front().head.find("In use: 1 mA") == 0);
  }

  void what_is_counted_is_dragged_and_moved_by_keys() {
    NoiseWindow w;
    w.drop({w.table("after.csv", -60.0)});
    w.set("phase_noise", "low_hz", 100.0);
    w.set("phase_noise", "high_hz", 10000.0);
    PlotView& plot = *w.sheet().plot();
    QUndoStack& undo = w.window->session().undo_stack();
    const int edits = undo.count();
    const double before = w.shown().result.answers.front().figure.value;
    const QCPAxisRect& rect = *plot.axisRects().front();
    const auto place = [&](double hz) {
      return QPoint(qRound(rect.axis(QCPAxis::atBottom)->coordToPixel(hz)), rect.top() + 40);
    };
    const auto send = [&](QEvent::Type type, QPoint at) {
      QMouseEvent event(type, QPointF(at), plot.mapToGlobal(QPointF(at)), Qt::LeftButton,
                        type == QEvent::MouseButtonRelease ? Qt::NoButton : Qt::LeftButton,
                        Qt::NoModifier);
      QApplication::sendEvent(&plot, &event);
    };
    // Held, the figure follows; let go, it is one step of undo.
    send(QEvent::MouseButtonPress, place(100.0));
    send(QEvent::MouseMove, place(1000.0));
    const double held = w.window->session().general()->result.answers.front().figure.value;
    QVERIFY(held < 0.9 * before);
    QCOMPARE(undo.count(), edits);
    send(QEvent::MouseButtonRelease, place(1000.0));
    w.window->session().settle();
    QCOMPARE(undo.count(), edits + 1);
    QVERIFY(std::abs(w.window->session().settings()["phase_noise"]["low_hz"].get<double>() -
                     1000.0) < 1.0);
    QVERIFY(std::abs(w.shown().result.answers.front().figure.value / held - 1.0) < 1e-6);
    // By keys: the nearer one, by a bin.
    plot.setFocus();
    QTest::keyClick(&plot, Qt::Key_BracketRight);
    w.window->session().settle();
    QVERIFY(w.window->session().settings()["phase_noise"]["low_hz"].get<double>() > 1050.0);
    QTest::keyClick(&plot, Qt::Key_End);
    QTest::keyClick(&plot, Qt::Key_BracketLeft);
    w.window->session().settle();
    QVERIFY(w.window->session().settings()["phase_noise"]["high_hz"].get<double>() < 9500.0);
    // The low side never passes the high one.
    send(QEvent::MouseButtonPress, place(1122.0));
    send(QEvent::MouseMove, place(500000.0));
    send(QEvent::MouseButtonRelease, place(500000.0));
    w.window->session().settle();
    QVERIFY(w.window->session().settings()["phase_noise"]["low_hz"].get<double>() < 2000.0);
  }

  void a_loop_is_typed_tried_and_taken_back() {
    NoiseWindow w("loop");
    QVERIFY(!w.sheet().strip()->isVisible());
    QVERIFY(w.sheet().plot()->plot().empty_words.find("Type the loop") == 0);
    w.set("loop", "built",
          parse_loop_text("charge pump 1, 2 mA\nVCO gain 30 MHz/V\nN 144\nR2 560\nC1 1 nF\n"
                          "C2 22 nF\nreference 10 MHz"));
    QCOMPARE(w.sheet().table()->model()->rowCount(), 2);
    QVERIFY(w.cell(0, 0).startsWith("2 mA") && w.cell(1, 0).startsWith("1 mA"));
    QVERIFY2(w.cell(1, 2).startsWith("20.8"), qPrintable(w.cell(1, 2)));
    // In place of the hook-up stands what may be tried otherwise.
    WhatIfPanel& panel = *w.sheet().what_if();
    QVERIFY(panel.isVisible() && !w.sheet().facts()->isVisible());
    QCOMPARE(panel.field("kvco_hz_per_v")->text(), QString("30 MHz/V"));
    QVERIFY(panel.field("r3_ohm") == nullptr);  // it has no third pole
    // Noise and loop are two views of the row that is chosen.
    w.sheet().choose(1);
    QVERIFY(QString::fromStdString(w.sheet().plot()->plot().note).startsWith("1 mA"));
    w.sheet().show_view(1);
    const Plot& loop = w.sheet().plot()->plot();
    QVERIFY(loop.panels.front().y_right.has_value());
    w.sheet().show_view(0);
    // What is tried comes on top, and is no more once it is taken back.
    w.set("loop", "tried", parse_loop_text("R2 1k"));
    QCOMPARE(w.sheet().table()->model()->rowCount(), 4);
    QVERIFY(w.shown().result.answers.front().head == "Phase margin, tried");
    w.window->session().undo_stack().undo();
    w.window->session().settle();
    QCOMPARE(w.sheet().table()->model()->rowCount(), 2);
    w.window->session().undo_stack().undo();
    w.window->session().settle();
    QCOMPARE(w.sheet().table()->model()->rowCount(), 0);
    QVERIFY(!panel.isVisible());
  }

  void what_if_slides_live_and_is_kept_when_it_is_let_go() {
    NoiseWindow w("loop");
    w.set("loop", "built",
          parse_loop_text("charge pump 1, 2 mA\nVCO gain 30 MHz/V\nN 144\nR2 560\nC1 1 nF\n"
                          "C2 22 nF\nreference 10 MHz"));
    WhatIfPanel& panel = *w.sheet().what_if();
    QUndoStack& undo = w.window->session().undo_stack();
    const int edits = undo.count();
    // Held, all that is shown follows; on disk nothing is tried.
    QWidget* r2 = panel.row("r2_ohm");
    QTRY_VERIFY(r2->width() <= WhatIfPanel::width_at(1280));
    const QPoint thumb(r2->width() / 2, 39);
    QTest::mousePress(r2, Qt::LeftButton, Qt::NoModifier, thumb);
    QElapsedTimer timer;
    timer.start();
    constexpr int kMoves = 20;
    for (int i = 1; i <= kMoves; ++i) {
      const QPointF to = thumb + QPoint(2 * i, 0);
      QMouseEvent move(QEvent::MouseMove, to, r2->mapToGlobal(to), Qt::NoButton, Qt::LeftButton,
                       Qt::NoModifier);
      QApplication::sendEvent(r2, &move);
      QApplication::processEvents();
    }
    qInfo("a move redraws in %.1f ms", static_cast<double>(timer.elapsed()) / kMoves);
    QVERIFY(w.window->session().general()->result.answers.front().head == "Phase margin, tried");
    const std::string text = panel.values()[3].text;
    QVERIFY2(text.starts_with("1.") && text.ends_with("k\u03a9"), text.c_str());
    QVERIFY(w.cell(0, 0).startsWith("1 mA"));
    QCOMPARE(undo.count(), edits);
    QVERIFY(w.window->session().settings()["loop"]["tried"].empty());
    QTest::mouseRelease(r2, Qt::LeftButton, Qt::NoModifier, thumb + QPoint(2 * kMoves, 0));
    w.window->session().settle();
    QCOMPARE(undo.count(), edits + 1);
    const double slid = w.window->session().settings()["loop"]["tried"]["r2_ohm"];
    QVERIFY(slid > 900.0 && slid < 2000.0);
    QVERIFY(panel.as_built()->isVisible());
    // Keys: the next one that there is, one per cent, as built.
    r2->setFocus();
    QTest::keyClick(r2, Qt::Key_Backspace);
    w.window->session().settle();
    QVERIFY(w.window->session().settings()["loop"]["tried"].empty());
    QTest::keyClick(r2, Qt::Key_Left);
    w.window->session().settle();
    QCOMPARE(panel.field("r2_ohm")->text(), QString("510 \u03a9"));  // E24
    QTest::keyClick(r2, Qt::Key_Right, Qt::ShiftModifier);
    w.window->session().settle();
    QCOMPARE(panel.field("r2_ohm")->text(), QString("515.1 \u03a9"));
    QTest::keyClick(r2, Qt::Key_Down);
    QVERIFY(panel.row("c1_f")->hasFocus());
    // Typed with any unit; what is none is said and nothing changes.
    QTest::keyClick(panel.row("c1_f"), Qt::Key_Return);
    type_into(panel.field("c1_f"), "1,5 n");
    w.window->session().settle();
    QCOMPARE(w.window->session().settings()["loop"]["tried"]["c1_f"].get<double>(), 1.5e-9);
    type_into(panel.field("c1_f"), "plenty");
    w.window->session().settle();
    QCOMPARE(w.window->session().settings()["loop"]["tried"]["c1_f"].get<double>(), 1.5e-9);
    QVERIFY(w.window->messages()->text().contains("value"));
    // A charge-pump current is one of those that there are.
    QTest::keyClick(panel.row("charge_pump_a"), Qt::Key_Right);
    w.window->session().settle();
    QCOMPARE(panel.field("charge_pump_a")->text(), QString("2 mA"));
    panel.as_built()->click();
    w.window->session().settle();
    QVERIFY(w.window->session().settings()["loop"]["tried"].empty());
    QVERIFY(!panel.as_built()->isVisible());
    undo.undo();
    w.window->session().settle();
    QCOMPARE(panel.field("charge_pump_a")->text(), QString("2 mA"));
    // What does not lock leaves the panel at work.
    w.set("loop", "tried", parse_loop_text("charge pump 1 mA\nR2 5\nC1 22 nF"));
    QVERIFY(panel.isVisible());
  }

  void the_loop_stands_beside_what_was_measured() {
    NoiseWindow w("noise_setting");
    w.drop({w.table("0.5 mA.csv", -60.0), w.table("1 mA.csv", -62.0), w.table("2 mA.csv", -66.0)});
    TestEdits(w.window->session()).add_test("loop", "Loop", "");
    w.set("loop", "built",
          parse_loop_text("charge pump 1 mA\nVCO gain 30 MHz/V\nN 144\nR2 560\nC1 1 nF\n"
                          "C2 22 nF\nreference 10 MHz"));
    // -62 - 20 lg-ish: at 20 kHz the table says -105.0.
    QVERIFY2(w.cell(0, 6).startsWith("\u2212105.0"), qPrintable(w.cell(0, 6)));
    QVERIFY(w.sheet().plot()->plot().panels.front().find(PlotLayer::Kind::dots) != nullptr);
    // Without its curve there is nothing beside it.
    w.set("loop", "built",
          parse_loop_text("charge pump 3 mA\nVCO gain 30 MHz/V\nN 144\nR2 560\nC1 1 nF\n"
                          "C2 22 nF\nreference 10 MHz"));
    QVERIFY(w.cell(0, 6).isEmpty());
    QVERIFY(w.sheet().plot()->plot().panels.front().find(PlotLayer::Kind::dots) == nullptr);
  }

  void the_counted_range_and_its_limit_judge() {
    NoiseWindow w;
    w.drop({w.table("after.csv", -60.0)});
    const double whole = w.shown().result.answers.front().figure.value;
    w.set("phase_noise", "low_hz", 1e3);
    w.set("phase_noise", "high_hz", 1e5);
    const Result& r = w.shown().result;
    QVERIFY(r.answers.front().figure.value < whole);
    QVERIFY(r.answers.front().label.find("1 kHz to 100 kHz") == 0);
    const Plot& plot = w.sheet().plot()->plot();
    QVERIFY(plot.panels.front().brackets.front().words.find("1 kHz to 100 kHz") !=
            std::string::npos);
    // 10 Hz and 1 MHz stand in the table without being counted.
    QCOMPARE(w.sheet().table()->model()->rowCount(), 6);
    const int last = w.sheet().table()->model()->columnCount() - 1;
    QCOMPARE(w.cell(0, last), QString("not counted"));
    QVERIFY(w.cell(3, last).endsWith(" %"));
    w.window->session().undo_stack().undo();
    w.window->session().undo_stack().undo();
    QCOMPARE(w.shown().result.answers.front().figure.value, whole);
  }

  void what_a_table_hides_is_said_in_the_sheet() {
    NoiseWindow w;
    const auto with_bounds = [&](const char* name, double level) {
      const QString path = w.files.filePath(name);
      std::ofstream out(path.toStdString());
      out << "offset_hz,l_dbc_hz,u_db,bound\n";
      for (int k = 20; k <= 120; ++k)
        out << std::pow(10.0, k / 20.0) << "," << level - k / 2.0 << ",0.1,"
            << (k >= 70 && k <= 90 ? "upper" : "") << "\n";
      return path;
    };
    w.drop({with_bounds("before.csv", -60.0), with_bounds("after.csv", -67.0)});
    QStringList words;
    for (int row = 0; row < w.sheet().table()->model()->rowCount(); ++row) words << w.cell(row, 4);
    QCOMPARE(words, QStringList({"better", "better", "better", "hidden", "better", "better"}));
    QVERIFY(w.cell(3, 3).isEmpty());
    QCOMPARE(w.sheet().plot()->plot().panels[1].ranges.size(), 2U);
  }
};

HERON_WINDOW_TEST(NoiseSheetTest)

}  // namespace noise_sheet_test

#include "noise_sheet_test.moc"
