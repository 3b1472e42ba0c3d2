// Run by hand. Compares the whole two-tone analysis of a long 16-bit I/Q file with what numpy takes
// for one Welch pass over it (needs python3-numpy), both in turn in one run.
#include <algorithm>
#include <benchmark/benchmark.h>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <random>
#include <sndfile.h>
#include <sys/resource.h>

#include "core/method/two_tone/two_tone.h"
#include "core/quantity/levels.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"

namespace {

using namespace heron;
using Clock = std::chrono::steady_clock;

constexpr double kRate = 2'048'000.0;
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

/// NaN without numpy.
double numpy_seconds() {
  FILE* run = popen("/usr/bin/python3 '" HERON_BENCHMARKS
                    "/numpy_welch.py' "
                    "/tmp/even-heron-benchmark.wav",
                    "r");
  double seconds = std::nan("");
  if (run == nullptr || std::fscanf(run, "%lf", &seconds) != 1)
    std::fputs("install python3-numpy to compare with it\n", stderr);
  if (run != nullptr) pclose(run);
  return seconds;
}

double peak_memory_mb() {
  rusage usage{};
  getrusage(RUSAGE_SELF, &usage);
  return static_cast<double>(usage.ru_maxrss) / 1024.0;
}

/// Both in turn, several times, because the machine's own speed wanders: the median counts.
void whole_long_file_against_numpy(benchmark::State& state) {
  write_long_file();
  std::vector<double> ratios;
  double own = 0.0;
  double numpy = 0.0;
  for (auto _ : state) {
    const auto start = Clock::now();
    benchmark::DoNotOptimize(analyse_two_tone(capture_opener(kFile)));
    own = seconds_since(start);
    numpy = numpy_seconds();
    ratios.push_back(own / numpy);
  }
  std::sort(ratios.begin(), ratios.end());
  state.counters["analysis_s"] = own;
  state.counters["numpy_s"] = numpy;
  state.counters["median_ratio"] = ratios[ratios.size() / 2];
  state.counters["highest_ratio"] = ratios.back();
  state.counters["file_MB"] = static_cast<double>(std::filesystem::file_size(kFile)) / 1e6;
  state.counters["peak_MB"] = peak_memory_mb();
}
BENCHMARK(whole_long_file_against_numpy)->Iterations(3)->Unit(benchmark::kSecond);

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
