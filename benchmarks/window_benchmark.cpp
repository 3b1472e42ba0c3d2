// Run by hand: window_benchmark DEMO_SHACK [Google Benchmark options]. How long from the start of
// the program to the painted window, and from a drop to the drawn spectrum.
#include <QApplication>
#include <QDir>
#include <QProcess>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <benchmark/benchmark.h>
#include <chrono>
#include <cstdio>
#include <filesystem>
#include <unistd.h>

#include "app/shell/main_window.h"
#include "app/theme/dress.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "core/signal/write_wav.h"

namespace {

using namespace heron;
using Clock = std::chrono::steady_clock;

QString shack_folder;

/// Stands on a widget and remembers that it was painted.
class PaintWatch : public QObject {
 public:
  explicit PaintWatch(QWidget* widget) { widget->installEventFilter(this); }
  bool eventFilter(QObject*, QEvent* event) override {
    if (event->type() == QEvent::Paint) painted = true;
    return false;
  }
  bool painted = false;
};

void paint_and_leave(QApplication& application) {
  dress(application);
  MainWindow window;
  if (!window.open_shack(shack_folder)) _exit(3);
  PaintWatch watch(window.shack_view()->matrix()->viewport());
  window.show();
  while (!watch.painted) QApplication::processEvents();
  _exit(0);
}

/// From exec to the end of a process that leaves once its window is painted.
void start_to_painted_window(benchmark::State& state) {
  for (auto _ : state) {
    QProcess process;
    process.setProcessChannelMode(QProcess::ForwardedErrorChannel);
    process.start(QApplication::applicationFilePath(), {"--paint-once", shack_folder});
    process.waitForFinished(60000);
    if (process.exitCode() != 0) state.SkipWithError("the window did not come up");
  }
}
BENCHMARK(start_to_painted_window)->Unit(benchmark::kMillisecond)->Iterations(8)->UseRealTime();

QString minute_of_recording(const QDir& folder) {
  TwoToneSignal s;
  s.seconds = 60.0;
  s.nonlinearity.coefficients = {-0.3, 0.1};
  s.noise_dbfs = -70.0;
  const QString path = folder.filePath("minute.wav");
  write_wav(memory_capture(generate_two_tone(s), s.sample_rate_hz), path.toStdString());
  return path;
}

void drop_to_drawn_spectrum(benchmark::State& state) {
  const QTemporaryDir folder;
  const std::filesystem::path copy = folder.filePath("shack").toStdString();
  std::filesystem::copy(shack_folder.toStdString(), copy, std::filesystem::copy_options::recursive);
  const QString wav = minute_of_recording(QDir(folder.path()));
  MainWindow window;
  if (!window.open_shack(folder.filePath("shack"))) {
    state.SkipWithError("no shack");
    return;
  }
  window.resize(1280, 800);
  window.show();
  const Shack& shack = window.session().shack();
  const Device first = devices(shack).front();
  const Id evaluation = evaluations(shack, first.id).front().id;
  window.show_evaluation(evaluation);
  QApplication::processEvents();
  for (auto _ : state) {
    const auto start = Clock::now();
    window.sheet()->add_recordings({wav});
    while (window.sheet()->is_busy()) {
      QApplication::processEvents(QEventLoop::WaitForMoreEvents);
    }
    PaintWatch watch(window.sheet()->plot());
    window.sheet()->plot()->update();
    while (!watch.painted) QApplication::processEvents();
    state.SetIterationTime(std::chrono::duration<double>(Clock::now() - start).count());
    // The next round stores and analyses it again.
    window.session().undo_stack().undo();
    for (const auto& entry : std::filesystem::directory_iterator(shack.captures_folder())) {
      if (std::filesystem::last_write_time(entry) >
          std::filesystem::file_time_type::clock::now() - std::chrono::seconds(5))
        std::filesystem::remove(entry);
    }
  }
}
BENCHMARK(drop_to_drawn_spectrum)->Unit(benchmark::kMillisecond)->Iterations(8)->UseManualTime();

}  // namespace

int main(int argc, char** argv) {
  qputenv("QT_QPA_PLATFORM", "offscreen");
  QStandardPaths::setTestModeEnabled(true);
  QApplication application(argc, argv);
  QApplication::setOrganizationName("even-heron-benchmark");
  QSettings().clear();
  const bool is_child = argc == 3 && QString(argv[1]) == "--paint-once";
  if (argc < 2) {
    std::fprintf(stderr, "usage: window_benchmark DEMO_SHACK\n");
    return 2;
  }
  shack_folder = argv[is_child ? 2 : 1];
  if (is_child) paint_and_leave(application);
  dress(application);
  benchmark::Initialize(&argc, argv);
  benchmark::RunSpecifiedBenchmarks();
  return 0;
}
