#include "core/signal/shifted_capture.h"

#include <cmath>
#include <complex>
#include <numbers>

namespace heron {
namespace {

class ShiftedReader : public CaptureReader {
 public:
  ShiftedReader(std::unique_ptr<CaptureReader> whole, double hz)
      : whole_(std::move(whole)), cycles_per_frame_(hz / whole_->info().sample_rate_hz) {
    info_ = whole_->info();
    info_.is_complex = true;
    info_.is_float = true;
    info_.bits = 32;
  }
  void seek(std::int64_t frame) override {
    whole_->seek(frame);
    position_ = frame;
  }
  std::size_t read(std::span<float> out) override {
    const bool was_complex = whole_->info().is_complex;
    raw_.resize(out.size() / 2 * (was_complex ? 2 : 1));
    const std::size_t got = whole_->read(raw_);
    auto* y = reinterpret_cast<std::complex<float>*>(out.data());
    const std::complex<double> step = turned(1);
    std::complex<double> e;
    for (std::size_t i = 0; i < got; ++i) {
      // The recurrence is renewed often enough to stay exact.
      if (i % 256 == 0) e = turned(position_ + static_cast<std::int64_t>(i));
      y[i] =
          std::complex<float>(e * (was_complex ? std::complex<double>(raw_[2 * i], raw_[2 * i + 1])
                                               : std::complex<double>(2.0 * raw_[i], 0.0)));
      e *= step;
    }
    position_ += static_cast<std::int64_t>(got);
    return got;
  }

 private:
  std::complex<double> turned(std::int64_t frame) const {
    const double cycles = cycles_per_frame_ * static_cast<double>(frame);
    return std::polar(1.0, -2.0 * std::numbers::pi * (cycles - std::round(cycles)));
  }
  std::unique_ptr<CaptureReader> whole_;
  double cycles_per_frame_;
  std::vector<float> raw_;
  std::int64_t position_ = 0;
};

}  // namespace

CaptureOpener shifted_capture(CaptureOpener open, double hz) {
  return [open = std::move(open), hz] { return std::make_unique<ShiftedReader>(open(), hz); };
}

}  // namespace heron
