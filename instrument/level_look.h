#pragma once

#include <vector>

#include "instrument/rf_guard.h"
#include "instrument/run_plan.h"

namespace heron {

/// The level at the device as the instrument at the end of the hook-up shows it: the sampler's
/// highest sample, or a power meter.
class LevelLook {
 public:
  LevelLook(const RunPlan& plan, const RunInstruments& with) : plan_(plan), with_(with) {}

  ScpiSession& instrument() const;
  /// Before RF is on.
  void set_up();
  /// PEP at its own input, dBm; InstrumentError `over_range` at full scale.
  double shown_dbm(std::size_t frames);
  /// What the hook-up takes away from the device to there, dB at a frequency.
  double loss_db(double frequency_hz) const;
  double full_scale_dbm() const { return full_scale_dbm_; }
  /// Harmonics 2 to `plan.harmonics` at the device, dBc: with the spectrum analyser if there is
  /// one, else with the sampler; empty without either.
  std::vector<double> harmonics_dbc(RfGuard& guard, double speed);
  /// The mean power of what is round a frequency, at the end of the hook-up: with the analyser if
  /// there is one, else with the sampler.
  double line_dbm(double frequency_hz, RfGuard& guard, double speed);
  const std::string& harmonics_by() const;
  double harmonics_s() const;  ///< how long that takes, bench time

 private:
  const RunPlan& plan_;
  const RunInstruments& with_;
  double full_scale_dbm_ = 0.0;
  std::vector<char> block_;
  std::vector<float> samples_;
};

}  // namespace heron
