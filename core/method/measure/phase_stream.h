#pragma once

#include <complex>
#include <cstdint>
#include <functional>
#include <span>

#include "core/progress.h"
#include "core/signal/capture.h"

namespace heron {

/// Where a recording has its carrier.
struct FoundCarrier {
  double frequency_hz = 0.0;
  double amplitude = 0.0;      ///< full scale = 1
  double wander_hz = 0.0;      ///< how far it is from there in the middle of the spots, typically
  double over_noise_db = 0.0;  ///< over the middle of what is round it, in one bin of the spots
};
/// The strongest line of some spots all over the recording; InputError where none stands out.
FoundCarrier find_carrier(const CaptureOpener& open, const std::stop_token& stop = {});

/// What the phase and amplitude of a carrier do from sample to sample: real part the step of the
/// phase (rad) beyond what its mean frequency makes, imaginary part its amplitude over the mean,
/// less one. Unwrapped; phase itself is the running sum of the steps. `gap` hears of each block in
/// which the carrier is lost, with its samples.
struct PhaseStream {
  std::int64_t frames = 0;
  std::int64_t lost = 0;  ///< of them: the carrier was weak, or ran away
  double first_lost_s = 0.0;
  double mean_hz = 0.0;  ///< of the carrier, over what is used
};
PhaseStream follow_phase(const CaptureOpener& open, const FoundCarrier& carrier,
                         const std::function<void(std::span<const std::complex<float>>)>& take,
                         const std::function<void(std::int64_t)>& gap,
                         const Progress& progress = {}, const std::stop_token& stop = {});

}  // namespace heron
