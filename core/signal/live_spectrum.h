#pragma once

#include <complex>
#include <cstddef>
#include <span>
#include <vector>

#include "core/signal/fft.h"

namespace heron {

/// A spectrum that is looked at while samples keep coming: exponential average and peak hold over
/// half-overlapping Blackman-Harris segments. Everything is allocated by the constructor; nothing
/// after it. Belongs to one thread.
class LiveSpectrum {
 public:
  /// `size` bins, a power of two.
  explicit LiveSpectrum(std::size_t size);

  std::size_t size() const { return size_; }
  /// Over so many segments (plain mean until there are as many); 1 = the latest alone.
  void set_averages(unsigned segments) { averages_ = segments == 0 ? 1 : segments; }
  void clear();
  /// Interleaved I and Q as they come, in pieces of any length.
  void add(std::span<const float> iq);

  /// Power a bin, sinusoid of full scale = 1, from -rate/2 upwards.
  std::span<const float> average() const { return average_; }
  /// The highest of each bin since the last clear().
  std::span<const float> hold() const { return hold_; }
  std::size_t segments() const { return segments_; }
  /// Highest |x|^2 since the last clear_peak().
  float peak_power() const { return peak_; }
  /// Whether a component stood at full scale since then.
  bool was_over_range() const { return is_over_; }
  void clear_peak();
  /// Equivalent noise bandwidth in bins.
  static double noise_bandwidth_bins();

 private:
  void take_segment();
  std::size_t size_;
  Fft fft_;
  std::vector<float> window_;
  std::vector<float> pending_;  ///< 2 * size floats, `filled_` of them used
  std::size_t filled_ = 0;
  std::vector<float> average_;
  std::vector<float> hold_;
  float scale_;
  unsigned averages_ = 8;
  std::size_t segments_ = 0;
  float peak_ = 0.0F;
  bool is_over_ = false;
};

}  // namespace heron
