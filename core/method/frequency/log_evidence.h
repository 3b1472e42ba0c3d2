#pragma once

#include <string>

#include "core/method/frequency/drift_record.h"
#include "core/method/method.h"

namespace heron {

/// How much a record of frequencies holds: "226 readings", "3 typed".
std::string logged_words(const Evidence& evidence);
/// A counter, or the tone of a receiver, and a thermometer, again and again.
LogRecipe frequency_log_recipe(const DriftReference& reference, double every_s, double length_s);

}  // namespace heron
