#include "store/analysis_cache.h"

namespace heron {
namespace {

/// Some megabytes: each may hold a spectrum.
constexpr std::size_t kMostKept = 256;

}  // namespace

AnalysisPtr AnalysisCache::find(long long step_capture) const {
  const std::scoped_lock lock(mutex_);
  const auto found = kept_.find(step_capture);
  return found == kept_.end() ? nullptr : found->second;
}

void AnalysisCache::keep(long long step_capture, AnalysisPtr analysis) {
  const std::scoped_lock lock(mutex_);
  if (kept_.insert_or_assign(step_capture, std::move(analysis)).second)
    order_.push_back(step_capture);
  while (kept_.size() > kMostKept) {
    kept_.erase(order_.front());
    order_.pop_front();
  }
}

void AnalysisCache::forget(long long step_capture) {
  const std::scoped_lock lock(mutex_);
  if (kept_.erase(step_capture) > 0) std::erase(order_, step_capture);
}

void AnalysisCache::follow(long long version) {
  {
    const std::scoped_lock lock(mutex_);
    if (version == version_) return;
    version_ = version;
  }
  clear();
}

void AnalysisCache::clear() {
  const std::scoped_lock lock(mutex_);
  kept_.clear();
  order_.clear();
}

}  // namespace heron
