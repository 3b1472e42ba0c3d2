#pragma once

#include <cstddef>
#include <vector>

#include "core/progress.h"
#include "core/signal/averaging.h"
#include "core/signal/capture.h"
#include "core/signal/fft.h"
#include "core/signal/window.h"

namespace heron {

/// Averaged spectrum of a whole recording (Welch 1967). Bins run from -rate/2 upwards for I/Q,
/// from 0 to rate/2 for real audio.
struct Spectrum {
  double sample_rate_hz = 0.0;
  bool is_complex = true;
  std::size_t segment = 0;  ///< samples per transform
  WindowKind window = WindowKind::blackman_harris_4;
  std::size_t averages = 0;  ///< overlapping segments
  AveragingStatistics statistics;
  /// Mean power per bin, scaled so that the bins of a line add up to the square of its amplitude
  /// (full-scale sinusoid = 1), and noise to density times bin width.
  std::vector<float> power;
  std::vector<float> max_hold;     ///< empty unless asked for
  std::vector<float> log_average;  ///< geometric mean; empty unless asked for. 2.51 dB low on noise
  /// The same, averaged over consecutive parts of the record.
  std::vector<std::vector<float>> slices;
  std::vector<std::vector<float>> max_hold_slices;  ///< of each part; empty unless asked for
  /// Independent periodograms' worth of one slice. All of them are worth less than so many times
  /// as much: neighbours overlap.
  double slice_k_eff = 1.0;

  double bin_hz() const { return sample_rate_hz / static_cast<double>(segment); }
  double rbw_hz() const { return bin_hz() * enbw_bins(window); }
  double frequency_hz(std::size_t bin) const;
  double position(double frequency_hz) const;  ///< fractional bin
};

struct WelchSettings {
  std::size_t segment = 8192;
  WindowKind window = WindowKind::blackman_harris_4;
  int overlap_parts = 4;  ///< hop = segment / parts; 4 makes the windows' energy add up evenly
  /// Only every second segment, without overlap: a first look at a long record.
  bool is_sparse = false;
  unsigned threads = 0;  ///< 0 = all cores
  std::size_t slices = 16;
  bool max_hold = false;
  bool log_average = false;
  PlanEffort effort = PlanEffort::quick;
};

/// Streams the recording once. Memory: slices x segment floats plus two segments a thread.
/// Throws InputError (unreadable, or shorter than one segment) or Cancelled.
Spectrum welch_spectrum(const CaptureOpener& open, const WelchSettings& settings,
                        const Progress& progress = {}, const std::stop_token& stop = {});

}  // namespace heron
