#include "demo/ladder_recording.h"

#include <cmath>
#include <fmt/format.h>

#include "core/quantity/levels.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"

namespace heron::demo {
namespace {

struct Stage {
  EnvelopePolynomial model;
  double drive;  ///< amplitude of each tone at the input
};

/// Polynomial and drive that give two tones of amplitude `wanted` with products at the wanted
/// levels, alternating in sign as a compressing stage does. Linear in the coefficients: solved from
/// the highest order down for a fundamental of 1, then scaled.
Stage stage_for(const std::vector<double>& products_dbc, double wanted) {
  const std::size_t terms = products_dbc.size();
  EnvelopePolynomial unit;
  unit.coefficients.assign(terms, 0.0);
  for (std::size_t k = terms; k >= 1; --k) {
    const double sign = k % 2 == 1 ? -1.0 : 1.0;
    const std::complex<double> rest = two_tone_amplitudes(unit, 1.0)[k];
    unit.coefficients[k - 1] = sign * voltage_ratio_from_db(products_dbc[k - 1]) - rest;
  }
  const double share = std::real(two_tone_amplitudes(unit, 1.0)[0]) - 1.0;
  Stage stage{unit, wanted * (1.0 - share)};
  for (std::size_t k = 1; k <= terms; ++k) {
    stage.model.coefficients[k - 1] *=
        wanted / std::pow(stage.drive, 2.0 * static_cast<double>(k) + 1.0);
  }
  return stage;
}

}  // namespace

CaptureOpener record_step(const RecordedStep& step, const RecordingConditions& c,
                          std::uint64_t seed) {
  TwoToneSignal s;
  s.seconds = c.seconds;
  const Stage stage =
      stage_for(step.products_dbc, 0.5 * std::sqrt(step.watts_pep / c.full_scale_watts_pep));
  s.amplitude = stage.drive;
  s.nonlinearity = stage.model;
  s.upper_memory_db = c.upper_memory_db;
  s.carrier_dbc = c.carrier_dbc;
  s.image_dbc = -58.0;
  s.drift_hz = 0.4;
  s.noise_dbfs = c.noise_dbfs;
  s.bits = 16;
  s.seed = seed;
  CaptureInfo about;
  about.name = fmt::format("two-tone {}.wav", step.label);
  about.format = "WAV, 16 bit, I and Q";
  about.bits = 16;
  about.center_hz = c.center_hz;
  about.recorded_at = c.recorded_at;
  return memory_capture(generate_two_tone(s), s.sample_rate_hz, about);
}

}  // namespace heron::demo
