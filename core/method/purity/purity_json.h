#pragma once

#include <nlohmann/json_fwd.hpp>

#include "core/method/purity/purity_reading.h"

namespace heron {

/// A source as it is kept beside its recording, and read back. InputError if it is damaged.
nlohmann::json to_json(const PuritySource& source);
PuritySource purity_source_from_json(const nlohmann::json& record);

}  // namespace heron
