#include "core/signal/memory_capture.h"

#include <algorithm>

namespace heron {
namespace {

using SharedSamples = std::shared_ptr<const std::vector<float>>;

class MemoryCapture : public CaptureReader {
 public:
  MemoryCapture(SharedSamples samples, CaptureInfo info) : samples_(std::move(samples)) {
    info_ = std::move(info);
  }
  void seek(std::int64_t frame) override { position_ = frame; }
  std::size_t read(std::span<float> out) override {
    const auto left = static_cast<std::size_t>(std::max<std::int64_t>(0, info_.frames - position_));
    const std::size_t frames = std::min(out.size() / floats_per_frame(), left);
    const auto begin =
        samples_->begin() + position_ * static_cast<std::int64_t>(floats_per_frame());
    std::copy_n(begin, frames * floats_per_frame(), out.begin());
    refuse_non_finite(out.first(frames * floats_per_frame()), position_);
    position_ += static_cast<std::int64_t>(frames);
    return frames;
  }

 private:
  SharedSamples samples_;
  std::int64_t position_ = 0;
};

CaptureOpener opener(std::vector<float> samples, double rate, CaptureInfo info, bool is_complex) {
  info.sample_rate_hz = rate;
  info.is_complex = is_complex;
  info.frames = static_cast<std::int64_t>(samples.size() / (is_complex ? 2 : 1));
  auto shared = std::make_shared<const std::vector<float>>(std::move(samples));
  return [shared, info] { return std::make_unique<MemoryCapture>(shared, info); };
}

CaptureInfo generated(std::string name, const char* format) {
  CaptureInfo info;
  info.name = std::move(name);
  info.format = format;
  info.is_float = true;
  info.bits = 32;
  return info;
}

}  // namespace

CaptureOpener memory_capture(std::vector<std::complex<float>> samples, double sample_rate_hz,
                             CaptureInfo about) {
  const auto* floats = reinterpret_cast<const float*>(samples.data());
  return opener({floats, floats + 2 * samples.size()}, sample_rate_hz, std::move(about), true);
}

CaptureOpener memory_capture(std::vector<std::complex<float>> samples, double sample_rate_hz,
                             std::string name) {
  return memory_capture(std::move(samples), sample_rate_hz,
                        generated(std::move(name), "generated, I and Q"));
}

CaptureOpener memory_capture(std::vector<float> samples, double sample_rate_hz, std::string name) {
  return opener(std::move(samples), sample_rate_hz, generated(std::move(name), "generated, audio"),
                false);
}

}  // namespace heron
