#pragma once

#include <cstddef>

#include "core/method/result.h"

namespace heron {

/// An answer that is the same whichever of so many steps is chosen; `first` is shown first.
inline void answer_all_steps(Result& result, const Answer& answer, std::size_t first,
                             std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) {
    result.answers.push_back(answer);
    result.answers.back().step = (first + i) % count;
  }
}

}  // namespace heron
