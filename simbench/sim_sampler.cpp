#include "simbench/sim_sampler.h"

#include <cmath>
#include <cstring>
#include <fmt/format.h>

#include "core/quantity/levels.h"
#include "core/scpi/reply_reader.h"
#include "simbench/random_source.h"
#include "simbench/sim_output.h"

namespace heron::sim {
namespace {

/// A little of the signal comes earlier and later, as from a filter: a ripple over its range that
/// repeats each `1 / kDelay` of the rate.
void bend(std::vector<std::complex<float>>& x, const Ripple& ripple) {
  constexpr std::size_t kDelay = 6;
  if (ripple.amplitude_db == 0.0 || x.size() <= 2 * kDelay) return;
  const double share = (voltage_ratio_from_db(ripple.amplitude_db) - 1.0) / 2.0;
  const std::complex<float> late(std::polar(share, ripple.phase));
  const std::vector<std::complex<float>> straight = x;
  for (std::size_t i = 0; i < x.size(); ++i) {
    if (i >= kDelay) x[i] += late * straight[i - kDelay];
    if (i + kDelay < x.size()) x[i] += std::conj(late) * straight[i + kDelay];
  }
}

}  // namespace

SimSampler::SimSampler(SharedState& state) : SimInstrument(state, "sampler") {
  set("SENS:FREQ:CENT",
      [this](SimState&, const Arguments& a) { setting_.center_hz = number_at(a, 0, 1e3, 1e10); });
  set("SENS:RATE",
      [this](SimState&, const Arguments& a) { setting_.rate_hz = number_at(a, 0, 8e3, 2e6); });
  set("SENS:COUN", [this](SimState&, const Arguments& a) {
    setting_.frames = static_cast<std::size_t>(number_at(a, 0, 16.0, 1U << 24U));
  });
  ask("SENS:RANG?",
      [](const SimState& s) { return fmt::format("{}", s.config.sampler_full_scale_dbm); });
  read("STAT:OVER?", [this] { return was_over_ ? "1" : "0"; });
  read("READ:IQ?", [this] { return samples(); });
}

std::string SimSampler::samples() {
  auto held = state().now();
  const SimOutput output(*held);
  const Setting s = setting_;
  const SimConfig config = held->config;
  const double start = held.now_s();
  const double gain = held->true_gain_db(s.center_hz) + held->truth.sampler_error_db -
                      (is_loose_now_ ? held->loose_db : 0.0);
  is_loose_now_ = !is_loose_now_;
  const Ripple ripple = held->ripple_of("the sampler", s.center_hz);
  std::mt19937_64 random(held->random());
  held.pass(static_cast<double>(s.frames) / s.rate_hz);
  held.release();

  std::vector<std::complex<float>> x(s.frames);
  output.fill(s.center_hz, s.rate_hz, start, x, random);
  bend(x, ripple);
  const auto scale =
      static_cast<float>(voltage_ratio_from_db(30.0 + gain - config.sampler_full_scale_dbm));
  // Third-order distortion of its own: two tones of a dBFS give IM3 at 3 a - 2 IP3.
  const double third = -power_ratio_from_db(-config.sampler_third_order_dbfs);
  const auto cubed = static_cast<float>(third);
  for (auto& v : x) {
    v *= scale;
    v += cubed * std::norm(v) * v;
  }
  add_white_noise(x, power_ratio_from_db(config.sampler_noise_dbfs_hz) * s.rate_hz, random);
  bool over = false;
  constexpr float kSteps = 8192.0F;  // 14 bit
  for (auto& v : x) {
    // An offset of its own, and quadrature not quite at right angles.
    v += std::complex<float>(2e-4F, -1e-4F) + 5e-4F * std::conj(v);
    over = over || std::abs(v.real()) >= 1.0F || std::abs(v.imag()) >= 1.0F;
    const auto stored = [&](float c) {
      return std::clamp(std::round(c * kSteps), -kSteps, kSteps - 1.0F) / kSteps;
    };
    v = {stored(v.real()), stored(v.imag())};
  }
  was_over_ = over;
  const std::size_t bytes = x.size() * sizeof x[0];
  std::string reply = block_header(bytes);
  const std::size_t head = reply.size();
  reply.resize(head + bytes);
  std::memcpy(reply.data() + head, x.data(), bytes);
  return reply;
}

}  // namespace heron::sim
