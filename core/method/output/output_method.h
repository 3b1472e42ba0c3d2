#pragma once

#include "core/method/method.h"

namespace heron {

/// Output power per band and panel setting against specification, cold and after a key-down, with
/// the supply beside it and the device's own wattmeter. Typed, all of it at the device's terminals.
const Method& output_method();

/// Evidence as the assessment wants it.
std::vector<struct OutputStep> output_steps(const Evidence& evidence);

}  // namespace heron
