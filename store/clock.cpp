#include "store/clock.h"

#include <cmath>
#include <ctime>

namespace heron {

namespace {

std::string utc_text(std::time_t at) {
  std::tm parts{};
  gmtime_r(&at, &parts);
  char text[32];
  std::strftime(text, sizeof text, "%Y-%m-%dT%H:%M:%SZ", &parts);
  return text;
}

}  // namespace

std::string utc_now() {
  return utc_text(std::time(nullptr));
}

long long seconds_of(const std::string& utc) {
  std::tm parts{};
  if (strptime(utc.c_str(), "%Y-%m-%dT%H:%M:%S", &parts) == nullptr) return 0;
  return timegm(&parts);
}

std::string utc_after(const std::string& utc, double seconds) {
  std::tm parts{};
  if (strptime(utc.c_str(), "%Y-%m-%dT%H:%M:%S", &parts) == nullptr) return {};
  return utc_text(timegm(&parts) + static_cast<std::time_t>(std::llround(seconds)));
}

}  // namespace heron
