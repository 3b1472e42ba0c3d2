#pragma once

#include <deque>
#include <map>
#include <mutex>

#include "core/method/analysis.h"

namespace heron {

/// Records that were read already, by the recording they belong to: an edit that touches one step
/// does not read the others again. Any thread may ask.
class AnalysisCache {
 public:
  /// nullptr if it was not read, or has changed since.
  AnalysisPtr find(long long step_capture) const;
  void keep(long long step_capture, AnalysisPtr analysis);
  void forget(long long step_capture);
  /// All of them, where the shack's file is another one than it was: `version` tells.
  void follow(long long version);
  void clear();

 private:
  mutable std::mutex mutex_;
  std::map<long long, AnalysisPtr> kept_;
  std::deque<long long> order_;  ///< the oldest first
  long long version_ = 0;
};

}  // namespace heron
