#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/method/evidence.h"
#include "core/method/phase_noise/noise_compare.h"
#include "core/method/phase_noise/noise_curve.h"
#include "core/method/phase_noise/noise_settings.h"

namespace heron {

/// What several traces of one carrier, or several recordings of it, come to: where spans overlap
/// the narrowest filter counts; recordings are averaged in power.
NoiseCurve joined_curves(const std::vector<NoiseCurve>& curves, const std::vector<double>& rbw_hz);

/// One state of the device, as a curve told for the frequency of the sheet.
struct NoiseState {
  std::string name;
  NoiseCurve curve;
  double factor = 1.0;               ///< by which it was multiplied for that
  std::optional<double> carrier_hz;  ///< it was measured at
  std::vector<std::size_t> steps;    ///< of the test
  bool is_typed = false;
};

/// All that a test holds: what stands before a comma in the name of a step is its state, so that
/// spans of one state go together. "floor" is the instrument's own noise, "yardstick" a better
/// source beside it.
struct NoiseStates {
  std::vector<NoiseState> all;      ///< in the order they were begun
  std::optional<NoiseCurve> floor;  ///< for the same frequency
  std::optional<NoiseState> yardstick;
  std::optional<double> scaled_hz;
  std::vector<Remark> remarks;
  /// What the last one is held against: the first that was measured at the same carrier, else the
  /// first.
  const NoiseState* before() const;
  const NoiseState* after() const { return all.empty() ? nullptr : &all.back(); }
};
/// `state_of`: what a step's name says of its state.
/// Whether two carriers are one.
bool is_same_carrier(const NoiseState& a, const NoiseState& b);

NoiseStates noise_states(const Evidence& evidence, const NoisePlan& plan,
                         std::string (*state_of)(const std::string& label));

std::string state_of_step(const std::string& label);  ///< "after" of "after, 100 kHz"

}  // namespace heron
