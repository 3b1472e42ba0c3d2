#pragma once

#include <complex>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/chain/chain.h"
#include "core/error.h"
#include "core/method/evidence.h"
#include "core/signal/capture.h"
#include "core/signal/trace_csv.h"
#include "instrument/rf_state.h"
#include "instrument/scpi_session.h"
#include "instrument/stimulus_words.h"

namespace heron {

/// A sweep of a spectrum analyser instead of samples.
struct RunSweep {
  double from_hz = 0.0;
  double to_hz = 0.0;
  double rbw_hz = 10e3;
  std::size_t points = 10001;

  /// How long it may take: a swept filter needs some span / RBW^2.
  double length_s() const { return 1.0 + 4.0 * (to_hz - from_hz) / (rbw_hz * rbw_hz); }
};

/// One step of an automatic ladder.
struct RunStep {
  std::string setting;                   ///< as the ladder calls it: "10 W"
  std::optional<double> generator_dbm;   ///< set this level; or
  std::optional<double> output_pep_dbm;  ///< search the level that gives this at the device
  std::optional<RunSweep> sweep;         ///< taken with the analyser
  std::optional<double> center_hz;       ///< sampled here instead of round the carrier
};

struct RunPlan {
  std::vector<RunStep> steps;
  RunStimulus stimulus;
  double center_hz = 0.0;
  double rate_hz = 48000.0;
  std::size_t frames = 1U << 19U;
  double settle_s = 0.5;
  Chain chain;                         ///< device to sampler: levels, ratings, rest
  double most_output_dbm = 50.0;       ///< PEP at the device above which RF goes off at once
  double most_generator_dbm = 0.0;     ///< never more than this
  double start_generator_dbm = -50.0;  ///< where a search begins
  double watchdog_s = 15.0;
  bool reads_along = true;  ///< what else the instruments show is kept with each step
};

/// What one step gave.
struct TakenStep {
  std::size_t index = 0;
  std::vector<std::complex<float>> samples;
  CaptureInfo info;
  std::optional<SpectrumTrace> trace;  ///< of a sweep; then there are no samples
  double generator_dbm = 0.0;
  double pep_dbm = 0.0;  ///< at the device, from the level check
  double full_scale_dbm = 0.0;
  std::vector<Reading> readings;  ///< what else was read at the step, RF on
  std::vector<std::string> cautions;
};

/// Where a run stands.
struct RunState {
  enum class Kind { resting, setting, settling, checking, taking, paused, done, stopped, failed };
  Kind kind = Kind::setting;
  bool is_asked = false;  ///< paused because somebody wanted it, not because something failed
  std::size_t step = 0;
  double seconds_left = 0.0;
  std::string instrument;                    ///< the one that made it pause
  std::string what;                          ///< in words, with what to do
  std::optional<RfState> rf = std::nullopt;  ///< nullopt = nothing was asked of a source yet
  std::vector<std::string> unconfirmed;      ///< sources that did not say that they are off
};

/// Who listens; called from the run's thread. `taken` must only hand on.
struct RunEvents {
  std::function<void(const RunState&)> state;
  std::function<void(TakenStep&&)> taken;
};

/// The instruments of a run; optional ones may be null.
struct RunInstruments {
  ScpiSession* generator = nullptr;
  ScpiSession* sampler = nullptr;
  ScpiSession* power_meter = nullptr;
  ScpiSession* supply = nullptr;
  ScpiSession* thermometer = nullptr;
  ScpiSession* analyser = nullptr;
  ScpiSession* counter = nullptr;
};

/// A step of the plan cannot be carried out as it is.
inline InputError step_refused(const std::string& setting, const std::string& why,
                               const std::string& todo) {
  return {"Step " + setting, "", why, todo};
}

}  // namespace heron
