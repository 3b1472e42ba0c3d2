#include "instrument/tone_ear.h"

#include <cmath>
#include <numbers>
#include <random>

#include "core/error.h"
#include "core/method/measure/heard_tone.h"
#include "core/signal/memory_capture.h"
#include "instrument/role.h"

namespace heron {
namespace {

constexpr double kSimulatedRateHz = 8000.0;
constexpr double kSimulatedTone = 0.2;
constexpr double kSimulatedNoise = 0.0071;  // 26 dB below the tone's power

std::vector<float> simulated_sound(double hz, double length_s, std::mt19937_64& random) {
  std::normal_distribution<float> noise(0.0F, static_cast<float>(kSimulatedNoise));
  std::vector<float> sound(static_cast<std::size_t>(std::llround(length_s * kSimulatedRateHz)));
  for (std::size_t i = 0; i < sound.size(); ++i) {
    const double turns = hz * static_cast<double>(i) / kSimulatedRateHz;
    sound[i] = static_cast<float>(kSimulatedTone * std::sin(2.0 * std::numbers::pi * turns)) +
               noise(random);
  }
  return sound;
}

}  // namespace

double heard_hz(std::vector<float> sound, double rate_hz, std::optional<double> near_hz) {
  ToneWish wish;
  wish.near_hz = near_hz;
  return hear_tone(memory_capture(std::move(sound), rate_hz, "sound input"), wish)
      .tones.front()
      .frequency_hz;
}

ToneEar simulated_ear(std::unique_ptr<ScpiSession> counter, double carrier_hz, double tone_hz,
                      bool is_upper) {
  struct Receiver {
    std::unique_ptr<ScpiSession> counter;
    std::mt19937_64 random{1};
  };
  auto receiver = std::make_shared<Receiver>();
  receiver->counter = std::move(counter);
  ToneEar ear;
  ear.name = "simulated receiver";
  ear.hear = [receiver, carrier_hz, tone_hz, is_upper](double length_s,
                                                       const std::stop_token& stop) {
    ScpiSession& asked = *receiver->counter;
    asked.set_stop(stop);
    if (!asked.is_open()) asked.connect();
    const double error_hz = asked.ask_number(Role::counter, "read") - carrier_hz;
    // A dial that stands too high hears an upper sideband too low.
    const double hz = is_upper ? tone_hz - error_hz : tone_hz + error_hz;
    return heard_hz(simulated_sound(hz, length_s, receiver->random), kSimulatedRateHz, tone_hz);
  };
  return ear;
}

}  // namespace heron
