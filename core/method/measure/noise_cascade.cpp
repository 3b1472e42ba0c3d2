#include "core/method/measure/noise_cascade.h"

#include <algorithm>
#include <cmath>

#include "core/error.h"
#include "core/signal/fft.h"
#include "core/signal/half_band.h"
#include "core/signal/window.h"

namespace heron {
namespace {

constexpr std::size_t kSegment = 2048;
constexpr std::size_t kLeastSegment = 256;
constexpr double kLeastSegments = 6.0;  ///< without overlap, at the lowest rate
constexpr double kPassband = 0.3;       ///< of a rate that was halved
constexpr double kTopShare = 0.45;      ///< of the first one
constexpr double kLowestBin = 8.5;      ///< below it a falling spectrum would be bent
constexpr double kManySegments = 3000;  ///< no overlap is needed then
constexpr std::size_t kBlock = 4096;    ///< fits the nearest cache

}  // namespace

class NoiseCascade::Stage {
 public:
  Stage(double rate_hz, std::size_t segment, std::size_t hop, bool is_last)
      : rate_hz_(rate_hz),
        hop_(hop),
        window_(make_window(WindowKind::blackman_harris_4, segment)),
        fft_(segment, true, PlanEffort::quick),
        real_(segment / 2 + 1, 0.0),
        imaginary_(segment / 2 + 1, 0.0) {
    if (!is_last) half_ = std::make_unique<HalfBand>(kPassband);
  }

  /// `next`: the same at half the rate, if there is one.
  void push(std::span<const std::complex<float>> in, std::vector<std::complex<float>>& next) {
    kept_.insert(kept_.end(), in.begin(), in.end());
    std::size_t at = 0;
    for (; at + window_.size() <= kept_.size(); at += hop_) take(kept_.data() + at);
    kept_.erase(kept_.begin(), kept_.begin() + static_cast<std::ptrdiff_t>(at));
    if (half_) half_->push(in, next);
  }

  void gap() {
    kept_.clear();
    if (half_) half_->reset();
  }

  StageSpectrum spectrum() const {
    StageSpectrum s;
    s.rate_hz = rate_hz_;
    s.segment = window_.size();
    s.averages = count_;
    double energy = 0.0;
    for (const float w : window_) energy += static_cast<double>(w) * w;
    const double scale = 2.0 / (rate_hz_ * energy * std::max(1.0, static_cast<double>(count_)));
    for (const double p : real_) s.real.push_back(p * scale);
    for (const double p : imaginary_) s.imaginary.push_back(p * scale);
    if (count_ > 0) s.statistics = averaging_statistics(window_, hop_, count_);
    return s;
  }

  double rate_hz() const { return rate_hz_; }
  bool is_last() const { return half_ == nullptr; }

 private:
  void take(const std::complex<float>* x) {
    const std::size_t n = window_.size();
    std::complex<double> mean = 0.0;
    for (std::size_t i = 0; i < n; ++i) mean += std::complex<double>(x[i]);
    const std::complex<float> middle(mean / static_cast<double>(n));
    auto* in = reinterpret_cast<std::complex<float>*>(fft_.input().data());
    for (std::size_t i = 0; i < n; ++i) in[i] = (x[i] - middle) * window_[i];
    fft_.run();
    const auto z = fft_.output();
    // Of two real streams in one: even and odd parts of its spectrum.
    for (std::size_t k = 0; k <= n / 2; ++k) {
      const std::complex<float> a = z[k];
      const std::complex<float> b = std::conj(z[k == 0 ? 0 : n - k]);
      real_[k] += 0.25 * static_cast<double>(std::norm(a + b));
      imaginary_[k] += 0.25 * static_cast<double>(std::norm(a - b));
    }
    ++count_;
  }

  double rate_hz_;
  std::size_t hop_;
  std::vector<float> window_;
  Fft fft_;
  std::unique_ptr<HalfBand> half_;
  std::vector<std::complex<float>> kept_;
  std::vector<double> real_;
  std::vector<double> imaginary_;
  std::size_t count_ = 0;
};

NoiseCascade::NoiseCascade(double rate_hz, std::int64_t samples, double top_hz) {
  if (samples < kLeastSamples)
    throw InputError("recording", "", "it is only " + std::to_string(samples) + " samples long",
                     "Record at least a second");
  std::size_t segment = kSegment;
  while (segment > kLeastSegment &&
         static_cast<double>(samples) < kLeastSegments * static_cast<double>(segment))
    segment /= 2;
  const auto length = static_cast<double>(segment);
  double here = static_cast<double>(samples);
  for (double rate = rate_hz;; rate /= 2.0, here /= 2.0) {
    const bool is_last = here / 2.0 < kLeastSegments * length;
    const bool is_long = here / length > kManySegments;
    stages_.push_back(
        std::make_unique<Stage>(rate, segment, is_long ? segment : segment / 4, is_last));
    if (is_last) break;
  }
  top_hz_ = std::min(top_hz, kTopShare * rate_hz);
}

NoiseCascade::~NoiseCascade() = default;

void NoiseCascade::push(std::span<const std::complex<float>> samples) {
  for (std::size_t at = 0; at < samples.size(); at += kBlock) {
    std::span<const std::complex<float>> in =
        samples.subspan(at, std::min(kBlock, samples.size() - at));
    for (auto& stage : stages_) {
      to_.clear();
      stage->push(in, to_);
      if (stage->is_last() || to_.empty()) break;
      std::swap(from_, to_);
      in = from_;
    }
  }
}

void NoiseCascade::gap() {
  for (auto& stage : stages_) stage->gap();
}

std::vector<StageSpectrum> NoiseCascade::spectra() const {
  std::vector<StageSpectrum> all;
  for (std::size_t i = 0; i < stages_.size(); ++i) {
    StageSpectrum s = stages_[i]->spectrum();
    if (s.averages == 0) continue;
    const bool is_lowest = i + 1 == stages_.size();
    s.low_hz = is_lowest ? kLowestBin * s.bin_hz() : kPassband / 2.0 * s.rate_hz;
    s.high_hz = i == 0 ? top_hz_ : std::min(top_hz_, kPassband * s.rate_hz);
    all.push_back(std::move(s));
  }
  // After many gaps the lowest rates saw nothing: the one above looks as far down as it can.
  if (!all.empty()) all.back().low_hz = kLowestBin * all.back().bin_hz();
  std::erase_if(all, [](const StageSpectrum& s) { return s.high_hz <= s.low_hz; });
  return all;
}

}  // namespace heron
