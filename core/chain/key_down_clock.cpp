#include "core/chain/key_down_clock.h"

#include <algorithm>
#include <cmath>

#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kCautionTemperature = 0.8;
/// Cold enough to count as rested.
constexpr double kColdTemperature = 0.02;

}  // namespace

double KeyDownClock::temperature_at(const Heat& heat, double now_s) const {
  return temperature_after(heat.rating, heat.temperature, is_keyed_ ? heat.power_w : 0.0,
                           std::max(0.0, now_s - since_s_));
}

void KeyDownClock::settle(double now_s) {
  for (Heat& heat : heats_) heat.temperature = temperature_at(heat, now_s);
  since_s_ = now_s;
}

void KeyDownClock::set_chain(const Chain& chain, const Drive& drive, double now_s) {
  const ChainResult result = evaluate_chain(chain, drive);
  settle(now_s);
  for (Heat& heat : heats_) {
    heat.at_s = now_s;
    std::erase_if(away_, [&](const Heat& old) { return old.thing == heat.thing; });
    away_.push_back(std::move(heat));
  }
  heats_.clear();
  planned_s_ = drive.key_down_s.value_or(0.0);
  for (std::size_t i = 0; i < result.nodes.size(); ++i) {
    const Part& part = chain.parts[i];
    if (!part.max_input_w) continue;
    const double highest_dbm = result.nodes[i].level_dbm + 2.0 * result.nodes[i].u_db;
    Heat heat;
    heat.name = part.name;
    heat.thing = part.bench_id.empty() ? part.name : "bench " + part.bench_id;
    heat.rating = {*part.max_input_w, part.time_constant_s};
    heat.power_w = to_watt(Dbm{highest_dbm - peak_to_average_db(drive)}).value;
    heat.is_over_peak = highest_dbm > peak_rating_dbm(part).value_or(1e9);
    heat.at_s = now_s;
    const auto old = std::find_if(away_.begin(), away_.end(),
                                  [&](const Heat& h) { return h.thing == heat.thing; });
    if (old != away_.end() && part.time_constant_s)
      heat.temperature =
          temperature_after(heat.rating, old->temperature, 0.0, std::max(0.0, now_s - old->at_s));
    heats_.push_back(heat);
  }
}

void KeyDownClock::key(double now_s) {
  if (is_keyed_) return;
  settle(now_s);
  is_keyed_ = true;
  keyed_at_s_ = now_s;
}

void KeyDownClock::unkey(double now_s) {
  if (!is_keyed_) return;
  settle(now_s);
  is_keyed_ = false;
}

KeyDownReading KeyDownClock::read(double now_s) const {
  KeyDownReading reading;
  if (is_keyed_) reading.keyed_s = now_s - keyed_at_s_;
  for (const Heat& heat : heats_) {
    const double temperature = temperature_at(heat, now_s);
    if (is_keyed_) {
      auto left = key_down_time_s(heat.rating, heat.power_w, temperature);
      if (heat.is_over_peak) left = 0.0;
      const bool binds = left && (!reading.left_s || *left < *reading.left_s);
      if (binds) reading.left_s = left;
      if (binds || (!reading.left_s && temperature > reading.temperature)) {
        reading.binding = heat.name;
        reading.temperature = temperature;
      }
    } else {
      const double planned = planned_s_ > 0.0
                                 ? planned_s_
                                 : key_down_time_s(heat.rating, heat.power_w).value_or(0.0) / 2.0;
      const double rest =
          temperature < kColdTemperature
              ? 0.0
              : rest_time_s(heat.rating, temperature, heat.power_w, planned)
                    .value_or(heat.rating.time_constant_s.value_or(0.0) *
                              std::log(std::max(1.0, temperature / kColdTemperature)));
      if (rest > reading.rest_s) {
        reading.rest_s = rest;
        reading.binding = heat.name;
        reading.temperature = temperature;
      }
    }
  }
  if (!is_keyed_) {
    reading.state = reading.rest_s > 0.0 ? KeyDownState::resting : KeyDownState::idle;
  } else if (reading.left_s && *reading.left_s <= 0.0) {
    reading.state = KeyDownState::stop;
  } else if (reading.left_s && reading.temperature >= kCautionTemperature) {
    reading.state = KeyDownState::caution;
  } else {
    reading.state = KeyDownState::keyed;
  }
  return reading;
}

}  // namespace heron
