#pragma once

#include <span>
#include <string_view>

#include "core/method/evidence.h"
#include "instrument/role.h"

namespace heron {

/// Which instrument shows a quantity of `live_quantities`, and how it is asked.
struct LiveSource {
  const char* quantity;
  Role role;
  const char* command;
};
std::span<const LiveSource> live_sources();
const LiveSource* find_live_source(std::string_view quantity);  ///< nullptr if nothing shows it

/// What an instrument showed just now, with its unit and the time.
Reading live_reading(std::string_view quantity, double value, const std::string& instrument);

}  // namespace heron
