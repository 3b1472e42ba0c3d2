#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/method/evidence.h"

namespace heron {

/// One thing to see to before an amplifier gets power for the first time.
struct PowerCheck {
  enum class State { open, skipped, done, known };
  std::string label;
  State state = State::open;
  std::string known;  ///< what the program knows of it: "load 150 W, planned 60 W"
  std::string words;  ///< what somebody typed, or why it was skipped
};

/// The usual ones, in the order in which they are done.
std::vector<std::string> usual_power_checks();

/// Of each step: ticked by a person, or by what the hook-up and the readings say; what is known to
/// be over its rating stays open whatever is typed.
std::vector<PowerCheck> power_checks(const Evidence& evidence);

inline constexpr const char* kCheckReading = "checked";

}  // namespace heron
