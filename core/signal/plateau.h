#pragma once

#include <cstddef>
#include <cstdint>

#include "core/signal/power_profile.h"

namespace heron {

/// How many samples of a recording stand at its highest level although that is not full scale: what
/// limits before the recorder piles them up there. 0 where they are no more than crests have. Looks
/// at some cells of the profile, from `first` to before `last`. Throws InputError.
std::int64_t samples_at_plateau(const CaptureOpener& open, const PowerProfile& profile,
                                std::size_t first, std::size_t last, float peak);

}  // namespace heron
