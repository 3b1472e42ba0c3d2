#pragma once

#include <cmath>
#include <functional>
#include <random>

#include "core/method/evidence.h"
#include "core/method/live_quantity.h"
#include "core/signal/normal_numbers.h"

namespace heron::testing {

/// A log of a quantity at even steps, each value from its time.
inline SeriesPtr made_log(const char* quantity, const char* unit, double every_s, int count,
                          const std::function<double(double)>& value,
                          const char* started_at = "2026-03-02T06:00:00Z") {
  auto log = std::make_shared<Series>();
  log->quantity = quantity;
  log->unit = unit;
  log->instrument = "counter";
  log->started_at = started_at;
  for (int i = 0; i < count; ++i) log->samples.push_back({every_s * i, value(every_s * i)});
  return log;
}

/// 10 MHz that comes to rest: so many ppm above where it settles, and noise.
struct MadeWarmUp {
  double settled_ppm = 0.2;
  double above_ppm = 1.5;
  double tau_s = 500.0;
  double noise_ppm = 0.02;
  unsigned seed = 1;
  SeriesPtr log(double every_s = 20.0, int count = 270) const {
    auto random = std::make_shared<std::mt19937_64>(seed);
    auto normal = std::make_shared<NormalNumbers<double>>();
    return made_log(kCountedFrequency, "Hz", every_s, count, [=, this](double t) {
      return 10e6 * (1.0 + 1e-6 * (settled_ppm + above_ppm * std::exp(-t / tau_s) +
                                   noise_ppm * (*normal)(*random)));
    });
  }
};

inline EvidenceStep logged(std::vector<SeriesPtr> logs) {
  EvidenceStep step;
  step.label = "Log";
  step.series = std::move(logs);
  return step;
}

}  // namespace heron::testing
