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
  int averages = 1;  ///< sweeps, of whose powers the mean is taken

  /// How long it may take: a swept filter needs some span / RBW^2.
  double length_s() const { return averages * (1.0 + 4.0 * (to_hz - from_hz) / (rbw_hz * rbw_hz)); }
};

/// What is read of a step that is not recorded.
struct RunLevels {
  ReadingRole role = ReadingRole::at;  ///< of the level: before and after are drives
  bool is_bypassed = false;            ///< somebody has taken the device out of the line for it
  bool is_idle = false;                ///< RF stays off; only the supply is read
};

/// A receiver's audio without a signal, with it, and with half of its voltage; nothing is recorded.
struct RunListen {
  double frequency_hz = 0.0;
  double first_dbm = -107.0;  ///< of the generator; the level is then moved
  double most_dbm = -50.0;    ///< not heard even there: it is deaf
  /// (S+N)/N that tells something; it is brought near the middle of the two in decibels.
  double lowest_db = 7.0;
  double highest_db = 13.0;
  int readings = 6;  ///< of each, so many
  double apart_s = 0.4;
  std::string shows = {};  ///< nothing is heard: the level is moved until its indicator is there
  double shown = 0.0;      ///< the same in S units, where the bench can read it by itself
  /// The carrier stays on, its modulation is switched: depth in %, tone in Hz.
  std::optional<std::pair<double, double>> am = std::nullopt;
  /// No audio: the level at its IF is read at the first level and so much lower.
  struct AtIf {
    double lower_db = 10.0;
    std::optional<double> if_hz = std::nullopt;  ///< by the analyser there; else by the power meter
  };
  std::optional<AtIf> at_if = std::nullopt;
};

/// One step of an automatic ladder.
struct RunStep {
  std::string setting;                   ///< as the ladder calls it: "10 W"
  std::optional<double> generator_dbm;   ///< set this level; or
  std::optional<double> output_pep_dbm;  ///< search the level that gives this at the device
  std::optional<RunSweep> sweep;         ///< taken with the analyser
  std::optional<double> center_hz;       ///< sampled here instead of round the carrier
  std::optional<RunLevels> levels = std::nullopt;  ///< read, nothing is recorded
  std::optional<RunListen> listen = std::nullopt;  ///< to a receiver
  /// What somebody has to do first, RF off, in words; empty = nothing.
  std::string prompt = {};
  /// At the generator's level of that earlier step, and only if that was taken.
  std::optional<std::size_t> after_step = std::nullopt;
  std::optional<double> most_output_dbm = std::nullopt;  ///< instead of the plan's
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
  bool is_keyed = true;           ///< else the device runs by itself, and no generator is needed
  bool reads_along = true;        ///< what else the instruments show is kept with each step
  bool is_read_by_meter = false;  ///< levels are what the power meter shows, not the sampler
  int harmonics = 1;              ///< read with levels, up to this one
};

/// What a voltmeter showed behind a receiver, V.
struct HeardStep {
  std::vector<double> off;
  std::vector<double> on;
  std::vector<double> half;
  /// Noise beside the step's frequency, by how far the dial was moved, Hz; empty = not scanned.
  std::vector<std::pair<double, double>> beside;
  bool is_deaf = false;  ///< nothing rose at the level that is told
};

/// What a meter at a receiver's IF showed, dBm.
struct IfStep {
  std::vector<double> shown;
  std::vector<double> lower;
  double lower_generator_dbm = 0.0;
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
  /// Of a step of levels: what the instrument at the end of the hook-up showed, dBm; nullopt =
  /// idle.
  std::optional<double> shown_dbm;
  std::string shown_by = {};
  std::string driven_by = {};         ///< the generator
  std::vector<double> harmonics_dbc;  ///< 2nd, 3rd, ..., at the device
  std::string harmonics_by = {};
  std::optional<HeardStep> heard;
  std::optional<IfStep> at_if = std::nullopt;
  double keyed_s = 0.0;
  double rested_s = 0.0;  ///< that the hook-up had to cool before
  std::vector<std::string> cautions;
};

/// Where a run stands.
struct RunState {
  enum class Kind {
    resting,
    setting,
    settling,
    checking,
    taking,
    moving,  ///< RF on: the level is moved until the receiver shows what it is to show
    paused,
    switching,  ///< RF off, until somebody has taken the device out of the line, put it in, or
                ///< done what the step asks for
    done,
    stopped,
    failed
  };
  Kind kind = Kind::setting;
  bool is_asked = false;     ///< paused because somebody wanted it, not because something failed
  bool to_bypass = false;    ///< of `switching`
  std::string prompt = {};   ///< of `switching`: what to do instead
  bool is_bypassed = false;  ///< at the end: the device still stands out of the line
  std::size_t step = 0;
  double seconds_left = 0.0;
  double level_dbm = 0.0;  ///< of `moving`: the generator's
  std::string instrument;  ///< the one that made it pause
  std::string what;        ///< in words, with what to do; when done, why steps were left out
  std::optional<RfState> rf = std::nullopt;  ///< nullopt = nothing was asked of a source yet
  std::vector<std::string> unconfirmed;      ///< sources that did not say that they are off
};

/// Who listens; called from the run's thread. `taken` must only hand on.
struct RunEvents {
  std::function<void(const RunState&)> state;
  std::function<void(TakenStep&&)> taken;
  /// Why a step must not be taken after what was taken; empty = it may. Then it is left out.
  std::function<std::string(std::size_t)> objection = nullptr;
  /// RF is off: what needs no hand is tuned for a step, so many hertz beside it. Where there is no
  /// such thing somebody has done it.
  std::function<void(std::size_t, double)> tune = nullptr;
  /// What the receiver shows, in S units, where that can be asked; else somebody looks.
  std::function<double()> shown = nullptr;
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
  ScpiSession* voltmeter = nullptr;
};

/// A step of the plan cannot be carried out as it is.
inline InputError step_refused(const std::string& setting, const std::string& why,
                               const std::string& todo) {
  return {"Step " + setting, "", why, todo};
}

}  // namespace heron
