#include "core/method/needle.h"

#include <algorithm>
#include <cmath>

namespace heron {

double needle_pitch_hz(const Needle& needle) {
  constexpr double kRestHz = 660.0;
  constexpr double kTolerancesAnOctave = 4.0;
  constexpr double kMostOctaves = 1.5;
  const auto& value = needle.let_go_value ? needle.let_go_value : needle.value;
  if (!value || needle.state == Needle::State::none || needle.state == Needle::State::no_reading ||
      !(needle.tolerance > 0.0) || !std::isfinite(*value))
    return 0.0;
  return kRestHz * std::exp2(std::clamp(*value / (kTolerancesAnOctave * needle.tolerance),
                                        -kMostOctaves, kMostOctaves));
}

}  // namespace heron
