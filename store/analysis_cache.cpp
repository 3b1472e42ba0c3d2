#include "store/analysis_cache.h"

#include <functional>

namespace heron {
namespace {

/// Some megabytes: each may hold a spectrum.
constexpr std::size_t kMostKept = 256;

std::size_t hash_of(std::string_view text) {
  return std::hash<std::string_view>()(text);
}

}  // namespace

AnalysisPtr AnalysisCache::find(long long step_capture, std::string_view text) const {
  const std::size_t hash = hash_of(text);
  const std::scoped_lock lock(mutex_);
  const auto found = kept_.find(step_capture);
  if (found == kept_.end()) return nullptr;
  const Kept& kept = found->second;
  return kept.length == text.size() && kept.hash == hash ? kept.analysis : nullptr;
}

void AnalysisCache::keep(long long step_capture, std::string_view text, AnalysisPtr analysis) {
  Kept kept{text.size(), hash_of(text), std::move(analysis)};
  const std::scoped_lock lock(mutex_);
  if (kept_.insert_or_assign(step_capture, std::move(kept)).second) order_.push_back(step_capture);
  while (kept_.size() > kMostKept) {
    kept_.erase(order_.front());
    order_.pop_front();
  }
}

}  // namespace heron
