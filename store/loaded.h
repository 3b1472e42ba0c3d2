#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "store/general.h"

namespace heron {

/// A test with its evidence; nullopt of a kind that this version does not measure.
using LoadedTest = std::optional<GeneralTest>;

LoadedTest load_test(const Shack& shack, Id test);
/// The method that a kept record belongs to; InputError if it is damaged or of an unknown kind.
std::string checked_method(const nlohmann::json& record);
/// Writes the headline that the rail and the shack show; returns the test it is drawn from.
LoadedTest refresh_headline(Shack& shack, Id test);

/// A record before it was pinned.
struct PinnedRecord {
  Id step_capture = 0;
  nlohmann::json before;
};
/// Writes into every recording of a test that has a hook-up what it lacks as it is planned now, so
/// that another plan does not alter it. Returns what stood there.
std::vector<PinnedRecord> pin_records(Shack& shack, Id test);
void unpin_records(Shack& shack, const std::vector<PinnedRecord>& pinned);

}  // namespace heron
