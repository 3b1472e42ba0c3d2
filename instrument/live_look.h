#pragma once

#include <functional>
#include <mutex>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "core/chain/chain.h"
#include "core/chain/key_down_clock.h"
#include "core/signal/live_spectrum.h"
#include "instrument/bench_time.h"
#include "instrument/rf_guard.h"
#include "instrument/rf_state.h"
#include "instrument/stimulus_words.h"

namespace heron {

/// Looking at what comes while something is adjusted.
struct LookPlan {
  double center_hz = 14.2e6;
  double rate_hz = 1e6;
  std::size_t bins = 4096;
  std::size_t frames = 40000;  ///< samples from one update to the next
  RunStimulus stimulus;
  Chain chain;                    ///< device to sampler
  Drive drive;                    ///< the most that is planned
  double most_output_dbm = 45.0;  ///< PEP at the device above which RF goes off at once
  double most_generator_dbm = -15.0;
  double watchdog_s = 5.0;
};

/// What is seen at one moment. Handed over by swapping, so that nothing is allocated for it.
struct LookFrame {
  std::vector<float> average;  ///< power a bin, full scale = 1, from -rate/2 upwards
  std::vector<float> hold;
  std::size_t segments = 0;
  unsigned averages = 0;
  double pep_dbm = -200.0;  ///< at the device, of this update alone
  double full_scale_dbm = 0.0;
  double loss_db = 0.0;
  double generator_dbm = 0.0;
  bool is_over_range = false;
  std::optional<RfState> rf = std::nullopt;  ///< nullopt = nothing was asked of the source yet
  std::optional<double> left_s;              ///< of key-down
  double rest_s = 0.0;                       ///< before it may be keyed again
  double updates_per_s = 0.0;
  std::string what;  ///< why RF was taken away; empty while nothing is wrong
};

/// Reads the sampler again and again; keys only while it is told to, and takes RF away when the
/// hook-up has had enough, when more comes out than is allowed, and on every error. `run` belongs
/// to the thread of the sessions; the other calls may come from any.
class LiveLook {
 public:
  /// `generator` may be null: then it only looks.
  LiveLook(LookPlan plan, ScpiSession& sampler, ScpiSession* generator,
           std::function<void()> updated, BenchTime time = BenchTime());

  /// It has something to key, and so knows whether that is on.
  bool can_key() const { return generator_ != nullptr; }
  /// Until it is stopped. Never throws; what went wrong is in the last frame. RF is off, as far as
  /// that was confirmed, when it returns.
  void run(const std::stop_token& stop);

  void set_averages(unsigned segments);
  void clear();
  void set_level(double generator_dbm);
  void key(bool on);
  /// RF off at once.
  void drop_rf();
  /// The latest frame, by swapping; false if it was handed over before.
  bool latest(LookFrame& frame);

 private:
  struct Wish {
    unsigned averages = 8;
    bool clear = false;
    double generator_dbm = -50.0;
    bool key = false;
    bool changed = true;
    unsigned asked = 0;  ///< counts what was said about the key
  };
  void obey(const Wish& wish, bool is_key_new, RfGuard& guard);
  void take(const std::stop_token& stop);
  /// Forgets the wish to be keyed, unless something newer is wished.
  void rf_off(RfGuard& guard, const std::string& why);
  void switch_off(RfGuard& guard, const std::string& why);
  void publish();
  void pace() const;

  LookPlan plan_;
  ScpiSession& sampler_;
  ScpiSession* generator_;
  std::function<void()> updated_;
  BenchTime time_;
  KeyDownClock clock_;
  LiveSpectrum spectrum_;
  std::vector<char> block_;
  std::vector<float> samples_;
  std::mutex mutex_;
  RfGuard* guard_ = nullptr;  ///< while running
  Wish wish_;
  LookFrame shown_;    ///< what is handed over
  LookFrame working_;  ///< what is filled next
  bool is_new_ = false;
  bool is_keyed_ = false;
  unsigned obeyed_ = 0;  ///< the last that was heard about the key
  double set_dbm_ = -200.0;
  double last_update_s_ = 0.0;
};

}  // namespace heron
