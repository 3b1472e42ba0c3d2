#include "core/method/phase_noise/noise_family.h"

#include <algorithm>
#include <cmath>

#include "core/error.h"
#include "core/method/phase_noise/noise_compare.h"
#include "core/method/phase_noise/noise_integral.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"
#include "core/signal/straight_line.h"

namespace heron {
namespace {

/// Where differences go from one side of zero to the other, each side meant: above 2 u.
void add_crossings(const FamilyMember& one, const FamilyMember& other, std::size_t a, std::size_t b,
                   std::vector<NoiseCrossing>& all) {
  const CommonCurves common = common_points(one.curve, other.curve);
  const bool has_u = one.curve.has_u && other.curve.has_u;
  struct At {
    double lg = 0.0;
    double delta = 0.0;
    double u = 0.0;
  };
  std::vector<At> d;
  for (std::size_t i = 0; i < common.a.size(); ++i) {
    if (common.a[i].bound == Bound::upper || common.b[i].bound == Bound::upper) continue;
    d.push_back({std::log10(common.a[i].offset_hz), common.b[i].l_dbc_hz - common.a[i].l_dbc_hz,
                 std::hypot(common.a[i].u_db, common.b[i].u_db)});
  }
  std::size_t meant = d.size();  // the last one that is on a side
  for (std::size_t i = 0; i < d.size(); ++i) {
    if (d[i].delta == 0.0 || (has_u && std::abs(d[i].delta) <= 2.0 * d[i].u)) continue;
    if (meant < d.size() && (d[meant].delta < 0.0) != (d[i].delta < 0.0)) {
      // A straight line through all between them finds zero.
      std::vector<double> x;
      std::vector<double> y;
      double noise = 0.0;
      for (std::size_t k = meant; k <= i; ++k) {
        x.push_back(d[k].lg);
        y.push_back(d[k].delta);
        noise += d[k].u * d[k].u;
      }
      const auto line = straight_line(x, y);
      if (!line || line->slope == 0.0) continue;
      const double zero =
          std::clamp(line->mean_x - line->mean_y / line->slope, d[meant].lg, d[i].lg);
      NoiseCrossing c{a, b, std::pow(10.0, zero), 0.0};
      const double u_lg = std::sqrt(noise) / static_cast<double>(x.size()) / std::abs(line->slope);
      c.u_hz = c.offset_hz * std::log(10.0) * u_lg;
      all.push_back(c);
    }
    meant = i;
  }
}

}  // namespace

std::vector<NoiseCrossing> crossings_of(std::span<const FamilyMember> family) {
  std::vector<NoiseCrossing> all;
  for (std::size_t a = 0; a < family.size(); ++a)
    for (std::size_t b = a + 1; b < family.size(); ++b)
      add_crossings(family[a], family[b], a, b, all);
  return all;
}

std::optional<NoisePivot> pivot_of(std::span<const NoiseCrossing> crossings) {
  if (crossings.empty()) return std::nullopt;
  std::vector<double> lg;
  for (const NoiseCrossing& c : crossings) lg.push_back(std::log10(c.offset_hz));
  std::sort(lg.begin(), lg.end());
  const std::size_t n = lg.size();
  const double median = n % 2 == 1 ? lg[n / 2] : 0.5 * (lg[n / 2 - 1] + lg[n / 2]);
  NoisePivot p;
  p.offset_hz = std::pow(10.0, median);
  p.low_hz = std::pow(10.0, lg.front());
  p.high_hz = std::pow(10.0, lg.back());
  double square = 0.0;
  double own = 0.0;
  for (const NoiseCrossing& c : crossings) {
    square += std::pow(std::log10(c.offset_hz) - median, 2.0);
    own += std::pow(c.u_hz / c.offset_hz / std::log(10.0), 2.0);
  }
  constexpr double kOfMedian = 1.2533;  // against a mean, of normal scatter
  const auto count = static_cast<double>(n);
  const double scatter =
      n > 1 ? kOfMedian * std::sqrt(square / (count - 1.0) / count) : std::sqrt(own);
  p.u_hz = p.offset_hz * std::log(10.0) * std::max(scatter, std::sqrt(own) / count);
  return p;
}

Figure weighted_noise(const NoiseCurve& curve, const NoiseWeighting& w) {
  Figure f;
  f.id = "weighted_noise";
  const auto add = [&](double u, double common) {
    f.contributions.push_back({"scatter of the noise", u, Scope::independent});
    if (common > 0.0) f.contributions.push_back({"level of the trace", common, Scope::common});
  };
  if (w.kind == NoiseWeighting::Kind::neighbour) {
    const auto p = curve_at(curve.points, w.offset_hz);
    if (!p)
      throw InputError(curve.name, "", "it does not reach " + frequency_text(w.offset_hz),
                       "Choose an offset inside the curve");
    f.label = "Noise at " + frequency_text(w.offset_hz);
    f.unit = "dBc/Hz";
    f.value = p->l_dbc_hz;
    f.bound = p->bound;
    add(p->u_db, p->u_common_db);
    return f;
  }
  const NoiseIntegral i = integrate(curve, w.low_hz, w.high_hz);
  f.bound = i.bound;
  if (w.kind == NoiseWeighting::Kind::channel) {
    f.label = "Noise in the channel";
    f.unit = "dBc";
    // One sideband of it: half of the phase's variance.
    f.value = db_from_power_ratio(i.rms_rad * i.rms_rad / 2.0);
    add(2.0 * i.u_rel / kPowerPerDb, 0.0);
    return f;
  }
  f.label = "RMS phase";
  f.unit = "rad";
  f.value = i.rms_rad;
  add(i.u_rel * i.rms_rad, 0.0);
  return f;
}

}  // namespace heron
