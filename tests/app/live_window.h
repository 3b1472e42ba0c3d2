#pragma once

#include "app/live/live_instruments.h"
#include "app/live/live_ladder.h"
#include "simbench/sim_server.h"
#include "store/hookup.h"
#include "store/instrument.h"
#include "tests/app/open_window.h"
#include "tests/app/two_tone_session.h"
#include "tests/core/made_chain.h"

namespace heron::testing {

/// 50 dB of pad for 60 W, and a sampler that takes 10 dBm.
inline Chain live_chain() {
  Chain chain = pad_and_sampler(50.0);
  chain.parts[0].max_input_w = 60.0;
  chain.parts[1].max_input_dbm = 10.0;
  chain.parts[1].full_scale_dbm = 0.0;
  return chain;
}

/// The made shack with a test of six steps, none taken, on a hook-up with a planned drive.
struct LiveWindow : OpenWindow {
  Id test_id = 0;
  explicit LiveWindow(const QStringList& labels = {"1 W", "3 W", "6 W", "10 W", "16 W", "24 W"},
                      double planned_w = 30.0, const char* device_kind = "") {
    window.reset();
    made.reopen();
    Shack& shack = *made.shack;
    set_simulation_seed(shack, 7);
    Test t;
    t.evaluation_id = made.evaluation_id;
    if (*device_kind != '\0') {
      const Id device = add_device(shack, {0, "Sluice 100", device_kind, "no. 7", "", {}});
      made.evaluation_id = t.evaluation_id = add_evaluation(shack, device, "On its own");
    }
    t.characteristic = "two_tone";
    t.title = "From the instruments";
    t.convention = kRePep;
    t.limit = MadeShack::limit();
    t.hookup_id = add_hookup(shack, "Hook-up A", live_chain());
    Drive drive{to_dbm(Watt{planned_w}).value, true, 14.2e6, 12.0};
    drive.typed = QString("%1 W").arg(planned_w).toStdString();
    t.drive = drive;
    test_id = add_test(shack, t);
    for (const QString& label : labels) add_step(shack, test_id, label.toStdString());
    made.shack.reset();
    reopen();
    window->show_evaluation(made.evaluation_id, test_id);
  }
  MainWindow& w() { return *window; }
  LiveLadder& live() { return *window->sheet()->live(); }
  sim::SimServer& server() { return *window->live_instruments()->simulation(); }
  heron::testing::TwoToneTest test() { return *heron::testing::two_tone_of(window->session()); }
  int taken() {
    int n = 0;
    for (const auto& a : test().analyses) n += a ? 1 : 0;
    return n;
  }
  void key_twice() {
    press(w(), window.get(), Qt::Key_Return, Qt::ControlModifier);
    QVERIFY(w().sheet()->is_armed());
    QVERIFY(!server().bench().is_keyed());
    press(w(), window.get(), Qt::Key_Return, Qt::ControlModifier);
  }
};

}  // namespace heron::testing
