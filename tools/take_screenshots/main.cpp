// Renders every main view from a demo shack, both themes, at 1280 x 800.
#include <QApplication>
#include <QDir>
#include <QSettings>
#include <QStandardPaths>
#include <QTest>
#include <algorithm>
#include <cstdio>

#include "app/live/live_ladder.h"
#include "app/live/look_view.h"
#include "app/shell/main_window.h"
#include "app/shell/window_files.h"
#include "app/theme/dress.h"

namespace {

using namespace heron;

void settle() {
  for (int i = 0; i < 6; ++i) {
    QApplication::processEvents();
    QTest::qWait(15);
  }
}

bool take(QWidget& window, const QDir& folder, const QString& name) {
  settle();
  const bool ok = window.grab().save(folder.filePath(name + ".png"));
  if (!ok) std::fprintf(stderr, "could not write %s\n", qPrintable(folder.filePath(name)));
  return ok;
}

/// Every view of the tests of an amplifier.
bool take_amplifier(MainWindow& window, const QDir& folder) {
  Id evaluation = 0;
  for (const Device& d : devices(window.session().shack())) {
    if (d.name == "Ruff 23") evaluation = evaluations(window.session().shack(), d.id).front().id;
  }
  bool ok = evaluation != 0;
  for (const bool dark : {false, true}) {
    window.set_dark(dark);
    const QString theme = dark ? "-dark" : "-light";
    for (const Test& t : tests(window.session().shack(), evaluation)) {
      window.show_evaluation(evaluation, t.id);
      const QString name = t.characteristic == "gain"       ? "amplifier"
                           : t.characteristic == "response" ? "amplifier-response"
                                                            : "first-power";
      ok = take(window, folder, name + theme) && ok;
      if (t.characteristic != "gain" || dark) continue;
      window.sheet()->show_view(1);
      ok = take(window, folder, "amplifier-heat") && ok;
      window.sheet()->show_view(2);
      ok = take(window, folder, "amplifier-harmonics") && ok;
      window.sheet()->show_view(0);
      window.sheet()->show_grid();
      ok = take(window, folder, "amplifier-readings") && ok;
      window.sheet()->show_below(0);
    }
  }
  window.set_dark(false);
  return ok;
}

/// The last test of that kind of the evaluation that is open.
void show_last(MainWindow& window, std::string_view characteristic) {
  const auto course = window.session().course();
  for (const Test& t : course)
    if (t.characteristic == characteristic) window.show_evaluation(t.evaluation_id, t.id);
}

/// The last test of that kind, of whatever device.
void show_any(MainWindow& window, std::string_view characteristic) {
  for (const Device& d : devices(window.session().shack())) {
    for (const Evaluation& e : evaluations(window.session().shack(), d.id))
      for (const Test& t : tests(window.session().shack(), e.id))
        if (t.characteristic == characteristic) window.show_evaluation(e.id, t.id);
  }
}

}  // namespace

int main(int argc, char** argv) {
  QStandardPaths::setTestModeEnabled(true);
  QApplication application(argc, argv);
  QApplication::setOrganizationName("even-heron-screenshots");
  if (argc < 3 || !dress(application)) {
    std::fprintf(stderr, "usage: take-screenshots SHACK FOLDER [REPORT.pdf]\n");
    return 2;
  }
  QSettings().clear();
  Session::patience = std::chrono::minutes(1);
  MainWindow window;
  if (!window.open_shack(argv[1])) return 3;
  window.resize(1280, 800);
  QCursor::setPos(1005, 400);  // no hover in the pictures
  window.show();
  const QDir folder(argv[2]);
  bool ok = true;
  Id evaluation = 0;
  for (const Device& d : devices(window.session().shack())) {
    if (d.name == "Reedling 30")
      evaluation = evaluations(window.session().shack(), d.id).front().id;
  }
  for (const bool dark : {false, true}) {
    window.set_dark(dark);
    const QString theme = dark ? "dark" : "light";
    window.show_shack();
    ok = take(window, folder, "shack-" + theme) && ok;
    for (const Device& d : devices(window.session().shack()))
      if (d.name == "Reedling 30") window.show_device(d.id);
    ok = take(window, folder, "device-" + theme) && ok;
    window.show_evaluation(evaluation, tests(window.session().shack(), evaluation).front().id);
    window.sheet()->choose(0);
    ok = take(window, folder, "two-tone-" + theme) && ok;
    show_last(window, "purity");
    ok = take(window, folder, "purity-" + theme) && ok;
    show_last(window, dark ? "bandwidth" : "noise");
    ok = take(window, folder, dark ? "bandwidth-dark" : "noise-light") && ok;
    show_last(window, "output");
    window.sheet()->show_below(dark ? 1 : 0);
    ok = take(window, folder, "output-" + theme) && ok;
    show_last(window, "reference");
    window.sheet()->show_below(dark ? 0 : 1);
    ok = take(window, folder, "accuracy-" + theme) && ok;
    for (const Test& t : window.session().course()) {
      if (t.characteristic != "drift") continue;
      window.show_evaluation(evaluation, t.id);
      // Before the change in the dark, after it in the light.
      if (dark) break;
    }
    ok = take(window, folder, "drift-" + theme) && ok;
    show_last(window, "stability");
    ok = take(window, folder, "stability-" + theme) && ok;
    show_last(window, "adjust");
    ok = take(window, folder, "adjust-" + theme) && ok;
  }
  show_any(window, "lock");
  ok = take(window, folder, "lock-dark") && ok;
  for (const bool dark : {true, false}) {
    window.set_dark(dark);
    show_any(window, "sensitivity");
    ok = take(window, folder, dark ? "sensitivity-dark" : "sensitivity-light") && ok;
    show_any(window, "receiver");
    ok = take(window, folder, dark ? "receiver-dark" : "receiver-light") && ok;
    show_any(window, "indicator");
    ok = take(window, folder, dark ? "indicator-dark" : "indicator-light") && ok;
  }
  show_any(window, "lock");
  for (const bool dark : {true, false}) {
    window.set_dark(dark);
    show_last(window, "touch");
    ok = take(window, folder, dark ? "touch-test-dark" : "touch-test-light") && ok;
    show_last(window, "phase_noise");
    window.sheet()->choose(3);
    window.sheet()->show_below(dark ? 1 : 0);
    ok = take(window, folder, dark ? "phase-noise-dark" : "phase-noise-light") && ok;
    show_last(window, "noise_setting");
    ok = take(window, folder, dark ? "noise-family-dark" : "noise-family-light") && ok;
    show_last(window, "reciprocal");
    ok = take(window, folder, dark ? "reciprocal-dark" : "reciprocal-light") && ok;
    show_last(window, "loop");
    ok = take(window, folder, dark ? "loop-dark" : "loop-light") && ok;
  }
  window.set_dark(true);
  ok = take_amplifier(window, folder) && ok;
  const auto course = tests(window.session().shack(), evaluation);
  window.show_evaluation(evaluation, course.front().id);
  window.sheet()->show_below(0);
  emit window.sheet()->verdict()->uncertainty_asked();
  ok = take(window, folder, "uncertainty") && ok;
  for (auto* card : window.findChildren<FloatingCard*>()) card->close();
  window.sheet()->readings()->output()->edit()->setFocus();
  window.sheet()->readings()->output()->edit()->selectAll();
  window.open_level_desk();
  window.level_desk()->edit()->setText("31 W");
  ok = take(window, folder, "level-desk") && ok;
  window.level_desk()->close();
  window.sheet()->show_grid();
  ok = take(window, folder, "readings") && ok;
  window.sheet()->show_below(0);
  window.show_hookup(0, course.back().id);
  ok = take(window, folder, "hookup-unsafe") && ok;
  for (const bool dark : {false, true}) {
    window.set_dark(dark);
    const QString theme = dark ? "dark" : "light";
    if (!dark) {
      window.show_hookup(0, course.front().id);
      ok = take(window, folder, "hookup-" + theme) && ok;
      window.show_bench();
      ok = take(window, folder, "bench-" + theme) && ok;
    }
    window.show_evaluation(evaluation, course.front().id);
    window.sheet()->show_view(1);
    window.sheet()->choose(2);  // within reach of the amplifier behind
    ok = take(window, folder, "ladder-" + theme) && ok;
    window.sheet()->show_view(0);
    window.sheet()->choose(0);
  }
  // The simulated bench: a panel with its traffic, and a ladder under way.
  const auto live = std::find_if(course.begin(), course.end(), [](const Test& t) {
    return t.title == "Two-tone, from the instruments";
  });
  window.live_instruments()->use_simulation(true);
  window.show_bench();
  const InstrumentRow* meter = window.bench_view()->instruments()->row(Role::power_meter);
  window.instrument_panel()->open_for(Role::power_meter, meter->mapTo(&window, QPoint(-8, 30)));
  window.live_instruments()->say(Role::power_meter, "READ?");
  QTest::qWait(500);
  ok = take(window, folder, "instruments-dark") && ok;
  window.instrument_panel()->close();
  window.set_dark(false);
  if (live != course.end()) {
    window.live_instruments()->set_time_factor(1.0);
    window.show_evaluation(evaluation, live->id);
    window.sheet()->show_live_view();
    window.sheet()->look()->look_button()->click();
    window.sheet()->look()->drive()->take("-30 dBm");
    window.sheet()->look()->hold()->set_current(1);
    window.sheet()->look()->plot()->show_hold(true);
    window.sheet()->look()->run()->key(true);
    QTest::qWait(2500);
    ok = take(window, folder, "look-light") && ok;
    window.sheet()->look()->run()->end();
    window.sheet()->show_view(0);
    window.sheet()->live()->start();
    for (int i = 0; i < 400 && window.sheet()->live()->taken() < 3; ++i) QTest::qWait(50);
    QTest::qWait(900);
    ok = take(window, folder, "live-light") && ok;
    window.sheet()->live()->end();
  }
  if (argc > 3) {
    ok = window.files()->export_to(argv[3]) &&
         QTest::qWaitFor([&] { return !window.messages()->is_working(); }, 60000) && ok;
  }
  return ok ? 0 : 3;
}
