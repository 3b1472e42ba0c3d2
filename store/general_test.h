#pragma once

#include <optional>

#include "core/method/method.h"
#include "store/planned_test.h"

namespace heron {

/// A test of a method that has a row in the table: what was read, and what it means.
struct GeneralTest : PlannedTest {
  const Method* method = nullptr;
  Evidence evidence;
  Result result;
  /// The step that the headline is of.
  std::optional<std::size_t> headline_step() const;
};

GeneralTest load_general_test(const Shack& shack, Id test, const Method& method);
/// What the rail and the shack show of it; nullopt = nothing taken.
std::optional<Headline> headline_of(const GeneralTest& test);

}  // namespace heron
