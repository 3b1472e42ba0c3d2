#include "core/signal/live_spectrum.h"

#include <algorithm>
#include <cmath>

#include "core/signal/window.h"

namespace heron {
namespace {

constexpr WindowKind kLiveWindow = WindowKind::blackman_harris_4;
constexpr float kFullScale = 0.999F;

}  // namespace

LiveSpectrum::LiveSpectrum(std::size_t size)
    : size_(size),
      fft_(size, true, PlanEffort::quick),
      window_(make_window(kLiveWindow, size)),
      pending_(2 * size),
      average_(size),
      hold_(size) {
  double sum = 0.0;
  for (const float w : window_) sum += w;
  scale_ = static_cast<float>(1.0 / (sum * sum));
}

double LiveSpectrum::noise_bandwidth_bins() {
  return enbw_bins(kLiveWindow);
}

void LiveSpectrum::clear() {
  segments_ = 0;
  filled_ = 0;
  std::fill(average_.begin(), average_.end(), 0.0F);
  std::fill(hold_.begin(), hold_.end(), 0.0F);
}

void LiveSpectrum::clear_peak() {
  peak_ = 0.0F;
  is_over_ = false;
}

void LiveSpectrum::add(std::span<const float> iq) {
  for (std::size_t i = 0; i + 1 < iq.size(); i += 2) {
    peak_ = std::max(peak_, iq[i] * iq[i] + iq[i + 1] * iq[i + 1]);
    is_over_ = is_over_ || std::abs(iq[i]) >= kFullScale || std::abs(iq[i + 1]) >= kFullScale;
  }
  while (!iq.empty()) {
    const std::size_t n = std::min(pending_.size() - filled_, iq.size());
    std::copy_n(iq.begin(), n, pending_.begin() + static_cast<std::ptrdiff_t>(filled_));
    filled_ += n;
    iq = iq.subspan(n);
    if (filled_ < pending_.size()) return;
    take_segment();
    // The second half is the first of the next.
    std::copy(pending_.begin() + static_cast<std::ptrdiff_t>(size_), pending_.end(),
              pending_.begin());
    filled_ = size_;
  }
}

void LiveSpectrum::take_segment() {
  const std::span<float> in = fft_.input();
  for (std::size_t i = 0; i < size_; ++i) {
    in[2 * i] = pending_[2 * i] * window_[i];
    in[2 * i + 1] = pending_[2 * i + 1] * window_[i];
  }
  fft_.run();
  ++segments_;
  const float weight = 1.0F / static_cast<float>(std::min<std::size_t>(segments_, averages_));
  const std::span<const std::complex<float>> out = fft_.output();
  const std::size_t half = size_ / 2;
  for (std::size_t k = 0; k < size_; ++k) {
    const float p = std::norm(out[(k + half) % size_]) * scale_;
    average_[k] += weight * (p - average_[k]);
    hold_[k] = std::max(hold_[k], p);
  }
}

}  // namespace heron
