#pragma once

#include <QString>
#include <string>

namespace heron {

/// How long ago a moment (UTC, ISO 8601) was: "today", "9 d", "6 wk", "13 mo"; empty if it is none.
QString age_text(const std::string& taken_at);
/// A figure that old is out of date.
bool is_out_of_date(const std::string& taken_at);

}  // namespace heron
