// Drives the real window, offscreen, and checks what a user would see.
#include <QAccessible>
#include <QApplication>
#include <QClipboard>
#include <QMimeData>
#include <QPlainTextEdit>
#include <QSettings>
#include <QStandardPaths>
#include <QtTest>
#include <random>

#include "app/plot/plot_dress.h"
#include "app/session/test_edits.h"
#include "app/sheet/uncertainty_card.h"
#include "app/shell/main_window.h"
#include "app/shell/window_files.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "core/signal/write_wav.h"
#include "tests/app/made_wav.h"
#include "tests/app/open_window.h"
#include "tests/app/two_tone_session.h"
#include "tests/test_program.h"

using namespace heron;

namespace window_test {

using heron::testing::answer_next;
using heron::testing::OpenWindow;
using heron::testing::points_of;
using heron::testing::write_wav;
using heron::testing::x_range_of;

namespace {

void drop(QWidget* target, const QString& path) {
  QMimeData mime;
  mime.setUrls({QUrl::fromLocalFile(path)});
  QDragEnterEvent enter(QPoint(50, 50), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(target, &enter);
  QVERIFY(enter.isAccepted());
  QDropEvent event(QPointF(50, 50), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(target, &event);
}

}  // namespace

class WindowTest : public QObject {
  Q_OBJECT
  std::unique_ptr<OpenWindow> open_;

  MethodSheet* sheet() { return open_->window->sheet(); }
  QString verdict() { return sheet()->verdict()->accessibleName(); }
  void wait_until_read() { QTRY_VERIFY_WITH_TIMEOUT(!sheet()->is_busy(), 20000); }

 private slots:
  void initTestCase() { QVERIFY(heron::testing::prepare_window_tests("even-heron-test")); }
  void init() {
    open_ = std::make_unique<OpenWindow>();
    open_->window->show_evaluation(open_->made.evaluation_id);
  }
  void cleanup() { open_.reset(); }

  void the_verdict_is_read_at_once() {
    QVERIFY(verdict().contains("Pass"));
    QVERIFY(verdict().contains("At 30 W"));
    QVERIFY(verdict().contains(QString::fromUtf8("limit −30 dB")));
    QCOMPARE(sheet()->table()->model()->rowCount(), 2);
    QCOMPARE(points_of(*sheet()->plot(), PlotLayer::Kind::pennant).size(), 10U);
    sheet()->show_below(1);
    QCOMPARE(sheet()->table()->model()->rowCount(), 10);
  }

  void a_dropped_recording_is_analysed_and_stays() {
    QTest::keyClick(sheet()->table(), Qt::Key_Down);
    QCOMPARE(sheet()->chosen_step(), 1);
    QVERIFY(verdict().contains("Not measured"));
    const QString wav = open_->made.folder.filePath("loud.wav");
    write_wav(wav, -18.0);
    drop(sheet(), wav);
    wait_until_read();
    QVERIFY2(verdict().contains("Fail"), qPrintable(verdict()));
    // c / (1 - 3 c) with c = -18 dB, 6.02 dB lower relative to PEP.
    QVERIFY(verdict().contains(QString::fromUtf8("−19.9")));
    // Killed and opened again, everything is there.
    QFile::remove(wav);
    open_->reopen();
    open_->window->show_evaluation(open_->made.evaluation_id);
    sheet()->choose(1);
    QVERIFY(verdict().contains("Fail"));
  }

  void undo_takes_a_recording_off_and_redo_puts_it_back() {
    sheet()->choose(1);
    const QString wav = open_->made.folder.filePath("a.wav");
    write_wav(wav, -30.0);
    drop(sheet(), wav);
    wait_until_read();
    QVERIFY(!verdict().contains("Not measured"));
    QTest::keyClick(open_->window.get(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(verdict().contains("Not measured"));
    QTest::keyClick(open_->window.get(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    QVERIFY(!verdict().contains("Not measured"));
  }

  void the_convention_changes_every_figure_and_no_verdict() {
    const double margin = sheet()->verdict()->content().mark.margin;
    const double pep = sheet()->verdict()->content().value.mid(1).toDouble();
    sheet()->convention()->setFocus();
    QTest::keyClick(sheet()->convention()->focusProxy(), Qt::Key_Left);
    const double tone = sheet()->verdict()->content().value.mid(1).toDouble();
    QVERIFY(std::abs(pep - tone - 6.02) < 0.06);
    QVERIFY(std::abs(sheet()->verdict()->content().mark.margin - margin) < 1e-9);
    // A screen reader hears one of a group, and which.
    const QAccessibleInterface* chosen =
        QAccessible::queryAccessibleInterface(sheet()->convention()->focusProxy());
    QCOMPARE(chosen->role(), QAccessible::RadioButton);
    QVERIFY(chosen->state().checked && chosen->state().focused);
    QCOMPARE(chosen->text(QAccessible::Name), QStringLiteral("Relative to: one tone"));
    QVERIFY(verdict().contains(QString::fromUtf8("limit −24 dB")));
    QVERIFY(sheet()->plot()->plot().panels.front().y.title.find("one tone") != std::string::npos);
    QTest::keyClick(open_->window.get(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(sheet()->convention()->current(), 1);
  }

  void a_typed_output_is_understood_kept_and_undone() {
    QLineEdit* edit = sheet()->readings()->output()->edit();
    edit->setFocus();
    edit->selectAll();
    QTest::keyClicks(edit, "31,5 W");
    QVERIFY(sheet()->readings()->output()->message().contains("44.98 dBm"));
    QTest::keyClick(edit, Qt::Key_Return);
    QCOMPARE(heron::testing::two_tone_of(open_->window->session())->steps[0].output->typed,
             std::string("31,5 W"));
    QVERIFY(std::abs(heron::testing::two_tone_of(open_->window->session())->steps[0].output->dbm -
                     44.983) < 1e-3);
    QCOMPARE(sheet()->table()->model()->index(0, 1).data().toString(), QString("31.5"));
    edit->selectAll();
    QTest::keyClicks(edit, "thirty");
    QTest::keyClick(edit, Qt::Key_Return);
    QVERIFY(sheet()->readings()->output()->message().contains("30 W"));
    QCOMPARE(heron::testing::two_tone_of(open_->window->session())->steps[0].output->typed,
             std::string("31,5 W"));
    open_->window->session().undo_stack().undo();
    QCOMPARE(heron::testing::two_tone_of(open_->window->session())->steps[0].output->typed,
             std::string("30 W"));
  }

  void a_signed_test_is_closed_until_the_signature_is_taken_back() {
    sheet()->readings()->note()->setFocus();
    QTest::keyClicks(sheet()->readings()->note(), "bias 320 mA");
    // A key pressed once too often never comes to signing: only the button asks for the name.
    QTest::keyClick(open_->window.get(), Qt::Key_Return, Qt::ControlModifier);
    QVERIFY(QApplication::activeModalWidget() == nullptr);
    QVERIFY(!heron::testing::two_tone_of(open_->window->session())->test.is_signed());
    answer_next("Both of us");
    QTest::mouseClick(sheet()->primary(), Qt::LeftButton);
    QTRY_VERIFY(heron::testing::two_tone_of(open_->window->session())->test.is_signed());
    QCOMPARE(heron::testing::two_tone_of(open_->window->session())->test.note,
             std::string("bias 320 mA"));
    QCOMPARE(sheet()->primary()->text(), QString("Signed off"));
    QVERIFY(!sheet()->primary()->isEnabled());
    QVERIFY(!sheet()->readings()->output()->isEnabled());
    TestEdits(open_->window->session()).set_limit(std::nullopt);
    QVERIFY(open_->window->messages()->text().contains("signed off"));
    QVERIFY(heron::testing::two_tone_of(open_->window->session())->test.limit.has_value());
    TestEdits(open_->window->session()).take_back_signature();
    QVERIFY(sheet()->primary()->isEnabled());
  }

  void a_recording_shows_when_it_was_keyed_and_another_part_can_be_chosen() {
    TwoToneSignal tones;
    tones.seconds = 3.0;
    tones.nonlinearity.coefficients = {-0.3};
    tones.noise_dbfs = -60.0;
    std::vector<std::complex<float>> x(2 * 48000);
    std::mt19937_64 random(3);
    add_noise(x, -60.0, random);
    const auto keyed = generate_two_tone(tones);
    x.insert(x.end(), keyed.begin(), keyed.end());
    const QString path = open_->made.folder.filePath("early.wav");
    heron::write_wav(memory_capture(x, 48000.0), path.toStdString());
    sheet()->choose(1);
    drop(sheet(), path);
    wait_until_read();
    const auto measured = [&] {
      return heron::testing::two_tone_of(open_->window->session())->analyses[1]->parts->measured;
    };
    QVERIFY(measured().start_s >= 2.0);
    QVERIFY(sheet()->remarks()->text().contains("Keyed from 2.0"));
    PartBand* band = sheet()->part_band();
    QVERIFY(band->isVisible());
    // Its end is dragged to the left.
    const auto at = [&](double s) { return QPoint(qRound(band->x_of(s)), band->height() - 8); };
    QTest::mousePress(band, Qt::LeftButton, {}, at(5.0));
    QTest::mouseMove(band, at(4.5));
    QTest::mouseMove(band, at(4.0));
    QTest::mouseRelease(band, Qt::LeftButton, {}, at(4.0));
    wait_until_read();
    QTRY_VERIFY(std::abs(measured().end_s() - 4.0) < 0.02);
    QVERIFY(sheet()->remarks()->text().contains("as chosen"));
    // Typed from the keyboard, then given back to the program; each can be undone.
    answer_next("2.5 to 4 s");
    band->setFocus();
    QTest::keyClick(band, Qt::Key_Return);
    wait_until_read();
    QTRY_VERIFY(measured() == (TimeSpan{2.5, 1.5}));
    QTest::keyClick(band, Qt::Key_Delete);
    wait_until_read();
    QTRY_VERIFY(
        !heron::testing::two_tone_of(open_->window->session())->analyses[1]->parts->is_chosen);
    heron::testing::press(*open_->window, open_->window.get(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(measured() == (TimeSpan{2.5, 1.5}));
    QVERIFY(open_->window->messages()->text().contains("measured part"));
  }

  void a_bad_file_is_explained_and_nothing_is_lost() {
    const QString path = open_->made.folder.filePath("letter.wav");
    QFile file(path);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("not a recording at all");
    file.close();
    drop(sheet(), path);
    wait_until_read();
    QVERIFY(open_->window->messages()->text().contains("letter.wav"));
    QVERIFY(open_->window->messages()->text().contains("neither a WAV nor a SigMF"));
    QVERIFY(verdict().contains("Pass"));
    QTest::keyClick(open_->window.get(), Qt::Key_Escape);
    QVERIFY(open_->window->messages()->text().isEmpty());
  }

  void a_table_cell_and_its_flag_are_one_choice() {
    auto* products = sheet()->table();
    sheet()->show_below(1);
    products->setCurrentIndex(products->model()->index(3, 0));
    QCOMPARE(sheet()->plot()->mark(), std::string("im5_upper"));
    emit sheet() -> plot()->mark_chosen("im7_lower");
    QCOMPARE(products->model()->index(products->chosen_row(), 0).data().toString(),
             QString("IM7 lower"));
    sheet()->show_below(0);
    emit sheet() -> table()->cell_chosen(0, 2);
    QVERIFY(sheet()->plot()->mark().starts_with("im3_"));
  }

  void a_click_on_a_flag_chooses_its_product() {
    PlotView* plot = sheet()->plot();
    const PlotPoint pennant = points_of(*plot, PlotLayer::Kind::pennant)[1];
    QCPAxisRect* rect = plot->axisRect(0);
    const double x = rect->axis(QCPAxis::atBottom)->coordToPixel(pennant.x);
    for (int y = rect->top(); y < rect->bottom() && plot->mark().empty(); y += 3)
      QTest::mouseClick(plot, Qt::LeftButton, {},
                        QPoint(static_cast<int>(x) + (pennant.is_left ? -8 : 8), y));
    QCOMPARE(plot->mark(), pennant.mark);
  }

  void the_plot_is_zoomed_read_and_saved() {
    PlotView* plot = sheet()->plot();
    const double before = x_range_of(*plot).size();
    plot->setFocus();
    QTest::keyClick(plot, Qt::Key_Plus);
    QVERIFY(x_range_of(*plot).size() < before);
    QTest::keyClick(plot, Qt::Key_Right);
    QTest::keyClick(plot, Qt::Key_0);
    QCOMPARE(x_range_of(*plot).size(), before);
    for (const char* name : {"p.svg", "p.png"}) {
      QString reason;
      QVERIFY(save_plot(*plot, open_->made.folder.filePath(name), "plot", &reason));
      QVERIFY(QFileInfo(open_->made.folder.filePath(name)).size() > 3000);
    }
    QString reason;
    QVERIFY(!save_plot(*plot, "/nowhere/p.png", "plot", &reason));
    QVERIFY(!reason.isEmpty());
  }

  void tables_go_to_the_clipboard_with_their_heads() {
    sheet()->table()->setFocus();
    QTest::keyClick(sheet()->table(), Qt::Key_C, Qt::ControlModifier);
    const QStringList lines = QApplication::clipboard()->text().split('\n');
    QCOMPARE(lines.size(), 2);
    QVERIFY(lines[0].startsWith("Drive step\tOutput, W\tIM3"));
    QVERIFY(lines[1].startsWith("30 W\t30.0\t") && lines[1].endsWith("Pass"));
  }

  void every_kind_of_export_is_written_and_comes_back() {
    for (const char* ending : {"pdf", "html", "csv", "json", "zip"}) {
      const QString path = open_->made.folder.filePath(QString("report.") + ending);
      QVERIFY2(heron::testing::exported(*open_->window, path),
               qPrintable(open_->window->messages()->text()));
      QVERIFY(open_->window->messages()->text().contains("Saved"));
      QVERIFY(QFileInfo(path).size() > 500);
    }
    QFile pdf(open_->made.folder.filePath("report.pdf"));
    QVERIFY(pdf.open(QIODevice::ReadOnly));
    QVERIFY(pdf.read(5) == "%PDF-");
    for (const char* path : {"/nowhere/report.pdf", "/nowhere/report.zip"}) {
      QVERIFY(!heron::testing::exported(*open_->window, path));
      QVERIFY2(open_->window->messages()->text().contains("be written"),
               qPrintable(open_->window->messages()->text()));
    }
    QTest::keyClick(open_->window.get(), Qt::Key_Escape);
    open_->window->files()->import_from(open_->made.folder.filePath("report.zip"));
    QVERIFY(open_->window->messages()->is_working());
    open_->window->files()->import_from(
        open_->made.folder.filePath("report.zip"));  // one at a time
    QVERIFY(open_->window->messages()->text().contains("still being processed"));
    // The same evaluation is here already: that is noticed, and asked.
    heron::testing::confirm_next();
    QTRY_VERIFY(open_->window->session().evaluation_id() != open_->made.evaluation_id);
    QVERIFY(verdict().contains("Pass"));
    QVERIFY(open_->window->messages()->text().contains("Imported report.zip"));
  }

  void a_second_window_reads_only() {
    MainWindow second;
    QVERIFY(second.open_shack(open_->made.folder.path()));
    QVERIFY(second.messages()->text().contains("another window"));
    second.show_evaluation(open_->made.evaluation_id);
    QVERIFY(!second.sheet()->primary()->isEnabled());
    TestEdits(second.session()).set_note("x");
    QVERIFY(heron::testing::two_tone_of(second.session())->test.note.empty());
    QVERIFY(second.sheet()->verdict()->accessibleName().contains("Pass"));
  }

  void the_command_box_finds_devices_tests_and_actions() {
    QTest::keyClick(open_->window.get(), Qt::Key_K, Qt::ControlModifier);
    QTRY_VERIFY(open_->window->command_box()->isVisible());
    QTest::keyClicks(open_->window->command_box()->edit(), "dark");
    QCOMPARE(open_->window->command_box()->shown().size(), 1);
    QTest::keyClick(open_->window->command_box()->edit(), Qt::Key_Return);
    QVERIFY(open_->window->is_dark());
    QTest::keyClick(open_->window.get(), Qt::Key_T, Qt::ControlModifier);
    QVERIFY(!open_->window->is_dark());
    QTest::keyClick(open_->window.get(), Qt::Key_K, Qt::ControlModifier);
    QTest::keyClicks(open_->window->command_box()->edit(), "two-tone reedling");
    QVERIFY(open_->window->command_box()->shown().size() >= 1);
    QTest::keyClick(open_->window->command_box()->edit(), Qt::Key_Escape);
    QVERIFY(!open_->window->command_box()->isVisible());
  }

  void the_shack_shows_and_opens_the_figure() {
    open_->window->show_shack();
    const auto* model = open_->window->shack_view()->matrix()->model();
    QCOMPARE(model->rowCount(), 1);
    // It has a column for what is asked of its one device, and for nothing else.
    QCOMPARE(model->columnCount(), 3);
    QVERIFY(model->index(0, 1).data().toString().contains("Pass"));
    open_->window->shack_view()->matrix()->setCurrentIndex(model->index(0, 1));
    QTest::keyClick(open_->window->shack_view()->matrix(), Qt::Key_Return);
    QVERIFY(open_->window->evaluation_page()->isVisible());
  }

  void what_is_no_shack_is_explained_and_the_open_one_stays() {
    QTemporaryDir empty;
    QVERIFY(!open_->window->open_shack(empty.path()));
    QVERIFY(open_->window->messages()->text().contains("no shack"));
    QVERIFY(open_->window->session().is_open());
    QVERIFY(verdict().contains("Pass"));
  }

  void a_new_device_gets_a_test_of_its_own() {
    heron::testing::plan_next([](PlanDialog& dialog) {
      for (int i = 0; i < dialog.list()->count(); ++i) {
        QListWidgetItem& item = *dialog.list()->item(i);
        item.setCheckState(item.text() == "Two-tone products" ? Qt::Checked : Qt::Unchecked);
      }
      dialog.accept();
    });
    emit open_->window->shack_view()->new_evaluation_asked(open_->made.device_id);
    QCOMPARE(open_->window->session().course().size(), 1U);
    QVERIFY(verdict().contains("Not measured"));
    QVERIFY(sheet()->primary()->text().contains("Add a recording"));
    QVERIFY(heron::testing::two_tone_of(open_->window->session())->test.limit.has_value());
  }

  void every_control_has_a_name_and_can_be_reached() {
    int checked = 0;
    for (QWidget* w : open_->window->findChildren<QWidget*>()) {
      if (!w->isVisible() || w->focusPolicy() == Qt::NoFocus ||
          w->accessibleName().isEmpty() == false) {
        checked += w->isVisible() && w->focusPolicy() != Qt::NoFocus ? 1 : 0;
        continue;
      }
      const bool is_part = qobject_cast<QAbstractScrollArea*>(w->parentWidget()) != nullptr;
      const bool is_label = qobject_cast<QLabel*>(w) != nullptr;
      QVERIFY2(is_part || is_label,
               qPrintable(QString("%1 in %2 has no name")
                              .arg(w->metaObject()->className(),
                                   w->parentWidget()->metaObject()->className())));
    }
    QVERIFY(checked >= 12);
  }

  void the_budget_adds_up() {
    const auto t = heron::testing::two_tone_of(open_->window->session());
    Figure f = product_figure(*t->analyses[0], *t->analyses[0]->worst(), kRePep);
    f.contributions.push_back({"recorder linearity", 0.3, Scope::common});
    UncertaintyCard card(f, "here", 5.0, open_->window.get());
    QVERIFY(card.text().contains("recorder linearity: \u00b1 0.60 dB"));
    QVERIFY(card.text().contains("common to all steps"));
    QVERIFY(card.text().contains("noise in the recording"));
  }

  void geometry_and_theme_are_remembered() {
    open_->window->set_dark(true);
    open_->window->resize(1300, 820);
    open_->window->close();
    QVERIFY(QSettings().value("window/night").toBool());
    MainWindow again;
    QCOMPARE(again.size(), QSize(1300, 820));
    open_->window->set_dark(false);
  }
};

HERON_WINDOW_TEST(WindowTest)

}  // namespace window_test

#include "window_test.moc"
