#include "tools/demo_shack/ladder_recording.h"

#include <fmt/format.h>
#include <sndfile.h>

#include <cmath>

#include "core/error.h"
#include "core/quantity/levels.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"

namespace heron::demo {
namespace {

/// Polynomial whose products at tone amplitude `a` have the wanted levels, alternating in sign as a
/// compressing stage does: solved from the highest order down.
EnvelopePolynomial polynomial_for(const std::vector<double>& products_dbc, double a) {
  const std::size_t terms = products_dbc.size();
  EnvelopePolynomial model;
  model.coefficients.assign(terms, 0.0);
  for (int pass = 0; pass < 8; ++pass) {  // the fundamental moves a little with each coefficient
    const double fundamental = std::abs(two_tone_amplitudes(model, a)[0]);
    for (std::size_t k = terms; k >= 1; --k) {
      const double sign = k % 2 == 1 ? -1.0 : 1.0;
      const double wanted = sign * fundamental * voltage_ratio_from_db(products_dbc[k - 1]);
      model.coefficients[k - 1] = 0.0;
      const std::complex<double> rest = two_tone_amplitudes(model, a)[k];
      model.coefficients[k - 1] = (wanted - rest) / std::pow(a, 2.0 * static_cast<double>(k) + 1.0);
    }
  }
  return model;
}

}  // namespace

CaptureOpener record_step(const RecordedStep& step, const RecordingConditions& c, std::uint64_t seed) {
  TwoToneSignal s;
  s.seconds = c.seconds;
  s.amplitude = 0.5 * std::sqrt(step.watts_pep / c.full_scale_watts_pep);
  s.nonlinearity = polynomial_for(step.products_dbc, s.amplitude);
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

void write_wav(const CaptureOpener& open, const std::string& path) {
  const auto reader = open();
  SF_INFO info{};
  info.samplerate = static_cast<int>(reader->info().sample_rate_hz);
  info.channels = 2;
  info.format = SF_FORMAT_WAV | SF_FORMAT_PCM_16;
  SNDFILE* file = sf_open(path.c_str(), SFM_WRITE, &info);
  if (file == nullptr) throw InputError(path, "", "the file cannot be written", "Choose another folder");
  std::vector<float> block(1U << 16U);
  while (const std::size_t frames = reader->read(block)) {
    sf_writef_float(file, block.data(), static_cast<sf_count_t>(frames));
  }
  sf_close(file);
}

}  // namespace heron::demo
