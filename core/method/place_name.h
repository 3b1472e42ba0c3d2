#pragma once

#include <optional>
#include <string>
#include <utility>

namespace heron {

/// The radio frequency that a step or file is named after: "28.4 MHz", "reedling 28.4MHz",
/// "h2_28.4_mhz"; nullopt where it is named after none.
std::optional<double> named_frequency_hz(const std::string& name);

/// What is left of such a name without it: "before" of "before at 1440 MHz".
std::string without_frequency(const std::string& name);

/// "Analyser 1 MHz to 120 MHz", and what a step of such a name sweeps over.
std::string sweep_name(double from_hz, double to_hz);
std::optional<std::pair<double, double>> named_sweep_hz(const std::string& name);

}  // namespace heron
