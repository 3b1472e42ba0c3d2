#include "app/sheet/method_sheet.h"

#include <QClipboard>
#include <QUndoStack>

#include "app/live/meter_watch.h"
#include "app/session/test_edits.h"
#include "core/quantity/levels.h"
#include "report/gather.h"
#include "report/html.h"
#include "simbench/sim_server.h"
#include "tests/app/grid_column.h"
#include "tests/app/open_window.h"
#include "tests/core/made_chain.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace method_sheet_test {

/// The sheet that any method of the table has, driven as a user drives it.
class MethodSheetTest : public QObject {
  Q_OBJECT
  std::unique_ptr<OpenWindow> open_;
  MainWindow& window() { return *open_->window; }
  MethodSheet* sheet() { return window().sheet(); }
  const GeneralTest& shown() { return *window().session().general(); }

  QModelIndex cell(int row, int column) { return sheet()->evidence()->index(row, column); }
  void type(int row, int column, const QString& text) {
    sheet()->evidence()->setData(cell(row, column), text, Qt::EditRole);
  }

 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-method-test")); }
  void init() {
    open_ = std::make_unique<OpenWindow>();
    window().show_evaluation(open_->made.evaluation_id);
    TestEdits(window().session()).add_test("output", "Output power", "13.8 V");
    QVERIFY(window().session().general() != nullptr);
    QVERIFY(sheet()->isVisible());
  }
  void cleanup() { open_.reset(); }

  /// A reference is typed by counter, then by beat note: what is asked for changes with it.
  void a_reference_is_typed_and_told_on_each_band() {
    TestEdits(window().session()).add_test("reference", "Accuracy", "warm, cover on");
    const auto column = [&](const char* head) { return grid_column(*sheet()->evidence(), head); };
    sheet()->show_grid();
    type(0, 0, "test point");
    type(0, column("Nominal"), "20");
    type(0, column("Counted"), "19.9999936");
    QVERIFY(column("Tone") < 0 || sheet()->grid()->isColumnHidden(column("Tone")));
    nlohmann::json all = window().session().settings();
    all["frequency"] = {{"timebase_ppm", 0.1}, {"bands_hz", {14.2e6, 50.2e6}}};
    TestEdits(window().session()).set_settings("frequency", all);
    Limit limit{"maker", Sense::within, 0.5, "ppm", "", 0.5};
    TestEdits(window().session()).set_limit(limit);
    window().session().settle();
    const auto& content = sheet()->verdict()->content();
    QVERIFY2(content.value.endsWith("0.32"), qPrintable(content.value));
    QCOMPARE(content.unit, QString("ppm"));
    QVERIFY(shown().result.answers.front().judgement->verdict == Verdict::pass);
    QCOMPARE(sheet()->below()->current_text(), QString("readings"));
    sheet()->show_below(1);
    QCOMPARE(sheet()->results()->table().rows.size(), std::size_t{2});
    QCOMPARE(sheet()->results()->index(1, 0).data().toString(), QString("50.2 MHz"));
    // The report tells the same.
    const auto gathered =
        gather_report(window().session().shack(), window().session().evaluation_id());
    const QString html = QString::fromStdString(report_html(gathered));
    QVERIFY(html.contains("50.2 MHz") && html.contains("the dial reads high"));
    window().session().undo_stack().undo();
    window().session().settle();
    QVERIFY(!shown().result.answers.front().judgement);
    // By a beat note dial and tone are asked for, and no count.
    const auto is_asked = [&](const char* head) {
      return column(head) >= 0 && !sheet()->grid()->isColumnHidden(column(head));
    };
    QVERIFY(is_asked("Counted") && !is_asked("Tone") && !is_asked("Dial"));
    all["frequency"]["way"] = "beat_note";
    TestEdits(window().session()).set_settings("frequency", all);
    window().session().settle();
    QVERIFY(!is_asked("Counted") && is_asked("Tone") && is_asked("Dial"));
  }

  void an_empty_test_says_what_to_do() {
    QCOMPARE(sheet()->below()->current(), 1);
    QCOMPARE(sheet()->primary()->text(), QString("Type the readings"));
    QVERIFY(sheet()->verdict()->content().sentence.contains("grid"));
    QVERIFY(sheet()->plot()->plot().empty_words.find("Key a carrier") != std::string::npos);
    sheet()->primary()->click();
    QCOMPARE(sheet()->grid()->currentIndex().row(), 0);
    QVERIFY(sheet()->grid()->hasFocus());
  }

  void typing_becomes_an_answer_and_undo_takes_it_back() {
    type(0, 0, "20 m");
    QCOMPARE(shown().steps.size(), 1U);
    type(0, 1, "14.2");
    type(0, 2, "26,5");
    QVERIFY(sheet()->verdict()->content().value.startsWith("26.5"));
    QCOMPARE(sheet()->verdict()->content().unit, QString("W"));
    QVERIFY(sheet()->verdict()->content().sentence.contains("No limit"));
    answer_fields({"30 W"});
    sheet()->limit()->menu()->actions().front()->trigger();
    QCOMPARE(shown().test.limit->unit, std::string("W"));
    QCOMPARE(sheet()->verdict()->content().mark.verdict, Verdict::fail);
    QVERIFY(std::abs(sheet()->verdict()->content().mark.margin + 0.54) < 0.01);
    QCOMPARE(window().session().course().back().headline->judgement.verdict, Verdict::fail);
    type(0, 2, "");
    QVERIFY(shown().result.answers.empty());
    window().session().undo_stack().undo();
    QCOMPARE(shown().result.answers.size(), 1U);
    window().session().undo_stack().undo();  // the limit
    window().session().undo_stack().undo();  // the output
    QVERIFY(shown().result.answers.empty());
    window().session().undo_stack().undo();
    window().session().undo_stack().undo();
    QVERIFY(shown().steps.empty());
    for (int i = 0; i < 4; ++i) window().session().undo_stack().redo();
    QVERIFY(sheet()->verdict()->content().value.startsWith("26.5"));
    // It is on disk.
    const Id test = shown().test.id;
    open_->reopen();
    window().show_evaluation(open_->made.evaluation_id, test);
    QCOMPARE(shown().evidence.steps[0].readings.size(), 1U);
    QCOMPARE(cell(0, 2).data().toString(), QString("26,5"));
    QVERIFY(!shown().evidence.steps[0].readings[0].at.empty());
  }

  void a_block_is_pasted_whole_or_not_at_all() {
    sheet()->grid()->setCurrentIndex(cell(0, 0));
    QApplication::clipboard()->setText("80 m\t3.65\t33\t32\t1:00\n20 m\t14.2\t31\t30\t1:00\n");
    sheet()->grid()->setFocus();
    QTest::keyClick(sheet()->grid(), Qt::Key_V, Qt::ControlModifier);
    QCOMPARE(shown().steps.size(), 2U);
    QCOMPARE(shown().result.answers.size(), 2U);
    QVERIFY(shown().result.tables[0].rows[1].cells[3].text.starts_with("\u22120.14"));
    QSignalSpy failed(sheet(), &Sheet::failed);
    sheet()->grid()->setCurrentIndex(cell(0, 2));
    QApplication::clipboard()->setText("35\t34\nloud\t33");
    QTest::keyClick(sheet()->grid(), Qt::Key_V, Qt::ControlModifier);
    QCOMPARE(failed.count(), 1);
    QVERIFY(failed[0][0].toString().contains("row 2, Cold"));
    QCOMPARE(cell(0, 2).data().toString(), QString("33"));
    window().session().undo_stack().undo();
    QVERIFY(shown().steps.empty());
  }

  void steps_are_chosen_in_table_plot_and_grid_alike() {
    sheet()->evidence()->put_block(
        "block", 0, 0, {{"80 m", "3.65", "33"}, {"20 m", "14.2", "31"}, {"10 m", "28.4", "28"}});
    sheet()->show_below(0);
    sheet()->table()->setCurrentIndex(sheet()->results()->index(2, 0));
    QCOMPARE(sheet()->chosen_step(), 2);
    QVERIFY(sheet()->verdict()->content().where.contains("10 m"));
    sheet()->plot()->setFocus();
    QTest::keyClick(sheet()->plot(), Qt::Key_Left);
    QCOMPARE(sheet()->chosen_step(), 1);
    QCOMPARE(sheet()->table()->chosen_row(), 1);
    // A point that is pressed.
    QCPAxisRect* rect = sheet()->plot()->axisRect(0);
    const QPoint at(static_cast<int>(rect->axis(QCPAxis::atBottom)->coordToPixel(3.65e6)),
                    static_cast<int>(rect->axis(QCPAxis::atLeft)->coordToPixel(33.0)));
    QTest::mouseClick(sheet()->plot(), Qt::LeftButton, {}, at);
    QCOMPARE(sheet()->chosen_step(), 0);
    // Looking closer, and all of it again.
    const QCPRange all = rect->axis(QCPAxis::atBottom)->range();
    rect->axis(QCPAxis::atBottom)->setRange(10e6, 20e6);
    QTest::keyClick(sheet()->plot(), Qt::Key_Home);
    QVERIFY(std::abs(rect->axis(QCPAxis::atBottom)->range().lower - all.lower) < 1.0);
  }

  /// Screen, report and files say the same.
  void the_report_says_what_the_screen_says() {
    sheet()->evidence()->put_block(
        "block", 0, 0, {{"20 m", "14.2", "31", "24", "1:00", "13.7", "5.6", "12.9", "40", "3"}});
    const ReportDocument doc = gather_report(window().session().shack(), open_->made.evaluation_id);
    const ReportSection& section = doc.sections.back();
    QCOMPARE(section.title, std::string("Output power"));
    const Answer& answer = shown().result.answers.front();
    QCOMPARE(section.judgement_sentence, answer.sentence);
    QVERIFY(section.answer_label.find(answer.label) != std::string::npos);
    QStringList said;
    for (const Remark& r : section.remarks) said << QString::fromStdString(r.text);
    QVERIFY(said.size() >= 3);
    const std::string html = report_html(doc);
    for (const QString& text : said) {
      QVERIFY2(sheet()->remarks()->text().contains(text), qPrintable(text));
    }
    QVERIFY(html.find("Output over frequency") != std::string::npos);
    QVERIFY(html.find("<circle") != std::string::npos);
    QCOMPARE(section.table.rows.size(), 1U);
    for (std::size_t c = 0; c < section.table.rows[0].size(); ++c) {
      const std::string& cell = shown().result.tables[0].rows[0].cells[c].text;
      QCOMPARE(section.table.rows[0][c], cell.empty() ? std::string("\u2013") : cell);
    }
    QVERIFY(std::count_if(doc.figures.begin(), doc.figures.end(),
                          [](const ReportFigure& f) { return f.test == "Output power"; }) >= 5);
  }

  void a_signed_test_is_not_typed_into() {
    type(0, 0, "20 m");
    type(0, 2, "31");
    TestEdits(window().session()).sign("Both of us");
    QVERIFY(!(sheet()->evidence()->flags(cell(0, 2)) & Qt::ItemIsEditable));
    type(0, 2, "40");
    QCOMPARE(cell(0, 2).data().toString(), QString("31"));
    TestEdits(window().session()).take_back_signature();
    type(0, 2, "40");
    QCOMPARE(cell(0, 2).data().toString(), QString("40"));
  }

  void meters_are_read_while_somebody_keys() {
    // Coupler and power meter, as on the simulated bench; the coupler gets too hot after 49 s.
    Chain chain = pad_and_sampler(40.0);
    chain.parts[0].name = "coupler";
    chain.parts[0].max_input_w = 20.0;
    chain.parts[0].time_constant_s = 45.0;
    chain.parts[1].u_db = 0.15;
    chain.parts[1].max_input_w = 0.1;
    Shack& shack = window().session().shack();
    const Id hookup = add_hookup(shack, "Meter", chain);
    set_test_hookup_id(shack, shown().test.id, hookup);
    set_test_drive(shack, shown().test.id, Drive{to_dbm(Watt{30.0}).value, false, 14.2e6, 10.0});
    window().session().reload();
    type(0, 0, "20 m");
    QVERIFY(!sheet()->can_read(ReadingRole::at));
    window().live_instruments()->set_time_factor(200.0);
    window().live_instruments()->use_simulation(true);
    QVERIFY(sheet()->can_read(ReadingRole::at));
    QCOMPARE(sheet()->primary()->text(), QString("Read the meters"));
    QSignalSpy failed(sheet(), &Sheet::failed);
    const auto read = [&](const std::vector<ReadingRole>& roles) {
      sheet()->read_meters(roles);
      QTRY_VERIFY_WITH_TIMEOUT(!sheet()->watch()->is_running(), 20000);
      QCoreApplication::processEvents();
    };
    read({ReadingRole::at});
    QCOMPARE(failed.count(), 1);
    QVERIFY2(failed[0][0].toString().contains("nothing is keyed"),
             qPrintable(failed[0][0].toString()));
    QVERIFY(shown().result.answers.empty());
    // Nobody waits out a key-down that has not begun.
    type(0, 4, "40 s");
    window().live_instruments()->set_time_factor(1.0);
    sheet()->read_meters({ReadingRole::at, ReadingRole::after});
    QTRY_COMPARE_WITH_TIMEOUT(failed.count(), 2, 10000);
    QTRY_VERIFY_WITH_TIMEOUT(!sheet()->watch()->is_running(), 10000);
    QVERIFY(shown().evidence.steps[0].readings.empty());
    window().session().undo_stack().undo();
    window().live_instruments()->set_time_factor(200.0);
    failed.clear();
    // Somebody keys.
    auto& bench = window().live_instruments()->simulation()->bench();
    for (const char* line : {"SOUR:FUNC:TONE 1000", "SOUR:POW -24", "OUTP ON"})
      bench.speak("generator", line);
    read({ReadingRole::at});
    QCOMPARE(failed.count(), 0);
    const double at_device = 30.0 + db_from_power_ratio(bench.device().pep_w());
    const auto& readings = shown().evidence.steps[0].readings;
    const Reading* cold = find_reading(readings, "output", ReadingRole::at);
    QVERIFY(cold != nullptr && cold->source == ReadingSource::live && !cold->at.empty());
    QVERIFY2(std::abs(cold->value - at_device) < 4.0 * cold->u,
             qPrintable(QString("%1 %2").arg(cold->value).arg(at_device)));
    QVERIFY(std::abs(find_reading(readings, "supply_voltage")->value - 13.8) < 0.6);
    QVERIFY(!cell(0, 2).data().toString().isEmpty() && cell(0, 3).data().toString().isEmpty());
    QVERIFY(bench.is_keyed());  // it switches nothing
    // Without a key-down time it is a minute, which is too long for the coupler.
    read({ReadingRole::at, ReadingRole::after});
    QCOMPARE(failed.count(), 1);
    QVERIFY2(failed[0][0].toString().contains("coupler stands"),
             qPrintable(failed[0][0].toString()));
    type(0, 4, "10 s");
    read({ReadingRole::at, ReadingRole::after});
    QCOMPARE(failed.count(), 1);
    QVERIFY(find_reading(shown().evidence.steps[0].readings, "output", ReadingRole::after));
    QVERIFY(!shown().result.tables[0].rows[0].cells[3].text.empty());  // the droop
    bench.speak("generator", "OUTP OFF");
    // One press of undo for both; what is emptied by hand is gone, and comes back.
    window().session().undo_stack().undo();
    QVERIFY(cell(0, 3).data().toString().isEmpty() && !cell(0, 2).data().toString().isEmpty());
    type(0, 2, "");
    QVERIFY(cell(0, 2).data().toString().isEmpty());
    window().session().undo_stack().undo();
    QVERIFY(!cell(0, 2).data().toString().isEmpty());
    // Typed afterwards counts more than what was read before.
    type(0, 2, "31");
    QVERIFY(sheet()->verdict()->content().value.startsWith("31"));
  }

  void a_watch_that_is_stopped_keeps_nothing() {
    type(0, 0, "20 m");
    type(0, 4, "1000 s");
    window().live_instruments()->use_simulation(true);
    auto& bench = window().live_instruments()->simulation()->bench();
    for (const char* line : {"SOUR:FUNC:TONE 1000", "SOUR:POW -24", "OUTP ON"})
      bench.speak("generator", line);
    sheet()->read_meters({ReadingRole::at, ReadingRole::after});
    QVERIFY(sheet()->watch()->is_running());
    QVERIFY(!sheet()->can_read(ReadingRole::at));
    sheet()->watch()->stop();
    QTRY_VERIFY_WITH_TIMEOUT(!sheet()->watch()->is_running(), 10000);
    QVERIFY(shown().evidence.steps[0].readings.empty());
    // Closing the window in the midst of it is no trouble either.
    sheet()->read_meters({ReadingRole::at, ReadingRole::after});
    open_.reset();
  }

  void recordings_are_refused_with_what_to_do_instead() {
    QSignalSpy failed(sheet(), &Sheet::failed);
    sheet()->add_recordings({"/tmp/any.wav"});
    QCoreApplication::processEvents();
    QVERIFY(window().messages()->text().contains("takes no recordings"));
  }
};

HERON_WINDOW_TEST(MethodSheetTest)

}  // namespace method_sheet_test

#include "method_sheet_test.moc"
