#pragma once

#include <optional>

#include "core/method/method.h"
#include "store/planned.h"

namespace heron {

/// A test of a method that has a row in the table: what was read, and what it means.
struct GeneralTest : PlannedTest {
  const Method* method = nullptr;
  Evidence evidence;
  Result result;
  /// What is chosen first, and the step that it is of.
  std::optional<std::size_t> headline_item() const;
  std::optional<std::size_t> headline_step() const { return result.step_of(headline_item()); }
};

/// Among the settings of a test: the test of the same kind that it is compared with.
inline constexpr const char* kComparedWith = "compare_with";

/// The settings of a test in their present place, and no others; names damaged ones in the test.
nlohmann::json sound_settings(const Method& method, Test& test);
/// What was read, without what it means and what is driven behind it.
GeneralTest load_evidence(const Shack& shack, Id test, const Method& method);
GeneralTest load_general_test(const Shack& shack, Id test, const Method& method);
/// What the rail and the shack show of it; nullopt = nothing taken.
std::optional<Headline> headline_of(const GeneralTest& test);

}  // namespace heron
