#pragma once

#include <algorithm>
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

/// The power of one line with the noise under it taken off.
struct TraceLine {
  double frequency_hz = 0.0;  ///< of the highest point there
  double level_dbm = -400.0;  ///< of a bound: what the line stays below, 19 times in 20
  double u_db = 0.0;          ///< from noise, a skirt, and a peak between two points
  double floor_dbm = -400.0;  ///< mean power of what it stands on
  bool is_bound = false;
};

/// Noise that stands out of the floor over many filter widths.
struct TraceHump {
  double from_hz = 0.0;
  double to_hz = 0.0;
  double frequency_hz = 0.0;  ///< where it is highest
  double level_dbm = 0.0;     ///< mean power in the filter there
  double u_db = 0.0;
};

/// A Gaussian filter's response at a distance from its middle, dB; 3 dB down at half its width.
double gaussian_skirt_db(double distance_hz, double rbw_hz);

/// Peaks and floors of a trace, with the analyser's filter, detector and averaging taken into
/// account. Floors are mean powers: a median is less than the mean, a mean of decibels too. The
/// trace must outlive it.
class TraceReader {
 public:
  /// Without a stated RBW the strongest line shows it.
  explicit TraceReader(const SpectrumTrace& trace);

  double rbw_hz() const { return rbw_hz_; }
  /// Two lines less than this apart are one; the filter's width or the distance of two points.
  double resolution_hz() const { return std::max(rbw_hz_, spacing_hz_); }
  double noise_bandwidth_hz() const { return 1.0645 * rbw_hz_; }  ///< of a Gaussian filter
  std::size_t index_of(double hz) const;  ///< first point at or above a frequency
  bool covers(double hz) const;
  /// How many sweeps' worth of averaging the scatter of the points shows (one sweep: 1).
  double sweeps() const { return sweeps_; }
  /// The highest point within a distance, refined.
  TracePeak peak_near(double hz, double within_hz) const;
  /// What stands out of the floor beside it and is not the skirt of something stronger, strongest
  /// first.
  std::vector<TracePeak> lines(std::size_t most) const;
  /// Mean power of the noise beside a place without the line there and the other known ones, dBm
  /// in the filter's width; where its two sides differ, the higher. -400 if too few points are
  /// free.
  double floor_dbm(double hz, std::span<const double> lines) const;
  /// How far over the floor a point must stand to be a line: at least 10 dB, and what noise
  /// exceeds in one trace of a thousand.
  double line_threshold_db() const;
  /// The highest response of stronger lines at a place beside them; -400 without.
  double skirt_dbm(double hz, std::span<const TracePeak> lines) const;
  /// What stands at a place, at most `within_hz` aside. `known` are lines that are no noise,
  /// `reading_u_db` is the uncertainty of a clear peak.
  TraceLine measure(double hz, double within_hz, std::span<const TracePeak> known,
                    double reading_u_db) const;
  std::vector<TraceHump> humps(std::span<const TracePeak> known) const;
  /// The most that a peak between two points may stand above both, dB; 0 for a peak detector.
  double hidden_db() const;
  /// Width over which the highest line stands at one level although a filter's response is round; 0
  /// where it is round.
  double flat_top_hz() const;
  double u_missed_db() const;  ///< standard uncertainty of a peak from that

 private:
  TracePeak refined(std::size_t index) const;
  double width_at(const TracePeak& peak) const;
  /// Levels of up to so many free points on one side (-1 or 1) of a place, nearest first.
  std::vector<double> beside(double hz, int side, std::span<const double> lines) const;
  double estimated_sweeps() const;
  double mean_over_median_db() const;
  /// Places within a distance that noise had a chance in, half filter widths counted once.
  double chances(double within_hz) const;

  const SpectrumTrace& t_;
  double spacing_hz_;
  double rbw_hz_;
  double sweeps_ = 1.0;
};

}  // namespace heron
