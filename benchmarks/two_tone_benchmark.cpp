// Run by hand. Compares the whole two-tone analysis of a long 16-bit I/Q file with nothing but
// FFTW: single precision, same size, same overlap, planned, one thread, data already in memory.
#include <algorithm>
#include <benchmark/benchmark.h>
#include <bit>
#include <chrono>
#include <cstdio>
#include <fftw3.h>
#include <filesystem>
#include <random>
#include <sndfile.h>
#include <sys/resource.h>

#include "core/method/two_tone.h"
#include "core/quantity/levels.h"
#include "core/signal/capture_range.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "core/signal/window.h"

namespace {

using namespace heron;
using Clock = std::chrono::steady_clock;

constexpr double kRate = 2'000'000.0;
constexpr std::size_t kFrames = 150'000'000;  // 600 MB as 16-bit I and Q
const char* const kFile = "/tmp/even-heron-benchmark.wav";

double seconds_since(Clock::time_point start) {
  return std::chrono::duration<double>(Clock::now() - start).count();
}

/// One second of signal, written over and over: content does not matter for speed.
void write_long_file() {
  if (std::filesystem::exists(kFile) && std::filesystem::file_size(kFile) > kFrames * 4) return;
  TwoToneSignal s;
  s.sample_rate_hz = kRate;
  s.seconds = 1.0;
  s.f1_hz = 20000;
  s.f2_hz = 41000;
  s.nonlinearity.coefficients = {-0.3, 0.1};
  s.noise_dbfs = -60.0;
  const auto part = generate_two_tone(s);
  SF_INFO info{};
  info.samplerate = static_cast<int>(kRate);
  info.channels = 2;
  info.format = SF_FORMAT_WAV | SF_FORMAT_PCM_16;
  SNDFILE* file = sf_open(kFile, SFM_WRITE, &info);
  for (std::size_t done = 0; done < kFrames; done += part.size()) {
    sf_writef_float(file, reinterpret_cast<const float*>(part.data()),
                    static_cast<sf_count_t>(part.size()));
  }
  sf_close(file);
}

/// Samples a second through FFTW alone; the segment and overlap are those of the analysis.
double fftw_alone(std::size_t segment, std::size_t hop, std::size_t frames) {
  // One segment over and over, so that it stays in the cache: the baseline at its best.
  auto* data = fftwf_alloc_complex(segment);
  auto* out = fftwf_alloc_complex(segment);
  fftwf_plan plan =
      fftwf_plan_dft_1d(static_cast<int>(segment), data, out, FFTW_FORWARD, FFTW_MEASURE);
  std::mt19937 random(1);
  std::uniform_real_distribution<float> value(-0.5F, 0.5F);
  for (std::size_t i = 0; i < segment; ++i) data[i][0] = data[i][1] = value(random);
  if (!std::has_single_bit(segment)) std::abort();  // it would be an unfair comparison
  const std::size_t segments = (frames - segment) / hop + 1;
  const auto start = Clock::now();
  for (std::size_t s = 0; s < segments; ++s) fftwf_execute(plan);
  const double rate = static_cast<double>(frames) / seconds_since(start);
  fftwf_destroy_plan(plan);
  fftwf_free(data);
  fftwf_free(out);
  return rate;
}

double peak_memory_mb() {
  rusage usage{};
  getrusage(RUSAGE_SELF, &usage);
  return static_cast<double>(usage.ru_maxrss) / 1024.0;
}

/// Both in turn, several times, because the machine's own speed wanders: the median counts.
void analysis_against_fftw_alone(benchmark::State& state) {
  write_long_file();
  constexpr std::int64_t kPart = 25'000'000;  // beyond the size from which plans are thorough
  const CaptureOpener part =
      capture_range(capture_opener(kFile), 0.0, static_cast<double>(kPart) / kRate);
  TwoToneSettings settings;
  settings.threads = static_cast<unsigned>(state.range(0));
  std::vector<double> ratios;
  for (auto _ : state) {
    const auto start = Clock::now();
    const TwoToneAnalysis a = analyse_two_tone(part, settings);
    const double rate = static_cast<double>(kPart) / seconds_since(start);
    const auto segment = static_cast<std::size_t>(
        std::lround(kRate * enbw_bins(WindowKind::blackman_harris_4) / a.rbw_hz));
    const double alone = fftw_alone(segment, segment / 4, static_cast<std::size_t>(kPart));
    ratios.push_back(rate / alone);
    state.counters["MS/s"] = rate / 1e6;
    state.counters["FFTW_MS/s"] = alone / 1e6;
  }
  std::sort(ratios.begin(), ratios.end());
  state.counters["median_ratio"] = ratios[ratios.size() / 2];
  state.counters["lowest_ratio"] = ratios.front();
}
BENCHMARK(analysis_against_fftw_alone)->Arg(1)->Arg(2)->Iterations(7)->Unit(benchmark::kSecond);

void whole_long_file(benchmark::State& state) {
  write_long_file();
  for (auto _ : state) benchmark::DoNotOptimize(analyse_two_tone(capture_opener(kFile)));
  state.counters["file_MB"] = static_cast<double>(std::filesystem::file_size(kFile)) / 1e6;
  state.counters["peak_MB"] = peak_memory_mb();
}
BENCHMARK(whole_long_file)->Iterations(1)->Unit(benchmark::kSecond);

void minute_of_audio_rate(benchmark::State& state) {
  TwoToneSignal s;
  s.seconds = 60.0;
  s.nonlinearity.coefficients = {-0.3, 0.1};
  s.noise_dbfs = -60.0;
  const auto open = memory_capture(generate_two_tone(s), s.sample_rate_hz);
  for (auto _ : state) benchmark::DoNotOptimize(analyse_two_tone(open));
}
BENCHMARK(minute_of_audio_rate)->Unit(benchmark::kMillisecond);

void accuracy_against_the_model(benchmark::State& state) {
  double worst = 0.0;
  for (auto _ : state) {
    std::mt19937_64 random(1);
    std::uniform_real_distribution<double> offset(0.0, 6.0);
    for (int i = 0; i < 10; ++i) {
      TwoToneSignal s;
      s.f1_hz += offset(random);
      s.f2_hz += offset(random);
      s.seconds = 6.0;
      s.nonlinearity.coefficients = {-0.3, 0.6, -2.0};
      s.noise_dbfs = -85.0;
      const auto truth = two_tone_amplitudes(s.nonlinearity, s.amplitude);
      const TwoToneAnalysis a =
          analyse_two_tone(memory_capture(generate_two_tone(s), s.sample_rate_hz));
      for (const TwoToneProduct& p : a.products) {
        const auto k = static_cast<std::size_t>((p.order - 1) / 2);
        if (k < truth.size() && p.level_dbc > p.floor_dbc + 20.0) {
          worst = std::max(
              worst, std::abs(p.level_dbc - db_from_voltage_ratio(std::abs(truth[k] / truth[0]))));
        }
      }
    }
  }
  state.counters["worst_error_dB"] = worst;
}
BENCHMARK(accuracy_against_the_model)->Iterations(1)->Unit(benchmark::kSecond);

}  // namespace

BENCHMARK_MAIN();
