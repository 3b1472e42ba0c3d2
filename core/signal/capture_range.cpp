#include "core/signal/capture_range.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"

namespace heron {
namespace {

class RangeReader : public CaptureReader {
 public:
  RangeReader(std::unique_ptr<CaptureReader> whole, double start_s, double length_s)
      : whole_(std::move(whole)) {
    info_ = whole_->info();
    const double total_s = info_.duration_s();
    if (!(start_s >= 0.0) || start_s >= total_s) {
      throw InputError(info_.name, fmt::format("start {:g} s", start_s),
                       fmt::format("the recording is {:.3g} s long", total_s),
                       "Choose an earlier start");
    }
    first_ = static_cast<std::int64_t>(std::llround(start_s * info_.sample_rate_hz));
    const std::int64_t left = info_.frames - first_;
    info_.frames =
        length_s > 0.0 && length_s < total_s
            ? std::min(left,
                       static_cast<std::int64_t>(std::llround(length_s * info_.sample_rate_hz)))
            : left;
    if (info_.frames < 1) {
      throw InputError(info_.name, fmt::format("length {:g} s", length_s),
                       "no sample is in this part", "Choose a longer part");
    }
    whole_->seek(first_);
  }
  void seek(std::int64_t frame) override {
    position_ = frame;
    whole_->seek(first_ + frame);
  }
  std::size_t read(std::span<float> out) override {
    const auto left = static_cast<std::size_t>(std::max<std::int64_t>(0, info_.frames - position_));
    const std::size_t frames = std::min(out.size() / floats_per_frame(), left);
    const std::size_t got = whole_->read(out.first(frames * floats_per_frame()));
    position_ += static_cast<std::int64_t>(got);
    return got;
  }

 private:
  std::unique_ptr<CaptureReader> whole_;
  std::int64_t first_ = 0;
  std::int64_t position_ = 0;
};

}  // namespace

CaptureOpener capture_range(CaptureOpener open, double start_s, double length_s) {
  return [open = std::move(open), start_s, length_s] {
    return std::make_unique<RangeReader>(open(), start_s, length_s);
  };
}

}  // namespace heron
