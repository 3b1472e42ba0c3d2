#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/method/phase_noise/noise_curve.h"

namespace heron {

/// Curves of one device over a setting.
struct FamilyMember {
  std::string setting;
  NoiseCurve curve;
};

/// Where two of them change places: nothing on the two sides of it is within 2 u.
struct NoiseCrossing {
  std::size_t a = 0;  ///< of the members
  std::size_t b = 0;
  double offset_hz = 0.0;
  double u_hz = 0.0;  ///< standard
};
std::vector<NoiseCrossing> crossings_of(std::span<const FamilyMember> family);

/// Median of the crossings over lg f, with the standard uncertainty of a median; nullopt = none.
struct NoisePivot {
  double offset_hz = 0.0;
  double u_hz = 0.0;
  double low_hz = 0.0;  ///< of the crossings
  double high_hz = 0.0;
};
std::optional<NoisePivot> pivot_of(std::span<const NoiseCrossing> crossings);

/// What counts in use.
struct NoiseWeighting {
  enum class Kind { neighbour, channel, integrated };
  Kind kind = Kind::neighbour;
  double offset_hz = 20e3;  ///< of a strong neighbour
  double low_hz = 300.0;    ///< of a channel, or integrated over
  double high_hz = 3000.0;
};
/// The weighted level of one curve: dBc/Hz at an offset; dBc in a channel (power at offset_hz ±
/// half its width); rad integrated. InputError where the curve does not reach.
Figure weighted_noise(const NoiseCurve& curve, const NoiseWeighting& weighting);

}  // namespace heron
