#include "simbench/audio_source.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <memory>
#include <mutex>
#include <numbers>

#include "core/quantity/levels.h"
#include "core/signal/fft.h"
#include "core/signal/normal_numbers.h"
#include "core/signal/stimulus.h"
#include "simbench/random_source.h"

namespace heron::sim {
namespace {

constexpr double kNoiseRate = 16000.0;
constexpr std::size_t kNoiseLength = std::size_t{1} << 18U;  // 16 s
constexpr double kNoisePeak = 2.63;  // |x| / rms exceeded by one sample in a thousand

using Loop = std::vector<std::complex<float>>;

/// One turn of the noise at a low rate; the same signal gives the same noise.
Loop make_loop(const AudioSignal& signal, const AudioFilter& filter) {
  std::mt19937_64 random(signal.sequence);
  NormalNumbers<double> gauss(0.0, 1.0);
  Fft fft(kNoiseLength, true, PlanEffort::quick);
  const auto in = fft.input();
  std::fill(in.begin(), in.end(), 0.0F);
  for (std::size_t k = 1; k < kNoiseLength / 2; ++k) {
    const double f = static_cast<double>(k) * kNoiseRate / static_cast<double>(kNoiseLength);
    double weight = f > signal.band_hz.first && f < signal.band_hz.second ? 1.0 : 0.0;
    if (signal.kind == AudioSignal::Kind::notched_noise && f > signal.notch_hz.first &&
        f < signal.notch_hz.second)
      weight = 0.0;
    if (signal.kind == AudioSignal::Kind::speech_noise) weight *= std::sqrt(speech_weighting(f));
    weight *= filter.response(f);
    // A forward transform turns frequencies round: the positive ones go in at the far end.
    const std::size_t bin = kNoiseLength - k;
    in[2 * bin] = static_cast<float>(weight * gauss(random));
    in[2 * bin + 1] = static_cast<float>(weight * gauss(random));
  }
  fft.run();
  Loop loop(fft.output().begin(), fft.output().end());
  double power = 0.0;
  for (const auto& v : loop) power += static_cast<double>(std::norm(v));
  const double rms = std::sqrt(power / static_cast<double>(loop.size()));
  const auto scale = static_cast<float>(1.0 / (rms * kNoisePeak));
  for (auto& v : loop) v *= scale;
  return loop;
}

/// Made once for each signal; generating it takes some ten milliseconds.
std::shared_ptr<const Loop> loop_of(const AudioSignal& signal, const AudioFilter& filter) {
  static std::mutex mutex;
  static AudioSignal last_signal;
  static AudioFilter last_filter;
  static std::shared_ptr<const Loop> last;
  AudioSignal plain = signal;
  plain.pep_dbm = 0.0;
  const std::scoped_lock lock(mutex);
  if (!last || !(plain == last_signal) || !(filter == last_filter)) {
    last = std::make_shared<const Loop>(make_loop(plain, filter));
    last_signal = plain;
    last_filter = filter;
  }
  return last;
}

/// Band-limited interpolation: the loop's own band ends far below half its rate, so that eight
/// windowed-sinc taps leave less than -90 dB.
void interpolate(const Loop& loop, double start_s, double rate_hz,
                 std::span<std::complex<float>> out) {
  constexpr int kTaps = 16;
  constexpr std::size_t kPhases = 512;
  static const std::vector<float> taps = [] {
    std::vector<float> t((kPhases + 1) * kTaps);
    for (std::size_t p = 0; p <= kPhases; ++p) {
      const double part = static_cast<double>(p) / kPhases;
      double sum = 0.0;
      for (int i = 0; i < kTaps; ++i) {
        const double x = static_cast<double>(i - kTaps / 2 + 1) - part;
        const double sinc =
            x == 0.0 ? 1.0 : std::sin(std::numbers::pi * x) / (std::numbers::pi * x);
        const double u = x / (kTaps / 2.0);
        const double window = std::abs(u) < 1.0 ? 0.42 + 0.5 * std::cos(std::numbers::pi * u) +
                                                      0.08 * std::cos(2.0 * std::numbers::pi * u)
                                                : 0.0;
        t[p * kTaps + static_cast<std::size_t>(i)] = static_cast<float>(sinc * window);
        sum += sinc * window;
      }
      for (int i = 0; i < kTaps; ++i)
        t[p * kTaps + static_cast<std::size_t>(i)] /= static_cast<float>(sum);
    }
    return t;
  }();
  const double step = kNoiseRate / rate_hz;
  // The noise goes round in a loop, before time zero too; a hair below zero rounds up to a turn.
  constexpr auto kTurn = static_cast<double>(kNoiseLength);
  double x = std::fmod(start_s * kNoiseRate, kTurn);
  if (x < 0.0) x += kTurn;
  if (x >= kTurn) x = 0.0;
  for (auto& v : out) {
    const auto whole = static_cast<std::size_t>(x);
    const auto phase = static_cast<std::size_t>((x - static_cast<double>(whole)) * kPhases + 0.5);
    const float* t = &taps[phase * kTaps];
    std::complex<float> sum = 0.0F;
    for (std::size_t i = 0; i < kTaps; ++i)
      sum += t[i] * loop[(whole + i + kNoiseLength - kTaps / 2 + 1) % kNoiseLength];
    v = sum;
    x += step;
    if (x >= kTurn) x -= kTurn;
  }
}

}  // namespace

double AudioFilter::response(double hz) const {
  const double beyond = std::max({low_hz - hz, hz - high_hz, 0.0});
  return voltage_ratio_from_db(-slope_db * beyond / 100.0);
}

void analytic_audio(const AudioSignal& signal, const AudioFilter& filter, double start_s,
                    double rate_hz, std::span<std::complex<float>> out) {
  std::fill(out.begin(), out.end(), std::complex<float>(0.0F));
  if (signal.kind == AudioSignal::Kind::off) return;
  if (signal.kind != AudioSignal::Kind::tones) {
    interpolate(*loop_of(signal, filter), start_s, rate_hz, out);
    return;
  }
  const double each = 1.0 / static_cast<double>(std::max<std::size_t>(1, signal.tones_hz.size()));
  for (const double f : signal.tones_hz) {
    const double amplitude = each * filter.response(f);
    const double turn = 2.0 * std::numbers::pi * f / rate_hz;
    // A rotating pointer, set anew now and then so that rounding does not add up.
    constexpr std::size_t kRenew = 256;
    const std::complex<double> step = std::polar(1.0, turn);
    std::complex<double> pointer;
    for (std::size_t i = 0; i < out.size(); ++i) {
      if (i % kRenew == 0) {
        const double cycles = f * (start_s + static_cast<double>(i) / rate_hz);
        pointer = std::polar(amplitude, 2.0 * std::numbers::pi * (cycles - std::floor(cycles)));
      }
      out[i] += std::complex<float>(pointer);
      pointer *= step;
    }
  }
}

}  // namespace heron::sim
