#pragma once

#include <span>
#include <string>
#include <string_view>

#include "core/method/evidence.h"

namespace heron {

/// A scalar that instruments read along with a step, whatever is measured.
struct LiveQuantity {
  std::string_view id;     ///< as readings of it are kept
  std::string_view words;  ///< "supply"
  std::string_view unit;
  int decimals = 2;
};

inline constexpr const char* kSupplyVoltage = "supply_voltage";
inline constexpr const char* kSupplyCurrent = "supply_current";
inline constexpr const char* kTemperature = "temperature";
inline constexpr const char* kPowerMeter = "power_meter";  ///< at its own input
inline constexpr const char* kCountedFrequency = "counted_frequency";
inline constexpr const char* kHeardTone = "tone";  ///< of a receiver, by ear or sound input
inline constexpr const char* kGeneratorLevel = "generator_level";  ///< as it was set

/// In the order in which they are told.
std::span<const LiveQuantity> live_quantities();

/// What instruments read at a step, in one line; empty if nothing: "supply 13.62 V, 6.41 A".
std::string live_readings_text(const std::vector<Reading>& readings);

}  // namespace heron
