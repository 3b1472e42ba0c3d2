#include "core/method/measure/heard_tone.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <fmt/format.h>
#include <numbers>
#include <numeric>

#include "core/error.h"
#include "core/progress.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/signal/tone_fit.h"

namespace heron {
namespace {

constexpr std::size_t kLeastFrames = 64;
/// Over the noise of one resolution cell: the highest of a million cells of noise lies at 11.4 dB.
constexpr double kStandsOutDb = 14.0;
constexpr std::size_t kMostFrames = std::size_t{1} << 21U;  ///< at once; more is for segments

std::optional<HeardTone> tone_in(std::span<const std::complex<double>> x, double rate_hz,
                                 bool is_real, const ToneWish& wish) {
  // Lower ones have not turned often enough to be told from an offset.
  const double least_hz = 3.0 * rate_hz / static_cast<double>(x.size());
  const auto is_looked_at = [&](double hz) {
    return std::abs(hz) >= least_hz &&
           (!wish.near_hz ||
            std::abs(hz - *wish.near_hz) <= std::max(50.0, 0.05 * std::abs(*wish.near_hz)));
  };
  const ToneEstimate fitted = estimate_tones(x, rate_hz, 1, is_real, is_looked_at).front();
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
  if (t.snr_db < kStandsOutDb) return std::nullopt;
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
    // What a recorder adds at 0 Hz is neither tone nor noise.
    const std::complex<double> mean =
        std::accumulate(x.begin(), x.end(), std::complex<double>(0.0)) /
        static_cast<double>(frames);
    for (auto& v : x) v -= mean;
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
