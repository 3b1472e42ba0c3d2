#pragma once

#include <string>

namespace heron {

enum class Sense { at_most, at_least, within };

/// What a figure must keep to, in the limit's own unit and convention.
struct Limit {
  std::string name;  ///< whose limit: "Marsh club"
  Sense sense = Sense::at_most;
  double value = 0.0;
  std::string unit;
  std::string convention;
  double span = 20.0;      ///< full scale of the margin line for this characteristic, in `unit`
  std::string typed = {};  ///< as it was typed, where a person did
  bool operator==(const Limit&) const = default;
};

/// "−30 dB", "± 0.5 ppm", "at least 30 W".
std::string limit_text(const Limit& limit);
std::string sense_name(Sense sense);
Sense sense_from_name(const std::string& name);  ///< InputError if unknown

}  // namespace heron
