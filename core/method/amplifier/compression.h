#pragma once

#include <optional>
#include <span>
#include <vector>

namespace heron {

/// What went in and what came out, dBm; `u_db` is the standard uncertainty of the gain against that
/// of its neighbours.
struct DrivenLevel {
  double input_dbm = 0.0;
  double output_dbm = 0.0;
  double u_db = 0.0;
};

/// Where gain is so much below small-signal gain. u of the output as the readings scatter, and as
/// nobody knows the way between two steps.
struct CompressionPoint {
  double input_dbm = 0.0;
  double output_dbm = 0.0;
  double u_input_db = 0.0;
  double u_output_db = 0.0;
  double u_between_db = 0.0;
};

/// Gain over drive. Where one smooth limiter fits all steps within their scatter, gain =
/// G - (10/p) lg(1 + 10^(p (in - c) / 10)) (Rapp 1991) with G its small-signal gain, it is that
/// one, by least squares; else small-signal gain is the mean of the lowest steps whose gains agree
/// within 2 u (one is enough where the next differs), and between steps the way is monotone cubic
/// (Fritsch and Carlson 1980).
/// Example: gain 14.4 dB, p = 2.6, c = 34 dBm: the 1 dB point is at 33.67 dBm in, 47.07 dBm out.
class CompressionCurve {
 public:
  /// In any order.
  explicit CompressionCurve(std::span<const DrivenLevel> levels);

  bool is_empty() const { return points_.empty(); }
  bool is_fitted() const { return sharpness_ > 0.0; }
  double gain_db() const { return gain_db_; }  ///< small-signal
  double u_gain_db() const { return u_gain_db_; }
  std::size_t flat_steps() const {
    return flat_steps_;
  }  ///< that it is the mean of, where not fitted
  /// How far gain rises above it before it falls; 0 where by no more than its uncertainty.
  double expansion_db() const { return expansion_db_; }
  /// Up to the highest drive only: nothing is extrapolated.
  std::optional<CompressionPoint> at(double down_db) const;
  /// Output for a drive between the lowest and the highest; nullopt outside.
  std::optional<double> output_at(double input_dbm) const;

 private:
  void fit();
  void take_flat_steps();
  double fitted_down(double input_dbm) const;
  double down_at(double input_dbm) const;
  double stepwise_gain(double input_dbm) const;
  std::optional<double> crossing(double down_db, bool is_stepwise) const;

  std::vector<DrivenLevel> points_;  ///< rising, one at a drive
  std::vector<double> slopes_;       ///< of gain at each
  double gain_db_ = 0.0;
  double u_gain_db_ = 0.0;
  std::size_t flat_steps_ = 0;
  double expansion_db_ = 0.0;
  double corner_dbm_ = 0.0;
  double sharpness_ = 0.0;  ///< p; 0 = not fitted
  /// Of gain, corner and the logarithm of sharpness, row by row.
  double covariance_[3][3] = {};
};

}  // namespace heron
