#include <random>

#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "core/method/spread/spread_analysis.h"
#include "core/signal/normal_numbers.h"
#include "core/signal/write_wav.h"
#include "tests/app/open_window.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace spread_sheet_test {

namespace {

/// Flat noise between two frequencies, with a notch if wanted, as a WAV file of I and Q.
QString write_noise(const QString& path, double low_hz, double high_hz, bool has_notch) {
  constexpr double kRate = 24000.0;
  std::mt19937_64 random(9);
  std::uniform_real_distribution<double> turn(0.0, 6.28318530718);
  NormalNumbers<float> gauss(0.0F, 1e-4F);
  std::vector<std::complex<float>> x(1U << 17U);
  for (auto& v : x) v = {gauss(random), gauss(random)};
  constexpr int kTones = 500;
  for (int k = 0; k < kTones; ++k) {
    const double hz = low_hz + (high_hz - low_hz) * (k + 0.5) / kTones;
    if (has_notch && hz > 1250.0 && hz < 1750.0) continue;
    const std::complex<double> step = std::polar(1.0, 6.28318530718 * hz / kRate);
    std::complex<double> v = std::polar(0.01, turn(random));
    for (auto& sample : x) {
      sample += std::complex<float>(v);
      v *= step;
    }
  }
  write_wav(memory_capture(std::move(x), kRate), path.toStdString());
  return path;
}

struct SpreadWindow : OpenWindow {
  QTemporaryDir files;
  explicit SpreadWindow(const char* characteristic) {
    window->show_evaluation(made.evaluation_id);
    TestEdits(session()).add_test(characteristic, "Spread", "14.200 MHz");
  }
  Session& session() { return window->session(); }
  MethodSheet& sheet() { return *window->sheet(); }
  const GeneralTest& test() { return *session().general(); }
  SpreadSettings settings() { return spread_settings_from_json(test().evidence.settings); }
  const SpreadAnalysis* analysis(std::size_t step) {
    return dynamic_cast<const SpreadAnalysis*>(test().evidence.steps[step].analysis.get());
  }
  void add(const QStringList& paths) {
    sheet().add_recordings(paths);
    QTRY_VERIFY_WITH_TIMEOUT(!sheet().is_busy(), 30000);
  }
  void play(SpreadStimulus stimulus) {
    SpreadSettings s = settings();
    s.stimulus = stimulus;
    TestEdits(session()).set_settings("stimulus", with_spread_settings(test().test.settings, s));
  }
  /// An entry of the settings' menu.
  void press(const QString& words) {
    for (QAction* action : sheet().settings()->menu()->actions()) {
      if (action->text() == words) {
        action->trigger();
        return;
      }
    }
    QFAIL(qPrintable(words));
  }
  int column(const char* id) {
    const auto& columns = sheet().results()->table().columns;
    for (std::size_t c = 0; c < columns.size(); ++c) {
      if (columns[c].id == id) return static_cast<int>(c);
    }
    return -1;
  }
  QString cell(int row, const char* id) {
    return sheet().results()->index(row, column(id)).data().toString();
  }
};

}  // namespace

class SpreadSheetTest : public QObject {
  Q_OBJECT
 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-spread-test")); }

  void widths_of_several_settings_stand_side_by_side() {
    SpreadWindow w("bandwidth");
    QVERIFY(w.sheet().isVisible());
    w.play(SpreadStimulus::speech_noise);
    TestEdits(w.session())
        .set_limit(Limit{"own", Sense::at_most, 2000.0, "Hz", hold_name(Hold::average), 1000.0});
    w.add({write_noise(w.files.filePath("narrow.wav"), 300, 2100, false),
           write_noise(w.files.filePath("wide.wav"), 300, 2700, false)});
    QCOMPARE(w.test().steps.size(), std::size_t{2});
    QCOMPARE(w.cell(0, "step"), QString("narrow"));
    QVERIFY2(w.cell(0, "occupied").startsWith("178"), qPrintable(w.cell(0, "occupied")));
    QCOMPARE(w.cell(0, "verdict"), QString("Pass"));
    QCOMPARE(w.cell(1, "verdict"), QString("Fail"));
    // Each question has its own figures.
    QCOMPARE(w.column("ratio"), -1);
    QVERIFY(!w.sheet().below()->isVisible());
    const PlotPanel& panel = w.sheet().plot()->plot().panels.front();
    QCOMPARE(panel.layers.size(), std::size_t{2});
    QVERIFY(panel.layers[1].curve->y.size() > 1000);
    QCOMPARE(panel.brackets.size(), std::size_t{2});
    w.sheet().choose(1);
    QCOMPARE(w.sheet().verdict()->content().mark.verdict, Verdict::fail);
    QVERIFY2(w.sheet().plot()->accessibleDescription().contains("99 % of the power: 237"),
             qPrintable(w.sheet().plot()->accessibleDescription()));
    // A max-hold is another figure: the limit for the average does not judge it.
    w.sheet().show_view(1);
    QVERIFY(w.sheet().verdict()->content().explanation.contains("max-hold"));
    QCOMPARE(w.sheet().verdict()->content().mark.verdict, Verdict::not_taken);
    QVERIFY(w.sheet().verdict()->content().sentence.contains("average"));
    QTest::keyClick(w.sheet().plot(), Qt::Key_Up);
    QCOMPARE(w.sheet().chosen_step(), 0);
  }

  void a_notch_is_judged_and_stands_beside_the_tones() {
    SpreadWindow w("noise");
    TestEdits(w.session())
        .set_limit(Limit{"own", Sense::at_least, 20.0, "dB", kNoisePowerRatio, 20.0});
    StepEdits(w.session()).add_step("30 W");
    w.add({write_noise(w.files.filePath("n.wav"), 300, 2700, true)});
    QCOMPARE(w.test().steps.size(), std::size_t{1});
    QVERIFY(!w.cell(0, "ratio").isEmpty());
    QVERIFY(w.cell(0, "tones").contains(QString::fromUtf8("±")));
    QCOMPARE(w.column("occupied"), -1);
    QCOMPARE(w.sheet().verdict()->content().mark.verdict, Verdict::pass);
    QVERIFY2(w.sheet().remarks()->text().contains("Two tones at 30 W"),
             qPrintable(w.sheet().remarks()->text()));
    // Output and note belong to it as to every test.
    StepEdits(w.session()).set_output(0, "31 W", 44.9);
    QVERIFY(w.sheet().strip()->accessibleName().contains("44.9"));
    TestEdits(w.session()).set_note("bias 320 mA");
    QCOMPARE(w.test().test.note, std::string("bias 320 mA"));
    w.session().undo_stack().undo();
    QVERIFY(w.test().test.note.empty());
  }

  /// From the menu of the chip, as anybody would.
  void settings_are_chosen_from_the_chip() {
    SpreadWindow w("noise");
    QCOMPARE(w.sheet().settings()->value(), QString("notched noise"));
    w.press("Speech-shaped noise");
    QVERIFY(w.settings().stimulus == SpreadStimulus::speech_noise);
    QCOMPARE(w.sheet().settings()->value(), QString("speech-shaped noise"));
    w.press("Lower sideband");
    QVERIFY(w.settings().sideband == Sideband::lower);
    // What was set before stays.
    QVERIFY(w.settings().stimulus == SpreadStimulus::speech_noise);
    w.session().undo_stack().undo();
    QVERIFY(w.settings().sideband == Sideband::upper);
    // A limit is asked for what is judged then.
    QCOMPARE(w.test().method->limit(w.test().evidence).label,
             std::string("Adjacent-channel power, dB"));
  }

  void a_trace_is_refused_with_what_does() {
    SpreadWindow w("noise");
    QFile csv(w.files.filePath("trace.csv"));
    QVERIFY(csv.open(QIODevice::WriteOnly));
    csv.write("frequency_hz,level_dbm\n");
    for (int i = 1; i <= 20; ++i) csv.write(QByteArray::number(i * 1e6) + ",-60\n");
    csv.close();
    w.add({csv.fileName()});
    QTRY_VERIFY(w.window->messages()->text().contains("does not do"));
    QVERIFY(w.test().steps.empty());  // a refused file leaves no empty step
  }

  void a_recording_of_ones_own_stays_the_stimulus() {
    SpreadWindow w("noise");
    const QString speech = write_noise(w.files.filePath("my voice.wav"), 200, 3000, false);
    const SettingField& field = w.test().method->settings.front();
    w.sheet().use_own_file(field, field.choices.back(), speech);
    QTRY_VERIFY_WITH_TIMEOUT(w.settings().stimulus == SpreadStimulus::own_recording, 20000);
    QCOMPARE(w.sheet().settings()->value(), QString("my voice.wav"));
    QVERIFY(QFile::remove(speech));
    QVERIFY(std::filesystem::exists(capture_path(w.session().shack(), w.settings().own_hash)));
    // Power beside the channel is the figure then.
    w.add({write_noise(w.files.filePath("sent.wav"), 300, 2700, false)});
    QVERIFY2(w.test().steps.size() == 1 && w.analysis(0) != nullptr,
             qPrintable(w.window->messages()->text()));
    QVERIFY(!w.analysis(0)->noise);
    QVERIFY(w.sheet().verdict()->content().explanation.contains("re channel"));
    w.session().undo_stack().undo();  // the recording with its step
    QVERIFY(w.test().steps.empty());
    w.session().undo_stack().undo();
    QVERIFY(w.settings().stimulus == SpreadStimulus::notched_noise);
  }
};

HERON_WINDOW_TEST(SpreadSheetTest)

}  // namespace spread_sheet_test

#include "spread_sheet_test.moc"
