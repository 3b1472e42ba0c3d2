#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>

#include "core/method/result.h"

namespace heron {

/// Where it is kept among the settings of a test.
inline constexpr const char* kAcceptedSettings = "accepted";

/// Somebody has looked at a figure that misses its limit, or is too close to it, and finds it good
/// enough: a decision with a name and a reason, neither a pass nor a fail.
struct Acceptance {
  std::string by;
  std::string reason;
  std::string at;       ///< UTC, ISO 8601
  double margin = 0.0;  ///< that was accepted
};
nlohmann::json to_json(const Acceptance& acceptance);
/// nullopt where none is kept; InputError if damaged.
std::optional<Acceptance> acceptance_of(const nlohmann::json& settings);

/// Whether there is something to accept: what fails, or is too close.
bool can_be_accepted(const Judgement& judgement);

/// The headline answer counts as accepted, and a remark says by whom and why, as long as it is not
/// worse than what was accepted by more than its U; else the remark says that it is.
void apply_acceptance(const Acceptance& acceptance, Result& result);

}  // namespace heron
