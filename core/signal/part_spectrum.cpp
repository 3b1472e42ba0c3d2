#include "core/signal/part_spectrum.h"

#include <algorithm>
#include <cmath>

#include "core/error.h"
#include "core/signal/fft.h"
#include "core/signal/window.h"

namespace heron {
namespace {

constexpr std::ptrdiff_t kCentreBins = 5;  // the window's lobe and one more

/// Runs windowed transforms at places of a recording, one after the other.
class Transformer {
 public:
  Transformer(const CaptureOpener& open, std::size_t size)
      : reader_(open()),
        window_(make_window(WindowKind::blackman_harris_4, size)),
        fft_(size, reader_->info().is_complex, PlanEffort::quick),
        block_(size * reader_->floats_per_frame()) {}

  /// nullopt-like: an empty span where the record ends first.
  std::span<const std::complex<float>> at(std::int64_t frame) {
    reader_->seek(frame);
    const std::size_t floats = reader_->floats_per_frame();
    if (reader_->read(block_) < window_.size()) return {};
    const auto in = fft_.input();
    for (std::size_t i = 0; i < block_.size(); ++i) in[i] = block_[i] * window_[i / floats];
    fft_.run();
    return fft_.output();
  }
  std::size_t bins() const { return fft_.output().size(); }
  bool is_complex() const { return reader_->info().is_complex; }

 private:
  std::unique_ptr<CaptureReader> reader_;
  std::vector<float> window_;
  Fft fft_;
  std::vector<float> block_;
};

/// Places of `count` transforms spread evenly over a part.
std::int64_t place(std::int64_t first, std::int64_t frames, std::size_t size, std::size_t count,
                   std::size_t i) {
  const std::int64_t room = frames - static_cast<std::int64_t>(size);
  if (count < 2) return first + room / 2;
  return first + room * static_cast<std::int64_t>(i) / static_cast<std::int64_t>(count - 1);
}

}  // namespace

std::size_t part_transform_size(const CaptureInfo& info, std::int64_t frames) {
  constexpr double kResolutionHz = 40.0;
  std::size_t size = 256;
  while (size < 65536 && static_cast<double>(size) * kResolutionHz < info.sample_rate_hz) size *= 2;
  while (size > 64 && static_cast<std::int64_t>(4 * size) > frames) size /= 2;
  return size;
}

PartSpectrum::PartSpectrum(const CaptureOpener& open, std::int64_t first, std::int64_t frames,
                           std::size_t transform_size, std::size_t most_transforms,
                           const std::stop_token& stop) {
  Transformer transformer(open, transform_size);
  is_complex_ = transformer.is_complex();
  power_.assign(transformer.bins(), 0.0);
  const std::size_t count = std::clamp<std::size_t>(
      2 * static_cast<std::size_t>(frames) / transform_size, 1, most_transforms);
  for (std::size_t i = 0; i < count; ++i) {
    if (stop.stop_requested()) throw Cancelled();
    const auto bins = transformer.at(place(first, frames, transform_size, count, i));
    for (std::size_t k = 0; k < bins.size(); ++k)
      power_[k] += std::norm(bins[k]) / static_cast<double>(count);
  }
  for (std::ptrdiff_t k = 0; k <= kCentreBins; ++k) {
    power_[static_cast<std::size_t>(k)] = 0.0;
    if (is_complex_ && k > 0) power_[power_.size() - static_cast<std::size_t>(k)] = 0.0;
  }
  floor_.resize(power_.size());
  constexpr std::ptrdiff_t kHalf = 24;
  const auto n = static_cast<std::ptrdiff_t>(power_.size());
  std::vector<double> near;
  for (std::ptrdiff_t at = 0; at < n; at += kHalf / 2) {
    near.clear();
    for (std::ptrdiff_t k = at - kHalf; k <= at + kHalf; ++k) {
      const std::ptrdiff_t bin = is_complex_ ? (k + n) % n : k;
      if (bin >= 0 && bin < n && power_[static_cast<std::size_t>(bin)] > 0.0)
        near.push_back(power_[static_cast<std::size_t>(bin)]);
    }
    // Below the middle: two tones close together fill a good part of what is near.
    double floor = 0.0;
    if (!near.empty()) {
      const auto low = near.begin() + static_cast<std::ptrdiff_t>(near.size() * 2 / 5);
      std::nth_element(near.begin(), low, near.end());
      floor = *low;
    }
    for (std::ptrdiff_t k = at; k < std::min(n, at + kHalf / 2); ++k)
      floor_[static_cast<std::size_t>(k)] = floor;
  }
}

double PartSpectrum::surroundings(std::size_t bin) const {
  return std::max(floor_[bin], 1e-30);
}

std::vector<std::size_t> PartSpectrum::lines() const {
  double strongest = 0.0;
  for (std::size_t k = 0; k < power_.size(); ++k) {
    if (power_[k] > 10.0 * surroundings(k)) strongest = std::max(strongest, power_[k]);
  }
  std::vector<std::size_t> bins;
  for (std::size_t k = 0; k < power_.size(); ++k) {
    if (power_[k] > 10.0 * surroundings(k) && power_[k] > 0.01 * strongest) bins.push_back(k);
  }
  return bins;
}

double PartSpectrum::power_in(const std::vector<std::size_t>& bins) const {
  double sum = 0.0;
  for (const std::size_t k : bins) sum += power_[k];
  return sum;
}

double PartSpectrum::share_of(const std::vector<std::size_t>& bins) const {
  double all = 0.0;
  for (const double p : power_) all += p;
  return all > 0.0 ? power_in(bins) / all : 0.0;
}

double PartSpectrum::contrast_of(const std::vector<std::size_t>& bins) const {
  double around = 0.0;
  for (const std::size_t k : bins) around += surroundings(k);
  return around > 0.0 ? power_in(bins) / around : 0.0;
}

std::vector<double> power_in_bins(const CaptureOpener& open, std::int64_t first,
                                  std::int64_t frames, std::size_t transform_size,
                                  const std::vector<std::size_t>& bins, std::size_t slices,
                                  const std::stop_token& stop) {
  constexpr std::size_t kEach = 4;
  Transformer transformer(open, transform_size);
  std::vector<double> out(slices, 0.0);
  const std::size_t count = slices * kEach;
  for (std::size_t i = 0; i < count; ++i) {
    if (stop.stop_requested()) throw Cancelled();
    const auto spectrum = transformer.at(place(first, frames, transform_size, count, i));
    if (spectrum.empty()) continue;
    for (const std::size_t k : bins) out[i / kEach] += std::norm(spectrum[k]);
  }
  return out;
}

}  // namespace heron
