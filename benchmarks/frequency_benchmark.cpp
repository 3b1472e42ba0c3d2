// Run by hand: frequency_benchmark [Google Benchmark options]. Scatter over all octaves of a long
// record, and the fit of one.
#include <benchmark/benchmark.h>
#include <cmath>
#include <random>
#include <sys/resource.h>

#include "core/method/frequency/drift_fit.h"
#include "core/method/frequency/stability.h"

namespace {

using namespace heron;

std::vector<double> white_frequency(std::size_t count) {
  std::mt19937_64 random(1);
  std::normal_distribution<double> normal(0.0, 1e-9);
  std::vector<double> all(count);
  for (double& v : all) v = normal(random);
  return all;
}

double most_memory_mb() {
  rusage used{};
  getrusage(RUSAGE_SELF, &used);
  return static_cast<double>(used.ru_maxrss) / 1024.0;
}

void all_octaves(benchmark::State& state) {
  const auto count = static_cast<std::size_t>(state.range(0));
  const std::vector<double> frequency = white_frequency(count);
  const double before = most_memory_mb();
  for (auto _ : state) {
    const PhaseRecord record = PhaseRecord::of_frequency(frequency, 1.0);
    const auto octaves = averages_of(Averages::octaves, record.samples());
    benchmark::DoNotOptimize(record.at(Estimator::overlapping, octaves));
  }
  state.counters["memory_over_data"] =
      (most_memory_mb() - before) / (8.0 * static_cast<double>(count) / 1048576.0);
}
BENCHMARK(all_octaves)->Arg(1'000'000)->Arg(10'000'000)->Unit(benchmark::kMillisecond);

void drift_fit(benchmark::State& state) {
  const auto count = static_cast<std::size_t>(state.range(0));
  const std::vector<double> noise = white_frequency(count);
  std::vector<DriftSample> samples;
  const double length = static_cast<double>(count);
  for (std::size_t i = 0; i < count; ++i) {
    const double t = static_cast<double>(i);
    samples.push_back({t, 2.0 + 15.0 * std::exp(-20.0 * t / length) + 5e7 * noise[i]});
  }
  for (auto _ : state) benchmark::DoNotOptimize(fit_drift(samples));
}
BENCHMARK(drift_fit)->Arg(10'000)->Arg(1'000'000)->Unit(benchmark::kMillisecond);

}  // namespace

BENCHMARK_MAIN();
