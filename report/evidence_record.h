#pragma once

#include <nlohmann/json.hpp>

#include "store/general.h"

namespace heron {

/// What a figure can be worked out from again: settings, drive, hook-up, and of each step its
/// conditions, readings and recordings (by name and hash).
nlohmann::json evidence_record(const GeneralTest& test);

}  // namespace heron
