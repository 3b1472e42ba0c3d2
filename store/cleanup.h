#pragma once

#include <filesystem>
#include <set>
#include <string>
#include <vector>

#include "store/shack.h"

namespace heron {

/// Files of recordings that nothing refers to any more: removed, or of something removed.
struct UnusedCaptures {
  std::set<std::string> hashes;
  std::vector<std::string> names;  ///< of the recordings, as they were added
  std::vector<std::filesystem::path> files;
  std::uintmax_t bytes = 0;
};

UnusedCaptures find_unused_captures(const Shack& shack);

/// Takes the files away, with the rows of what was removed; that cannot be undone. InputError if a
/// file cannot be deleted.
void remove_unused_captures(Shack& shack, const UnusedCaptures& unused);

}  // namespace heron
