#pragma once

#include <string>
#include <vector>

namespace heron {

struct GainPoint {
  double frequency_hz = 0.0;
  double gain_db = 0.0;
};

/// Gain of a part over frequency, dB, negative for loss; between the points of a table straight in
/// dB over Hz.
class Gain {
 public:
  /// The same at every frequency.
  explicit Gain(double gain_db = 0.0) : constant_db_(gain_db) {}
  /// Points in rising order of frequency; InputError naming `subject` if not, or if there is none.
  Gain(std::vector<GainPoint> points, const std::string& subject);
  /// InputError naming `subject` outside the table: it does not extrapolate.
  double at(double frequency_hz, const std::string& subject) const;
  bool is_constant() const { return points_.empty(); }
  const std::vector<GainPoint>& points() const { return points_; }
  /// The highest it reaches anywhere.
  double largest_db() const;

 private:
  double constant_db_ = 0.0;
  std::vector<GainPoint> points_;
};

}  // namespace heron
