#include "core/method/two_tone/tone_track.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numeric>

#include "core/error.h"
#include "core/signal/tone_fit.h"

namespace heron {
namespace {

std::vector<double> combined(const ToneTrack& track, double a, double b) {
  std::vector<double> values;
  for (std::size_t i = 0; i < track.f1_hz.size(); ++i)
    values.push_back(a * track.f1_hz[i] + b * track.f2_hz[i]);
  return values;
}

std::size_t block_size(double rate_hz, double spacing_hz, std::int64_t frames) {
  // 32 cycles of the spacing keep each tone out of the other's Hann skirts.
  std::size_t size = 2048;
  while (static_cast<double>(size) < 32.0 * rate_hz / spacing_hz && size < (1U << 17U)) size *= 2;
  return std::min<std::size_t>(size, static_cast<std::size_t>(frames));
}

}  // namespace

double ToneTrack::middle_of(double a, double b) const {
  const auto values = combined(*this, a, b);
  const auto [low, high] = std::minmax_element(values.begin(), values.end());
  return (*low + *high) / 2.0;
}

double ToneTrack::at(double fraction, double a, double b) const {
  const double x = std::clamp(fraction, 0.0, 1.0) * static_cast<double>(f1_hz.size() - 1);
  const auto i = static_cast<std::size_t>(x);
  const std::size_t j = std::min(i + 1, f1_hz.size() - 1);
  const double part = x - static_cast<double>(i);
  return std::lerp(a * f1_hz[i] + b * f2_hz[i], a * f1_hz[j] + b * f2_hz[j], part);
}

double ToneTrack::range_of(double a, double b) const {
  const auto values = combined(*this, a, b);
  const auto [low, high] = std::minmax_element(values.begin(), values.end());
  return *high - *low;
}

ToneTrack track_tones(const CaptureOpener& open, double f1_start_hz, double f2_start_hz,
                      std::size_t moments, const std::stop_token& stop) {
  const auto reader = open();
  const CaptureInfo& info = reader->info();
  const std::size_t size = block_size(info.sample_rate_hz, f2_start_hz - f1_start_hz, info.frames);
  const auto room = static_cast<std::size_t>(info.frames) - size;
  const std::size_t count = std::clamp<std::size_t>(room / size + 1, 1, moments);
  std::vector<float> raw(size * reader->floats_per_frame());
  std::vector<std::complex<double>> samples(size);
  ToneFitOptions options;
  options.hann_weights = true;
  options.iterations = 5;

  ToneTrack track;
  double start[2] = {f1_start_hz, f2_start_hz};
  double variance_1 = 0.0;
  double variance_2 = 0.0;
  for (std::size_t m = 0; m < count; ++m) {
    if (stop.stop_requested()) throw Cancelled();
    reader->seek(static_cast<std::int64_t>(count == 1 ? room / 2 : m * room / (count - 1)));
    const std::size_t got = reader->read(raw);
    if (got < size) break;
    for (std::size_t i = 0; i < size; ++i) {
      samples[i] = info.is_complex ? std::complex<double>(raw[2 * i], raw[2 * i + 1])
                                   : std::complex<double>(raw[i], 0.0);
    }
    const auto tones = fit_tones(samples, info.sample_rate_hz, start, !info.is_complex, options);
    // A gap in the signal must not throw the track onto something else.
    const double reach = 4.0 * info.sample_rate_hz / static_cast<double>(size);
    // Nor must noise be followed where the tones are not.
    const auto is_lost = [&](std::size_t k) {
      return std::abs(tones[k].frequency_hz - start[k]) > reach ||
             std::abs(tones[k].amplitude) < std::max(1e-9, 4.0 * tones[k].u_amplitude);
    };
    if (is_lost(0) || is_lost(1)) continue;
    track.f1_hz.push_back(tones[0].frequency_hz);
    track.f2_hz.push_back(tones[1].frequency_hz);
    variance_1 += tones[0].u_frequency_hz * tones[0].u_frequency_hz;
    variance_2 += tones[1].u_frequency_hz * tones[1].u_frequency_hz;
    start[0] = track.f1_hz.back();
    start[1] = track.f2_hz.back();
  }
  if (track.f1_hz.empty()) {
    track.f1_hz.push_back(f1_start_hz);
    track.f2_hz.push_back(f2_start_hz);
  }
  const auto n = static_cast<double>(track.f1_hz.size());
  track.u_f1_hz = std::sqrt(variance_1) / n;
  track.u_f2_hz = std::sqrt(variance_2) / n;
  return track;
}

}  // namespace heron
