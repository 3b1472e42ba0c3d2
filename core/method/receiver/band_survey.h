#pragma once

#include "core/method/method.h"

namespace heron {

/// The first hearing of a set: on each band the lowest level that is heard by ear, where the dial
/// stands then, what the indicator shows. Rough by intention: it judges nothing, and says what deaf
/// bands share where somebody has entered what they use.
const Method& band_survey_method();

}  // namespace heron
