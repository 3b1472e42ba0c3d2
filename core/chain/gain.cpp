#include "core/chain/gain.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/quantity/format.h"

namespace heron {

Gain::Gain(std::vector<GainPoint> points, const std::string& subject) : points_(std::move(points)) {
  if (points_.empty())
    throw InputError(subject, "gain table", "it has no points", "Give at least one");
  for (std::size_t i = 0; i < points_.size(); ++i) {
    const GainPoint& p = points_[i];
    const std::string place = fmt::format("gain table, point {}", i + 1);
    if (!std::isfinite(p.frequency_hz) || p.frequency_hz < 0.0 || !std::isfinite(p.gain_db))
      throw InputError(subject, place, "it is not a frequency and a gain",
                       "Give a frequency of 0 Hz or more, and the gain in dB");
    if (i > 0 && p.frequency_hz <= points_[i - 1].frequency_hz)
      throw InputError(subject, place, "its frequency does not rise above the one before",
                       "Sort the table by frequency, each frequency once");
  }
}

double Gain::at(double frequency_hz, const std::string& subject) const {
  if (points_.empty()) return constant_db_;
  const double first = points_.front().frequency_hz;
  const double last = points_.back().frequency_hz;
  if (!(frequency_hz >= first && frequency_hz <= last)) {
    throw InputError(subject, engineering_text(frequency_hz, "Hz", 6),
                     fmt::format("its gain is known only from {} to {}",
                                 engineering_text(first, "Hz", 6), engineering_text(last, "Hz", 6)),
                     "Measure it at this frequency, or use another part");
  }
  const auto upper =
      std::lower_bound(points_.begin(), points_.end(), frequency_hz,
                       [](const GainPoint& p, double f) { return p.frequency_hz < f; });
  if (upper->frequency_hz == frequency_hz) return upper->gain_db;
  const auto lower = upper - 1;
  const double part =
      (frequency_hz - lower->frequency_hz) / (upper->frequency_hz - lower->frequency_hz);
  return lower->gain_db + part * (upper->gain_db - lower->gain_db);
}

double Gain::largest_db() const {
  double largest = points_.empty() ? constant_db_ : points_.front().gain_db;
  for (const GainPoint& p : points_) largest = std::max(largest, p.gain_db);
  return largest;
}

}  // namespace heron
