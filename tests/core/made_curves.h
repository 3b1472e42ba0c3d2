#pragma once

#include <cmath>
#include <fmt/format.h>
#include <functional>
#include <string>
#include <vector>

#include "core/method/evidence.h"
#include "core/method/measure/loop_noise.h"
#include "core/method/phase_noise/noise_record.h"

namespace heron::testing {

inline constexpr int kMadePerDecade = 20;

/// A table of a curve, as a step.
inline EvidenceStep curve_step(const std::string& label, double from_hz, double to_hz,
                               const std::function<double(double)>& l, double u_db = 0.1,
                               const std::vector<NoiseSpur>& lines = {}) {
  NoiseRecord record;
  record.curve.name = label;
  record.curve.per_decade = kMadePerDecade;
  for (int k = static_cast<int>(std::ceil(std::log10(from_hz) * kMadePerDecade - 1e-9));
       k <= static_cast<int>(std::floor(std::log10(to_hz) * kMadePerDecade + 1e-9)); ++k) {
    const double hz = std::pow(10.0, static_cast<double>(k) / kMadePerDecade);
    record.curve.points.push_back({hz, l(hz), u_db, Bound::none, 1.0});
  }
  record.curve.spurs = lines;
  EvidenceStep s;
  s.label = label;
  s.analysis = read_noise_record(to_json(record));
  return s;
}
inline EvidenceStep span_step(const std::string& label, double from_hz, double to_hz, double level,
                              double rbw_hz) {
  EvidenceStep s = curve_step(label, from_hz, to_hz, [=](double) { return level; });
  NoiseRecord record = dynamic_cast<const NoiseRecord&>(*s.analysis);
  record.rbw_hz = rbw_hz;
  s.analysis = read_noise_record(to_json(record));
  return s;
}
inline double falling(double hz) {
  return -80.0 - 20.0 * std::log10(hz / 1e3);
}

inline Evidence noise_test(std::vector<EvidenceStep> steps, nlohmann::json settings = {}) {
  Evidence e;
  e.steps = std::move(steps);
  if (settings.is_object()) e.settings["phase_noise"] = std::move(settings);
  return e;
}

/// Of a loop: levels over the current.
inline double bittern(double hz, double current_a, bool is_filtered = true) {
  LoopDesign l;
  l.r3_ohm = 1000.0;
  l.c3_f = 100e-12;
  l.charge_pump_a = current_a;
  LoopNoiseDesign n;
  if (!is_filtered) n.series_ohm = 0.0;
  return 10.0 * std::log10(16.0 * loop_noise(l, n, hz).total() + std::pow(10.0, -13.4));
}
inline Evidence family(double u_db = 0.1) {
  Evidence e;
  e.settings["noise_setting"] = {{"in_use", "1 mA"}};
  e.limit = Limit{"own", Sense::at_most, -90.0, "dBc/Hz", "", 20.0};
  for (const double ma : {0.25, 0.5, 1.0, 2.0, 4.0})
    e.steps.push_back(curve_step(
        fmt::format("{:g} mA", ma), 100.0, 1e6, [ma](double hz) { return bittern(hz, 1e-3 * ma); },
        u_db));
  e.steps.push_back(curve_step(
      "1 mA, before", 100.0, 1e6, [](double hz) { return bittern(hz, 1e-3, false); }, u_db));
  return e;
}

}  // namespace heron::testing
