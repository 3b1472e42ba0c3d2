#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <utility>

#include "core/judge/remark.h"
#include "core/method/evidence.h"
#include "core/method/result.h"

namespace heron {

struct Method;

/// Where it is kept among the settings of a test.
inline constexpr const char* kProvisionalSettings = "provisional";

/// Why a test is to be repeated, such as a rough instrument or part of the range; empty = it need
/// not be.
std::string provisional_reason(const nlohmann::json& settings);

/// A reading typed as "~ 31 W" is a rough one, to be read again: whether it is, and the rest.
std::pair<bool, std::string> rough_typing(const std::string& typed);
std::string as_rough(const std::string& typed);  ///< "~ 31 W"

/// Marks what stands on readings that are provisional, all of it where the test is, and says which.
void mark_provisional(const Method& method, const Evidence& evidence, Result& result);

}  // namespace heron
