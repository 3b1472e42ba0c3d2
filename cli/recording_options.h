#pragma once

#include <nlohmann/json_fwd.hpp>
#include <optional>

#include "core/signal/keyed_parts.h"

namespace CLI {
class App;
}

namespace heron {

/// Adds --start and --length: which part of a recording is measured.
void add_part_options(CLI::App& command, double& start_s, double& length_s);
/// nullopt where neither was given: the part is found.
std::optional<TimeSpan> part_asked(double start_s, double length_s);
/// Adds --linearity; nullopt = as the chain states, else assumed.
void add_linearity_option(CLI::App& command, std::optional<double>& u_db);
/// Keys `part` and `keyed` of a result.
void add_part(nlohmann::json& out, const std::optional<KeyedParts>& parts);

}  // namespace heron
