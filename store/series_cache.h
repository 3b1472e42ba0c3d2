#pragma once

#include <map>
#include <mutex>

#include "core/method/evidence.h"

namespace heron {

/// Logs as far as they were read: one that grows is read on from there. Any thread may ask.
class SeriesCache {
 public:
  SeriesPtr find(long long id) const;  ///< nullptr if nothing was read yet
  void keep(SeriesPtr series);

 private:
  mutable std::mutex mutex_;
  std::map<long long, SeriesPtr> kept_;
};

}  // namespace heron
