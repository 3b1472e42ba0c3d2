#include "store/clock.h"

#include <ctime>

namespace heron {

std::string utc_now() {
  const std::time_t now = std::time(nullptr);
  std::tm parts{};
  gmtime_r(&now, &parts);
  char text[32];
  std::strftime(text, sizeof text, "%Y-%m-%dT%H:%M:%SZ", &parts);
  return text;
}

long long seconds_of(const std::string& utc) {
  std::tm parts{};
  if (strptime(utc.c_str(), "%Y-%m-%dT%H:%M:%S", &parts) == nullptr) return 0;
  return timegm(&parts);
}

}  // namespace heron
