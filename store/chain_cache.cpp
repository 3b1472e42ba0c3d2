#include "store/chain_cache.h"

#include "core/chain/chain_json.h"
#include "core/error.h"
#include "store/rows.h"

namespace heron {
namespace {

constexpr std::size_t kMostChains = 32;

}  // namespace

Chain ChainCache::read(const std::string& text) {
  {
    const std::scoped_lock lock(mutex_);
    if (const auto found = kept_.find(text); found != kept_.end()) return found->second;
  }
  Chain chain = chain_from_json(parse_stored(text, "a hook-up"), "hook-up",
                                [](const std::string& file) -> std::string {
                                  throw InputError("hook-up", file, "its file is not in the shack",
                                                   "Build the hook-up again");
                                });
  const std::scoped_lock lock(mutex_);
  if (kept_.size() >= kMostChains) kept_.clear();
  return kept_.emplace(text, std::move(chain)).first->second;
}

}  // namespace heron
