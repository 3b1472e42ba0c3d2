#pragma once

#include <optional>
#include <stop_token>

#include "core/signal/capture.h"

namespace heron {

/// The strongest line within 300 Hz of a tone, where it stands 10 dB out of what is round it: an
/// oscillator that is pulled by its reference has them at the distance it would run free.
struct ToneSideband {
  double level_dbc = 0.0;
  double offset_hz = 0.0;  ///< from the tone, signed
};
/// nullopt where there is none, or the recording is shorter than two seconds.
std::optional<ToneSideband> strongest_sideband(const CaptureOpener& open, double tone_hz,
                                               const std::stop_token& stop = {});

}  // namespace heron
