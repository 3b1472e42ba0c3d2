#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/method/phase_noise/noise_curve.h"

namespace CLI {
class App;
}

namespace heron {

/// A phase-noise curve from files: a recording of a carrier, a table, or an analyser's traces of
/// one carrier, a file a span. InputError if they are none, or do not go together.
NoiseCurve read_noise(const std::vector<std::string>& files, int per_decade,
                      std::optional<double> center_hz = std::nullopt);
/// "A,B,C": a file a span.
std::vector<std::string> files_in(const std::string& typed);

/// "100,100000" as a range; InputError naming the option.
std::pair<double, double> range_from(const std::string& option, const std::string& typed);

/// "--per-decade".
void add_bins_option(CLI::App& command, int& per_decade);

nlohmann::json points_json(const std::vector<CurvePoint>& points, bool has_u);

}  // namespace heron
