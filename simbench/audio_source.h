#pragma once

#include <complex>
#include <cstdint>
#include <span>
#include <utility>
#include <vector>

namespace heron::sim {

/// What an audio generator puts out.
struct AudioSignal {
  enum class Kind { off, tones, notched_noise, speech_noise };
  Kind kind = Kind::off;
  std::vector<double> tones_hz{650.0, 1850.0};  ///< equal
  std::pair<double, double> band_hz{300.0, 2700.0};
  std::pair<double, double> notch_hz{1250.0, 1750.0};
  std::uint64_t sequence = 97;  ///< which noise
  double pep_dbm = -30.0;       ///< into its load; noise reaches this peak one time in a thousand

  bool operator==(const AudioSignal&) const = default;
};

/// A transmitter's audio filter: flat between, falling by `slope_db` for each 100 Hz beyond.
struct AudioFilter {
  double low_hz = 250.0;
  double high_hz = 2900.0;
  double slope_db = 12.0;
  double response(double hz) const;  ///< voltage, 1 inside

  bool operator==(const AudioFilter&) const = default;
};

/// The positive frequencies of the signal behind the filter (its analytic form), |x| = 1 at the
/// peak named by `pep_dbm`, from `start_s` on. Noise repeats after some seconds.
void analytic_audio(const AudioSignal& signal, const AudioFilter& filter, double start_s,
                    double rate_hz, std::span<std::complex<float>> out);

}  // namespace heron::sim
