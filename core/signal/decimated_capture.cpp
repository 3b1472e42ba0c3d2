#include "core/signal/decimated_capture.h"

#include <algorithm>
#include <cmath>

#include "core/signal/half_band.h"

namespace heron {
namespace {

constexpr std::size_t kBlockFrames = 32768;

class DecimatedReader : public CaptureReader {
 public:
  DecimatedReader(std::unique_ptr<CaptureReader> whole, int halvings)
      : whole_(std::move(whole)), halvings_(halvings), block_(2 * kBlockFrames) {
    info_ = whole_->info();
    const double ratio = std::ldexp(1.0, halvings);
    info_.sample_rate_hz /= ratio;
    info_.frames >>= halvings;
    info_.is_float = true;
    info_.bits = 32;
    std::int64_t reach = 0;
    for (int i = 0; i < halvings; ++i) {
      // Each stage only has to keep what the last one lets through.
      stages_.emplace_back(kDecimatedBand * std::ldexp(1.0, i + 1 - halvings));
      reach += static_cast<std::int64_t>(stages_.back().reach()) << i;
    }
    // Whole frames of the output, so that a seek lands on the same grid.
    const std::int64_t grid = std::int64_t{1} << halvings;
    warm_up_ = (reach + grid - 1) / grid * grid;
    between_.resize(static_cast<std::size_t>(halvings));
    seek(0);
  }

  void seek(std::int64_t frame) override {
    const std::int64_t wanted = frame << halvings_;
    const std::int64_t from = std::max<std::int64_t>(0, wanted - warm_up_);
    for (HalfBand& stage : stages_) stage.reset();
    ready_.clear();
    used_ = 0;
    skip_ = static_cast<std::size_t>((wanted - from) >> halvings_);
    left_ = info_.frames - frame;
    whole_->seek(from);
  }

  std::size_t read(std::span<float> out) override {
    std::size_t done = 0;
    const auto wanted = static_cast<std::size_t>(
        std::min<std::int64_t>(static_cast<std::int64_t>(out.size() / 2), left_));
    auto* frames = reinterpret_cast<std::complex<float>*>(out.data());
    while (done < wanted) {
      if (used_ == ready_.size()) fill();
      const std::size_t take = std::min(wanted - done, ready_.size() - used_);
      std::copy_n(ready_.begin() + static_cast<std::ptrdiff_t>(used_), take, frames + done);
      used_ += take;
      done += take;
    }
    left_ -= static_cast<std::int64_t>(done);
    return done;
  }

 private:
  /// More outputs; behind its end the recording is taken as zero.
  void fill() {
    ready_.clear();
    used_ = 0;
    while (ready_.empty()) {
      std::size_t got = whole_->read(block_);
      if (got == 0) {
        got = kBlockFrames;
        std::fill(block_.begin(), block_.end(), 0.0F);
      }
      std::span<const std::complex<float>> in(
          reinterpret_cast<const std::complex<float>*>(block_.data()), got);
      for (std::size_t i = 0; i < stages_.size(); ++i) {
        std::vector<std::complex<float>>& to = i + 1 == stages_.size() ? ready_ : between_[i];
        to.clear();
        stages_[i].push(in, to);
        in = to;
      }
      const std::size_t drop = std::min(skip_, ready_.size());
      skip_ -= drop;
      used_ = drop;
      if (used_ == ready_.size()) {
        ready_.clear();
        used_ = 0;
      }
    }
  }

  std::unique_ptr<CaptureReader> whole_;
  int halvings_;
  std::vector<HalfBand> stages_;
  std::vector<std::vector<std::complex<float>>> between_;
  std::vector<std::complex<float>> ready_;
  std::vector<float> block_;
  std::int64_t warm_up_ = 0;
  std::int64_t left_ = 0;
  std::size_t skip_ = 0;
  std::size_t used_ = 0;
};

}  // namespace

CaptureOpener decimated_capture(CaptureOpener open, int halvings) {
  return [open = std::move(open), halvings]() -> std::unique_ptr<CaptureReader> {
    if (halvings == 0) return open();
    return std::make_unique<DecimatedReader>(open(), halvings);
  };
}

}  // namespace heron
