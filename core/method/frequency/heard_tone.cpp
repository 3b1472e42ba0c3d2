#include "core/method/frequency/heard_tone.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <fmt/format.h>
#include <numbers>

#include "core/error.h"
#include "core/progress.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/signal/fft.h"
#include "core/signal/tone_fit.h"

namespace heron {
namespace {

constexpr std::size_t kLeastFrames = 64;
constexpr double kStandsOutDb = 13.0;  ///< over the mean noise of a bin: one in a billion by chance
constexpr std::size_t kMostFrames = std::size_t{1}
                                    << 22U;  ///< fitted at once; more is a thing of segments

/// The strongest bin of a windowed transform; nullopt where nothing stands out.
std::optional<double> strongest(std::span<const std::complex<double>> x, double rate_hz,
                                bool is_real, const std::optional<double>& near_hz) {
  std::size_t n = 1;
  while (2 * n <= x.size()) n *= 2;
  Fft fft(n, true, PlanEffort::quick);
  for (std::size_t i = 0; i < n; ++i) {
    const double hann =
        0.5 *
        (1.0 - std::cos(2.0 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(n)));
    fft.input()[2 * i] = static_cast<float>(hann * x[i].real());
    fft.input()[2 * i + 1] = static_cast<float>(hann * x[i].imag());
  }
  fft.run();
  const auto bins = fft.output();
  const double step = rate_hz / static_cast<double>(n);
  const std::size_t count = is_real ? n / 2 : n;
  std::vector<double> power;
  std::size_t best = 0;
  double most = 0.0;
  for (std::size_t k = 0; k < count; ++k) {
    const double hz =
        step * (k < n / 2 || is_real ? static_cast<double>(k)
                                     : static_cast<double>(k) - static_cast<double>(n));
    const auto p = static_cast<double>(std::norm(bins[k]));
    power.push_back(p);
    const bool is_dc = k < 3 || (!is_real && k + 3 > n);
    const bool is_far =
        near_hz && std::abs(hz - *near_hz) > std::max(50.0, 0.05 * std::abs(*near_hz));
    if (is_dc || is_far || p <= most) continue;
    most = p;
    best = k;
  }
  std::nth_element(power.begin(), power.begin() + static_cast<std::ptrdiff_t>(power.size() / 2),
                   power.end());
  // The median of exponential noise is ln 2 of its mean.
  const double noise = power[power.size() / 2] / std::log(2.0);
  if (most <= noise * power_ratio_from_db(kStandsOutDb)) return std::nullopt;
  const double k = static_cast<double>(best);
  return step * (best < n / 2 || is_real ? k : k - static_cast<double>(n));
}

std::optional<HeardTone> tone_in(std::span<const std::complex<double>> x, double rate_hz,
                                 bool is_real, const ToneWish& wish) {
  const auto start = strongest(x, rate_hz, is_real, wish.near_hz);
  if (!start) return std::nullopt;
  // The transform was of a power of two: a shorter part first, then all of it.
  std::size_t part = 1;
  while (2 * part <= x.size()) part *= 2;
  double place = *start;
  ToneEstimate fitted;
  for (const std::size_t frames : {part, x.size()}) {
    const double from[] = {place};
    ToneFitOptions options;
    fitted = fit_tones(x.first(frames), rate_hz, from, is_real, options).front();
    place = fitted.frequency_hz;
  }
  HeardTone t;
  t.frequency_hz = fitted.frequency_hz;
  t.u_hz = fitted.u_frequency_hz;
  const double amplitude = std::abs(fitted.amplitude);
  t.level_dbfs = db_from_power_ratio(std::max(amplitude * amplitude, 1e-30));
  double noise = 0.0;
  for (std::size_t i = 0; i < x.size(); ++i) {
    const std::complex<double> tone =
        fitted.amplitude * std::polar(1.0, 2.0 * std::numbers::pi * fitted.frequency_hz *
                                               static_cast<double>(i) / rate_hz);
    noise += is_real ? std::pow(x[i].real() - tone.real(), 2.0) : std::norm(x[i] - tone);
  }
  noise /= static_cast<double>(x.size());
  const double power = is_real ? amplitude * amplitude / 2.0 : amplitude * amplitude;
  const double width = is_real ? rate_hz / 2.0 : rate_hz;
  t.snr_db_hz = db_from_power_ratio(std::max(power / std::max(noise, 1e-30) * width, 1e-30));
  t.snr_db = t.snr_db_hz + db_from_power_ratio(static_cast<double>(x.size()) / rate_hz);
  return t;
}

}  // namespace

HeardTones hear_tone(const CaptureOpener& open, const ToneWish& wish, const std::stop_token& stop) {
  const auto reader = open();
  const CaptureInfo& info = reader->info();
  const double rate = info.sample_rate_hz;
  std::size_t frames = static_cast<std::size_t>(info.frames);
  if (wish.segment_s > 0.0)
    frames = std::min(frames, static_cast<std::size_t>(std::llround(wish.segment_s * rate)));
  if (frames < kLeastFrames)
    throw InputError(info.name, "", "a part is only " + std::to_string(frames) + " samples long",
                     "Record longer, or choose longer segments");
  HeardTones all;
  if (frames > kMostFrames) {
    all.remarks.push_back({"first_part", Severity::note,
                           fmt::format("Only the first {} s are fitted as one tone.",
                                       number_text(static_cast<double>(kMostFrames) / rate, 0)),
                           "Choose segments to follow it to the end"});
    frames = kMostFrames;
  }
  const std::size_t per_frame = reader->floats_per_frame();
  std::vector<float> block(frames * per_frame);
  std::vector<std::complex<double>> x(frames);
  std::size_t lost = 0;
  double first_lost_s = 0.0;
  std::size_t parts = 0;
  for (double start_s = 0.0;; start_s += static_cast<double>(frames) / rate) {
    if (stop.stop_requested()) throw Cancelled();
    if (reader->read(block) < frames) break;
    ++parts;
    for (std::size_t i = 0; i < frames; ++i)
      x[i] = per_frame == 2 ? std::complex<double>(block[2 * i], block[2 * i + 1])
                            : std::complex<double>(block[i], 0.0);
    if (auto tone = tone_in(x, rate, per_frame == 1, wish)) {
      tone->start_s = start_s;
      all.tones.push_back(*tone);
    } else if (++lost == 1) {
      first_lost_s = start_s;
    }
    if (wish.segment_s <= 0.0) break;
  }
  if (all.tones.empty())
    throw InputError(
        info.name, "", "no tone stands out of the noise",
        wish.near_hz ? "Look elsewhere, or record a stronger one" : "Record a stronger one");
  if (lost > 0)
    all.remarks.push_back(
        {"tone_lost", Severity::caution,
         fmt::format("No tone in {} of {} parts, first at {} s: they are left out.", lost, parts,
                     number_text(first_lost_s, 1)),
         ""});
  return all;
}

}  // namespace heron
