// Run by hand: window_benchmark DEMO_SHACK [Google Benchmark options]. How long from the start of
// the program to the painted window, and from a drop to the drawn spectrum.
#include <QApplication>
#include <QDir>
#include <QEventLoop>
#include <QMap>
#include <QProcess>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTimer>
#include <benchmark/benchmark.h>
#include <chrono>
#include <cstdio>
#include <ctime>
#include <filesystem>
#include <unistd.h>

#include "app/live/live_instruments.h"
#include "app/live/look_view.h"
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
    if (event->type() == QEvent::Paint) {
      painted = true;
      count += 1.0;
    }
    return false;
  }
  bool painted = false;
  double count = 0.0;
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

/// Panning a log of so many readings: frames a second.
void pan_long_log(benchmark::State& state) {
  const auto count = static_cast<std::size_t>(state.range(0));
  auto dots = std::make_shared<Dots>();
  for (std::size_t i = 0; i < count; ++i) {
    dots->x.push_back(static_cast<double>(i));
    dots->y.push_back(static_cast<float>((i * 7919U) % 1009U));
  }
  Plot plot;
  plot.x = {"Time, s", ""};
  plot.x.range = std::pair(0.0, static_cast<double>(count));
  PlotPanel panel{{"Error, ppm", ""}, {}};
  panel.y.range = std::pair(-10.0, 1020.0);
  PlotLayer layer{PlotLayer::Kind::dots, "Readings", 1, false, {}};
  layer.dots = std::move(dots);
  panel.layers.push_back(std::move(layer));
  plot.panels.push_back(std::move(panel));
  PlotView view;
  view.resize(760, 320);
  view.set_plot(plot, std::nullopt);
  view.show();
  QApplication::processEvents();
  QCPAxis* x = view.axisRect(0)->axis(QCPAxis::atBottom);
  double frames = 0.0;
  for (auto _ : state) {
    x->moveRange(0.001 * static_cast<double>(count));
    view.replot(QCustomPlot::rpImmediateRefresh);
    frames += 1.0;
  }
  state.counters["frames_per_s"] = benchmark::Counter(frames, benchmark::Counter::kIsRate);
}
BENCHMARK(pan_long_log)
    ->Arg(1'000'000)
    ->Arg(10'000'000)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();

/// A simulated bench in a process of its own; what it costs is not the window's.
class OtherBench {
 public:
  OtherBench() {
    const QDir here(QApplication::applicationDirPath());
    process_.start(here.filePath("../simbench/even-heron-simbench"),
                   {"--port", "0", "--speed", "1"});
    while (process_.state() != QProcess::NotRunning && addresses_.size() < 10 &&
           (process_.canReadLine() || process_.waitForReadyRead(10000))) {
      while (process_.canReadLine()) {
        const QStringList words = QString(process_.readLine()).simplified().split(' ');
        if (words.size() == 2) addresses_[words[0]] = words[1];
      }
    }
  }
  ~OtherBench() {
    process_.terminate();
    process_.waitForFinished(5000);
  }
  QString address(const QString& instrument) const { return addresses_.value(instrument); }

 private:
  QProcess process_;
  QMap<QString, QString> addresses_;
};

double own_processor_s() {
  timespec t{};
  clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &t);
  return static_cast<double>(t.tv_sec) + 1e-9 * static_cast<double>(t.tv_nsec);
}

/// The live view of a shown window at 1 MS/s: painted updates a second, and the share of one core
/// that the whole program takes for them.
void live_view(benchmark::State& state) {
  const QTemporaryDir folder;
  const std::filesystem::path copy = folder.filePath("shack").toStdString();
  std::filesystem::copy(shack_folder.toStdString(), copy, std::filesystem::copy_options::recursive);
  const OtherBench bench;
  MainWindow window;
  if (bench.address("sampler").isEmpty() || !window.open_shack(folder.filePath("shack"))) {
    state.SkipWithError("no simulated bench, or no shack");
    return;
  }
  window.resize(1280, 800);
  window.show();
  const Shack& shack = window.session().shack();
  window.show_evaluation(evaluations(shack, devices(shack).front().id).front().id);
  window.live_instruments()->connect_to(Role::sampler, {}, bench.address("sampler"));
  while (window.live_instruments()->is_busy()) QApplication::processEvents();
  window.sheet()->show_live_view();
  LookView& look = *window.sheet()->look();
  look.run()->set_rate(1e6);
  look.run()->start();
  const bool runs = look.run()->is_running();
  QEventLoop warm_up;
  QTimer::singleShot(2000, &warm_up, &QEventLoop::quit);
  warm_up.exec();
  double updates = 0.0;
  double painted = 0.0;
  double share = 0.0;
  QObject::connect(look.run(), &LookRun::updated, &window, [&updates] { updates += 1.0; });
  for (auto _ : state) {
    updates = painted = 0.0;
    const double busy = own_processor_s();
    const auto start = Clock::now();
    PaintWatch watch(look.plot());
    QEventLoop loop;
    QTimer::singleShot(10000, &loop, &QEventLoop::quit);
    loop.exec();
    painted = watch.count;
    const double passed = std::chrono::duration<double>(Clock::now() - start).count();
    updates /= passed;
    painted /= passed;
    share = 100.0 * (own_processor_s() - busy) / passed;
  }
  look.run()->end();
  if (!runs) state.SkipWithError("the live view does not run");
  state.counters["updates_per_s"] = updates;
  state.counters["paints_per_s"] = painted;
  state.counters["percent_of_a_core"] = share;
}
BENCHMARK(live_view)->Unit(benchmark::kSecond)->Iterations(1)->UseRealTime();

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
