// A receiver's sensitivity on the sheet that all methods share: typed into the grid, and heard in
// recordings.

#include "app/export/card_pdf.h"
#include "app/plot/plot_view.h"
#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "app/sheet/hookup_strip.h"
#include "app/shell/message_bar.h"
#include "app/table/figure_table.h"
#include "app/table/typed_grid.h"
#include "app/theme/qt_text.h"
#include "app/widget/text_card.h"
#include "tests/app/receiver_window.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace receiver_sheet_test {

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
    // The worst reading is looked at first; a row that is chosen stands out in the plot.
    w.sheet().show_below(0);
    FigureTable& table = *w.sheet().table();
    QCOMPARE(table.model()->index(table.chosen_row(), 0).data().toString(), QString("S1"));
    table.setCurrentIndex(table.model()->index(4, 0));
    QCOMPARE(w.sheet().plot()->mark(), std::string("S9"));
    QCOMPARE(table.chosen_row(), 4);
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

  /// Only what needs a look, its foot as links, and what is best measured next.
  void the_grid_shows_what_is_left_and_goes_there() {
    ReceiverWindow w;
    for (const char* step : {"7.1 MHz", "14.2 MHz", "21.2 MHz"})
      StepEdits(w.window->session()).add_step(step);
    for (int row = 0; row < 3; ++row) {
      w.type(row, "Level", "-113 dBm");
      w.type(row, "Noise only", "50 51 49 mV");
      w.type(row, "Tone and noise", row == 2 ? "nothing" : "158 157 159 mV");
    }
    TestEdits(w.window->session()).add_test("conversion", "Gain", "");
    w.window->session().settle();
    const Id gain = w.shown().test.id;
    StepEdits(w.window->session()).add_step("7.1 MHz");
    w.type(0, "Input", "-53 dBm");
    w.type(0, "At the IF", "-30 dBm");
    TestEdits(w.window->session()).add_test("receiver", "Receiver grid", "");
    w.window->session().settle();
    const Id grid = w.shown().test.id;
    FigureTable* table = w.sheet().table();
    const QAbstractItemModel& rows = *table->model();
    QCOMPARE(rows.rowCount(), 4);
    // Words stand in place of what a deaf band cannot show yet.
    QVERIFY(rows.index(2, 2).data().toString().startsWith("Nothing heard."));
    QVERIFY(table->columnSpan(2, 2) > 1);
    QVERIFY2(
        rows.index(0, 3).data(Qt::AccessibleTextRole).toString().startsWith("7.1 MHz, IF gain"),
        qPrintable(rows.index(0, 3).data(Qt::AccessibleTextRole).toString()));
    Segmented* shown = w.sheet().shown_rows();
    QVERIFY(shown->isVisible());
    emit shown->chosen(2);  // not measured: 14.2 and 21.2 MHz lack their gain, all lack S9
    QCOMPARE(rows.rowCount(), 4);
    TestEdits(w.window->session()).set_settings("by band", [&] {
      nlohmann::json all = w.window->session().settings();
      all["receiver"]["fill_by"] = "band";
      return all;
    }());
    w.window->session().settle();
    // The order is a switch beside it, too.
    Segmented* order = nullptr;
    for (Segmented* one : w.sheet().findChildren<Segmented*>())
      if (one->accessibleName() == "Filled by") order = one;
    QVERIFY(order != nullptr && order->isVisible());
    QCOMPARE(order->current_text(), QString("by band"));
    emit order->chosen(0);
    w.window->session().settle();
    QCOMPARE(w.shown().evidence.settings["receiver"]["fill_by"].get<std::string>(),
             std::string("test"));
    NextCard* next = w.sheet().next_card();
    QVERIFY(next->isVisible());
    QVERIFY2(next->entries().front()->text() == "Gain, 14.2 MHz",
             qPrintable(next->entries().front()->text()));
    next->entries().front()->click();
    w.window->session().settle();
    QCOMPARE(w.shown().test.id, gain);
    QCOMPARE(w.shown().steps.size(), 2U);
    w.window->show_evaluation(w.made.evaluation_id, grid);
    w.window->session().settle();
    // A click at the foot of a column goes there without adding anything.
    const QModelIndex foot = rows.index(rows.rowCount() - 1, 3);
    QCOMPARE(foot.data().toString(), QString("1 cell, 2 + 4 min"));
    QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, table->visualRect(foot).center());
    w.window->session().settle();
    QCOMPARE(w.shown().test.id, gain);
    QCOMPARE(w.shown().steps.size(), 2U);
  }

  /// The grid of another evaluation, chosen in a menu: its tests are read there, too.
  void a_grid_is_compared_with_that_of_another_evaluation() {
    ReceiverWindow w;
    const auto measure = [&](const char* on) {
      StepEdits(w.window->session()).add_step("14.2 MHz");
      w.type(0, "Level", "-113 dBm");
      w.type(0, "Noise only", "50 51 49 mV");
      w.type(0, "Tone and noise", on);
      TestEdits(w.window->session()).add_test("receiver", "Receiver grid", "");
      w.window->session().settle();
    };
    measure("363 361 365 mV");
    w.window->session().settle();
    const Id later = add_evaluation(w.window->session().shack(), w.made.device_id, "After");
    w.window->show_evaluation(later);
    TestEdits(w.window->session()).add_test("sensitivity", "Receiver", "SSB");
    w.window->session().settle();
    measure("158 157 159 mV");
    QCOMPARE(w.shown().result.tables.size(), 1U);
    QVERIFY(choose_entry(w.sheet().more()->menu(), "Reedling 30, Before Skerry Point"));
    const Result& r = w.shown().result;
    QCOMPARE(r.tables.size(), 2U);
    QVERIFY2(r.tables[1].rows[0].cells[1].text.starts_with("worse by 7."),
             r.tables[1].rows[0].cells[1].text.c_str());
    // In a window that is wide enough its figures stand beside.
    FigureTable* table = w.sheet().table();
    const auto is_beside = [table] {
      for (int c = 0; c < table->model()->columnCount(); ++c)
        if (table->model()->headerData(c, Qt::Horizontal).toString().startsWith("Then: "))
          return !table->isColumnHidden(c) && table->columnWidth(c) > 100;
      return false;
    };
    QVERIFY(!is_beside());
    w.window->resize(1920, 1000);
    QTRY_VERIFY(is_beside());
    w.window->session().undo_stack().undo();
    QCOMPARE(w.shown().result.tables.size(), 1U);
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

HERON_WINDOW_TEST(ReceiverSheetTest)

}  // namespace receiver_sheet_test

#include "receiver_sheet_test.moc"
