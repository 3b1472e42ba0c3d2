#include "core/signal/welch.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <mutex>

#include "core/error.h"
#include "core/signal/on_threads.h"

namespace heron {
namespace {

/// Sums over the segments of one slice, in the transform's own bin order.
struct Accumulation {
  std::vector<float> power;
  std::vector<float> held;
  std::vector<float> logs;
};

void multiply_by_window(const float* in, const float* window, float* out, std::size_t n,
                        bool is_complex) {
  if (!is_complex) {
    for (std::size_t i = 0; i < n; ++i) out[i] = in[i] * window[i];
    return;
  }
  for (std::size_t i = 0; i < n; ++i) {
    out[2 * i] = in[2 * i] * window[i];
    out[2 * i + 1] = in[2 * i + 1] * window[i];
  }
}

void add_power(const std::complex<float>* bins, float* power, std::size_t n) {
  const float* v = reinterpret_cast<const float*>(bins);
  for (std::size_t k = 0; k < n; ++k) power[k] += v[2 * k] * v[2 * k] + v[2 * k + 1] * v[2 * k + 1];
}

std::size_t hop_of(const WelchSettings& settings) {
  return settings.is_sparse ? 2 * settings.segment
                            : settings.segment / static_cast<std::size_t>(settings.overlap_parts);
}

/// One thread's reader, transform and buffers.
class SliceWorker {
 public:
  SliceWorker(const CaptureOpener& open, const WelchSettings& settings,
              const std::vector<float>& window)
      : reader_(open()),
        settings_(settings),
        window_(window),
        fft_(settings.segment, reader_->info().is_complex, settings.effort),
        buffer_(settings.segment * reader_->floats_per_frame()) {}

  /// Segments first .. first + count - 1; `step` is told after each and may throw Cancelled.
  template <class Step>
  Accumulation run(std::size_t first, std::size_t count, const Step& step) {
    const std::size_t bins = fft_.output().size();
    const std::size_t floats = reader_->floats_per_frame();
    const std::size_t hop = hop_of(settings_);
    Accumulation sums;
    sums.power.assign(bins, 0.0F);
    if (settings_.max_hold) sums.held.assign(bins, 0.0F);
    if (settings_.log_average) sums.logs.assign(bins, 0.0F);
    reader_->seek(static_cast<std::int64_t>(first * hop));
    read_exactly(buffer_);
    for (std::size_t s = 0; s < count; ++s) {
      if (s > 0 && settings_.is_sparse) {
        reader_->seek(static_cast<std::int64_t>((first + s) * hop));
        read_exactly(buffer_);
      } else if (s > 0) {
        const std::size_t keep = (settings_.segment - hop) * floats;
        std::memmove(buffer_.data(), buffer_.data() + hop * floats, keep * sizeof(float));
        read_exactly(std::span<float>(buffer_).subspan(keep));
      }
      transform(sums);
      step();
    }
    return sums;
  }

 private:
  void read_exactly(std::span<float> out) {
    const std::size_t frames = reader_->read(out);
    if (frames * reader_->floats_per_frame() != out.size()) {
      throw InputError(reader_->info().name, "near its end",
                       "fewer samples came than the file promised",
                       "Copy the recording again from where it was made");
    }
  }

  void transform(Accumulation& sums) {
    multiply_by_window(buffer_.data(), window_.data(), fft_.input().data(), settings_.segment,
                       reader_->info().is_complex);
    fft_.run();
    const auto bins = fft_.output();
    add_power(bins.data(), sums.power.data(), bins.size());
    for (std::size_t k = 0; k < sums.held.size(); ++k)
      sums.held[k] = std::max(sums.held[k], std::norm(bins[k]));
    for (std::size_t k = 0; k < sums.logs.size(); ++k)
      sums.logs[k] += std::log(std::norm(bins[k]) + 1e-30F);
  }

  std::unique_ptr<CaptureReader> reader_;
  const WelchSettings& settings_;
  const std::vector<float>& window_;
  Fft fft_;
  std::vector<float> buffer_;
};

/// From transform order to frequency order, scaled.
void reorder(std::vector<float>& bins, bool is_complex, const std::function<float(float)>& scaled) {
  std::transform(bins.begin(), bins.end(), bins.begin(), scaled);
  if (is_complex)
    std::rotate(bins.begin(), bins.begin() + static_cast<std::ptrdiff_t>(bins.size() / 2),
                bins.end());
}

}  // namespace

double Spectrum::frequency_hz(std::size_t bin) const {
  const double start = is_complex ? -sample_rate_hz / 2.0 : 0.0;
  return start + static_cast<double>(bin) * bin_hz();
}

double Spectrum::position(double frequency) const {
  return (frequency + (is_complex ? sample_rate_hz / 2.0 : 0.0)) / bin_hz();
}

Spectrum welch_spectrum(const CaptureOpener& open, const WelchSettings& settings,
                        const Progress& progress, const std::stop_token& stop) {
  const CaptureInfo info = open()->info();
  const auto frames = static_cast<std::size_t>(info.frames);
  const std::size_t hop = hop_of(settings);
  if (frames < settings.segment) {
    throw InputError(
        info.name, "", fmt::format("{:.2g} s of signal are too short", info.duration_s()),
        fmt::format("Record at least {:.2g} s",
                    4.0 * static_cast<double>(settings.segment) / info.sample_rate_hz));
  }
  const std::size_t segments = (frames - settings.segment) / hop + 1;
  const std::size_t slices = std::clamp<std::size_t>(settings.slices, 1, segments);
  const auto slice_start = [&](std::size_t s) { return s * segments / slices; };

  const std::vector<float> window = make_window(settings.window, settings.segment);
  std::vector<Accumulation> sums(slices);
  std::atomic<std::size_t> next_slice{0};
  std::atomic<std::size_t> done{0};
  std::mutex mutex;
  on_threads(settings.threads, slices, [&](const std::stop_token& failed) {
    SliceWorker worker(open, settings, window);
    const auto step = [&] {
      if (stop.stop_requested() || failed.stop_requested()) throw Cancelled();
      const std::size_t finished = ++done;
      if (progress && finished % 16 == 0) {
        const std::scoped_lock lock(mutex);
        progress(static_cast<double>(finished) / static_cast<double>(segments));
      }
    };
    for (std::size_t s = next_slice++; s < slices; s = next_slice++)
      sums[s] = worker.run(slice_start(s), slice_start(s + 1) - slice_start(s), step);
  });

  Spectrum spectrum;
  spectrum.sample_rate_hz = info.sample_rate_hz;
  spectrum.is_complex = info.is_complex;
  spectrum.segment = settings.segment;
  spectrum.window = settings.window;
  spectrum.averages = segments;
  spectrum.statistics = averaging_statistics(window, hop, segments);
  double slice_variance = 0.0;
  for (std::size_t s = 0; s < slices; ++s)
    slice_variance +=
        1.0 / averaging_statistics(window, hop, slice_start(s + 1) - slice_start(s)).k_eff;
  spectrum.slice_k_eff = static_cast<double>(slices) / slice_variance;

  double energy = 0.0;
  for (const float w : window) energy += static_cast<double>(w) * w;
  const double scale =
      (info.is_complex ? 1.0 : 4.0) / (static_cast<double>(settings.segment) * energy);
  const std::size_t bins = sums[0].power.size();
  std::vector<double> total(bins, 0.0);
  spectrum.max_hold.assign(settings.max_hold ? bins : 0, 0.0F);
  spectrum.log_average.assign(settings.log_average ? bins : 0, 0.0F);
  for (std::size_t s = 0; s < slices; ++s) {
    Accumulation& part = sums[s];
    for (std::size_t k = 0; k < bins; ++k) total[k] += part.power[k];
    for (std::size_t k = 0; k < part.held.size(); ++k)
      spectrum.max_hold[k] = std::max(spectrum.max_hold[k], part.held[k]);
    for (std::size_t k = 0; k < part.logs.size(); ++k) spectrum.log_average[k] += part.logs[k];
    const auto count = static_cast<double>(slice_start(s + 1) - slice_start(s));
    reorder(part.power, info.is_complex,
            [&](float v) { return static_cast<float>(v * scale / count); });
    spectrum.slices.push_back(std::move(part.power));
    if (!settings.max_hold) continue;
    reorder(part.held, info.is_complex, [&](float v) { return static_cast<float>(v * scale); });
    spectrum.max_hold_slices.push_back(std::move(part.held));
  }
  const auto count = static_cast<double>(segments);
  spectrum.power.resize(bins);
  for (std::size_t k = 0; k < bins; ++k)
    spectrum.power[k] = static_cast<float>(total[k] * scale / count);
  reorder(spectrum.power, info.is_complex, [](float v) { return v; });
  reorder(spectrum.max_hold, info.is_complex,
          [&](float v) { return static_cast<float>(v * scale); });
  reorder(spectrum.log_average, info.is_complex,
          [&](float v) { return static_cast<float>(std::exp(v / count) * scale); });
  if (progress) progress(1.0);
  return spectrum;
}

}  // namespace heron
