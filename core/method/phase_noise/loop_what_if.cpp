#include "core/method/phase_noise/loop_what_if.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/error.h"
#include "core/method/phase_noise/family_settings.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr const char* kCurrent = "charge_pump_a";

/// How finely a part can be had.
enum class Series { any, whole, e12, e24 };
struct Offered {
  const char* key;
  Series series;
};
constexpr std::array<Offered, 12> kOffered{{{kCurrent, Series::any},
                                            {"kvco_hz_per_v", Series::any},
                                            {"n", Series::whole},
                                            {"r2_ohm", Series::e24},
                                            {"c1_f", Series::e12},
                                            {"c2_f", Series::e12},
                                            {"r3_ohm", Series::e24},
                                            {"c3_f", Series::e12},
                                            {"bulk_f", Series::e12},
                                            {"series_ohm", Series::e24},
                                            {"supply_v_rt_hz", Series::any},
                                            {"pushing_hz_per_v", Series::any}}};

// IEC 60063.
constexpr std::array<double, 24> kE24{1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0,
                                      3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2, 9.1};

std::vector<double> stops_of(Series series, double least, double most, double built) {
  std::vector<double> all;
  if (series == Series::whole) {
    // Some hundred of them are enough to slide over.
    const double step = std::max(1.0, std::round((most - least) / 400.0));
    for (double n = std::max(1.0, std::ceil(least)); n <= most; n += step) all.push_back(n);
  }
  if (series == Series::e12 || series == Series::e24) {
    const std::size_t by = series == Series::e12 ? 2 : 1;
    for (double decade = std::pow(10.0, std::floor(std::log10(least))); decade <= most;
         decade *= 10.0)
      for (std::size_t i = 0; i < kE24.size(); i += by)
        if (kE24[i] * decade >= least * 0.999 && kE24[i] * decade <= most * 1.001)
          all.push_back(kE24[i] * decade);
  }
  // What is built can always be gone back to.
  if (!all.empty() && std::none_of(all.begin(), all.end(),
                                   [&](double v) { return std::abs(v / built - 1.0) < 1e-6; }))
    all.insert(std::upper_bound(all.begin(), all.end(), built), built);
  for (double& v : all)
    if (std::abs(v / built - 1.0) < 1e-6) v = built;
  return all;
}

}  // namespace

double loop_current_in_use(const Evidence& evidence, const LoopPlan& plan) {
  if (plan.built.currents_a.empty()) return LoopDesign().charge_pump_a;
  if (evidence.companion != nullptr) {
    const auto named = prefixed_number(family_plan(*evidence.companion).in_use);
    for (const double current : plan.built.currents_a)
      if (named && std::abs(*named / current - 1.0) < 0.01) return current;
  }
  return plan.built.currents_a.front();
}

std::vector<WhatIf> loop_what_ifs(const LoopPlan& plan, double current_a) {
  std::vector<WhatIf> all;
  if (!plan.built.has_all) return all;
  for (const Offered& o : kOffered) {
    WhatIf w;
    w.key = o.key;
    if (w.key == kCurrent) {
      w.built = w.value = current_a;
      if (plan.tried && plan.tried->currents_a.size() == 1)
        w.value = plan.tried->currents_a.front();
      w.stops = plan.built.currents_a;
      std::sort(w.stops.begin(), w.stops.end());
      w.least = w.stops.front();
      w.most = w.stops.back();
      // A single current: there are no steps to choose from.
      if (w.stops.size() < 2) {
        w.stops.clear();
        w.least = w.built / 10.0;
        w.most = w.built * 10.0;
      }
      w.least = std::min(w.least, w.value);
      w.most = std::max(w.most, w.value);
    } else {
      const auto built = loop_value(plan.built, o.key);
      if (!built || !(*built > 0.0)) continue;  // there is none of it
      w.built = *built;
      w.value = plan.tried ? loop_value(*plan.tried, o.key).value_or(w.built) : w.built;
      w.least = std::min(w.built / 10.0, w.value);
      w.most = std::max(w.built * 10.0, w.value);
      w.stops = stops_of(o.series, w.least, w.most, w.built);
    }
    w.head = loop_value_name(o.key);
    if (w.head.front() >= 'a' && w.head.front() <= 'z')
      w.head.front() = static_cast<char>(w.head.front() - 'a' + 'A');
    w.text = loop_value_text(o.key, w.value);
    w.caption = "built " + loop_value_text(o.key, w.built);
    all.push_back(std::move(w));
  }
  return all;
}

json loop_tried(const Evidence& evidence, const WhatIfMove& move) {
  const LoopPlan plan = loop_plan(evidence);
  json all = evidence.settings;
  if (!all[kLoopSettings].is_object()) all[kLoopSettings] = usual_loop_settings();
  json& tried = all[kLoopSettings]["tried"];
  if (!tried.is_object() || move.key.empty()) tried = json::object();
  if (move.key.empty()) return all;
  const double in_use = loop_current_in_use(evidence, plan);
  std::optional<double> value = move.value;
  if (!move.typed.empty()) {
    const json typed = parse_loop_text(loop_value_name(move.key) + " " + move.typed);
    const json& read = typed.at(move.key);
    value = read.is_array() ? read.front().get<double>() : read.get<double>();
  }
  const double built =
      move.key == kCurrent ? in_use : loop_value(plan.built, move.key).value_or(0.0);
  if (!value || std::abs(*value / built - 1.0) < 1e-9)
    tried.erase(move.key);
  else if (move.key == kCurrent)
    tried[move.key] = json::array({*value});
  else
    tried[move.key] = *value;
  // One loop is tried, at one current; nothing else of it left: as built.
  if (tried.size() == 1 && tried.contains(kCurrent) &&
      std::abs(tried[kCurrent].front().get<double>() / in_use - 1.0) < 1e-9)
    tried = json::object();
  if (!tried.empty() && !tried.contains(kCurrent)) tried[kCurrent] = json::array({in_use});
  return all;
}

}  // namespace heron
