#pragma once

#include <deque>
#include <map>
#include <mutex>
#include <string>
#include <string_view>

#include "core/method/analysis.h"

namespace heron {

/// Records that were read already, by their recording and their text: an edit that touches one step
/// does not read the others again. Any thread may ask.
class AnalysisCache {
 public:
  /// nullptr if this text was not read.
  AnalysisPtr find(long long step_capture, std::string_view text) const;
  void keep(long long step_capture, std::string_view text, AnalysisPtr analysis);

 private:
  struct Kept {
    std::size_t length = 0;
    std::size_t hash = 0;
    AnalysisPtr analysis;
  };
  mutable std::mutex mutex_;
  std::map<long long, Kept> kept_;
  std::deque<long long> order_;  ///< the oldest first
};

}  // namespace heron
