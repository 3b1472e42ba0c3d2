#pragma once

#include <nlohmann/json.hpp>
#include <string>

#include "core/judge/remark.h"

namespace heron {

/// Where it is kept among the settings of a test.
inline constexpr const char* kProvisionalSettings = "provisional";

/// Why a test is to be repeated, such as a rough instrument or part of the range; empty = it need
/// not be.
std::string provisional_reason(const nlohmann::json& settings);
Remark provisional_remark(const std::string& reason);

}  // namespace heron
