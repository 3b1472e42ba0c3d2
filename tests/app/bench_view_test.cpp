// The bench, the level desk, and the ladder's chart and grid in the real window.
#include "app/bench/bench_view.h"

#include <QtTest>
#include <QtWidgets>

#include "app/plot/plot_dress.h"
#include "app/session/step_edits.h"
#include "core/chain/chain_json.h"
#include "core/error.h"
#include "core/quantity/levels.h"
#include "tests/app/made_wav.h"
#include "tests/app/open_window.h"
#include "tests/app/two_tone_session.h"
#include "tests/app/whole_words.h"
#include "tests/core/made_trace.h"
#include "tests/test_program.h"

using namespace heron;

namespace bench_view_test {

using heron::testing::answer_fields;
using heron::testing::answer_next;
using heron::testing::OpenWindow;
using heron::testing::points_of;

class BenchViewTest : public QObject {
  Q_OBJECT
  std::unique_ptr<OpenWindow> open_;

  MainWindow* window() { return open_->window.get(); }
  BenchView* bench_page() { return window()->bench_view(); }
  Session& session() { return window()->session(); }
  MethodSheet* sheet() { return window()->sheet(); }
  void key(QWidget* w, int k, Qt::KeyboardModifiers m = Qt::NoModifier) {
    heron::testing::press(*window(), w, k, m);
  }
  void type(QLineEdit* edit, const QString& text) { heron::testing::type_into(edit, text); }
  static void write(const QString& path, const QByteArray& text) {
    QFile file(path);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(text);
  }
  void drop(QWidget* on, const QString& path) {
    QMimeData mime;
    mime.setUrls({QUrl::fromLocalFile(path)});
    QDragEnterEvent enter({20, 20}, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(on, &enter);
    QDropEvent event({20, 20}, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(on, &event);
  }
  BenchItem shown() { return bench_entry(session().shack(), bench_page()->item_id()).item; }

 private slots:
  void initTestCase() { QVERIFY(heron::testing::prepare_window_tests("even-heron-bench-test")); }
  void init() {
    open_ = std::make_unique<OpenWindow>();
    window()->show_evaluation(open_->made.evaluation_id, open_->made.test_id);
    window()->activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(window()));
  }
  void cleanup() { open_.reset(); }

  void a_part_is_added_described_duplicated_and_retired() {
    key(window(), Qt::Key_B, Qt::ControlModifier);
    QTRY_VERIFY(bench_page()->isVisible());
    const Id id = bench_page()->add("attenuator");
    QVERIFY(id != 0);
    type(bench_page()->form()->edit("name"), "Pad, 30 dB");
    type(bench_page()->form()->edit("gain_db"), "-30 dB");
    type(bench_page()->form()->edit("max_input_w"), "43 dBm");
    type(bench_page()->form()->edit("u_db"), "3 %");
    QCOMPARE(shown().part.name, std::string("Pad, 30 dB"));
    QVERIFY(std::abs(*shown().part.max_input_w - 19.95) < 0.01);
    QCOMPARE(shown().typed.at("max_input_w"), std::string("43 dBm"));
    // A field that cannot be says so beside itself, and changes nothing.
    type(bench_page()->form()->edit("gain_db"), "+3 dB");
    QVERIFY2(bench_page()->form()->complaint("gain_db").contains("passive"),
             qPrintable(bench_page()->form()->complaint("gain_db")));
    QCOMPARE(shown().part.gain.largest_db(), -30.0);
    type(bench_page()->form()->edit("calibrated"), "soon");
    QVERIFY(bench_page()->form()->complaint("calibrated").contains("date"));
    type(bench_page()->form()->edit("calibrated"), "2020-01-01");
    QCOMPARE(bench_page()->calibration()->content().word, QString("Overdue"));
    QVERIFY(bench_page()->remarks()->text().contains("overdue"));
    bench_page()->duplicate();
    QCOMPARE(bench(session().shack()).size(), 2U);
    QCOMPARE(shown().part.name, std::string("Pad, 30 dB, copy"));
    key(window(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(bench(session().shack()).size(), 1U);
    BenchEdits(session()).set_retired(id, true);
    QVERIFY(bench(session().shack())[0].is_retired);
  }

  void a_touchstone_file_dropped_on_a_part_is_its_curve() {
    window()->show_bench();
    bench_page()->add("cable");
    const QString good = open_->made.folder.filePath("cable.s2p");
    write(good,
          "# MHz S DB R 50\n1 -30 0 -0.1 0 -0.1 0 -30 0\n30 -28 0 -0.4 0 -0.4 0 -29 0\n100 -20 0 "
          "-1 0 -1 0 -20 0\n");
    drop(bench_page(), good);
    QVERIFY(shown().part.network.has_value());
    QCOMPARE(bench_page()->curve()->picture().points.size(), 3U);
    QVERIFY2(bench_page()->curve()->picture().in_use_words.contains("14.2 MHz"),
             qPrintable(bench_page()->curve()->picture().in_use_words));
    QVERIFY(bench_page()->calibration()->content().value.startsWith("0.2"));
    // Outside its data there is no figure.
    type(bench_page()->frequency()->edit(), "144 MHz");
    QVERIFY(bench_page()->calibration()->content().explanation.contains("No data"));
    const QString bad = open_->made.folder.filePath("bad.s2p");
    write(bad, "# MHz S DB R 50\n1 -30 0 -0.1 0\n");
    drop(bench_page(), bad);
    QVERIFY2(window()->messages()->text().contains("bad.s2p"),
             qPrintable(window()->messages()->text()));
    QCOMPARE(shown().curve_name, std::string("cable.s2p"));
    // Imported from the menu it makes a part of its own, whatever is shown.
    const auto count = bench(session().shack()).size();
    bench_page()->take_files({good}, false);
    QCOMPARE(bench(session().shack()).size(), count + 1);
    QCOMPARE(shown().part.name, std::string("cable"));
    // A new part has nothing in its fields but what is usual, in grey.
    bench_page()->add("attenuator");
    QVERIFY(bench_page()->form()->edit("gain_db")->text().isEmpty());
    QCOMPARE(bench_page()->form()->edit("u_db")->placeholderText(), QString("usual: 0.3 dB"));
  }

  void the_bench_goes_out_and_comes_in_as_json() {
    window()->show_bench();
    bench_page()->add("generator");
    bench_page()->add("attenuator");
    const QString path = open_->made.folder.filePath("bench.json");
    QVERIFY(bench_page()->export_to(path));
    bench_page()->take_files({path});
    QCOMPARE(bench(session().shack()).size(), 4U);
    key(window(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(bench(session().shack()).size(), 2U);
    QVERIFY(!bench_page()->export_to("/nowhere/bench.json"));
    write(path, "{\"format\": \"teapot\"}");
    bench_page()->take_files({path});
    QVERIFY(window()->messages()->text().contains("not a bench file"));
  }

  void a_calibration_is_entered_and_the_old_one_kept() {
    window()->show_bench();
    bench_page()->add("attenuator");
    type(bench_page()->form()->edit("gain_db"), "-20 dB");
    type(bench_page()->form()->edit("calibrated"), "2025-01-10");
    QString hint;
    answer_fields({"tomorrow", "-20 dB", "0.1 dB"}, &hint);
    bench_page()->primary_action();
    QVERIFY2(hint.contains("not a date"), qPrintable(hint));
    hint.clear();
    answer_fields({"2026-02-03", "-20 dB", "loud"}, &hint);
    bench_page()->primary_action();
    QVERIFY2(hint.contains("loud") || hint.contains("number"), qPrintable(hint));
    QVERIFY(shown().past.empty());
    // Any unit of the quantity, and what was typed stays.
    answer_fields({"2026-02-03", QString::fromUtf8("−20.15 dB"), "5 %"});
    bench_page()->primary_action();
    QVERIFY(std::abs(2.0 * shown().part.u_db - 10.0 * std::log10(1.05)) < 1e-3);
    QCOMPARE(shown().typed.at("u_db"), std::string("5 %"));
    QCOMPARE(shown().part.gain.largest_db(), -20.15);
    QCOMPARE(shown().past.size(), 1U);
    QCOMPARE(*shown().past[0].gain_db, -20.0);
  }

  void an_empty_bench_says_what_to_do() {
    window()->show_bench();
    bool said = false;
    for (const QLabel* label : bench_page()->findChildren<QLabel*>())
      said = said || (label->isVisible() && label->text().contains("Touchstone"));
    QVERIFY(said);
  }

  void words_are_whole_at_every_width_data() { heron::testing::add_widths_and_themes(); }
  void words_are_whole_at_every_width() {
    QFETCH(int, width);
    QFETCH(bool, dark);
    window()->set_dark(dark);
    window()->resize(width, 760);
    window()->show_bench();
    bench_page()->add("sampler");
    bench_page()->add("attenuator");
    for (const bool details : {true, false}) {
      bench_page()->show_details(details);
      QTest::qWait(40);
      heron::testing::verify_whole_words(*window(), 10);
    }
    window()->set_dark(false);
  }

  // ---- The level desk

  void the_desk_pastes_into_the_field_one_came_from() {
    QLineEdit* edit = sheet()->readings()->output()->edit();
    edit->setFocus();
    edit->selectAll();
    key(window(), Qt::Key_L, Qt::ControlModifier);
    LevelDesk* desk = window()->level_desk();
    QTRY_VERIFY(desk->isVisible() && desk->edit()->hasFocus());
    desk->edit()->selectAll();
    QTest::keyClicks(desk->edit(), "31 W");
    QVERIFY(desk->rows().size() >= 10);
    QCOMPARE(desk->chosen_text(), QString("+44.91 dBm"));
    key(desk->edit(), Qt::Key_Down);
    key(desk->edit(), Qt::Key_Up);
    key(desk->edit(), Qt::Key_Return);
    QVERIFY(!desk->isVisible());
    QCOMPARE(edit->text(), QString("+44.91 dBm"));
    QVERIFY(edit->hasFocus());
    QCOMPARE(heron::testing::two_tone_of(session())->steps[0].output->typed,
             std::string("+44.91 dBm"));
    QVERIFY(std::abs(heron::testing::two_tone_of(session())->steps[0].output->dbm - 44.91) < 1e-9);
  }

  void the_desk_explains_what_it_cannot_read_and_shows_both_ends_of_a_hookup() {
    Chain chain;
    Part pad;
    pad.name = "pad";
    pad.kind = "attenuator";
    pad.gain = Gain(-40.0);
    Part end;
    end.name = "sampler";
    end.kind = "instrument";
    chain.parts = {pad, end};
    const Id hookup = BenchEdits(session()).add_hookup("A", chain);
    BenchEdits(session()).choose_hookup(open_->made.test_id, hookup);
    window()->open_level_desk();
    LevelDesk* desk = window()->level_desk();
    desk->edit()->setText("loud");
    QVERIFY2(desk->message().contains("30 W"), qPrintable(desk->message()));
    QVERIFY(desk->chosen_text().isEmpty());
    desk->edit()->setText("+40 dBm");
    QVERIFY(!desk->rows_after().empty());
    QVERIFY(std::abs(desk->rows_after()[0].value - 0.0) < 1e-9);
    QCOMPARE(desk->rows()[0].number, std::string("+40.00"));
    key(desk->edit(), Qt::Key_Escape);
    QVERIFY(!desk->isVisible());
  }

  // ---- The ladder

  void readings_are_typed_pasted_filled_down_and_questioned() {
    sheet()->show_grid();
    TypedGrid* grid = sheet()->grid();
    EvidenceModel* model = sheet()->evidence();
    QCOMPARE(model->rowCount(), 3);  // two steps and an empty row
    grid->setFocus();
    grid->setCurrentIndex(model->index(1, 1));
    // Typing opens the cell, Enter takes it over and moves on.
    QTest::keyClick(grid, Qt::Key_1);
    auto* editor = grid->viewport()->findChild<QLineEdit*>();
    QVERIFY(editor != nullptr);
    QTest::keyClicks(editor, "0 W");
    QTest::keyClick(editor, Qt::Key_Return);
    QCOMPARE(heron::testing::two_tone_of(session())->steps[1].output->typed, std::string("10 W"));
    QCOMPARE(grid->currentIndex().row(), 2);
    // A block from a spreadsheet, decimal commas and all, makes new steps.
    QApplication::clipboard()->setText("20 W\t20,3 W\t-33\t-36\n5 W\t5,1 W\t-46\t<-55\r\n");
    grid->setCurrentIndex(model->index(2, 0));
    key(grid, Qt::Key_V, Qt::ControlModifier);
    QCOMPARE(heron::testing::two_tone_of(session())->steps.size(), 4U);
    QCOMPARE(heron::testing::two_tone_of(session())->products(2).size(), 2U);
    QVERIFY(heron::testing::two_tone_of(session())->products(3)[1].is_bound);
    QVERIFY(heron::testing::two_tone_of(session())->doubts.empty());
    // What was read off a screen has an answer, and can be signed off.
    sheet()->choose(2);
    QVERIFY2(sheet()->verdict()->accessibleName().contains(QString::fromUtf8("−33.0")),
             qPrintable(sheet()->verdict()->accessibleName()));
    QVERIFY(sheet()->primary()->text().contains("Sign off"));
    // One step of undo for the whole block, and back.
    key(window(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(heron::testing::two_tone_of(session())->steps.size(), 2U);
    key(window(), Qt::Key_Y, Qt::ControlModifier);
    QCOMPARE(heron::testing::two_tone_of(session())->steps.size(), 4U);
    // Four times the power where 20 W were set: questioned, not changed.
    model->setData(model->index(2, 1), "81 W", Qt::EditRole);
    QCOMPARE(heron::testing::two_tone_of(session())->steps[2].output->typed, std::string("81 W"));
    QVERIFY(model->has_doubt(model->index(2, 1)));
    const QString tip = model->index(2, 1).data(Qt::ToolTipRole).toString();
    QVERIFY2(tip.contains("EMF") && tip.contains("+49.08 dBm"), qPrintable(tip));
    QVERIFY(sheet()->remarks()->text().contains("EMF"));
    key(window(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(!model->has_doubt(model->index(2, 1)));
    // Fill down takes the cell above; Delete empties.
    grid->setFocus();
    grid->setCurrentIndex(model->index(3, 2));
    key(grid, Qt::Key_D, Qt::ControlModifier);
    QCOMPARE(heron::testing::two_tone_of(session())->products(3)[0].level_db, -33.0);
    key(grid, Qt::Key_Delete);
    QCOMPARE(heron::testing::two_tone_of(session())->products(3).size(), 1U);
    // What is no level is said, and nothing of the block is taken.
    QApplication::clipboard()->setText("30 W\t30 W\n20 W\tloud");
    grid->setCurrentIndex(model->index(0, 0));
    key(grid, Qt::Key_V, Qt::ControlModifier);
    QVERIFY2(window()->messages()->text().contains("row 2"),
             qPrintable(window()->messages()->text()));
    QCOMPARE(heron::testing::two_tone_of(session())->steps[1].output->typed, std::string("10 W"));
  }

  void the_ladder_shows_its_sweet_spot_and_a_movable_ceiling() {
    const auto add = [&](const char* label, const char* output, double im3) {
      const Id id = StepEdits(session()).add_step(label);
      const auto& fields = session().general()->method->fields;
      StepEdits(session()).set_fields(
          "made", {{id, label, {{&fields[0], output}, {&fields[1], std::to_string(im3)}}}});
    };
    add("20 W", "20 W", -33.0);
    add("5 W", "5 W", -45.0);
    add("40 W", "40 W", -27.0);
    sheet()->show_view(1);
    const auto places = points_of(*sheet()->plot(), PlotLayer::Kind::place);
    QCOMPARE(places.front().word, std::string("sweet spot"));
    QCOMPARE(points_of(*sheet()->plot(), PlotLayer::Kind::trace).size(), 4U);
    // Its own limit is reached between 30 and 40 W; the remark names the watts.
    QVERIFY2(sheet()->remarks()->text().contains("The limit is reached at"),
             qPrintable(sheet()->remarks()->text()));
    answer_next("25 W");
    QVERIFY(heron::testing::choose_entry(sheet()->settings()->menu(), "Ceiling"));
    QVERIFY(std::abs(*heron::testing::two_tone_of(session())->ladder_settings.ceiling_dbm -
                     to_dbm(Watt{25.0}).value) < 1e-9);
    QCOMPARE(heron::testing::two_tone_of(session())->ladder_settings.ceiling_typed,
             std::string("25 W"));
    QVERIFY2(sheet()->verdict()->content().where.contains("25.0 W"),
             qPrintable(sheet()->verdict()->content().where));
    QVERIFY(sheet()->verdict()->content().explanation.contains("between steps"));
    sheet()->plot()->setFocus();
    key(sheet()->plot(), Qt::Key_Left);
    QVERIFY(
        std::abs(to_watt(Dbm{*heron::testing::two_tone_of(session())->ladder_settings.ceiling_dbm})
                     .value -
                 24.0) < 1e-6);
    key(sheet()->plot(), Qt::Key_Right, Qt::ShiftModifier);
    QVERIFY(
        std::abs(to_watt(Dbm{*heron::testing::two_tone_of(session())->ladder_settings.ceiling_dbm})
                     .value -
                 24.1) < 1e-6);
    key(window(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(
        std::abs(to_watt(Dbm{*heron::testing::two_tone_of(session())->ladder_settings.ceiling_dbm})
                     .value -
                 24.0) < 1e-6);
    QVERIFY(!sheet()->plot()->is_logarithmic());
    key(sheet()->plot(), Qt::Key_X);
    QVERIFY(sheet()->plot()->is_logarithmic());
    const QString svg = open_->made.folder.filePath("ladder.svg");
    QVERIFY(save_plot(*sheet()->plot(), svg, "ladder", nullptr));
    QVERIFY(QFileInfo(svg).size() > 2000);
    sheet()->show_view(0);
    QVERIFY(sheet()->plot()->isVisible());
  }

  void a_trace_of_an_analyser_becomes_a_step() {
    const QString path = open_->made.folder.filePath("analyser.csv");
    write(path, QByteArray::fromStdString(heron::testing::made_trace("\n", ';', true)));
    sheet()->choose(1);
    sheet()->add_recordings({path});
    QTRY_VERIFY_WITH_TIMEOUT(!sheet()->is_busy(), 20000);
    const auto a = heron::testing::two_tone_of(session())->analyses[1];
    QVERIFY(a.has_value());
    QVERIFY(std::abs(a->worst()->level_dbc + 29.0) < 0.1);
    QVERIFY(sheet()->plot()->plot().has_points());
    write(path, "frequency_hz,level_dbm\n1,2\n");
    sheet()->add_recordings({path});
    QTRY_VERIFY_WITH_TIMEOUT(!sheet()->is_busy(), 20000);
    QVERIFY(window()->messages()->text().contains("1 points"));
  }

  void two_steps_are_compared_without_what_they_share() {
    const QString path = open_->made.folder.filePath("b.wav");
    heron::testing::write_wav(path, -40.0);
    heron::testing::set_linearity(session(), 1.0);
    sheet()->choose(1);
    sheet()->add_recordings({path});
    QTRY_VERIFY_WITH_TIMEOUT(!sheet()->is_busy(), 20000);
    sheet()->choose(1);
    sheet()->compare_with(0);
    const VerdictCardContent& content = sheet()->verdict()->content();
    QVERIFY2(content.sentence.contains("better than 30 W"), qPrintable(content.sentence));
    QVERIFY(content.mark.before.has_value());
  }
};

HERON_WINDOW_TEST(BenchViewTest)

}  // namespace bench_view_test

#include "bench_view_test.moc"
