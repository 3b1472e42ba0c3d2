#pragma once

#include <cstddef>
#include <span>
#include <vector>

#include "core/signal/trace_csv.h"

namespace heron {

/// A line in an analyser's trace, between its points.
struct TracePeak {
  double frequency_hz = 0.0;
  double level_dbm = -400.0;
};

/// A Gaussian filter's response at a distance from its middle, dB; 3 dB down at half its width.
double gaussian_skirt_db(double distance_hz, double rbw_hz);

/// Peaks and floors of a trace, with the analyser's filter taken into account. The trace must
/// outlive it.
class TraceReader {
 public:
  /// Without a stated RBW the strongest line shows it.
  explicit TraceReader(const SpectrumTrace& trace);

  double rbw_hz() const { return rbw_hz_; }
  double noise_bandwidth_hz() const { return 1.0645 * rbw_hz_; }  ///< of a Gaussian filter
  std::size_t index_of(double hz) const;  ///< first point at or above a frequency
  bool covers(double hz) const;
  /// The highest point within a distance, refined.
  TracePeak peak_near(double hz, double within_hz) const;
  /// The strongest lines that are not one line and its skirt, strongest first.
  std::vector<TracePeak> strongest(std::size_t most) const;
  /// Median of the noise round a place without the line there and the other known ones, dBm in the
  /// filter's width; -400 if too few points are free.
  double floor_dbm(double hz, std::span<const double> lines) const;
  /// How far over the local median noise still reaches: at least 10 dB, and what one point in ten
  /// million exceeds, by the scatter of the points round it (one sweep: 13.7 dB).
  double line_threshold_db(double hz) const;
  /// Standard uncertainty of a peak that may have hidden between two points, dB.
  double u_missed_db() const;

 private:
  TracePeak refined(std::size_t index) const;
  /// Points within a distance whose place is on none of the lines.
  std::vector<double> levels_round(double hz, double reach_hz, std::span<const double> lines) const;
  double width_at(const TracePeak& peak) const;

  const SpectrumTrace& t_;
  double spacing_hz_;
  double rbw_hz_;
};

}  // namespace heron
