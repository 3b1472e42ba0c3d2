#include "store/series_cache.h"

#include <utility>

namespace heron {
namespace {

/// Each may be long: those of a few tests are enough.
constexpr std::size_t kMostLogs = 24;

}  // namespace

SeriesPtr SeriesCache::find(long long id) const {
  const std::scoped_lock lock(mutex_);
  const auto found = kept_.find(id);
  return found == kept_.end() ? nullptr : found->second;
}

void SeriesCache::keep(SeriesPtr series) {
  const std::scoped_lock lock(mutex_);
  const long long id = series->id;
  kept_[id] = std::move(series);
  // The oldest ids are of tests that were looked at long ago, or soon read again.
  while (kept_.size() > kMostLogs)
    kept_.erase(kept_.begin()->first == id ? std::next(kept_.begin()) : kept_.begin());
}

}  // namespace heron
