#include "core/method/touch/touch_capture.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numeric>

#include "core/error.h"
#include "core/method/measure/carrier_capture.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/signal/averaging.h"
#include "core/signal/fft.h"
#include "core/signal/window.h"

namespace heron {
namespace {

constexpr double kSegmentS = 0.25;
constexpr double kLeastRecordS = 2.0;
constexpr double kMostTouchFrames = 2400.0;
constexpr double kNearHz = 2400.0;
constexpr double kFarHz = 24e3;
constexpr int kFarBins = 10;  ///< of the near ones in one of the far ones
constexpr double kMostLostShare = 0.2;

/// Next size that transforms fast.
std::size_t smooth_size(double wanted) {
  auto n = static_cast<std::size_t>(std::max(16.0, std::round(wanted)));
  const auto is_smooth = [](std::size_t k) {
    for (const std::size_t f : {2U, 3U, 5U, 7U})
      while (k % f == 0) k /= f;
    return k == 1;
  };
  while (n % 2 != 0 || !is_smooth(n)) ++n;
  return n;
}

/// Gathers what follows the carrier into segments, and their spectra into frames.
class Gatherer {
 public:
  Gatherer(double rate_hz, std::int64_t samples, double top_hz)
      : size_(smooth_size(kSegmentS * rate_hz)),
        hop_(size_ / 2),
        window_(make_window(WindowKind::hann, size_)),
        fft_(size_, true, PlanEffort::quick) {
    const double segments =
        std::max(0.0, std::floor(static_cast<double>(samples - static_cast<std::int64_t>(size_)) /
                                 static_cast<double>(hop_)) +
                          1.0);
    per_frame_ =
        2 * static_cast<std::size_t>(std::max(1.0, std::ceil(segments / 2.0 / kMostTouchFrames)));
    frames_ = static_cast<std::size_t>(segments) / per_frame_;
    const double bin = rate_hz / static_cast<double>(size_);
    bin_hz_ = bin;
    side_ = static_cast<int>(std::min(kFarHz, top_hz) / bin);
    for (const float w : window_) {
      sum_ += w;
      squares_ += static_cast<double>(w) * w;
    }
    near_side_ = std::min(side_, static_cast<int>(kNearHz / bin));
    if (side_ > 2 * near_side_) far_side_ = (side_ - kFarBins / 2) / kFarBins;
    steps_.resize(size_);
    clear_frame();
  }
  std::size_t frames() const { return frames_; }

  void push(std::span<const std::complex<float>> x) {
    for (const std::complex<float>& s : x) {
      steps_[filled_++] = s;
      if (filled_ < size_) continue;
      take_segment(true);
      std::copy(steps_.begin() + static_cast<std::ptrdiff_t>(hop_), steps_.end(), steps_.begin());
      filled_ = size_ - hop_;
    }
  }

  /// So many samples are missing: the segments that need them are not known.
  void skip(std::int64_t lost) {
    for (std::int64_t i = 0; i < lost; ++i) {
      is_broken_until_ = std::max(is_broken_until_, filled_ + 1);
      steps_[filled_++] = {};
      if (filled_ < size_) continue;
      take_segment(false);
      filled_ = size_ - hop_;
      is_broken_until_ = filled_;
    }
  }

  void finish(TouchRecord& r, double rate_hz) {
    r.frames = std::min(frames_, near_.size() / (2 * static_cast<std::size_t>(near_side_) + 1));
    const double hop_s = static_cast<double>(hop_) / rate_hz;
    r.frame_s = hop_s * static_cast<double>(per_frame_);
    r.first_s =
        (static_cast<double>(size_) / rate_hz + hop_s * static_cast<double>(per_frame_ - 1)) / 2.0;
    r.spectra = averaging_statistics(window_, hop_, per_frame_).k_eff;
    const double enbw = enbw_bins(WindowKind::hann);
    r.near = {bin_hz_, enbw * bin_hz_, near_side_, std::move(near_)};
    if (far_side_ > 0) r.far = {bin_hz_ * kFarBins, bin_hz_ * kFarBins, far_side_, std::move(far_)};
  }

 private:
  void clear_frame() {
    power_.assign(2 * static_cast<std::size_t>(side_) + 1, 0.0);
    in_frame_ = 0;
    known_ = 0;
  }

  void take_segment(bool is_known) {
    if (done_ == frames_) return;
    if (is_known && is_broken_until_ == 0) {
      transform();
      ++known_;
    }
    // What was lost leaves the segment with its older half.
    is_broken_until_ = is_broken_until_ > hop_ ? is_broken_until_ - hop_ : 0;
    if (++in_frame_ < per_frame_) return;
    keep_frame();
    ++done_;
    clear_frame();
  }

  /// Turned back by its own mean frequency, so that drift smears nothing.
  void transform() {
    double mean = 0.0;
    double total = 0.0;
    for (std::size_t i = 0; i < size_; ++i) {
      const double w = window_[i];
      mean += w * static_cast<double>(steps_[i].real());
      const double a = 1.0 + static_cast<double>(steps_[i].imag());
      total += w * w * a * a;
    }
    mean /= sum_;
    const auto input = fft_.input();
    double phase = 0.0;
    for (std::size_t i = 0; i < size_; ++i) {
      phase += static_cast<double>(steps_[i].real()) - mean;
      const auto a =
          static_cast<double>(window_[i]) * (1.0 + static_cast<double>(steps_[i].imag()));
      input[2 * i] = static_cast<float>(a * std::cos(phase));
      input[2 * i + 1] = static_cast<float>(a * std::sin(phase));
    }
    fft_.run();
    // All of it is the carrier as it would stand without what modulates it.
    const double scale = squares_ / total / (static_cast<double>(size_) * squares_);
    const auto out = fft_.output();
    // From the lowest offset up; negative ones stand at the end of a transform.
    const std::size_t first = size_ - static_cast<std::size_t>(side_);
    for (std::size_t i = 0; i < power_.size(); ++i)
      power_[i] += scale * static_cast<double>(std::norm(out[(first + i) % size_]));
  }

  void keep_frame() {
    const auto level = [&](double power, double times) {
      return known_ == 0 ? std::numeric_limits<float>::quiet_NaN()
                         : static_cast<float>(db_from_power_ratio(
                               std::max(1e-20, times * power / static_cast<double>(known_))));
    };
    const double enbw = enbw_bins(WindowKind::hann);
    const auto carrier = power_.begin() + side_;
    for (auto at = carrier - near_side_; at <= carrier + near_side_; ++at)
      near_.push_back(level(*at, enbw));
    for (int b = -far_side_; far_side_ > 0 && b <= far_side_; ++b) {
      const auto from = carrier + (b * kFarBins - kFarBins / 2);
      far_.push_back(level(std::accumulate(from, from + kFarBins, 0.0), 1.0));
    }
  }

  std::size_t size_;
  std::size_t hop_;
  std::vector<float> window_;
  Fft fft_;
  double sum_ = 0.0;
  double squares_ = 0.0;
  double bin_hz_ = 0.0;
  int side_ = 0;
  int near_side_ = 0;
  int far_side_ = 0;
  std::size_t per_frame_ = 2;
  std::size_t frames_ = 0;
  std::vector<std::complex<float>> steps_;
  std::size_t filled_ = 0;
  std::size_t is_broken_until_ = 0;  ///< samples from the start of the segment
  std::vector<double> power_;
  std::size_t in_frame_ = 0;
  std::size_t known_ = 0;
  std::size_t done_ = 0;
  std::vector<float> near_;
  std::vector<float> far_;
};

}  // namespace

TouchRecord touch_of_capture(const CaptureOpener& open, const Progress& progress,
                             const std::stop_token& stop) {
  const CaptureInfo info = open()->info();
  if (info.duration_s() < kLeastRecordS)
    throw InputError(info.name, "",
                     fmt::format("it is only {} s long", number_text(info.duration_s(), 1)),
                     "Record a minute, and touch one thing after the other");
  const CarrierCapture p = carrier_capture(open, stop);
  const CaptureInfo used = p.open()->info();
  Gatherer all(used.sample_rate_hz, used.frames, p.top_hz);
  const PhaseStream stream = follow_phase(
      p.open, p.carrier, [&](std::span<const std::complex<float>> x) { all.push(x); },
      [&](std::int64_t lost) { all.skip(lost); }, progress, stop);
  const double lost = static_cast<double>(stream.lost) /
                      static_cast<double>(std::max<std::int64_t>(1, stream.frames));
  if (lost > kMostLostShare || all.frames() == 0)
    throw InputError(info.name, "",
                     fmt::format("its carrier is lost in {} % of it, first at {} s",
                                 number_text(100.0 * lost, 0), number_text(stream.first_lost_s, 2)),
                     "Record it again with a steady carrier");
  TouchRecord r;
  r.name = info.name;
  r.length_s = info.duration_s();
  all.finish(r, used.sample_rate_hz);
  if (info.center_hz) r.rf_hz = *info.center_hz + p.frequency_hz;
  r.level_dbfs = db_from_power_ratio(p.carrier.amplitude * p.carrier.amplitude);
  if (stream.lost > 0)
    r.remarks.push_back(
        {"carrier_lost", Severity::caution,
         fmt::format("The carrier is lost in {} % of the recording, first at {} s: "
                     "that is left out.",
                     number_text(100.0 * lost, 1), number_text(stream.first_lost_s, 2)),
         "Look whether what was touched there unlocks the loop"});
  return r;
}

}  // namespace heron
