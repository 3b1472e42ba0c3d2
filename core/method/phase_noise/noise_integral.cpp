#include "core/method/phase_noise/noise_integral.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/error.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"
#include "core/signal/straight_line.h"

namespace heron {
namespace {

/// Integral of f^power times a straight line in decibels over lg f, from a to b.
double line_integral(const CurvePoint& a, const CurvePoint& b, double power) {
  const double x0 = a.offset_hz;
  const double x1 = b.offset_hz;
  const double y0 = power_ratio_from_db(a.l_dbc_hz) * std::pow(x0, power);
  const double y1 = power_ratio_from_db(b.l_dbc_hz) * std::pow(x1, power);
  const double octaves = std::log(x1 / x0);
  // y = y0 (x / x0)^s; near s = -1 it is a logarithm.
  const double s1 = std::log(y1 / y0) / octaves + 1.0;
  const double grown = s1 * octaves;
  if (std::abs(grown) < 1e-6) return y0 * x0 * octaves * (1.0 + grown / 2.0);
  return y0 * x0 * octaves * std::expm1(grown) / grown;
}

}  // namespace

double NoiseIntegral::rms_deg() const {
  return rms_rad * 180.0 / std::numbers::pi;
}

double NoiseIntegral::jitter_s(double carrier_hz) const {
  return rms_rad / (2.0 * std::numbers::pi * carrier_hz);
}

NoiseIntegral integrate(const NoiseCurve& curve, double low_hz, double high_hz) {
  const auto from = curve_at(curve.points, low_hz);
  const auto to = curve_at(curve.points, high_hz);
  if (!(low_hz > 0.0) || !(high_hz > low_hz))
    throw InputError(curve.name, "", "the range to integrate over is empty",
                     "Give the lower offset first");
  if (!from || !to)
    throw InputError(curve.name, "",
                     "it has " + frequency_text(curve.low_hz()) + " to " +
                         frequency_text(curve.high_hz()) + ", not " + frequency_text(low_hz) +
                         " to " + frequency_text(high_hz),
                     "Choose a range inside the curve");
  std::vector<CurvePoint> all{*from};
  for (const CurvePoint& p : curve.points)
    if (p.offset_hz > low_hz * (1.0 + kSameOffset) && p.offset_hz < high_hz * (1.0 - kSameOffset))
      all.push_back(p);
  all.push_back(*to);
  NoiseIntegral r;
  r.low_hz = low_hz;
  r.high_hz = high_hz;
  double phase = 0.0;
  double frequency = 0.0;
  // Each point carries half of what lies on its two sides.
  std::vector<double> share(all.size(), 0.0);
  std::vector<double> share_fm(all.size(), 0.0);
  for (std::size_t i = 0; i + 1 < all.size(); ++i) {
    const double one = line_integral(all[i], all[i + 1], 0.0);
    const double fm = line_integral(all[i], all[i + 1], 2.0);
    phase += one;
    frequency += fm;
    for (const std::size_t k : {i, i + 1}) {
      share[k] += one / 2.0;
      share_fm[k] += fm / 2.0;
    }
  }
  double square = 0.0;
  double square_fm = 0.0;
  // What is common to neighbours adds up as it is.
  double common = 0.0;
  double common_fm = 0.0;
  for (std::size_t i = 0; i < all.size(); ++i) {
    square += std::pow(share[i] * all[i].u_db * kPowerPerDb, 2.0);
    square_fm += std::pow(share_fm[i] * all[i].u_db * kPowerPerDb, 2.0);
    common += share[i] * all[i].u_common_db * kPowerPerDb;
    common_fm += share_fm[i] * all[i].u_common_db * kPowerPerDb;
    if (all[i].bound == Bound::upper) r.bound = Bound::upper;
  }
  r.rms_rad = std::sqrt(2.0 * phase);
  r.residual_fm_hz = std::sqrt(2.0 * frequency);
  // A square root halves what is relative.
  r.u_rel = std::hypot(std::sqrt(square), common) / phase / 2.0;
  r.u_fm_rel = std::hypot(std::sqrt(square_fm), common_fm) / frequency / 2.0;
  double spurs = 0.0;
  for (const NoiseSpur& s : curve.spurs)
    if (s.offset_hz >= low_hz && s.offset_hz <= high_hz)
      spurs += 2.0 * power_ratio_from_db(s.level_dbc);
  r.with_spurs_rms_rad = std::sqrt(2.0 * phase + spurs);
  return r;
}

std::vector<NoiseSlope> slopes_of(const NoiseCurve& curve) {
  std::vector<NoiseSlope> all;
  if (curve.points.empty()) return all;
  for (int k = static_cast<int>(std::floor(std::log10(curve.low_hz()) + kSameOffset));
       std::pow(10.0, k) < curve.high_hz() * (1.0 - kSameOffset); ++k) {
    NoiseSlope s{std::max(std::pow(10.0, k), curve.low_hz()),
                 std::min(std::pow(10.0, k + 1), curve.high_hz())};
    std::vector<CurvePoint> some;
    for (const CurvePoint& p : curve.points)
      if (p.offset_hz >= s.low_hz * (1.0 - kSameOffset) &&
          p.offset_hz <= s.high_hz * (1.0 + kSameOffset))
        some.push_back(p);
    // A table may have its corners elsewhere.
    if (some.empty() || some.front().offset_hz > s.low_hz * (1.0 + kSameOffset))
      if (const auto p = curve_at(curve.points, s.low_hz)) some.push_back(*p);
    if (some.back().offset_hz < s.high_hz * (1.0 - kSameOffset))
      if (const auto p = curve_at(curve.points, s.high_hz)) some.push_back(*p);
    std::vector<double> lg;
    std::vector<double> db;
    for (const CurvePoint& p : some) {
      lg.push_back(std::log10(p.offset_hz));
      db.push_back(p.l_dbc_hz);
    }
    constexpr double kLeastDecades = 1e-3;  // of a curve that ends just beyond a decade
    const auto line = straight_line(lg, db);
    if (!line || std::log10(s.high_hz / s.low_hz) < kLeastDecades) continue;
    s.db_per_decade = line->slope;
    all.push_back(s);
  }
  return all;
}

}  // namespace heron
