#pragma once

#include <QString>
#include <algorithm>
#include <functional>
#include <string>
#include <vector>

#include "core/error.h"
#include "core/judge/remark.h"

namespace heron::testing {

/// What an action is refused with, as a user reads it; empty if it was not refused, or refused
/// without saying what to do.
inline QString refusal(const std::function<void()>& action) {
  try {
    action();
  } catch (const InputError& error) {
    return error.advice.empty() ? QString() : QString::fromUtf8(error.what());
  }
  return {};
}

inline bool has_remark(const std::vector<Remark>& remarks, const std::string& code) {
  return std::any_of(remarks.begin(), remarks.end(),
                     [&](const Remark& r) { return r.code == code; });
}

}  // namespace heron::testing
