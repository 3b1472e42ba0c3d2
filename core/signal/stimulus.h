#pragma once

#include <cstdint>
#include <string>
#include <utility>
#include <vector>

namespace heron {

enum class StimulusKind { tone, two_tone, notched_noise, speech_noise };

/// What is played into a transmitter. Frequencies are audio frequencies in Hz.
struct StimulusSettings {
  StimulusKind kind = StimulusKind::two_tone;
  std::vector<double> tones_hz;  ///< one or two; empty = 1000, or 650 and 1850
  double rate_hz = 48000.0;
  int bits = 24;             ///< 16 or 24
  double seconds = 60.0;     ///< with both edges
  double headroom_db = 3.0;  ///< the highest sample stays this far below full scale
  std::pair<double, double> band_hz{300.0, 2700.0};    ///< of the noises
  std::pair<double, double> notch_hz{1250.0, 1750.0};  ///< without noise
  std::uint64_t seed = 1;                              ///< the same seed gives the same noise
};

/// The signal as it will be stored: rounded to `bits` with triangular dither, so that rounding
/// makes no lines of its own.
struct Stimulus {
  std::vector<std::int32_t> samples;  ///< in steps of 2^-(bits-1) of full scale
  double rate_hz = 0.0;
  int bits = 24;
  double peak_dbfs = 0.0;
  double rms_dbfs = 0.0;  ///< re the RMS of a full-scale sinusoid, between the edges
  double crest_factor_db = 0.0;
};

/// Cosine-shaped rise and fall, so that the key-down itself does not splatter.
inline constexpr double kStimulusEdgeS = 0.010;

/// InputError: a tone outside the band of the rate, a length, headroom, rate, resolution or notch
/// that cannot be. Noises are Gaussian; speech-shaped noise follows the conventional telephone
/// signal (ITU-T G.227) inside its band.
Stimulus make_stimulus(const StimulusSettings& settings);

std::string stimulus_id(StimulusKind kind);            ///< "two-tone"
StimulusKind stimulus_from_id(const std::string& id);  ///< InputError if unknown

/// Power weighting of the conventional telephone signal (ITU-T G.227), 1 at its highest.
double speech_weighting(double frequency_hz);

/// In a sentence: what plays it into the transmitter matters, and why.
std::string stimulus_path_advice();

}  // namespace heron
