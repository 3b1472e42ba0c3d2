#include "core/method/phase_noise/noise_states.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>

#include "core/error.h"
#include "core/method/phase_noise/noise_record.h"
#include "core/method/place_name.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr double kTypedU = 0.7;  // dB, of what was read off a noisy screen

bool is_called(const std::string& name, const char* what) {
  return lower_case(name).starts_with(what);
}

void average(const std::vector<NoiseCurve>& curves, std::vector<CurvePoint> NoiseCurve::* which,
             std::vector<CurvePoint>& mean) {
  for (CurvePoint& p : mean) {
    double power = 0.0;
    double square = 0.0;
    double n = 0.0;
    for (const NoiseCurve& c : curves) {
      const auto one = curve_at(c.*which, p.offset_hz);
      if (!one) continue;
      const double ratio = power_ratio_from_db(one->l_dbc_hz);
      power += ratio;
      square += std::pow(ratio * one->u_db, 2.0);
      n += 1.0;
      if (one->bound == Bound::upper) p.bound = Bound::upper;
    }
    p.l_dbc_hz = db_from_power_ratio(power / n);
    p.u_db = std::sqrt(square) / power;
  }
}

/// Recordings of one state: mean power of each bin.
NoiseCurve averaged(const std::vector<NoiseCurve>& curves) {
  NoiseCurve mean = curves.front();
  average(curves, &NoiseCurve::points, mean.points);
  average(curves, &NoiseCurve::am, mean.am);
  for (std::size_t i = 1; i < curves.size(); ++i) {
    mean.length_s += curves[i].length_s;
    mean.remarks.insert(mean.remarks.end(), curves[i].remarks.begin(), curves[i].remarks.end());
  }
  return mean;
}

/// Spans of one carrier: the narrowest filter first.
NoiseCurve stitched(const std::vector<NoiseCurve>& curves, const std::vector<double>& rbw_hz,
                    std::vector<std::size_t> order) {
  std::sort(order.begin(), order.end(),
            [&](std::size_t a, std::size_t b) { return rbw_hz[a] < rbw_hz[b]; });
  NoiseCurve all = curves[order.front()];
  for (std::size_t k = 1; k < order.size(); ++k) {
    const NoiseCurve& wide = curves[order[k]];
    for (const CurvePoint& p : wide.points) {
      const bool is_known = std::any_of(all.points.begin(), all.points.end(), [&](const auto& q) {
        return std::abs(q.offset_hz - p.offset_hz) <= kSameOffset * p.offset_hz;
      });
      if (!is_known) all.points.push_back(p);
    }
    for (const NoiseSpur& s : wide.spurs) {
      const bool is_known = std::any_of(all.spurs.begin(), all.spurs.end(), [&](const auto& q) {
        return std::abs(q.offset_hz - s.offset_hz) < 3.0 * rbw_hz[order[k]];
      });
      if (!is_known) all.spurs.push_back(s);
    }
    for (const Remark& r : wide.remarks)
      if (std::none_of(all.remarks.begin(), all.remarks.end(),
                       [&](const Remark& q) { return q.text == r.text; }))
        all.remarks.push_back(r);
  }
  std::sort(all.points.begin(), all.points.end(),
            [](const CurvePoint& a, const CurvePoint& b) { return a.offset_hz < b.offset_hz; });
  std::sort(all.spurs.begin(), all.spurs.end(),
            [](const NoiseSpur& a, const NoiseSpur& b) { return a.offset_hz < b.offset_hz; });
  return all;
}

/// Points by hand, as a curve.
std::map<std::string, NoiseCurve> typed_curves(const NoisePlan& plan) {
  std::map<std::string, NoiseCurve> all;
  for (const TypedNoise& t : plan.typed) {
    NoiseCurve& c = all[t.state];
    c.name = t.state.empty() ? "typed" : t.state;
    c.detector = NoiseDetector::unknown;
    c.points.push_back({t.offset_hz, t.l_dbc_hz, kTypedU, Bound::none});
  }
  for (auto& [state, c] : all) {
    std::stable_sort(
        c.points.begin(), c.points.end(),
        [](const CurvePoint& a, const CurvePoint& b) { return a.offset_hz < b.offset_hz; });
    // The last that was typed of an offset holds.
    std::vector<CurvePoint> kept;
    for (const CurvePoint& p : c.points) {
      if (!kept.empty() && p.offset_hz <= kept.back().offset_hz * (1.0 + kSameOffset))
        kept.back() = p;
      else
        kept.push_back(p);
    }
    c.points = std::move(kept);
  }
  return all;
}

/// Of one state: its pieces, before they are told for another frequency.
struct Pieces {
  std::string name;
  std::vector<NoiseCurve> curves;
  std::vector<double> rbw_hz;
  std::vector<std::size_t> steps;
  std::optional<double> carrier_hz;
  bool is_typed = false;
};

std::vector<Pieces> pieces_of(const Evidence& evidence, const NoisePlan& plan,
                              std::string (*state_of)(const std::string& label)) {
  std::vector<Pieces> all;
  const auto of_state = [&](const std::string& name) -> Pieces& {
    const auto found = std::find_if(all.begin(), all.end(), [&](const Pieces& p) {
      return lower_case(p.name) == lower_case(name);
    });
    if (found != all.end()) return *found;
    all.push_back({name, {}, {}, {}, std::nullopt, false});
    return all.back();
  };
  for (std::size_t i = 0; i < evidence.steps.size(); ++i) {
    const EvidenceStep& s = evidence.steps[i];
    std::vector<AnalysisPtr> taken = s.repeats;
    taken.insert(taken.begin(), s.analysis);
    for (const AnalysisPtr& a : taken) {
      const auto* record = dynamic_cast<const NoiseRecord*>(a.get());
      if (record == nullptr) continue;
      Pieces& p = of_state(state_of(s.label));
      p.curves.push_back(record->curve);
      p.rbw_hz.push_back(record->rbw_hz);
      if (p.steps.empty() || p.steps.back() != i) p.steps.push_back(i);
      // A span in the name is no carrier.
      if (const auto named = named_frequency_hz(s.label);
          named && *named > 3.0 * record->curve.high_hz())
        p.carrier_hz = named;
      else if (record->curve.rf_hz && !p.carrier_hz)
        p.carrier_hz = record->curve.rf_hz;
    }
  }
  for (auto& [state, curve] : typed_curves(plan)) {
    Pieces& p = of_state(state.empty() ? "typed" : state);
    if (!p.curves.empty()) continue;  // what was measured counts
    p.curves.push_back(curve);
    p.rbw_hz.push_back(0.0);
    p.is_typed = true;
  }
  for (Pieces& p : all)
    if (!p.carrier_hz) p.carrier_hz = plan.carrier_hz;
  return all;
}

}  // namespace

std::string state_of_step(const std::string& label) {
  const std::string name = label.substr(0, label.find(','));
  const auto end = name.find_last_not_of(' ');
  return end == std::string::npos ? label : name.substr(0, end + 1);
}

bool is_same_carrier(const NoiseState& a, const NoiseState& b) {
  constexpr double kSameCarrier = 0.01;
  return a.carrier_hz && b.carrier_hz &&
         std::abs(*a.carrier_hz / *b.carrier_hz - 1.0) < kSameCarrier;
}

const NoiseState* NoiseStates::before() const {
  if (all.size() < 2) return nullptr;
  for (std::size_t i = 0; i + 1 < all.size(); ++i)
    if (is_same_carrier(all[i], all.back())) return &all[i];
  return &all.front();
}

NoiseCurve joined_curves(const std::vector<NoiseCurve>& curves, const std::vector<double>& rbw_hz) {
  std::vector<std::size_t> order;
  for (std::size_t i = 0; i < curves.size(); ++i)
    if (rbw_hz[i] > 0.0) order.push_back(i);
  if (order.size() < curves.size()) {
    // Recordings and tables: a trace beside them adds what they do not reach.
    std::vector<NoiseCurve> whole;
    for (std::size_t i = 0; i < curves.size(); ++i)
      if (rbw_hz[i] <= 0.0) whole.push_back(curves[i]);
    NoiseCurve mean = averaged(whole);
    const double low = mean.low_hz();
    const double high = mean.high_hz();
    const NoiseCurve wide = order.empty() ? NoiseCurve{} : stitched(curves, rbw_hz, order);
    for (const CurvePoint& p : wide.points)
      if (p.offset_hz < low || p.offset_hz > high) mean.points.push_back(p);
    for (const NoiseSpur& s : wide.spurs)
      if (s.offset_hz < low || s.offset_hz > high) mean.spurs.push_back(s);
    std::sort(mean.points.begin(), mean.points.end(),
              [](const CurvePoint& a, const CurvePoint& b) { return a.offset_hz < b.offset_hz; });
    mean.points.erase(std::unique(mean.points.begin(), mean.points.end(),
                                  [](const CurvePoint& a, const CurvePoint& b) {
                                    return b.offset_hz <= a.offset_hz * (1.0 + kSameOffset);
                                  }),
                      mean.points.end());
    std::sort(mean.spurs.begin(), mean.spurs.end(),
              [](const NoiseSpur& a, const NoiseSpur& b) { return a.offset_hz < b.offset_hz; });
    return mean;
  }
  return stitched(curves, rbw_hz, order);
}

NoiseStates noise_states(const Evidence& evidence, const NoisePlan& plan,
                         std::string (*state_of)(const std::string& label)) {
  NoiseStates states;
  std::vector<Pieces> pieces = pieces_of(evidence, plan, state_of);
  std::optional<NoiseCurve> floor;
  std::optional<double> highest = plan.scaled_hz;
  for (const Pieces& p : pieces) {
    if (is_called(p.name, "floor")) floor = joined_curves(p.curves, p.rbw_hz);
    const bool is_device = !is_called(p.name, "floor") && !is_called(p.name, "yardstick");
    if (is_device && !plan.scaled_hz && p.carrier_hz)
      highest = std::max(highest.value_or(0.0), *p.carrier_hz);
  }
  states.scaled_hz = highest;
  for (const Pieces& p : pieces) {
    if (is_called(p.name, "floor")) continue;
    NoiseState s;
    s.name = p.name;
    s.carrier_hz = p.carrier_hz;
    s.steps = p.steps;
    s.is_typed = p.is_typed;
    s.curve = joined_curves(p.curves, p.rbw_hz);
    if (floor && !is_called(p.name, "yardstick")) {
      try {
        s.curve = without_floor(s.curve, *floor);
      } catch (const InputError& error) {
        states.remarks.push_back(
            {"floor", Severity::caution, s.name + ": " + error.reason + ".", error.advice});
      }
    }
    if (highest && s.carrier_hz && *s.carrier_hz > 0.0) {
      s.factor = *highest / *s.carrier_hz;
      if (std::abs(s.factor - 1.0) < 1e-3) s.factor = 1.0;
      s.curve = multiplied(s.curve, s.factor);
    }
    for (const Remark& r : s.curve.remarks) {
      Remark named = r;
      if (pieces.size() > 1) named.text = s.name + ": " + named.text;
      states.remarks.push_back(std::move(named));
    }
    if (is_called(p.name, "yardstick"))
      states.yardstick = std::move(s);
    else
      states.all.push_back(std::move(s));
  }
  if (floor) {
    // It is drawn for what the device is told for, as far as it was seen there.
    const double factor = states.after() != nullptr ? states.after()->factor : 1.0;
    states.floor = multiplied(*floor, factor);
  }
  return states;
}

}  // namespace heron
