#include "core/method/measure/audio_ratio.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/error.h"
#include "core/quantity/figure.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kLeastRiseDb = 1e-6;
constexpr double kMostRiseDb = 120.0;

/// Mean of |a sin t + n| over a turn and unit Gaussian noise.
double mean_rectified(double a) {
  constexpr int kSteps = 400;
  double sum = 0.0;
  for (int i = 0; i < kSteps; ++i) {
    const double s = a * std::sin((i + 0.5) * std::numbers::pi / 2.0 / kSteps);
    sum += std::sqrt(2.0 / std::numbers::pi) * std::exp(-s * s / 2.0) +
           s * std::erf(s / std::numbers::sqrt2);
  }
  return sum / kSteps;
}

double power_of(double reading, bool in_db) {
  if (!std::isfinite(reading) || (!in_db && !(reading > 0.0)))
    throw InputError("readings", "", "one of them is no voltage above 0", "Correct it");
  return in_db ? power_ratio_from_db(reading) : reading * reading;
}

}  // namespace

double average_of_noise_db() {
  return 20.0 * std::log10(std::sqrt(std::numbers::pi) / 2.0);
}

double average_meter_rise_db(double rise_db) {
  const double signal = std::max(0.0, power_ratio_from_db(rise_db) - 1.0);  // over the noise
  return 20.0 *
         std::log10(mean_rectified(std::sqrt(2.0 * signal)) / std::sqrt(2.0 / std::numbers::pi));
}

double true_rise_db(double read_db) {
  if (read_db <= 0.0) return read_db;
  double low = 0.0;
  double high = std::min(kMostRiseDb, read_db + 2.0);
  for (int i = 0; i < 80; ++i) {
    const double middle = (low + high) / 2.0;
    (average_meter_rise_db(middle) < read_db ? low : high) = middle;
  }
  return (low + high) / 2.0;
}

std::optional<double> sn_of_sn_n(double sn_n_db) {
  if (!(sn_n_db > kLeastRiseDb)) return std::nullopt;
  return db_from_power_ratio(std::expm1(sn_n_db * std::numbers::ln10 / 10.0));
}

double sn_n_of_sn(double sn_db) {
  return db_from_power_ratio(1.0 + power_ratio_from_db(sn_db));
}

double sn_slope(double sn_n_db) {
  const double ratio = power_ratio_from_db(sn_n_db);
  return ratio / (ratio - 1.0);
}

AudioLevel audio_level(const std::vector<double>& readings, bool in_db) {
  if (readings.empty())
    throw InputError("readings", "", "there are none", "Type what the meter shows");
  AudioLevel level;
  level.count = readings.size();
  const double n = static_cast<double>(readings.size());
  double mean = 0.0;
  double least = 1e300;
  double most = 0.0;
  for (const double r : readings) {
    const double p = power_of(r, in_db);
    mean += p / n;
    least = std::min(least, p);
    most = std::max(most, p);
  }
  level.db = db_from_power_ratio(mean);
  level.spread_db = db_from_power_ratio(most / least);
  if (readings.size() < 2) return level;
  double squares = 0.0;
  for (const double r : readings) squares += std::pow(power_of(r, in_db) / mean - 1.0, 2.0);
  // So few say little of how far they scatter: u so that 2 u covers as Student's t does.
  const double u = std::sqrt(squares / (n - 1.0) / n) * coverage_factor(n - 1.0) / 2.0;
  level.u_db = kDbPerRelativePower * u;
  return level;
}

AudioLevel audio_level_between(double lowest, double highest, bool in_db) {
  const double a = power_of(lowest, in_db);
  const double b = power_of(highest, in_db);
  AudioLevel level;
  level.count = 2;
  level.db = db_from_power_ratio((a + b) / 2.0);
  level.spread_db = std::abs(db_from_power_ratio(b / a));
  level.u_db = kDbPerRelativePower * u_rectangular(std::abs(b - a) / (a + b));
  return level;
}

}  // namespace heron
