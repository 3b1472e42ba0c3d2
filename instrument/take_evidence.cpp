#include "instrument/take_evidence.h"

#include <algorithm>
#include <fmt/format.h>

#include "core/quantity/levels.h"

namespace heron {

void take_samples(const RunPlan& plan, const RunStep& step, ScpiSession& sampler, TakenStep& taken,
                  RfGuard& guard, double speed) {
  const double center_hz = step.center_hz.value_or(plan.center_hz);
  if (step.center_hz) {
    // The level was found at the carrier.
    sampler.tell(Role::sampler, "set_center", {{"hz", center_hz}});
    sampler.settle();
  }
  const double length_s = static_cast<double>(plan.frames) / plan.rate_hz;
  sampler.tell(Role::sampler, "set_frames", {{"frames", static_cast<double>(plan.frames)}});
  guard.feed();
  std::vector<char> block;
  std::vector<float> samples;
  sampler.ask_samples(Role::sampler, "read", block, samples, length_s / speed);
  if (samples.size() != 2 * plan.frames)
    throw InstrumentError(
        InstrumentFault::garbled, sampler.name(), "",
        fmt::format("{} samples came, {} were asked for", samples.size() / 2, plan.frames),
        "Compare its profile, then go on");
  taken.samples.resize(plan.frames);
  for (std::size_t i = 0; i < plan.frames; ++i)
    taken.samples[i] = {samples[2 * i], samples[2 * i + 1]};
  taken.info.name = "recorded with " + sampler.name();
  taken.info.format = "I and Q from " + sampler.name();
  taken.info.sample_rate_hz = plan.rate_hz;
  taken.info.frames = static_cast<std::int64_t>(plan.frames);
  taken.info.is_complex = true;
  taken.info.is_float = true;
  taken.info.bits = 32;
  taken.info.center_hz = center_hz;
}

void take_sweep(const RunStep& step, ScpiSession* from, TakenStep& taken, RfGuard& guard,
                double speed) {
  if (from == nullptr)
    throw step_refused(step.setting, "no spectrum analyser is connected",
                       "Connect one on the bench");
  ScpiSession& analyser = *from;
  const RunSweep& sweep = *step.sweep;
  analyser.tell(Role::spectrum_analyser, "set_center", {{"hz", (sweep.from_hz + sweep.to_hz) / 2}});
  analyser.tell(Role::spectrum_analyser, "set_span", {{"hz", sweep.to_hz - sweep.from_hz}});
  analyser.tell(Role::spectrum_analyser, "set_rbw", {{"hz", sweep.rbw_hz}});
  analyser.tell(Role::spectrum_analyser, "set_points",
                {{"points", static_cast<double>(sweep.points)}});
  analyser.settle();
  std::vector<double> levels;
  std::vector<double> power(sweep.points, 0.0);
  for (int i = 0; i < sweep.averages; ++i) {
    guard.feed();
    levels = analyser.ask_numbers(Role::spectrum_analyser, "read",
                                  sweep.length_s() / sweep.averages / speed);
    if (levels.size() != sweep.points)
      throw InstrumentError(
          InstrumentFault::garbled, analyser.name(), "",
          fmt::format("{} points came, {} were asked for", levels.size(), sweep.points),
          "Compare its profile, then go on");
    for (std::size_t k = 0; k < sweep.points; ++k)
      power[k] += power_ratio_from_db(levels[k]) / sweep.averages;
  }
  if (analyser.can(Role::spectrum_analyser, "is_over_range") &&
      analyser.ask_yes_or_no(Role::spectrum_analyser, "is_over_range"))
    throw InstrumentError(InstrumentFault::over_range, analyser.name(), "",
                          "its input is overloaded", "Add attenuation before it, then go on");
  SpectrumTrace trace;
  trace.name = "recorded with " + analyser.name();
  trace.rbw_hz = sweep.rbw_hz;
  trace.level_dbm = levels;
  if (sweep.averages > 1) {
    for (std::size_t k = 0; k < sweep.points; ++k)
      trace.level_dbm[k] = db_from_power_ratio(std::max(power[k], 1e-40));
    trace.has_rbw_kind = true;
    trace.detector = TraceDetector::power_average;
    trace.averages = sweep.averages;
  }
  const double spacing = (sweep.to_hz - sweep.from_hz) / static_cast<double>(sweep.points - 1);
  for (std::size_t i = 0; i < sweep.points; ++i)
    trace.frequency_hz.push_back(sweep.from_hz + static_cast<double>(i) * spacing);
  taken.trace = std::move(trace);
  taken.info.name = "recorded with " + analyser.name();
}

}  // namespace heron
