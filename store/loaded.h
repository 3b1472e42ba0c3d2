#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <variant>

#include "store/general.h"
#include "store/two_tone.h"

namespace heron {

/// A test with its evidence, whatever it measures; the first = none, or of a kind that this version
/// does not measure.
using LoadedTest = std::variant<std::monostate, TwoToneTest, GeneralTest>;

/// The one place that knows which kind of test is read how.
LoadedTest load_test(const Shack& shack, Id test);
/// What all kinds have; nullptr for none.
const PlannedTest* planned_of(const LoadedTest& test);
/// The method that a kept record belongs to; InputError if it is damaged or of an unknown kind.
std::string checked_method(const nlohmann::json& record);
/// Writes the headline that the rail and the shack show; returns the test it is drawn from.
LoadedTest refresh_headline(Shack& shack, Id test);

}  // namespace heron
