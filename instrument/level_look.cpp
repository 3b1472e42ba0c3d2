#include "instrument/level_look.h"

#include <algorithm>
#include <cmath>

#include "core/quantity/levels.h"
#include "instrument/take_evidence.h"

namespace heron {
namespace {

constexpr double kNearFullScaleDbfs = -0.5;
constexpr double kLineSpanHz = 200e3;
constexpr double kLineRbwHz = 10e3;
constexpr std::size_t kLinePoints = 401;
/// Aside of the line, so that the sampler's own centre does not stand on it.
constexpr double kAsideHz = 5e3;
constexpr std::size_t kLineFrames = 16384;

}  // namespace

ScpiSession& LevelLook::instrument() const {
  return plan_.is_read_by_meter ? *with_.power_meter : *with_.sampler;
}

void LevelLook::set_up() {
  if (plan_.is_read_by_meter) {
    ScpiSession& meter = *with_.power_meter;
    if (meter.can(Role::power_meter, "set_frequency"))
      meter.tell(Role::power_meter, "set_frequency", {{"hz", plan_.center_hz}});
    meter.settle();
    return;
  }
  ScpiSession& sampler = *with_.sampler;
  sampler.tell(Role::sampler, "set_center", {{"hz", plan_.center_hz}});
  sampler.tell(Role::sampler, "set_rate", {{"hz", plan_.rate_hz}});
  sampler.settle();
  if (sampler.can(Role::sampler, "full_scale"))
    full_scale_dbm_ = sampler.ask_number(Role::sampler, "full_scale");
  else if (const Part* recorder = recorder_of(plan_.chain))
    full_scale_dbm_ = recorder->full_scale_dbm.value_or(0.0);
}

double LevelLook::loss_db(double frequency_hz) const {
  return plan_.chain.parts.empty() ? 0.0 : -total_gain_db(plan_.chain, frequency_hz);
}

double LevelLook::shown_dbm(std::size_t frames) {
  if (plan_.is_read_by_meter) return with_.power_meter->ask_number(Role::power_meter, "read");
  ScpiSession& sampler = *with_.sampler;
  sampler.tell(Role::sampler, "set_frames", {{"frames", static_cast<double>(frames)}});
  sampler.ask_samples(Role::sampler, "read", block_, samples_);
  float most = 0.0F;
  float component = 0.0F;
  for (std::size_t i = 0; i + 1 < samples_.size(); i += 2) {
    most = std::max(most, samples_[i] * samples_[i] + samples_[i + 1] * samples_[i + 1]);
    component = std::max({component, std::abs(samples_[i]), std::abs(samples_[i + 1])});
  }
  if (component >= voltage_ratio_from_db(kNearFullScaleDbfs))
    throw InstrumentError(InstrumentFault::over_range, sampler.name(), "",
                          "its input is at full scale", "Add attenuation before it, then go on");
  return db_from_power_ratio(std::max(static_cast<double>(most), 1e-20)) + full_scale_dbm_;
}

double LevelLook::line_dbm(double frequency_hz, RfGuard& guard, double speed) {
  if (with_.analyser != nullptr) {
    RunStep step;
    step.setting = "harmonics";
    step.sweep = RunSweep{frequency_hz - kLineSpanHz / 2.0, frequency_hz + kLineSpanHz / 2.0,
                          kLineRbwHz, kLinePoints};
    TakenStep taken;
    take_sweep(step, with_.analyser, taken, guard, speed);
    return *std::max_element(taken.trace->level_dbm.begin(), taken.trace->level_dbm.end());
  }
  ScpiSession& sampler = *with_.sampler;
  sampler.tell(Role::sampler, "set_center", {{"hz", frequency_hz - kAsideHz}});
  sampler.tell(Role::sampler, "set_rate", {{"hz", plan_.rate_hz}});
  sampler.tell(Role::sampler, "set_frames", {{"frames", static_cast<double>(kLineFrames)}});
  sampler.settle();
  guard.feed();
  sampler.ask_samples(Role::sampler, "read", block_, samples_);
  double sum = 0.0;
  for (const float x : samples_) sum += static_cast<double>(x) * static_cast<double>(x);
  const double mean = sum / std::max<double>(1.0, static_cast<double>(samples_.size()) / 2.0);
  return db_from_power_ratio(std::max(mean, 1e-20)) + full_scale_dbm_;
}

const std::string& LevelLook::harmonics_by() const {
  return with_.analyser != nullptr ? with_.analyser->name() : with_.sampler->name();
}

double LevelLook::harmonics_s() const {
  if (plan_.harmonics < 2 || (with_.analyser == nullptr && with_.sampler == nullptr)) return 0.0;
  const double each = with_.analyser != nullptr
                          ? RunSweep{0.0, kLineSpanHz, kLineRbwHz, kLinePoints}.length_s()
                          : static_cast<double>(kLineFrames) / plan_.rate_hz;
  return plan_.harmonics * each;
}

std::vector<double> LevelLook::harmonics_dbc(RfGuard& guard, double speed) {
  std::vector<double> dbc;
  if (harmonics_s() == 0.0) return dbc;
  const double carrier = line_dbm(plan_.center_hz, guard, speed) + loss_db(plan_.center_hz);
  for (int n = 2; n <= plan_.harmonics; ++n) {
    const double hz = n * plan_.center_hz;
    dbc.push_back(line_dbm(hz, guard, speed) + loss_db(hz) - carrier);
  }
  if (with_.analyser == nullptr) {
    with_.sampler->tell(Role::sampler, "set_center", {{"hz", plan_.center_hz}});
    with_.sampler->settle();
  }
  return dbc;
}

}  // namespace heron
