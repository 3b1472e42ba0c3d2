#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/quantity/figure.h"

namespace heron {

/// How a band comes about: f = sum of parts, each a multiple of one oscillator, so that an error of
/// y ppm in it makes (part in MHz) y hertz, with the sign of the part.
/// Example: "14.2 MHz USB = 23.2 reference - 9 carrier": 1 ppm of the carrier oscillator makes -9
/// Hz.
struct MappedBand {
  double frequency_hz = 0.0;
  std::string sideband;            ///< "USB", "LSB"; empty = either
  std::vector<double> factor_mhz;  ///< one an oscillator of the map; 0 = it does not enter
};
struct OscillatorMap {
  std::vector<std::string> oscillators;  ///< in the order in which they are first named
  std::vector<MappedBand> bands;
  bool is_empty() const { return bands.empty(); }
  /// The band that a reading is of; nullptr if none is.
  const MappedBand* find(double frequency_hz, const std::string& sideband) const;
};

/// A line a band; InputError naming the line: no sum, a number without a name, parts that do not
/// add up to the band.
nlohmann::json parse_oscillator_map(const std::string& text);
std::string oscillator_map_text(const nlohmann::json& kept);
/// InputError or a json exception if damaged.
OscillatorMap oscillator_map_from(const nlohmann::json& kept);

/// What was read on a mapped band.
struct MapReading {
  const MappedBand* band = nullptr;
  double error_hz = 0.0;
  double u_hz = 0.0;          ///< of its own
  double u_common_ppm = 0.0;  ///< of the source, the same for all
};

/// Errors of the oscillators by weighted least squares; one reading more than oscillators is
/// needed, and bands that tell them apart.
struct OscillatorErrors {
  std::vector<Figure> errors;  ///< ppm, one an oscillator; empty = cannot be separated
  std::vector<std::vector<double>> covariance;
  double scatter = 0.0;  ///< of the readings about them, in their own u
  /// On a band, Hz: with what the oscillators share.
  Figure on(const MappedBand& band) const;
};
OscillatorErrors separate_oscillators(const OscillatorMap& map,
                                      const std::vector<MapReading>& readings);

}  // namespace heron
