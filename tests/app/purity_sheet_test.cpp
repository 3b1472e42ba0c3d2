// Harmonics and spurs on the sheet that all methods share.
#include <QMimeData>

#include "app/live/live_ladder.h"
#include "app/session/test_edits.h"
#include "app/widget/text_card.h"
#include "core/method/method.h"
#include "core/method/purity/purity_result.h"
#include "core/method/purity/purity_settings.h"
#include "core/method/purity/purity_take.h"
#include "simbench/sim_server.h"
#include "store/instrument.h"
#include "tests/app/open_window.h"
#include "tests/store/made_places.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace purity_sheet_test {

namespace {

/// The made shack with an empty purity test shown.
struct PurityWindow : OpenWindow {
  QTemporaryDir files;
  PurityWindow() {
    window->show_evaluation(made.evaluation_id);
    TestEdits(session()).add_test("purity", "Harmonics and spurs", "14.200 MHz");
  }
  Session& session() { return window->session(); }
  MethodSheet& sheet() { return *window->sheet(); }
  const GeneralTest& test() { return *session().general(); }
  PurityTestSettings settings() { return purity_settings_from_json(test().test.settings); }
  Mask mask() { return purity_mask(test().evidence); }
  void set(const PurityTestSettings& s) {
    TestEdits(session()).set_settings("settings", with_purity_settings(test().test.settings, s));
  }
  const SettingField& field(std::string_view key) {
    const auto& all = test().method->settings;
    return *std::find_if(all.begin(), all.end(), [&](const auto& f) { return f.key == key; });
  }
  QStringList places(double attenuation_db = 0.0) {
    QStringList paths;
    for (const double center : {14.23e6, 28.43e6, 42.63e6})
      paths << QString::fromStdString(
          write_place(files.path().toStdString(), center, invented_lines(), attenuation_db)
              .string());
    return paths;
  }
  void drop(const QStringList& paths) {
    QMimeData mime;
    QList<QUrl> urls;
    for (const QString& path : paths) urls << QUrl::fromLocalFile(path);
    mime.setUrls(urls);
    QDragEnterEvent enter(QPoint(400, 400), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&sheet(), &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent event({400, 400}, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&sheet(), &event);
    QTRY_VERIFY_WITH_TIMEOUT(!sheet().is_busy(), 20000);
  }
  void set_power(double dbm, const char* typed) {
    PurityTestSettings s = settings();
    s.power_dbm = dbm;
    s.power_typed = typed;
    set(s);
  }
  void set_one_gain() {
    PurityTestSettings s = settings();
    s.is_same_gain = true;
    set(s);
  }
  QString cell(int row, const std::string& column) {
    const auto& columns = sheet().results()->table().columns;
    for (std::size_t c = 0; c < columns.size(); ++c) {
      if (columns[c].id == column)
        return sheet().table()->model()->index(row, static_cast<int>(c)).data().toString();
    }
    return "no such column";
  }
};

}  // namespace

class PuritySheetTest : public QObject {
  Q_OBJECT
 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-purity-test")); }

  void dropped_recordings_become_lines_with_a_verdict() {
    PurityWindow w;
    QVERIFY(w.sheet().isVisible());
    QCOMPARE(w.sheet().primary()->text(), QString("Add recordings"));
    w.drop(w.places());
    QVERIFY2(!w.test().result.items.empty(), qPrintable(w.window->messages()->text()));
    QCOMPARE(w.cell(0, "verdict"), QString("reference"));
    QCOMPARE(w.cell(0, "frequency"), QString("14.200"));
    // Two recordings without the carrier and without a full scale: nothing is taken for granted.
    QCOMPARE(w.sheet().table()->model()->rowCount(), 2);
    QVERIFY(w.sheet().remarks()->text().contains("is left out"));
    w.set_one_gain();
    // Levels are only relative, so the generic mask, which goes by power, judges nothing.
    QVERIFY(w.sheet().verdict()->content().sentence.contains("power not known"));
    w.set_power(44.77, "30 W");
    // 30 W below 30 MHz: 50 dB at most. -40 dBc fails.
    QCOMPARE(w.sheet().verdict()->content().mark.verdict, Verdict::fail);
    QVERIFY(std::abs(w.sheet().verdict()->content().mark.margin + 10.0) < 0.05);
    QVERIFY(w.sheet().verdict()->content().where.contains("2nd harmonic"));
    QCOMPARE(w.sheet().verdict()->content().unit, QString("dBc"));
    ProposalCardView* filter = w.sheet().proposals();
    QVERIFY(filter->isVisible());
    const QString first = filter->accessibleName();
    QVERIFY2(first.contains("All lines then pass"), qPrintable(first));
    QTest::mouseClick(filter->next(), Qt::LeftButton);
    QVERIFY(filter->accessibleName() != first);
    // Another line is told with its own verdict, the worst again as the verdict of all.
    w.sheet().choose(0);
    QCOMPARE(w.sheet().verdict()->content().where, QString("Carrier"));
    QVERIFY(w.sheet().verdict()->content().value.startsWith("+44.8") ||
            w.sheet().verdict()->content().value.startsWith("44.8"));
    QVERIFY(filter->accessibleName() != first);
    // The rail says the same.
    QCOMPARE(w.session().course().back().headline->judgement.verdict, Verdict::fail);
    w.session().undo_stack().undo();
    QVERIFY(!filter->isVisible());
  }

  void the_keyboard_goes_along_the_lines() {
    PurityWindow w;
    w.drop(w.places());
    w.set_one_gain();
    w.sheet().plot()->setFocus();
    const auto count = static_cast<int>(w.test().result.items.size());
    w.sheet().choose(1);
    QTest::keyClick(w.sheet().plot(), Qt::Key_Right);
    QCOMPARE(w.sheet().chosen(), 2);
    QCOMPARE(w.sheet().table()->chosen_row(), 2);
    for (int i = 0; i < count + 2; ++i) QTest::keyClick(w.sheet().plot(), Qt::Key_Right);
    QCOMPARE(w.sheet().chosen(), count - 1);
    QTest::keyClick(w.sheet().plot(), Qt::Key_Left);
    QCOMPARE(w.sheet().chosen(), count - 2);
    QVERIFY(w.sheet().plot()->accessibleDescription().contains("re carrier"));
    // With Shift only to those that do not pass: of all lines one fails.
    w.set_power(44.77, "30 W");
    w.sheet().choose(count - 1);
    QTest::keyClick(w.sheet().plot(), Qt::Key_Left, Qt::ShiftModifier);
    QVERIFY(w.cell(w.sheet().chosen(), "line") == "2nd harmonic");
    QTest::keyClick(w.sheet().plot(), Qt::Key_Left, Qt::ShiftModifier);
    QVERIFY(w.cell(w.sheet().chosen(), "line") == "2nd harmonic");
  }

  void a_mask_is_edited_as_text_and_judges_at_once() {
    PurityWindow w;
    w.drop(w.places());
    w.set_one_gain();
    w.sheet().masks()->edit();
    TextCard* card = w.sheet().masks()->card();
    QVERIFY(card->isVisible());
    QVERIFY(card->is_understood());
    card->edit()->setPlainText("20 to 60 MHz: -35");
    QVERIFY(!card->is_understood());
    QVERIFY2(card->message().contains("line 1"), qPrintable(card->message()));
    QVERIFY(!card->button()->isEnabled());
    card->edit()->setPlainText("20 to 60 MHz: -35 dBc");
    QVERIFY(card->message().contains("1 ranges"));
    QTest::keyClick(card->edit(), Qt::Key_Return, Qt::ControlModifier);
    QVERIFY(!card->isVisible());
    QCOMPARE(w.mask().segments.size(), std::size_t{1});
    // Most of that range was not looked at.
    QCOMPARE(w.sheet().verdict()->content().mark.verdict, Verdict::incomplete);
    QVERIFY(w.sheet().remarks()->text().contains("was not measured"));
    QCOMPARE(w.session().course().back().headline->judgement.verdict, Verdict::incomplete);
    w.sheet().masks()->edit();
    card->edit()->setPlainText("28.38 to 28.5 MHz: -35 dBc");
    QTest::keyClick(card->edit(), Qt::Key_Return, Qt::ControlModifier);
    QCOMPARE(w.sheet().verdict()->content().mark.verdict, Verdict::pass);
    w.session().undo_stack().undo();
    QCOMPARE(w.sheet().limit()->value(), QString::fromStdString(w.mask().name));
    w.session().undo_stack().undo();
    QVERIFY(!w.settings().mask);
  }

  void lines_are_typed_and_kept_as_typed() {
    PurityWindow w;
    // The usual mask on a test that has no settings yet is no damage.
    emit w.sheet().masks()->chosen(std::nullopt);
    QVERIFY(w.test().test.damage.empty());
    w.sheet().ask_text(w.field("lines"));
    TextCard* card = w.sheet().text_card();
    card->edit()->setPlainText("28.4 MHz -41.2\n42.6 MHz < -70 dBc\n");
    QVERIFY2(card->message().contains("42.6 MHz, at most"), qPrintable(card->message()));
    QTest::mouseClick(card->button(), Qt::LeftButton);
    QCOMPARE(w.cell(1, "line"), QString("2nd harmonic"));
    QVERIFY(w.cell(2, "level").startsWith(QString::fromUtf8("≤")));
    QCOMPARE(w.settings().lines[0].typed, std::string("28.4 MHz -41.2"));
    QVERIFY(w.sheet().more()->value().contains("2 typed"));
    // What was not shown before is chosen: the worst.
    QCOMPARE(w.cell(w.sheet().chosen(), "line"), QString("2nd harmonic"));
    // A line that is none is explained, and nothing is lost.
    w.sheet().ask_text(w.field("lines"));
    card = w.sheet().text_card();
    QVERIFY(card->text().contains("28.4 MHz -41.2"));
    card->edit()->setPlainText("28.4 MHz loud");
    QVERIFY(!card->button()->isEnabled());
    QTest::keyClick(card, Qt::Key_Escape);
    QCOMPARE(w.settings().lines.size(), std::size_t{2});
  }

  void without_the_carrier_the_sheet_says_what_to_add() {
    PurityWindow w;
    w.drop({w.places()[1]});
    QVERIFY(w.test().result.items.empty());
    QVERIFY(QString::fromStdString(w.sheet().plot()->plot().empty_words).contains("14.2"));
    QVERIFY(w.sheet().remarks()->text().contains("14.2"));
    QVERIFY(w.sheet().primary()->text().contains("Add recordings"));
  }

  void a_signed_test_stays_until_the_signature_is_taken_back() {
    PurityWindow w;
    w.drop(w.places());
    QVERIFY(!w.test().result.answers.empty());
    answer_next("Both of us");
    w.sheet().primary_action();
    QVERIFY(!w.test().result.answers.empty());
    QTRY_VERIFY(w.test().test.is_signed());
    QCOMPARE(w.sheet().primary()->text(), QString("Signed off"));
    w.sheet().masks()->edit();
    w.sheet().masks()->card()->edit()->setPlainText("20 to 60 MHz: -35 dBc");
    QTest::mouseClick(w.sheet().masks()->card()->button(), Qt::LeftButton);
    QVERIFY(!w.settings().mask);
    QVERIFY(w.window->messages()->isVisible());
    TestEdits(w.session()).take_back_signature();
    QVERIFY(!w.test().test.is_signed());
  }

  void the_simulated_bench_gives_carrier_and_harmonics() {
    OpenWindow open;
    open.window.reset();
    open.made.reopen();
    set_simulation_seed(*open.made.shack, 11);
    Chain chain;
    Part pad;
    pad.name = "power pad";
    pad.kind = "attenuator";
    pad.gain = Gain(-50.0);
    pad.u_db = 0.1;
    pad.max_input_w = 60.0;
    Part sampler;
    sampler.name = "sampler";
    sampler.kind = "instrument";
    sampler.full_scale_dbm = 0.0;
    chain.parts = {pad, sampler};
    Test t;
    t.evaluation_id = open.made.evaluation_id;
    t.characteristic = "purity";
    t.title = "From the instruments";
    t.hookup_id = add_hookup(*open.made.shack, "A", chain);
    t.drive = Drive{to_dbm(Watt{25.0}).value, false, 14.2e6, 12.0};
    const Id id = add_test(*open.made.shack, t);
    open.made.shack.reset();
    open.reopen();
    MainWindow& window = *open.window;
    window.show_evaluation(open.made.evaluation_id, id);
    window.live_instruments()->set_time_factor(200.0);
    window.live_instruments()->use_simulation(true);
    MethodSheet& sheet = *window.sheet();
    QCOMPARE(sheet.primary()->text(), QString("Plan the steps"));
    sheet.primary_action();
    QCOMPARE(window.session().general()->steps.size(), std::size_t{7});
    window.session().undo_stack().undo();
    QCOMPARE(window.session().general()->steps.size(), std::size_t{0});
    window.session().undo_stack().redo();
    QCOMPARE(window.session().general()->steps.size(), std::size_t{7});
    QCOMPARE(sheet.primary()->text(), QString("Measure all steps"));
    sheet.primary_action();
    QVERIFY(sheet.is_armed());
    QVERIFY(!window.live_instruments()->simulation()->bench().is_keyed());
    sheet.primary_action();
    QTRY_VERIFY_WITH_TIMEOUT(!window.live_ladder()->is_running(), 60000);
    QTRY_VERIFY_WITH_TIMEOUT(!sheet.is_busy(), 60000);
    QVERIFY(!window.live_instruments()->simulation()->bench().is_keyed());
    const Result& result = window.session().general()->result;
    QVERIFY(!result.answers.empty());
    QVERIFY(std::abs(result.output->value - to_dbm(Watt{25.0}).value) < 0.5);
    int harmonics = 0;
    for (const Answer& a : result.answers)
      harmonics += a.where.ends_with("harmonic") && a.figure.bound == Bound::none ? 1 : 0;
    QVERIFY2(harmonics >= 4, qPrintable(QString::number(harmonics)));
    QVERIFY(result.answers.front().judgement.has_value());
    // What the transmitter leaves of its carrier and of the other sideband: 49 and 46 dB by design,
    // below full amplitude; the tone stands some 2 dB below that.
    for (const auto& [name, dbc] :
         {std::pair{"Residual carrier", -49.0}, {"Opposite sideband", -46.0}}) {
      const auto found =
          std::find_if(result.answers.begin(), result.answers.end(),
                       [n = std::string(name)](const Answer& a) { return a.head == n; });
      QVERIFY(found != result.answers.end());
      QVERIFY2(std::abs(found->figure.value - dbc) < 3.0,
               qPrintable(QString::number(found->figure.value)));
      QVERIFY(!found->judgement);
    }
    // A sweep of the analyser sees carrier and harmonics in one go, through the same hook-up.
    sheet.take_sweep();
    QTRY_VERIFY_WITH_TIMEOUT(!window.live_ladder()->is_running(), 60000);
    QTRY_VERIFY_WITH_TIMEOUT(!sheet.is_busy(), 60000);
    QVERIFY(!window.live_instruments()->simulation()->bench().is_keyed());
    const GeneralTest& swept = *window.session().general();
    QVERIFY(swept.steps.back().sweep_hz.has_value());
    const auto* take = dynamic_cast<const PurityTake*>(swept.evidence.steps.back().analysis.get());
    QVERIFY2(take != nullptr, qPrintable(window.messages()->text()));
    QVERIFY(take->source.covers(3 * 14.2e6));
    const PurityReading* carrier = carrier_in(take->source, *swept.result.carrier_hz);
    QVERIFY(carrier != nullptr);
    // Two instruments, each with its own error of scale.
    QVERIFY(std::abs(carrier->level_dbm + 50.0 - to_dbm(Watt{25.0}).value) < 2.5);
  }
};

HERON_WINDOW_TEST(PuritySheetTest)

}  // namespace purity_sheet_test

#include "purity_sheet_test.moc"
