#include "core/method/phase_noise/loop_fit.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kFitLowHz = 1e3;  // below it the loop's own shape says nothing of its parts
constexpr double kFitHighHz = 300e3;
constexpr double kFitStep = 0.01;  // of a logarithm, for slopes
constexpr int kFitRounds = 30;

struct Residual {
  double value = 0.0;
  double by_gain = 0.0;
  double by_r2 = 0.0;
  double weight = 1.0;
};

LoopParts scaled(LoopParts parts, double ln_gain, double ln_r2) {
  parts.design.kvco_hz_per_v *= std::exp(ln_gain);
  parts.design.r2_ohm *= std::exp(ln_r2);
  return parts;
}

std::vector<Residual> residuals(const LoopParts& built, std::span<const MeasuredLoop> measured,
                                double ln_gain, double ln_r2, double repeats_db) {
  const LoopParts here = scaled(built, ln_gain, ln_r2);
  const LoopParts more_gain = scaled(built, ln_gain + kFitStep, ln_r2);
  const LoopParts more_r2 = scaled(built, ln_gain, ln_r2 + kFitStep);
  std::vector<Residual> all;
  for (const MeasuredLoop& m : measured)
    for (const CurvePoint& p : m.curve->points) {
      if (p.offset_hz < kFitLowHz || p.offset_hz > kFitHighHz || p.bound == Bound::upper) continue;
      Residual r;
      const double level = loop_level(here, m.current_a, p.offset_hz);
      r.value = p.l_dbc_hz - level;
      r.by_gain = (loop_level(more_gain, m.current_a, p.offset_hz) - level) / kFitStep;
      r.by_r2 = (loop_level(more_r2, m.current_a, p.offset_hz) - level) / kFitStep;
      r.weight = 1.0 / (p.u_db * p.u_db + repeats_db * repeats_db + 1e-6);
      all.push_back(r);
    }
  return all;
}

}  // namespace

double loop_level(const LoopParts& parts, double current_a, double hz) {
  LoopDesign design = parts.design;
  design.charge_pump_a = current_a;
  return loop_noise(design, parts.noise, hz).total_dbc() +
         20.0 * std::log10(std::max(parts.multiplication, 1e-9));
}

std::optional<LoopFit> fit_loop(const LoopParts& built, std::span<const MeasuredLoop> measured,
                                double repeats_db) {
  constexpr std::size_t kFewestPoints = 3;
  if (measured.size() < kFewestPoints || !built.has_all) return std::nullopt;
  double ln_gain = 0.0;
  double ln_r2 = 0.0;
  for (int round = 0; round < kFitRounds; ++round) {
    double gg = 0.0;
    double gr = 0.0;
    double rr = 0.0;
    double gv = 0.0;
    double rv = 0.0;
    double square = 0.0;
    double weight = 0.0;
    const std::vector<Residual> all = residuals(built, measured, ln_gain, ln_r2, repeats_db);
    for (const Residual& r : all) {
      gg += r.weight * r.by_gain * r.by_gain;
      gr += r.weight * r.by_gain * r.by_r2;
      rr += r.weight * r.by_r2 * r.by_r2;
      gv += r.weight * r.by_gain * r.value;
      rv += r.weight * r.by_r2 * r.value;
      square += r.weight * r.value * r.value;
      weight += r.weight;
    }
    const double det = gg * rr - gr * gr;
    if (all.size() < 2 * kFewestPoints || !(det > 1e-12 * gg * rr)) return std::nullopt;
    const double step_gain = std::clamp((rr * gv - gr * rv) / det, -0.3, 0.3);
    const double step_r2 = std::clamp((gg * rv - gr * gv) / det, -0.3, 0.3);
    ln_gain += step_gain;
    ln_r2 += step_r2;
    if (std::abs(ln_gain) > 2.0 || std::abs(ln_r2) > 2.0) return std::nullopt;
    if (std::hypot(step_gain, step_r2) > 1e-5) continue;
    LoopFit fit;
    fit.gain_factor = std::exp(ln_gain);
    fit.r2_factor = std::exp(ln_r2);
    fit.u_gain = std::sqrt(rr / det);
    fit.u_r2 = std::sqrt(gg / det);
    fit.correlation = -gr / std::sqrt(gg * rr);
    fit.u_product = std::sqrt(std::max(0.0, (rr + gg - 2.0 * gr) / det));
    fit.residual_db = std::sqrt(square / weight);
    return fit;
  }
  return std::nullopt;
}

}  // namespace heron
