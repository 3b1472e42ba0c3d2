#pragma once

#include <optional>
#include <string>

namespace heron {

/// The drive that a step is named after ("12 W", "2.5 W bias low"), dBm; nullopt if its name is
/// none.
std::optional<double> drive_of_label(const std::string& label);

/// Two drives nearer than that are the same, dB.
inline constexpr double kSameDriveDb = 0.05;

}  // namespace heron
