#include "core/method/two_tone/driven_amplifier.h"

#include <algorithm>
#include <cmath>

#include "core/error.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_level.h"

namespace heron {
namespace {

std::vector<AmplifierStep> by_drive(std::vector<AmplifierStep> steps) {
  std::erase_if(steps, [](const AmplifierStep& s) { return s.analysis == nullptr; });
  std::stable_sort(steps.begin(), steps.end(), [](const AmplifierStep& a, const AmplifierStep& b) {
    return a.drive_dbm < b.drive_dbm;
  });
  return steps;
}

struct At {
  std::size_t low;
  std::size_t high;
  double part;  ///< 0 at low, 1 at high
};

/// Where x lies among rising values; nullopt outside.
template <class Value>
std::optional<At> place(std::size_t count, const Value& value, double x) {
  if (count == 0 || x < value(0) - 1e-6 || x > value(count - 1) + 1e-6) return std::nullopt;
  for (std::size_t i = 1; i < count; ++i) {
    if (x > value(i)) continue;
    const double span = value(i) - value(i - 1);
    return At{i - 1, i, span > 0.0 ? std::clamp((x - value(i - 1)) / span, 0.0, 1.0) : 1.0};
  }
  return At{count - 1, count - 1, 0.0};
}

struct ProductLevel {
  double voltage = 0.0;  ///< re one tone; 0 where nothing is known of it
  double own_u_db = 0.0;
  double common_u_db = 0.0;  ///< the recorder's, the same in both ladders
  bool is_seen = false;
  bool is_bound = false;
};

/// One product between two recordings. Where only one of the two shows it, that one counts.
ProductLevel product_between(const TwoToneAnalysis& low, const TwoToneAnalysis& high, double part,
                             int order, Side side) {
  const TwoToneProduct* a = low.find(order, side);
  const TwoToneProduct* b = high.find(order, side);
  ProductLevel level;
  if (a == nullptr && b == nullptr) return level;
  const double dbc = a == nullptr   ? b->level_dbc
                     : b == nullptr ? a->level_dbc
                                    : a->level_dbc + part * (b->level_dbc - a->level_dbc);
  const auto take = [&](const TwoToneAnalysis& analysis, const TwoToneProduct* p) {
    if (p == nullptr) return;
    double own = 0.0;
    double common = 0.0;
    for (const Contribution& c : product_figure(analysis, *p, kReOneTone).contributions)
      (c.scope == Scope::common ? common : own) += c.u * c.u;
    level.own_u_db = std::max(level.own_u_db, std::sqrt(own));
    level.common_u_db = std::max(level.common_u_db, std::sqrt(common));
    level.is_bound = level.is_bound || p->is_bound;
  };
  take(low, a);
  take(high, b);
  level.is_seen = true;
  level.voltage = voltage_ratio_from_db(dbc);
  return level;
}

/// The exciter's steps that can be used, rising in output.
std::vector<AmplifierStep> exciter_steps(const std::vector<LadderStep>& steps) {
  std::vector<AmplifierStep> usable;
  for (const LadderStep& s : steps) {
    if (s.output && s.analysis != nullptr && !s.analysis->products.empty())
      usable.push_back({s.output->value, s.output->value, s.analysis});
  }
  return by_drive(std::move(usable));
}

/// A relative product's sensitivity to each part's dB is its share of the sum. What one recorder
/// does to both adds up; the rest adds in quadrature.
double combined_u(const ProductLevel& e, const ProductLevel& a) {
  const double sum = e.voltage + a.voltage;
  if (!(sum > 0.0)) return 0.0;
  const double share = e.voltage / sum;
  return std::hypot(share * e.own_u_db, (1.0 - share) * a.own_u_db,
                    share * e.common_u_db + (1.0 - share) * a.common_u_db);
}

std::optional<DrivenPoint> point_at(const std::vector<AmplifierStep>& exciter,
                                    const std::vector<AmplifierStep>& amplifier, double x,
                                    const std::string& convention) {
  const auto drive = [](const std::vector<AmplifierStep>& steps) {
    return [&steps](std::size_t i) { return steps[i].drive_dbm; };
  };
  const auto e = place(exciter.size(), drive(exciter), x);
  const auto a = place(amplifier.size(), drive(amplifier), x);
  if (!e || !a) return std::nullopt;
  const TwoToneAnalysis& e0 = *exciter[e->low].analysis;
  const TwoToneAnalysis& e1 = *exciter[e->high].analysis;
  const TwoToneAnalysis& a0 = *amplifier[a->low].analysis;
  const TwoToneAnalysis& a1 = *amplifier[a->high].analysis;
  const double reference = convention == kRePep ? e1.pep_over_tone_db() : 0.0;
  DrivenPoint point;
  point.exciter_dbm = x;
  point.amplifier_dbm = amplifier[a->low].output_dbm +
                        a->part * (amplifier[a->high].output_dbm - amplifier[a->low].output_dbm);
  bool any = false;
  for (int order = 3; order <= 15; order += 2) {
    for (const Side side : {Side::lower, Side::upper}) {
      const ProductLevel pe = product_between(e0, e1, e->part, order, side);
      const ProductLevel pa = product_between(a0, a1, a->part, order, side);
      if (!pe.is_seen && !pa.is_seen) continue;
      // What is only a bound may be nothing at all: the lower edge does without it.
      const double low_e = pe.is_bound ? 0.0 : pe.voltage;
      const double low_a = pa.is_bound ? 0.0 : pa.voltage;
      const double in_phase = db_from_voltage_ratio(pe.voltage + pa.voltage) - reference;
      if (low_e + low_a > 0.0) {
        const double power = db_from_power_ratio(low_e * low_e + low_a * low_a) - reference;
        point.power_sum_db = std::max(point.power_sum_db.value_or(power), power);
      }
      if (any && in_phase <= point.in_phase_db) continue;
      any = true;
      point.in_phase_db = in_phase;
      point.u_db = combined_u(pe, pa);
      point.order = order;
    }
  }
  if (!any) return std::nullopt;
  return point;
}

/// Between neighbouring points, where one of their levels has a value; nullopt outside.
std::optional<DrivenPoint> driven_where(const DrivenAmplifier& driven, double DrivenPoint::* level,
                                        double value) {
  for (std::size_t i = 1; i < driven.points.size(); ++i) {
    const DrivenPoint& low = driven.points[i - 1];
    const DrivenPoint& high = driven.points[i];
    if (value < low.*level || value > high.*level || high.*level <= low.*level) continue;
    const double part = (value - low.*level) / (high.*level - low.*level);
    const auto between = [&](double from, double to) { return from + part * (to - from); };
    DrivenPoint at = part < 0.5 ? low : high;
    at.exciter_dbm = between(low.exciter_dbm, high.exciter_dbm);
    at.amplifier_dbm = between(low.amplifier_dbm, high.amplifier_dbm);
    at.power_sum_db.reset();
    if (low.power_sum_db && high.power_sum_db)
      at.power_sum_db = between(*low.power_sum_db, *high.power_sum_db);
    at.in_phase_db = between(low.in_phase_db, high.in_phase_db);
    at.u_db = std::max(low.u_db, high.u_db);
    return at;
  }
  return std::nullopt;
}

}  // namespace

std::optional<DrivenPoint> driven_at_output(const DrivenAmplifier& driven, double amplifier_dbm) {
  return driven_where(driven, &DrivenPoint::amplifier_dbm, amplifier_dbm);
}

std::optional<DrivenPoint> driven_at_drive(const DrivenAmplifier& driven, double exciter_dbm) {
  return driven_where(driven, &DrivenPoint::exciter_dbm, exciter_dbm);
}

DrivenAmplifier predict_driven(const std::vector<LadderStep>& exciter_ladder,
                               const std::vector<AmplifierStep>& amplifier_ladder,
                               const std::vector<AmplifierStep>& pair,
                               const std::string& convention, std::optional<double> limit_db) {
  DrivenAmplifier result;
  const std::vector<AmplifierStep> exciter = exciter_steps(exciter_ladder);
  const std::vector<AmplifierStep> amplifier = by_drive(amplifier_ladder);
  if (exciter.size() < 2 || amplifier.size() < 2) return result;
  const double low = std::max(exciter.front().drive_dbm, amplifier.front().drive_dbm);
  const double high = std::min(exciter.back().drive_dbm, amplifier.back().drive_dbm);
  if (!(low < high)) return result;
  // Both ladders' own steps, and enough between them to draw what bends.
  std::vector<double> places;
  constexpr int kBetween = 48;
  for (int i = 0; i <= kBetween; ++i) places.push_back(low + (high - low) * i / kBetween);
  for (const auto* steps : {&exciter, &amplifier}) {
    for (const AmplifierStep& s : *steps) {
      if (s.drive_dbm > low && s.drive_dbm < high) places.push_back(s.drive_dbm);
    }
  }
  std::sort(places.begin(), places.end());
  for (const double x : places) {
    if (const auto point = point_at(exciter, amplifier, x, convention))
      result.points.push_back(*point);
  }
  if (limit_db && !result.points.empty()) {
    const auto passes = [&](const DrivenPoint& p) {
      return p.in_phase_db + 2.0 * p.u_db <= *limit_db;
    };
    result.is_limit_beyond = passes(result.points.back());
    for (std::size_t i = result.points.size(); i-- > 0;) {
      if (!passes(result.points[i])) continue;
      double x = result.points[i].exciter_dbm;
      double y = result.points[i].amplifier_dbm;
      if (i + 1 < result.points.size()) {
        const DrivenPoint& p = result.points[i];
        const DrivenPoint& q = result.points[i + 1];
        const double here = *limit_db - p.in_phase_db - 2.0 * p.u_db;
        const double there = *limit_db - q.in_phase_db - 2.0 * q.u_db;
        const double part = here > there ? std::clamp(here / (here - there), 0.0, 1.0) : 0.0;
        x += part * (q.exciter_dbm - p.exciter_dbm);
        y += part * (q.amplifier_dbm - p.amplifier_dbm);
      }
      result.exciter_at_limit_dbm = x;
      result.amplifier_at_limit_dbm = y;
      break;
    }
  }
  for (const AmplifierStep& m : by_drive(pair)) {
    const TwoToneProduct* worst = m.analysis->worst();
    const auto predicted = point_at(exciter, amplifier, m.drive_dbm, convention);
    if (worst == nullptr || !predicted) continue;
    const Figure measured = product_figure(*m.analysis, *worst, convention);
    DrivenComparison c{m.drive_dbm,
                       m.output_dbm,
                       measured.value,
                       predicted->power_sum_db,
                       predicted->in_phase_db,
                       std::hypot(measured.u(), predicted->u_db),
                       measured.bound != Bound::none,
                       0};
    if (c.measured_db > c.in_phase_db + 2.0 * c.u_db && !c.is_bound) c.place = 1;
    if (c.power_sum_db && c.measured_db < *c.power_sum_db - 2.0 * c.u_db) c.place = -1;
    result.measured.push_back(c);
  }
  return result;
}

}  // namespace heron
