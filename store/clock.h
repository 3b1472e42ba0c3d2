#pragma once

#include <string>

namespace heron {

/// Now, UTC, ISO 8601 to the second: "2026-03-02T19:04:00Z".
std::string utc_now();
/// Seconds since the epoch of such a text; 0 if it is none.
long long seconds_of(const std::string& utc);
/// Such a text so many seconds later; empty if it is none.
std::string utc_after(const std::string& utc, double seconds);

}  // namespace heron
