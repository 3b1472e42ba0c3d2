#include "core/method/phase_noise/noise_curve.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {

std::optional<CurvePoint> curve_at(const std::vector<CurvePoint>& points, double offset_hz) {
  if (points.empty() || !(offset_hz > 0.0) ||
      offset_hz < points.front().offset_hz * (1.0 - kSameOffset) ||
      offset_hz > points.back().offset_hz * (1.0 + kSameOffset))
    return std::nullopt;
  const auto after =
      std::lower_bound(points.begin(), points.end(), offset_hz,
                       [](const CurvePoint& p, double hz) { return p.offset_hz < hz; });
  if (after == points.end()) return points.back();
  if (after == points.begin() || after->offset_hz <= offset_hz * (1.0 + kSameOffset)) {
    CurvePoint p = *after;
    p.offset_hz = offset_hz;
    return p;
  }
  const CurvePoint& b = *after;
  const CurvePoint& a = *(after - 1);
  const double share = std::log(offset_hz / a.offset_hz) / std::log(b.offset_hz / a.offset_hz);
  CurvePoint p;
  p.offset_hz = offset_hz;
  p.l_dbc_hz = std::lerp(a.l_dbc_hz, b.l_dbc_hz, share);
  p.u_db = std::hypot((1.0 - share) * a.u_db, share * b.u_db);
  p.bound = a.bound == Bound::upper || b.bound == Bound::upper ? Bound::upper : Bound::none;
  p.u_common_db = std::lerp(a.u_common_db, b.u_common_db, share);
  p.line_hz = a.line_hz > 0.0 && b.line_hz > 0.0 ? std::max(a.line_hz, b.line_hz) : 0.0;
  return p;
}

bool is_same_line(const NoiseSpur& a, const NoiseSpur& b) {
  return std::abs(a.offset_hz - b.offset_hz) <=
         std::max(0.005 * std::max(a.offset_hz, b.offset_hz), 1.0);
}

bool shows_line(const NoiseCurve& curve, const NoiseSpur& line) {
  constexpr double kLineOverCurveDb = 6.0;
  const auto p = curve_at(curve.points, line.offset_hz);
  return p && p->line_hz > 0.0 &&
         line.level_dbc > p->l_dbc_hz + db_from_power_ratio(p->line_hz) + kLineOverCurveDb;
}

std::string offset_words(double hz) {
  const double step = std::pow(10.0, std::floor(std::log10(hz)) - 1.0);
  return frequency_text(std::round(hz / step) * step);
}

NoiseCurve multiplied(const NoiseCurve& curve, double n) {
  NoiseCurve all = curve;
  const double up = 20.0 * std::log10(n);
  for (CurvePoint& p : all.points) p.l_dbc_hz += up;
  for (NoiseSpur& s : all.spurs) s.level_dbc += up;
  for (auto* hz : {&all.carrier_hz, &all.rf_hz})
    if (*hz) **hz *= n;
  return all;
}

NoiseCurve rebinned(const NoiseCurve& curve, int per_decade) {
  if (per_decade <= 0 || (curve.per_decade > 0 && curve.per_decade <= per_decade)) return curve;
  const auto binned = [per_decade](const std::vector<CurvePoint>& points) {
    struct Sum {
      double power = 0.0;
      double square = 0.0;
      double width = 0.0;
      bool is_bound = false;
      double line_hz = 0.0;
      double common = 0.0;
    };
    std::map<int, Sum> bins;
    for (std::size_t i = 0; i < points.size(); ++i) {
      const CurvePoint& p = points[i];
      // What a point stands for reaches half way to its neighbours.
      const double from = i > 0 ? std::sqrt(points[i - 1].offset_hz * p.offset_hz) : p.offset_hz;
      const double to =
          i + 1 < points.size() ? std::sqrt(points[i + 1].offset_hz * p.offset_hz) : p.offset_hz;
      const double width = std::max(to - from, 1e-12 * p.offset_hz);
      Sum& sum = bins[static_cast<int>(std::lround(std::log10(p.offset_hz) * per_decade))];
      const double power = power_ratio_from_db(p.l_dbc_hz) * width;
      sum.power += power;
      sum.square += std::pow(power * p.u_db, 2.0);
      sum.width += width;
      sum.is_bound = sum.is_bound || p.bound == Bound::upper;
      sum.line_hz = std::max(sum.line_hz, p.line_hz);
      sum.common += power * p.u_common_db;
    }
    std::vector<CurvePoint> all;
    for (const auto& [k, sum] : bins) {
      CurvePoint p;
      p.offset_hz = std::pow(10.0, static_cast<double>(k) / per_decade);
      p.l_dbc_hz = db_from_power_ratio(sum.power / sum.width);
      p.u_db = std::sqrt(sum.square) / sum.power;
      p.bound = sum.is_bound ? Bound::upper : Bound::none;
      p.line_hz = sum.line_hz;
      p.u_common_db = sum.common / sum.power;
      all.push_back(p);
    }
    return all;
  };
  NoiseCurve all = curve;
  all.points = binned(curve.points);
  all.am = binned(curve.am);
  all.per_decade = per_decade;
  return all;
}

}  // namespace heron
