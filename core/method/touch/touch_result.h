#pragma once

#include "core/method/evidence.h"
#include "core/method/method.h"
#include "core/method/result.h"

namespace heron {

Result evaluate_touch(const Evidence& evidence);

/// All settings of the test after a cell of its table was typed into, or a time dragged over.
/// After one more event.
nlohmann::json touch_noted(const Evidence& evidence, double from_s, double to_s,
                           const std::string& words);

nlohmann::json touch_typed(const Evidence& evidence, const TypedCell& cell);

}  // namespace heron
