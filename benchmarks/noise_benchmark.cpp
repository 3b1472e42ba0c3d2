// Run by hand: noise_benchmark [Google Benchmark options]. Phase noise of a long recording from a
// file, against one Welch pass with a large single-precision transform over the same file.
#include <algorithm>
#include <benchmark/benchmark.h>
#include <cmath>
#include <complex>
#include <fftw3.h>
#include <filesystem>
#include <fstream>
#include <random>
#include <sys/resource.h>
#include <vector>

#include "core/method/phase_noise/noise_capture.h"
#include "core/signal/capture.h"

namespace {

using namespace heron;
namespace fs = std::filesystem;

constexpr double kRateHz = 2e6;

double most_memory_mb() {
  rusage used{};
  getrusage(RUSAGE_SELF, &used);
  return static_cast<double>(used.ru_maxrss) / 1024.0;
}

/// A minute of 16-bit I and Q of a carrier with noise, made once.
const fs::path& recording() {
  static const fs::path meta = [] {
    const fs::path folder = fs::temp_directory_path() / "heron-noise-benchmark";
    fs::create_directories(folder);
    std::ofstream data(folder / "minute.sigmf-data", std::ios::binary);
    std::mt19937_64 random(1);
    std::normal_distribution<double> normal(0.0, 1e-3);
    std::vector<std::int16_t> block(2 * 65536);
    double phase = 0.0;
    std::int64_t left = static_cast<std::int64_t>(60.0 * kRateHz);
    while (left > 0) {
      const auto frames = std::min<std::int64_t>(left, 65536);
      for (std::int64_t i = 0; i < frames; ++i) {
        phase += 0.01 + 0.01 * normal(random);
        const std::complex<double> x = 16000.0 * std::polar(1.0, phase + normal(random));
        block[static_cast<std::size_t>(2 * i)] = static_cast<std::int16_t>(x.real());
        block[static_cast<std::size_t>(2 * i + 1)] = static_cast<std::int16_t>(x.imag());
      }
      data.write(reinterpret_cast<const char*>(block.data()), 4 * frames);
      left -= frames;
    }
    std::ofstream(folder / "minute.sigmf-meta")
        << R"({"global": {"core:datatype": "ci16_le", "core:sample_rate": 2000000,)"
        << R"( "core:version": "1.0.0"}, "captures": [{"core:sample_start": 0}],)"
        << R"( "annotations": []})";
    return folder / "minute.sigmf-meta";
  }();
  return meta;
}

/// Half-overlapping segments of 2^20, one thread: what a script would do.
void welch_pass(benchmark::State& state) {
  constexpr std::size_t kSize = std::size_t{1} << 20U;
  const fs::path path = recording();
  for (auto _ : state) {
    auto* in = fftwf_alloc_complex(kSize);
    auto* out = fftwf_alloc_complex(kSize);
    fftwf_plan plan = fftwf_plan_dft_1d(kSize, in, out, FFTW_FORWARD, FFTW_ESTIMATE);
    std::vector<float> window(kSize);
    for (std::size_t i = 0; i < kSize; ++i)
      window[i] = 0.5F - 0.5F * std::cos(2.0F * 3.14159265F * static_cast<float>(i) / kSize);
    std::vector<float> power(kSize, 0.0F);
    std::vector<float> kept(2 * kSize, 0.0F);
    const auto reader = open_capture(path);
    std::vector<float> half(kSize);
    while (reader->read(half) == kSize / 2) {
      std::copy(kept.begin() + kSize, kept.end(), kept.begin());
      std::copy(half.begin(), half.end(), kept.begin() + kSize);
      for (std::size_t i = 0; i < kSize; ++i) {
        in[i][0] = kept[2 * i] * window[i];
        in[i][1] = kept[2 * i + 1] * window[i];
      }
      fftwf_execute(plan);
      for (std::size_t i = 0; i < kSize; ++i)
        power[i] += out[i][0] * out[i][0] + out[i][1] * out[i][1];
    }
    benchmark::DoNotOptimize(power.data());
    fftwf_destroy_plan(plan);
    fftwf_free(in);
    fftwf_free(out);
  }
}
BENCHMARK(welch_pass)->Unit(benchmark::kMillisecond)->Iterations(1)->UseRealTime();

void phase_noise(benchmark::State& state) {
  const fs::path path = recording();
  const double before = most_memory_mb();
  for (auto _ : state) benchmark::DoNotOptimize(noise_of_capture(capture_opener(path)));
  state.counters["peak_mb"] = most_memory_mb();
  state.counters["more_mb"] = most_memory_mb() - before;
}
BENCHMARK(phase_noise)->Unit(benchmark::kMillisecond)->Iterations(1)->UseRealTime();

}  // namespace

BENCHMARK_MAIN();
