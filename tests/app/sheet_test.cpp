// The two-tone sheet as a person meets it: what it says in each state, and whether it can be read.
#include <QPlainTextEdit>
#include <QSettings>
#include <QStandardPaths>
#include <QtTest>

#include "app/plot/pennant_marks.h"
#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "app/sheet/uncertainty_card.h"
#include "app/shell/main_window.h"
#include "core/quantity/format.h"
#include "tests/app/made_wav.h"
#include "tests/app/open_window.h"
#include "tests/app/two_tone_session.h"
#include "tests/app/whole_words.h"
#include "tests/test_program.h"

using namespace heron;

namespace sheet_test {

using heron::testing::answer_next;
using heron::testing::OpenWindow;
using heron::testing::points_of;
using heron::testing::write_wav;

namespace {

Limit limit_at(double value) {
  return {"own limit", Sense::at_most, value, "dB", kRePep, 20.0};
}

}  // namespace

class SheetTest : public QObject {
  Q_OBJECT
  std::unique_ptr<OpenWindow> open_;

  MethodSheet* sheet() { return open_->window->sheet(); }
  Session& session() { return open_->window->session(); }
  const VerdictCardContent& content() { return sheet()->verdict()->content(); }

  void let_it_settle() {
    for (int i = 0; i < 3; ++i) QApplication::processEvents();
  }

 private slots:
  void initTestCase() { QVERIFY(heron::testing::prepare_window_tests("even-heron-sheet-test")); }
  void init() {
    open_ = std::make_unique<OpenWindow>();
    open_->window->show_evaluation(open_->made.evaluation_id);
  }
  void cleanup() { open_.reset(); }

  void each_verdict_has_its_word_and_its_sentence_data() {
    QTest::addColumn<double>("distance");  // of the limit above the worst product
    QTest::addColumn<QString>("word");
    QTest::addColumn<QString>("sentence");
    QTest::newRow("pass") << 6.0 << "Pass" << "inside the limit, more than the uncertainty";
    QTest::newRow("close, inside") << 0.2 << "Too close" << "inside the limit, but";
    QTest::newRow("close, outside") << -0.2 << "Too close" << "outside the limit";
    QTest::newRow("fail") << -6.0 << "Fail" << "outside the limit, more than the uncertainty";
  }
  void each_verdict_has_its_word_and_its_sentence() {
    QFETCH(double, distance);
    QFETCH(QString, word);
    QFETCH(QString, sentence);
    answer_next("0.7");
    trigger_menu("How good is the recorder");
    const double worst = heron::testing::two_tone_of(session())->analyses[0]->worst()->level_db_pep;
    TestEdits(session()).set_limit(limit_at(worst + distance));
    QVERIFY2(sheet()->verdict()->accessibleName().contains(word),
             qPrintable(sheet()->verdict()->accessibleName()));
    QVERIFY2(content().sentence.contains(sentence), qPrintable(content().sentence));
    QVERIFY2(content().sentence.contains(
                 QString::fromStdString(number_text(std::abs(distance), 1)) + " dB"),
             qPrintable(content().sentence));
    QCOMPARE(content().mark.margin > 0, distance > 0);
    // The rail, the table and the shack say the same.
    const Verdict verdict = content().mark.verdict;
    QCOMPARE(session().course()[0].headline->judgement.verdict, verdict);
    QCOMPARE(sheet()->table()->model()->index(0, 8).data().toString(), word);
    open_->window->show_shack();
    QVERIFY(open_->window->shack_view()->matrix()->model()->index(0, 1).data().toString().contains(
        word));
  }

  void without_a_limit_the_figure_stands_and_nothing_is_judged() {
    TestEdits(session()).set_limit(std::nullopt);
    QVERIFY(!content().value.isEmpty());
    QVERIFY(content().limit.isEmpty());
    QVERIFY(content().sentence.contains("No limit is chosen"));
    QVERIFY(points_of(*sheet()->plot(), PlotLayer::Kind::mask).empty());
    session().undo_stack().undo();
    QVERIFY(content().limit.contains(QString::fromUtf8("−30 dB")));
  }

  void remarks_name_the_number_that_made_them_speak() {
    const QString remarks = sheet()->remarks()->text();
    const auto shown = heron::testing::two_tone_of(session());
    for (const Remark& r : shown->analyses[0]->remarks) {
      QVERIFY2(remarks.contains(QString::fromStdString(r.text)), r.text.c_str());
      QVERIFY2(QString::fromStdString(r.text).contains(QRegularExpression("[0-9]")),
               r.text.c_str());
    }
    sheet()->choose(1);
    QVERIFY(!sheet()->remarks()->isVisible() || !sheet()->remarks()->text().contains("IM11"));
  }

  void an_empty_step_says_what_to_do() {
    sheet()->choose(1);
    QVERIFY(sheet()->primary()->text().contains("10 W"));
    QVERIFY(content().mark.verdict == Verdict::not_taken);
    QVERIFY(content().sentence.contains("drop", Qt::CaseInsensitive) ||
            content().sentence.contains("recording"));
    QVERIFY(points_of(*sheet()->plot(), PlotLayer::Kind::pennant).empty());
    // The goal is drawn all the same.
    QVERIFY(!points_of(*sheet()->plot(), PlotLayer::Kind::mask).empty());
  }

  void the_limit_is_asked_for_and_nonsense_is_explained() {
    QString hint;
    answer_next("loud", &hint);
    trigger_menu("Another limit");
    QVERIFY2(hint.contains(QString::fromUtf8("like −30 dB")), qPrintable(hint));
    QCOMPARE(heron::testing::two_tone_of(session())->test.limit->value, -30.0);
    answer_next(QString::fromUtf8("−33,5"));
    trigger_menu("Another limit");
    QCOMPARE(heron::testing::two_tone_of(session())->test.limit->value, -33.5);
    QCOMPARE(heron::testing::two_tone_of(session())->test.limit->convention, std::string(kRePep));
    trigger_menu("No limit");
    QVERIFY(!heron::testing::two_tone_of(session())->test.limit);
  }

  void a_limit_typed_re_one_tone_is_kept_and_judged_in_it() {
    TestEdits(session()).set_convention(kReOneTone);
    answer_next("-24");
    trigger_menu("Another limit");
    const Limit limit = *heron::testing::two_tone_of(session())->test.limit;
    QCOMPARE(limit.convention, std::string(kReOneTone));
    const double margin = content().mark.margin;
    TestEdits(session()).set_convention(kRePep);
    QVERIFY(std::abs(content().mark.margin - margin) < 1e-9);
    QVERIFY(content().limit.contains(QString::fromUtf8("−30")));
  }

  void tones_and_flags_do_not_lie_over_each_other_data() {
    QTest::addColumn<int>("width");
    QTest::addColumn<int>("zooms");
    for (const int width : {1100, 1280, 1440, 1920}) {
      for (const int zooms : {0, 2, 5})
        QTest::newRow(qPrintable(QString("%1 wide, zoomed %2 times").arg(width).arg(zooms)))
            << width << zooms;
    }
  }
  void tones_and_flags_do_not_lie_over_each_other() {
    QFETCH(int, width);
    QFETCH(int, zooms);
    open_->window->resize(width, 800);
    let_it_settle();
    PlotView* plot = sheet()->plot();
    plot->setFocus();
    for (int i = 0; i < zooms; ++i) QTest::keyClick(plot, Qt::Key_Plus);
    plot->replot();
    const auto labels = label_boxes(*plot->axisRect(0), plot->plot().panels.front());
    QVERIFY(labels.size() > 2U || zooms > 0);
    for (std::size_t i = 0; i < labels.size(); ++i) {
      for (std::size_t j = std::max<std::size_t>(i + 1, 2); j < labels.size(); ++j) {
        QVERIFY2(!labels[i].intersects(labels[j]),
                 qPrintable(QString("labels %1 and %2").arg(i).arg(j)));
      }
    }
  }

  void words_are_whole_at_every_width_data() { heron::testing::add_widths_and_themes(); }
  void words_are_whole_at_every_width() {
    QFETCH(int, width);
    QFETCH(bool, dark);
    open_->window->set_dark(dark);
    open_->window->resize(width, 720);
    let_it_settle();
    heron::testing::verify_whole_words(*open_->window, 12);
    sheet()->show_view(1);
    let_it_settle();
    heron::testing::verify_whole_words(*open_->window, 12);
    sheet()->show_view(0);
    open_->window->set_dark(false);
  }

  void nothing_lies_over_its_neighbour() {
    for (const int width : {1100, 1280, 1920}) {
      open_->window->resize(width, 700);
      let_it_settle();
      for (const QWidget* parent : open_->window->findChildren<QWidget*>()) {
        if (!parent->isVisible() || parent->layout() == nullptr) continue;
        QList<const QWidget*> children;
        for (const QObject* o : parent->children()) {
          const auto* w = qobject_cast<const QWidget*>(o);
          if (w != nullptr && w->isVisible() && !w->isWindow()) children << w;
        }
        for (qsizetype i = 0; i < children.size(); ++i) {
          for (qsizetype j = i + 1; j < children.size(); ++j) {
            QVERIFY2(!children[i]->geometry().intersects(children[j]->geometry()),
                     qPrintable(QString("%1: %2 and %3")
                                    .arg(parent->metaObject()->className(),
                                         children[i]->metaObject()->className(),
                                         children[j]->metaObject()->className())));
          }
        }
      }
    }
  }

  void the_keyboard_reaches_everything_and_comes_round() {
    sheet()->table()->setFocus();
    QSet<const QWidget*> seen;
    const QWidget* first = QApplication::focusWidget();
    for (int i = 0; i < 60; ++i) {
      QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
      const QWidget* now = QApplication::focusWidget();
      QVERIFY(now != nullptr && now->isVisible());
      if (now == first) break;
      seen << now;
    }
    for (const QWidget* wanted : std::initializer_list<const QWidget*>{
             sheet()->plot(), sheet()->convention()->focusProxy(), sheet()->primary(),
             sheet()->readings()->output()->edit(), sheet()->readings()->note(),
             open_->window->rail()->list()})
      QVERIFY2(seen.contains(wanted), wanted->metaObject()->className());
    for (const char* keys : {"F6", "F6", "F6", "F6"}) {
      QTest::keySequence(open_->window.get(), QKeySequence(keys));
      QVERIFY(QApplication::focusWidget() != nullptr);
    }
  }

  void the_budget_opens_and_closes_by_keyboard() {
    emit sheet() -> verdict()->uncertainty_asked();
    QPointer<UncertaintyCard> card = open_->window->findChild<UncertaintyCard*>();
    QVERIFY(card != nullptr && card->isVisible());
    QVERIFY(card->text().contains("noise in the recording"));
    QTest::keyClick(card, Qt::Key_Escape);
    QTRY_VERIFY(card == nullptr);
  }

  void the_recorders_linearity_is_asked_for_as_an_interval() {
    answer_next("1,2");
    trigger_menu("How good is the recorder");
    QVERIFY(std::abs(heron::testing::two_tone_of(session())->settings.linearity_u_db - 0.6) < 1e-9);
    QVERIFY(content().uncertainty.startsWith("1.2"));
    QString hint;
    answer_next("-3", &hint);
    trigger_menu("How good is the recorder");
    QVERIFY2(hint.contains("from 0 to 60 dB"), qPrintable(hint));
    // In any unit: 5 % of power are 0.21 dB, and what was typed is kept.
    answer_next("5 %");
    trigger_menu("How good is the recorder");
    QVERIFY(std::abs(heron::testing::two_tone_of(session())->settings.linearity_u_db - 0.10595) <
            1e-4);
    QCOMPARE(session().planned()->test.settings["ladder"]["linearity_typed"].get<std::string>(),
             "5 %");
  }

  void a_note_is_kept_when_the_sheet_is_left() {
    sheet()->readings()->note()->setFocus();
    QTest::keyClicks(sheet()->readings()->note(), "fan off");
    open_->window->show_shack();
    QCOMPARE(test(session().shack(), open_->made.test_id).note, std::string("fan off"));
  }

  void a_removed_step_comes_back_with_its_recording() {
    const auto before = heron::testing::two_tone_of(session())->steps[0].capture->hash;
    StepEdits(session()).remove_step(0);
    QCOMPARE(sheet()->table()->model()->rowCount(), 1);
    QVERIFY(content().mark.verdict == Verdict::not_taken);
    QTest::keyClick(open_->window.get(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(sheet()->table()->model()->rowCount(), 2);
    QCOMPARE(heron::testing::two_tone_of(session())->steps[0].capture->hash, before);
  }

  void a_clipped_recording_is_shown_as_such() {
    TwoToneSignal s;
    s.seconds = 2.0;
    s.amplitude = 0.7;
    s.clip_level = 1.0;
    s.noise_dbfs = -70.0;
    const QString path = open_->made.folder.filePath("hot.wav");
    write_wav(memory_capture(generate_two_tone(s), s.sample_rate_hz), path.toStdString());
    sheet()->choose(1);
    sheet()->add_recordings({path});
    QTRY_VERIFY_WITH_TIMEOUT(!sheet()->is_busy(), 20000);
    QVERIFY2(sheet()->strip()->accessibleName().contains("clipped"),
             qPrintable(sheet()->strip()->accessibleName()));
    QVERIFY(sheet()->remarks()->text().contains("clip", Qt::CaseInsensitive));
  }

 private:
  /// Chooses an entry of any chip's menu by the start of its words.
  void trigger_menu(const QString& words) {
    for (Chip* chip : sheet()->findChildren<Chip*>()) {
      if (heron::testing::choose_entry(chip->menu(), words)) return;
    }
    QFAIL(qPrintable("no entry " + words));
  }
};

HERON_WINDOW_TEST(SheetTest)

}  // namespace sheet_test

#include "sheet_test.moc"
