#include "core/method/measure/phase_stream.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <vector>

#include "core/error.h"
#include "core/quantity/levels.h"
#include "core/signal/fft.h"
#include "core/signal/median.h"
#include "core/signal/two_pi.h"
#include "core/signal/window.h"

namespace heron {
namespace {

using Sample = std::complex<float>;

constexpr std::size_t kSpot = 8192;
constexpr std::int64_t kSpots = 16;
constexpr double kCarrierOverDb = 20.0;
constexpr std::size_t kStreamBlock = 4096;
constexpr double kWeak = 0.25;         ///< of the usual power: the carrier is gone
constexpr double kLargeStep = 2.0;     ///< rad: cannot be told from a turn the other way
constexpr double kLargeShare = 0.002;  ///< so many of them and the phase is not known

/// Between bins: the window's main lobe is a parabola in decibels near enough.
double between_bins(const std::vector<double>& power, std::size_t peak) {
  const std::size_t n = power.size();
  const double l = std::log(std::max(power[(peak + n - 1) % n], 1e-300));
  const double m = std::log(std::max(power[peak], 1e-300));
  const double r = std::log(std::max(power[(peak + 1) % n], 1e-300));
  const double bend = l - 2.0 * m + r;
  return bend < 0.0 ? std::clamp(0.5 * (l - r) / bend, -0.5, 0.5) : 0.0;
}

/// atan of small arguments, to the last digit of a float (Taylor, |z| <= 0.3).
inline float small_atan(float z) {
  const float s = z * z;
  return z *
         (1.0F - s * (1.0F / 3 -
                      s * (1.0F / 5 - s * (1.0F / 7 - s * (1.0F / 9 - s * (1.0F / 11 - s / 13))))));
}

/// Follows the carrier block after block.
class Follower {
 public:
  Follower(const FoundCarrier& carrier, double rate_hz)
      : rate_(rate_hz),
        middle_(kTwoPi * carrier.frequency_hz / rate_hz),
        step_(middle_),
        amplitude_(carrier.amplitude),
        most_off_(kTwoPi / rate_hz * std::max({8.0 * carrier.wander_hz, 0.002 * rate_hz, 50.0})) {}

  /// False where the carrier is lost in it.
  bool follow(std::span<const Sample> x, std::vector<Sample>& out) {
    turn_back(x);
    if (!has_phase_) {
      begin();
      turn_back(x);
    }
    const std::size_t n = x.size();
    const double frames = static_cast<double>(n);
    // What turning back takes from each step of the phase.
    const double turned = step_ - middle_;
    double last = 0.0;  // the block is turned so that the sample before it lies at 0
    double sum = 0.0;
    double power = 0.0;
    std::size_t large = 0;
    out.resize(n);
    for (std::size_t i = 0; i < n; ++i) {
      double d = residual_[i] - last;
      if (d > std::numbers::pi) d -= kTwoPi;
      if (d < -std::numbers::pi) d += kTwoPi;
      if (std::abs(d) > kLargeStep) ++large;
      last = residual_[i];
      sum += d;
      power += static_cast<double>(magnitude_[i]) * magnitude_[i];
      out[i] = Sample(static_cast<float>(d + turned),
                      static_cast<float>(magnitude_[i] / amplitude_ - 1.0));
    }
    // Of the very first nothing is known before it.
    if (!has_phase_ && n > 1) out[0] = out[1];
    const double found = step_ + sum / frames;
    start_ = std::remainder(start_ + step_ * frames + last, kTwoPi);
    has_phase_ = power >= kWeak * amplitude_ * amplitude_ * frames &&
                 static_cast<double>(large) <= kLargeShare * frames &&
                 std::abs(found - middle_) <= most_off_;
    if (has_phase_) {
      sum_ += sum + turned * frames;
      used_ += frames;
      step_ = std::lerp(step_, found, 0.5);
    } else {
      step_ = middle_;
    }
    return has_phase_;
  }

  double mean_hz() const { return (middle_ + (used_ > 0.0 ? sum_ / used_ : 0.0)) * rate_ / kTwoPi; }

 private:
  /// Phase and magnitude of a block that is turned back by `start_` + `step_` a sample.
  void turn_back(std::span<const Sample> x) {
    const std::size_t n = x.size();
    real_.resize(n);
    imaginary_.resize(n);
    residual_.resize(n);
    magnitude_.resize(n);
    // The recurrence is renewed often enough to stay exact.
    constexpr std::size_t kRenew = 256;
    const std::complex<double> turn = std::polar(1.0, -step_);
    for (std::size_t at = 0; at < n; at += kRenew) {
      std::complex<double> e =
          std::polar(1.0, -std::remainder(start_ + step_ * static_cast<double>(at + 1), kTwoPi));
      for (std::size_t i = at; i < std::min(n, at + kRenew); ++i) {
        const double re = x[i].real();
        const double im = x[i].imag();
        real_[i] = static_cast<float>(re * e.real() - im * e.imag());
        imaginary_[i] = static_cast<float>(re * e.imag() + im * e.real());
        e = {e.real() * turn.real() - e.imag() * turn.imag(),
             e.real() * turn.imag() + e.imag() * turn.real()};
      }
    }
    for (std::size_t i = 0; i < n; ++i) {
      const float re = real_[i];
      const float im = imaginary_[i];
      magnitude_[i] = std::sqrt(re * re + im * im);
      residual_[i] = small_atan(im / (re + 1e-30F));
    }
    for (std::size_t i = 0; i < n; ++i)
      if (!(std::abs(imaginary_[i]) < 0.3F * real_[i]))
        residual_[i] = std::atan2(imaginary_[i], real_[i]);
  }

  /// Turned so that its first samples lie near 0.
  void begin() {
    std::complex<double> sum = 0.0;
    const std::size_t some = std::min<std::size_t>(16, real_.size());
    for (std::size_t i = 0; i < some; ++i) sum += std::complex<double>(real_[i], imaginary_[i]);
    start_ = std::remainder(start_ + std::arg(sum), kTwoPi);
  }

  double rate_;
  double middle_;  ///< rad a sample, what steps are told from
  double step_;    ///< by which this block is turned back
  double amplitude_;
  double most_off_;
  double start_ = 0.0;  ///< phase of the sample before the block
  bool has_phase_ = false;
  double sum_ = 0.0;
  double used_ = 0.0;
  std::vector<float> real_;
  std::vector<float> imaginary_;
  std::vector<float> residual_;
  std::vector<float> magnitude_;
};

}  // namespace

FoundCarrier find_carrier(const CaptureOpener& open, const std::stop_token& stop) {
  const auto reader = open();
  const CaptureInfo& info = reader->info();
  std::size_t size = kSpot;
  while (size > 256 && info.frames < static_cast<std::int64_t>(size)) size /= 2;
  if (info.frames < static_cast<std::int64_t>(size))
    throw InputError(info.name, "", "it is only " + std::to_string(info.frames) + " samples long",
                     "Record at least a second");
  const std::vector<float> window = make_window(WindowKind::blackman_harris_4, size);
  double gain = 0.0;
  for (const float w : window) gain += w;
  Fft fft(size, true, PlanEffort::quick);
  const std::int64_t last = info.frames - static_cast<std::int64_t>(size);
  const std::int64_t spots = std::min<std::int64_t>(kSpots, last + 1);
  std::vector<double> mean(size, 0.0);
  std::vector<std::vector<double>> all;
  std::vector<float> block(2 * size);
  for (std::int64_t s = 0; s < spots; ++s) {
    if (stop.stop_requested()) throw Cancelled();
    reader->seek(spots > 1 ? last * s / (spots - 1) : 0);
    reader->read(block);
    const auto input = fft.input();
    for (std::size_t i = 0; i < size; ++i) {
      input[2 * i] = block[2 * i] * window[i];
      input[2 * i + 1] = block[2 * i + 1] * window[i];
    }
    fft.run();
    std::vector<double> power(size);
    for (std::size_t k = 0; k < size; ++k)
      power[k] = static_cast<double>(std::norm(fft.output()[k])) / (gain * gain);
    for (std::size_t k = 0; k < size; ++k) mean[k] += power[k] / static_cast<double>(spots);
    all.push_back(std::move(power));
  }
  const double bin_hz = info.sample_rate_hz / static_cast<double>(size);
  const auto frequency = [&](const std::vector<double>& power, std::size_t peak) {
    const double bin = static_cast<double>(peak) + between_bins(power, peak);
    return (bin > static_cast<double>(size) / 2.0 ? bin - static_cast<double>(size) : bin) * bin_hz;
  };
  const auto highest = [](const std::vector<double>& power) {
    return static_cast<std::size_t>(std::max_element(power.begin(), power.end()) - power.begin());
  };
  std::vector<double> hz;
  std::vector<double> amplitude;
  for (const auto& power : all) {
    const std::size_t peak = highest(power);
    hz.push_back(frequency(power, peak));
    // The whole lobe, so that it does not matter where between bins it stands, or how it drifts.
    double lobe = 0.0;
    for (std::size_t i = 0; i < 9; ++i) lobe += power[(peak + size + i - 4) % size];
    amplitude.push_back(std::sqrt(lobe / enbw_bins(WindowKind::blackman_harris_4)));
  }
  FoundCarrier c;
  std::vector<double> sorted = mean;
  const double middle = std::max(median_of(sorted), 1e-30);
  c.over_noise_db = db_from_power_ratio(mean[highest(mean)] / middle);
  if (!(c.over_noise_db > kCarrierOverDb))
    throw InputError(info.name, "", "no carrier stands out of the noise",
                     "Record the carrier near the middle of the span, without modulation");
  std::vector<double> copy = hz;
  c.frequency_hz = median_of(copy);
  c.amplitude = median_of(amplitude);
  std::vector<double> off;
  for (const double f : hz) off.push_back(std::abs(f - c.frequency_hz));
  c.wander_hz = median_of(off);
  return c;
}

PhaseStream follow_phase(const CaptureOpener& open, const FoundCarrier& carrier,
                         const std::function<void(std::span<const Sample>)>& take,
                         const std::function<void(std::int64_t)>& gap, const Progress& progress,
                         const std::stop_token& stop) {
  const auto reader = open();
  const double rate = reader->info().sample_rate_hz;
  Follower follower(carrier, rate);
  PhaseStream stream;
  std::vector<float> block(2 * kStreamBlock);
  std::vector<Sample> steps;
  for (std::int64_t blocks = 0;; ++blocks) {
    const std::size_t got = reader->read(block);
    if (got == 0) break;
    if (stop.stop_requested()) throw Cancelled();
    const bool is_followed =
        follower.follow({reinterpret_cast<const Sample*>(block.data()), got}, steps);
    if (is_followed) {
      take(steps);
    } else {
      if (stream.lost == 0) stream.first_lost_s = static_cast<double>(stream.frames) / rate;
      stream.lost += static_cast<std::int64_t>(got);
      gap(static_cast<std::int64_t>(got));
    }
    stream.frames += static_cast<std::int64_t>(got);
    if (progress && blocks % 256 == 0)
      progress(static_cast<double>(stream.frames) /
               static_cast<double>(std::max<std::int64_t>(1, reader->info().frames)));
    if (got < kStreamBlock) break;
  }
  stream.mean_hz = follower.mean_hz();
  return stream;
}

}  // namespace heron
