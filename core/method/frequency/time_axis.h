#pragma once

#include <string>

namespace heron {

/// Unit of a time axis that suits a span.
struct TimeUnit {
  double seconds = 60.0;
  std::string word = "min";
};
inline TimeUnit time_unit_for(double span_s) {
  if (span_s > 6.0 * 3600.0) return {3600.0, "h"};
  if (span_s < 180.0) return {1.0, "s"};
  return {};
}

}  // namespace heron
