#include "core/signal/stimulus.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <complex>
#include <fmt/format.h>
#include <numbers>
#include <random>

#include "core/error.h"
#include "core/quantity/levels.h"
#include "core/signal/fft.h"
#include "core/signal/normal_numbers.h"

namespace heron {
namespace {

constexpr std::array<std::pair<StimulusKind, const char*>, 4> kIds{
    {{StimulusKind::tone, "tone"},
     {StimulusKind::two_tone, "two-tone"},
     {StimulusKind::notched_noise, "notched-noise"},
     {StimulusKind::speech_noise, "speech-noise"}}};

bool is_noise(StimulusKind kind) {
  return kind == StimulusKind::notched_noise || kind == StimulusKind::speech_noise;
}

std::vector<double> tones_of(const StimulusSettings& s) {
  if (!s.tones_hz.empty()) return s.tones_hz;
  return s.kind == StimulusKind::tone ? std::vector<double>{1000.0}
                                      : std::vector<double>{650.0, 1850.0};
}

[[noreturn]] void refuse_signal(const std::string& where, const std::string& why,
                                const std::string& todo) {
  throw InputError("test signal", where, why, todo);
}

void check(const StimulusSettings& s) {
  if (s.bits != 16 && s.bits != 24)
    refuse_signal("bits", fmt::format("{} is not offered", s.bits), "Use 16 or 24");
  if (!(s.rate_hz >= 8000.0 && s.rate_hz <= 192000.0) || s.rate_hz != std::round(s.rate_hz))
    refuse_signal("rate", fmt::format("{:g} Hz is not offered", s.rate_hz), "Use 44100 or 48000");
  if (!(s.seconds >= 0.1 && s.seconds <= 600.0))
    refuse_signal("length", fmt::format("{:g} s is not offered", s.seconds), "Use 0.1 to 600 s");
  if (!(s.headroom_db >= 0.0 && s.headroom_db <= 60.0))
    refuse_signal("headroom", fmt::format("{:g} dB is not offered", s.headroom_db),
                  "Use 0 to 60 dB");
  // Above this a sound card's filter bends the level.
  const double highest = 0.45 * s.rate_hz;
  const auto audible = [&](double f, const std::string& what) {
    if (!(f > 0.0 && f <= highest))
      refuse_signal(what, fmt::format("{:g} Hz is outside 0 to {:g} Hz", f, highest),
                    "Use a lower frequency or a higher rate");
  };
  if (is_noise(s.kind)) {
    audible(s.band_hz.first, "band");
    audible(s.band_hz.second, "band");
    if (s.band_hz.second - s.band_hz.first < 100.0)
      refuse_signal("band", "it is narrower than 100 Hz", "Name it from low to high");
    if (s.kind == StimulusKind::notched_noise &&
        !(s.notch_hz.first > s.band_hz.first && s.notch_hz.second < s.band_hz.second &&
          s.notch_hz.second - s.notch_hz.first >= 20.0))
      refuse_signal("notch",
                    fmt::format("{:g} to {:g} Hz is not inside the band, or narrower than 20 Hz",
                                s.notch_hz.first, s.notch_hz.second),
                    "Name it from low to high, inside the band");
    return;
  }
  const auto tones = tones_of(s);
  const std::size_t wanted = s.kind == StimulusKind::tone ? 1 : 2;
  if (tones.size() != wanted)
    refuse_signal("tones", fmt::format("{} given, {} needed", tones.size(), wanted),
                  "Name them in Hz");
  for (const double f : tones) audible(f, "tones");
  if (wanted == 2 && tones[0] == tones[1])
    refuse_signal("tones", "both are the same", "Name two different ones");
}

/// Not scaled; equal amplitudes.
std::vector<double> tones(const StimulusSettings& s, std::size_t frames) {
  std::vector<double> out(frames, 0.0);
  for (const double f : tones_of(s)) {
    for (std::size_t i = 0; i < frames; ++i)
      out[i] +=
          std::sin(2.0 * std::numbers::pi * std::fmod(f * static_cast<double>(i) / s.rate_hz, 1.0));
  }
  return out;
}

/// A rise and fall of this width keeps the band's edges from ringing in the transmitter's filter.
constexpr double kBandEdgeHz = 20.0;

double band_weight(const StimulusSettings& s, double f) {
  const auto step = [](double distance) {  // raised cosine in power, 1 inside
    return distance >= 0.0 ? 1.0
           : distance <= -kBandEdgeHz
               ? 0.0
               : 0.5 + 0.5 * std::cos(std::numbers::pi * distance / kBandEdgeHz);
  };
  const double inside = step(std::min(f - s.band_hz.first, s.band_hz.second - f) - kBandEdgeHz);
  if (s.kind == StimulusKind::speech_noise) return inside * speech_weighting(f);
  const bool is_notched = f > s.notch_hz.first && f < s.notch_hz.second;
  return is_notched ? 0.0 : inside;
}

/// Gaussian noise of the wanted spectrum from one transform as long as the signal, so that nothing
/// leaks into the notch; it comes round without a seam where the signal is longer.
std::vector<double> noise(const StimulusSettings& s, std::size_t frames) {
  constexpr std::size_t kLongest = 1U << 22U;
  const std::size_t period = std::min(std::bit_ceil(frames), kLongest);
  std::mt19937_64 random(s.seed);
  NormalNumbers<double> gauss(0.0, 1.0);
  Fft fft(period, true, PlanEffort::quick);
  const auto in = fft.input();
  std::fill(in.begin(), in.end(), 0.0F);
  for (std::size_t k = 0; k < period / 2; ++k) {
    const double f = static_cast<double>(k) * s.rate_hz / static_cast<double>(period);
    const double amplitude = std::sqrt(band_weight(s, f));
    if (amplitude == 0.0) continue;
    in[2 * k] = static_cast<float>(amplitude * gauss(random));
    in[2 * k + 1] = static_cast<float>(amplitude * gauss(random));
  }
  fft.run();
  std::vector<double> out(frames);
  for (std::size_t i = 0; i < frames; ++i) out[i] = fft.output()[i % period].real();
  return out;
}

}  // namespace

double speech_weighting(double frequency_hz) {
  const auto network = [](double f) {
    const std::complex<double> p(0.0, f / 1000.0);
    const std::complex<double> loss =
        (18400.0 + 91238.0 * p * p + 11638.0 * std::pow(p, 4) + p * (67280.0 + 54050.0 * p * p)) /
        (400.0 + 4001.0 * p * p + std::pow(p, 4) + p * (36040.0 + 130.0 * p * p));
    return 1.0 / std::norm(loss);
  };
  static const double highest = [&network] {
    double most = 0.0;
    for (double f = 100.0; f < 4000.0; f += 1.0) most = std::max(most, network(f));
    return most;
  }();
  return network(frequency_hz) / highest;
}

Stimulus make_stimulus(const StimulusSettings& s) {
  check(s);
  const auto frames = static_cast<std::size_t>(std::llround(s.seconds * s.rate_hz));
  std::vector<double> wave = is_noise(s.kind) ? noise(s, frames) : tones(s, frames);
  const auto edge = static_cast<std::size_t>(std::llround(kStimulusEdgeS * s.rate_hz));
  for (std::size_t i = 0; i < edge; ++i) {
    const double rise = 0.5 - 0.5 * std::cos(std::numbers::pi * (static_cast<double>(i) + 0.5) /
                                             static_cast<double>(edge));
    wave[i] *= rise;
    wave[frames - 1 - i] *= rise;
  }
  double peak = 0.0;
  for (const double v : wave) peak = std::max(peak, std::abs(v));
  // Tones are scaled by what they could reach, so that equal settings give equal levels.
  const double reach = is_noise(s.kind) ? peak : static_cast<double>(tones_of(s).size());
  const double steps = std::ldexp(1.0, s.bits - 1);
  const double scale = voltage_ratio_from_db(-s.headroom_db) * (steps - 1.0) / reach;

  Stimulus out;
  out.rate_hz = s.rate_hz;
  out.bits = s.bits;
  out.samples.resize(frames);
  std::mt19937_64 random(s.seed + 1);
  std::uniform_real_distribution<double> half(-0.5, 0.5);
  double sum = 0.0;
  std::int32_t highest = 0;
  for (std::size_t i = 0; i < frames; ++i) {
    const double dithered = wave[i] * scale + half(random) + half(random);
    const double stored = std::clamp(std::round(dithered), -steps, steps - 1.0);
    out.samples[i] = static_cast<std::int32_t>(stored);
    highest = std::max(highest, std::abs(out.samples[i]));
    if (i >= edge && i < frames - edge) sum += stored * stored;
  }
  const double mean = sum / static_cast<double>(frames - 2 * edge) / (steps * steps);
  out.peak_dbfs = db_from_voltage_ratio(highest / steps);
  out.rms_dbfs = db_from_power_ratio(2.0 * mean);
  out.crest_factor_db = out.peak_dbfs - db_from_power_ratio(mean);
  return out;
}

std::string stimulus_id(StimulusKind kind) {
  for (const auto& [k, id] : kIds) {
    if (k == kind) return id;
  }
  return "tone";
}

StimulusKind stimulus_from_id(const std::string& id) {
  for (const auto& [kind, name] : kIds) {
    if (id == name) return kind;
  }
  refuse_signal("kind", "\u201c" + id + "\u201d is not known",
                "Use tone, two-tone, notched-noise or speech-noise");
}

std::string stimulus_path_advice() {
  return "Played from the transmitter\u2019s own voice memory, the signal meets no other amplifier "
         "on "
         "its way; through a sound interface and a microphone input, their distortion adds to what "
         "is measured: check them alone first.";
}

}  // namespace heron
