#include <QUndoStack>
#include <fstream>

#include "app/session/test_edits.h"
#include "app/sheet/method_sheet.h"
#include "report/gather.h"
#include "report/html.h"
#include "tests/app/grid_column.h"
#include "tests/app/open_window.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace amplifier_sheet_test {

/// The tests of an amplifier on the sheet of any method, driven as a user drives it.
class AmplifierSheetTest : public QObject {
  Q_OBJECT
  std::unique_ptr<OpenWindow> open_;
  MainWindow& window() { return *open_->window; }
  MethodSheet* sheet() { return window().sheet(); }
  const GeneralTest& shown() { return *window().session().general(); }

  int column(const QString& head) { return grid_column(*sheet()->evidence(), head); }
  void type(int row, const QString& head, const QString& text) {
    const int c = head.isEmpty() ? 0 : column(head);
    QVERIFY2(c >= 0, qPrintable(head));
    sheet()->evidence()->setData(sheet()->evidence()->index(row, c), text, Qt::EditRole);
  }
  void add(const char* id, const char* title) {
    TestEdits(window().session()).add_test(id, title, "28 V");
    QVERIFY(window().session().general() != nullptr);
    QCOMPARE(shown().test.characteristic, std::string(id));
  }
  void set(nlohmann::json changed) {
    nlohmann::json all = window().session().settings();
    if (!all["amplifier"].is_object()) all["amplifier"] = nlohmann::json::object();
    all["amplifier"].update(changed);
    TestEdits(window().session()).set_settings("amplifier", all);
  }
  QString csv(const char* text) {
    const QString path = folder_.filePath("steps.csv");
    std::ofstream(path.toStdString()) << text;
    return path;
  }
  QTemporaryDir folder_;

 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-amplifier-test")); }
  void init() {
    open_ = std::make_unique<OpenWindow>();
    window().show_evaluation(open_->made.evaluation_id);
  }
  void cleanup() { open_.reset(); }

  void a_file_becomes_steps_with_the_highest_drive_first() {
    add("gain", "Gain");
    set({{"specified_gain_db", 13.0}, {"nominal_v", 28.0}, {"supply_limit_a", 4.5}});
    sheet()->add_recordings(
        {csv("pin_before_dbm,pout_dbm,v_dc,i_dc\n20,34.42,27.8,1.39\n30,44.28,27.5,3.26\n"
             "33.01,46.58,27.4,4.10\n34.77,47.32,27.4,4.42\n")});
    QCOMPARE(shown().steps.size(), 4U);
    QVERIFY(sheet()->verdict()->content().value.startsWith("14.4"));
    QCOMPARE(sheet()->verdict()->content().unit, QString("dB"));
    sheet()->show_below(0);
    const auto& rows = sheet()->results()->table().rows;
    QCOMPARE(*rows.front().step, 3U);
    // A row and the plot are about the same step.
    emit sheet() -> table()->row_chosen(0);
    QCOMPARE(sheet()->chosen(), 3);
    QCOMPARE(sheet()->table()->currentIndex().row(), 0);
    window().session().undo_stack().undo();
    QCOMPARE(shown().steps.size(), 0U);
  }

  void a_limit_in_dbm_asks_for_the_compression_point() {
    add("gain", "Gain");
    sheet()->add_recordings(
        {csv("pin_before_dbm,pout_dbm\n20,34.42\n30,44.28\n33.01,46.58\n34.77,47.32\n")});
    Limit limit{"own", Sense::at_least, 47.5, "dBm", "", 20.0};
    TestEdits(window().session()).set_limit(limit);
    QVERIFY2(sheet()->verdict()->content().value.startsWith("46."),
             qPrintable(sheet()->verdict()->content().value));
    QCOMPARE(sheet()->verdict()->content().mark.verdict, Verdict::fail);
    // In watts everything changes together.
    set({{"levels_in", "w"}});
    QCOMPARE(sheet()->verdict()->content().unit, QString("W"));
    QVERIFY(sheet()->plot()->plot().panels.front().y.is_logarithmic);
    QVERIFY(sheet()->plot()->plot().x.is_logarithmic);
    const QString html = QString::fromStdString(
        report_html(gather_report(window().session().shack(), window().session().evaluation_id())));
    QVERIFY(html.contains("1 dB compression") && html.contains("dB down"));
  }

  void typed_levels_keep_their_unit() {
    add("gain", "Gain");
    type(0, "", "2 W");
    type(0, "In", "33.01");
    type(0, "Output", "46.58");
    QCOMPARE(shown().evidence.steps.front().readings.size(), 2U);
    QCOMPARE(QString::fromStdString(shown().evidence.steps.front().readings.front().typed),
             QString("33.01 dBm"));
    set({{"levels_in", "w"}});
    // What was typed in dBm stays that.
    QVERIFY(sheet()->evidence()->index(0, column("In")).data().toString().contains("33.01 dBm"));
    QVERIFY(std::abs(shown().evidence.steps.front().readings.front().value - 33.01) < 1e-9);
    // The second way is asked for only where it is wanted.
    QCOMPARE(sheet()->evidence()->widths()[static_cast<std::size_t>(column("Again"))], 0);
    set({{"second_by", "rms_volts"}});
    QVERIFY(sheet()->evidence()->widths()[static_cast<std::size_t>(column("Again"))] > 0);
  }

  void the_response_shows_bands_and_the_drive_series_beside_it() {
    add("gain", "Gain");
    sheet()->add_recordings(
        {csv("pin_before_dbm,pout_dbm,v_dc,i_dc\n20,34.42,27.8,1.39\n30,44.28,27.5,3.26\n"
             "33.01,46.58,27.4,4.10\n34.77,47.32,27.4,4.42\n")});
    add("response", "Response");
    sheet()->add_recordings(
        {csv("frequency_hz,pin_before_dbm,pout_dbm,i_dc\n1220e6,33,44.0,3.2\n1240e6,33,45.6,3.73\n"
             "1270e6,33,46.4,4.06\n1296e6,33,46.6,4.1\n1300e6,33,46.6,4.1\n1330e6,33,45.0,4.1\n")});
    QCOMPARE(shown().steps.size(), 6U);
    QCOMPARE(shown().result.items.size(), 1U);
    QCOMPARE(QString::fromStdString(shown().result.items.front().name), QString("23 cm"));
    QVERIFY(sheet()->verdict()->content().value.startsWith("12.6"));
    QVERIFY(shown().evidence.companion != nullptr);
    bool has_compression = false;
    for (const Remark& r : shown().result.remarks)
      has_compression = has_compression || r.code == "in_compression";
    QVERIFY(has_compression);
    QCOMPARE(shown().result.plots.front().panels.size(), 2U);
  }

  /// Nothing is keyed by the program while a check is open; what was typed elsewhere may be kept.
  void bands_are_typed_into_the_table() {
    add("response", "Response");
    sheet()->add_recordings(
        {csv("frequency_hz,pin_before_dbm,pout_dbm\n1220e6,33,44.0\n1250e6,33,45.6\n"
             "1270e6,33,46.4\n1296e6,33,46.6\n1300e6,33,46.6\n1330e6,33,45.0\n")});
    sheet()->show_below(0);
    ResultModel* model = sheet()->results();
    QCOMPARE(model->rowCount(), 2);  // 23 cm, and an empty one
    const auto put = [&](int row, int column, const char* text) {
      return model->setData(model->index(row, column), text, Qt::EditRole);
    };
    const auto band = [&](std::size_t i) {
      return QString::fromStdString(shown().result.items.at(i).name);
    };
    // As a person does: F2, type, Return.
    sheet()->table()->setFocus();
    sheet()->table()->setCurrentIndex(model->index(0, 2));
    press(window(), sheet()->table(), Qt::Key_F2, Qt::NoModifier);
    auto* editor = sheet()->table()->findChild<QLineEdit*>();
    QVERIFY(editor != nullptr);
    QCOMPARE(editor->text(), QString("1300.0"));
    editor->setText("1296.8");
    QTest::keyClick(editor, Qt::Key_Return);
    window().session().settle();
    QCOMPARE(model->index(0, 2).data().toString(), QString("1296.8"));
    // Behind the last a whole line, or the name of a usual band; that the sweep does not reach it
    // is said, not hidden.
    QVERIFY(put(1, 0, "Narrow 1296 to 1296.8 MHz"));
    window().session().settle();
    QCOMPARE(shown().result.items.size(), std::size_t{2});
    QCOMPARE(band(1), QString("Narrow"));
    QString refused;
    connect(sheet(), &Sheet::failed, this, [&](const QString& what) { refused = what; });
    put(1, 2, "1200");
    QVERIFY2(refused.contains("ends") || refused.contains("end below"), qPrintable(refused));
    QCOMPARE(model->index(1, 2).data().toString(), QString("1296.8"));
    // Delete takes the row away; undo brings it back.
    sheet()->table()->setCurrentIndex(model->index(0, 1));
    press(window(), sheet()->table(), Qt::Key_Delete, Qt::NoModifier);
    window().session().settle();
    QCOMPARE(band(0), QString("Narrow"));
    window().session().undo_stack().undo();
    window().session().settle();
    QCOMPARE(shown().result.items.size(), std::size_t{2});
    // Insert begins a new one; dragging over the names of the bands does, too.
    press(window(), sheet()->table(), Qt::Key_Insert, Qt::NoModifier);
    QCOMPARE(sheet()->table()->currentIndex().row(), 2);
    auto* fresh = qobject_cast<QLineEdit*>(QApplication::focusWidget());
    QVERIFY(fresh != nullptr);
    fresh->setText("70 cm");
    QTest::keyClick(fresh, Qt::Key_Return);
    window().session().settle();
    QCOMPARE(shown().result.items.size(), std::size_t{3});
    QCOMPARE(band(2), QString("70 cm"));
    PlotView* plot = sheet()->plot();
    plot->replot();
    QTRY_VERIFY(plot->axisRect(0)->width() > 100);
    const QRect area = plot->axisRect(0)->rect();
    const QPoint from(area.left() + area.width() / 4, area.top() + 10);
    QTest::mousePress(plot, Qt::LeftButton, {}, from);
    QTest::mouseRelease(plot, Qt::LeftButton, {}, from + QPoint(60, 0));
    window().session().settle();
    QVERIFY2(shown().result.items.size() == 4, qPrintable(refused));
    QCOMPARE(band(3), QString("New"));
    // What is measured is not typed.
    QVERIFY(!(model->flags(model->index(0, 3)) & Qt::ItemIsEditable));
  }

  void a_wide_window_shows_heat_beside_efficiency() {
    add("gain", "Gain");
    sheet()->add_recordings(
        {csv("pin_before_dbm,pout_dbm,v_dc,i_dc\n20,34.42,27.8,1.39\n30,44.28,27.5,3.26\n"
             "33.01,46.58,27.4,4.10\n34.77,47.32,27.4,4.42\n")});
    QCOMPARE(sheet()->plot()->plot().panels.size(), std::size_t{2});
    QVERIFY(sheet()->plot()->plot().panels[1].y_right.has_value());
    window().resize(1920, 1080);
    QTest::qWait(50);
    const auto& panels = sheet()->plot()->plot().panels;
    QCOMPARE(panels.size(), std::size_t{3});
    QVERIFY(!panels[1].y_right && panels[2].y_right->title == "Heat, W");
    window().resize(1280, 800);
    QTest::qWait(50);
    QCOMPARE(sheet()->plot()->plot().panels.size(), std::size_t{2});
  }

  void keys_change_units_efficiency_and_step() {
    add("gain", "Gain");
    sheet()->add_recordings(
        {csv("pin_before_dbm,pout_dbm,v_dc,i_dc\n20,34.42,27.8,1.39\n30,44.28,27.5,3.26\n"
             "33.01,46.58,27.4,4.10\n34.77,47.32,27.4,4.42\n36,47.45,27.4,4.45\n")});
    const auto title = [&](std::size_t panel) {
      const PlotPanel& p = shown().result.plots.front().panels[panel];
      return QString::fromStdString(panel == 0 ? p.y.title : p.y_right->title);
    };
    QCOMPARE(title(0), QString("Output, dBm"));
    sheet()->show_below(0);
    for (QWidget* on :
         {static_cast<QWidget*>(sheet()->plot()), static_cast<QWidget*>(sheet()->table())}) {
      on->setFocus();
      press(window(), on, Qt::Key_W, Qt::NoModifier);
      window().session().settle();
      QCOMPARE(title(0), QString("Output, W"));
      press(window(), on, Qt::Key_W, Qt::NoModifier);
      window().session().settle();
      QCOMPARE(title(0), QString("Output, dBm"));
    }
    press(window(), sheet()->plot(), Qt::Key_E, Qt::NoModifier);
    window().session().settle();
    QVERIFY(title(1).startsWith("Power-added"));
    // To the step that is nearest to the 1 dB point.
    emit sheet() -> plot()->step_chosen(0);
    QCOMPARE(sheet()->chosen(), 0);
    press(window(), sheet()->plot(), Qt::Key_C, Qt::NoModifier);
    QVERIFY(sheet()->chosen() == 2 || sheet()->chosen() == 3);
  }

  void products_of_two_tones_say_how_far_it_is_linear() {
    Session& session = window().session();
    TestEdits(session).add_test("two_tone", "Products", "28 V");
    TestEdits(session).set_limit(Limit{"own", Sense::at_most, -30.0, "dB", kRePep, 20.0});
    const auto& fields = find_method("two_tone")->fields;
    const auto typed = [&](const char* label, const char* im3) {
      TypedCells cells;
      cells.label = label;
      for (const TypedField& f : fields) {
        if (f.head == "Output, PEP") cells.cells.push_back({&f, label});
        if (f.quantity == "im3" && f.role == ReadingRole::at) cells.cells.push_back({&f, im3});
      }
      return cells;
    };
    StepEdits(session).set_fields(
        "readings", {typed("10 W", "-42"), typed("20 W", "-36"), typed("40 W", "-26")});
    add("gain", "Gain");
    sheet()->add_recordings(
        {csv("pin_before_dbm,pout_dbm\n20,34.42\n30,44.28\n33.01,46.58\n34.77,47.32\n")});
    const auto found = std::find_if(shown().result.remarks.begin(), shown().result.remarks.end(),
                                    [](const Remark& r) { return r.code == "linear_output"; });
    QVERIFY(found != shown().result.remarks.end());
    // -30 dB lies at 0.6 of the way from 20 to 40 W in dB: 30.3 W.
    QVERIFY2(found->text.find("up to 30") != std::string::npos, found->text.c_str());
  }

  void first_power_holds_the_keys() {
    add("first_power", "First power");
    const Id gate = shown().test.id;
    QCOMPARE(sheet()->primary()->text(), QString("Plan the steps"));
    sheet()->primary()->click();
    QCOMPARE(shown().steps.size(), 7U);
    add("gain", "Gain");
    QVERIFY(!shown().may_be_keyed());
    QCOMPARE(sheet()->primary()->text(), QString("Finish the checks first"));
    sheet()->primary()->click();
    QCOMPARE(shown().test.id, gate);
    for (int row = 0; row < 7; ++row) type(row, "Seen to", row == 5 ? "" : "yes");
    type(5, "A", "0.52");
    QVERIFY(sheet()->verdict()->content().sentence.contains("upwards"));
    for (const Test& t : tests(window().session().shack(), window().session().evaluation_id()))
      if (t.characteristic == "gain")
        window().show_evaluation(window().session().evaluation_id(), t.id);
    QVERIFY(shown().may_be_keyed());
  }

  void two_tests_are_compared() {
    add("gain", "Before");
    const Id before = shown().test.id;
    sheet()->add_recordings(
        {csv("pin_before_dbm,pout_dbm\n20,33.9\n30,43.8\n33,46.1\n34.8,46.9\n")});
    add("gain", "After");
    sheet()->add_recordings(
        {csv("pin_before_dbm,pout_dbm\n20,34.4\n30,44.3\n33,46.6\n34.8,47.3\n")});
    nlohmann::json all = window().session().settings();
    all["compare_with"] = before;
    TestEdits(window().session()).set_settings("comparison", all);
    QVERIFY(shown().evidence.compared != nullptr && shown().evidence.is_compared_on_same);
    sheet()->show_below(1);
    const QString change = sheet()->results()->index(0, 3).data().toString();
    QVERIFY2(change.startsWith("better by 0."), qPrintable(change));
    // A row of figures is of no step.
    const int chosen = sheet()->chosen();
    emit sheet() -> table()->row_chosen(0);
    QCOMPARE(sheet()->chosen(), chosen);
    window().session().undo_stack().undo();
    QVERIFY(shown().evidence.compared == nullptr);
  }

  void what_a_file_lacks_is_said() {
    add("gain", "Gain");
    QSignalSpy failed(sheet(), &Sheet::failed);
    sheet()->add_recordings({csv("a,b\n1,2\n")});
    QCOMPARE(failed.count(), 1);
    QVERIFY(failed.front().at(1).toString().contains("pin_before_dbm"));
    sheet()->add_recordings({csv("pin_before_dbm,pout_dbm\n20,loud\n")});
    QCOMPARE(failed.count(), 2);
    QVERIFY(failed.back().at(0).toString().contains("line 2"));
    QCOMPARE(shown().steps.size(), 0U);
  }
};

HERON_WINDOW_TEST(AmplifierSheetTest)

}  // namespace amplifier_sheet_test

#include "amplifier_sheet_test.moc"
