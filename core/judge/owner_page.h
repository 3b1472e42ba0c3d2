#pragma once

#include <string>
#include <vector>

#include "core/judge/verdict.h"

namespace heron {

/// What one test says to somebody who only owns the device.
struct OwnerTest {
  std::string title;
  std::string answer;  ///< "−30.4 dB re PEP at 30 W"; empty = not measured
  std::string limit;   ///< "at most −30 dB"; empty = nothing to keep to
  Verdict verdict = Verdict::not_taken;
  bool is_provisional = false;  ///< measured roughly, or in part: to be repeated
};

struct OwnerPart {
  std::string head;
  std::vector<std::string> lines;
};

/// An evaluation in plain words: how many kept to what, which did not, what was done to the device
/// (a line each), and what the next visit needs; `wanted` is what somebody wants of it. Parts
/// without a line are left out.
std::vector<OwnerPart> owner_page(const std::vector<OwnerTest>& tests,
                                  const std::vector<std::string>& done,
                                  const std::string& wanted = {});

}  // namespace heron
