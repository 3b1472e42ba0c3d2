// A receiver's sensitivity on the sheet that all methods share: typed into the grid, and heard in
// recordings.
#include <random>

#include "app/plot/plot_view.h"
#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "app/shell/message_bar.h"
#include "app/table/figure_table.h"
#include "app/table/typed_grid.h"
#include "core/signal/memory_capture.h"
#include "core/signal/write_wav.h"
#include "tests/app/open_window.h"

using namespace heron;
using namespace heron::testing;

namespace {

struct ReceiverWindow : OpenWindow {
  QTemporaryDir files;
  ReceiverWindow() {
    window->show_evaluation(made.evaluation_id);
    TestEdits(window->session()).add_test("sensitivity", "Sensitivity", "SSB");
    window->session().settle();
  }
  MethodSheet& sheet() { return *window->sheet(); }
  const GeneralTest& shown() {
    window->session().settle();
    return *window->session().general();
  }
  void set(const char* key, const nlohmann::json& value) {
    nlohmann::json settings = window->session().settings();
    settings["sensitivity"][key] = value;
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
    std::normal_distribution<double> normal(0.0, noise);
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
