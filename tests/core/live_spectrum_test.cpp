#include "core/signal/live_spectrum.h"

#include <QtTest>
#include <atomic>
#include <cmath>
#include <cstdlib>
#include <new>
#include <numbers>
#include <random>

#include "core/signal/normal_numbers.h"
#include "tests/test_program.h"

namespace {
std::atomic<bool> counts_allocations{false};
std::atomic<std::size_t> counted_allocations{0};
}  // namespace

// Every allocation of this program while it counts.
void* operator new(std::size_t size) {
  if (counts_allocations) ++counted_allocations;
  if (void* memory = std::malloc(size)) return memory;
  throw std::bad_alloc();
}
void operator delete(void* memory) noexcept {
  std::free(memory);
}
void operator delete(void* memory, std::size_t) noexcept {
  std::free(memory);
}

namespace live_spectrum_test {

using heron::LiveSpectrum;

namespace {

std::vector<float> tone_and_noise(std::size_t n, double cycles_per_sample, double amplitude,
                                  double sigma, unsigned seed) {
  std::mt19937_64 random(seed);
  heron::NormalNumbers<double> gauss(0.0, 1.0);
  std::vector<float> x(2 * n);
  for (std::size_t i = 0; i < n; ++i) {
    const double phase =
        2.0 * std::numbers::pi * std::fmod(cycles_per_sample * static_cast<double>(i), 1.0);
    x[2 * i] = static_cast<float>(amplitude * std::cos(phase) + sigma * gauss(random));
    x[2 * i + 1] = static_cast<float>(amplitude * std::sin(phase) + sigma * gauss(random));
  }
  return x;
}

}  // namespace

class LiveSpectrumTest : public QObject {
  Q_OBJECT
 private slots:
  void a_tone_stands_at_its_level_and_noise_at_its_density() {
    constexpr std::size_t kSize = 1024;
    LiveSpectrum live(kSize);
    live.set_averages(1000000);
    const double sigma = 1e-3;
    live.add(tone_and_noise(400 * kSize, 100.0 / kSize, 0.5, sigma, 3));
    const auto p = live.average();
    const auto top = std::max_element(p.begin(), p.end()) - p.begin();
    QCOMPARE(static_cast<std::size_t>(top), kSize / 2 + 100);
    QVERIFY(std::abs(10.0 * std::log10(p[static_cast<std::size_t>(top)] / 0.25)) < 0.01);
    // Complex noise of 2 sigma^2 over all bins; some 400 independent segments, 200 bins.
    double mean = 0.0;
    for (std::size_t k = 100; k < 300; ++k) mean += static_cast<double>(p[k]) / 200.0;
    const double expected = 2.0 * sigma * sigma * LiveSpectrum::noise_bandwidth_bins() / kSize;
    QVERIFY(std::abs(mean / expected - 1.0) < 0.03);
  }

  void pieces_of_any_length_give_the_same_as_the_whole() {
    constexpr std::size_t kSize = 256;
    const auto x = tone_and_noise(20 * kSize, 0.1237, 0.3, 0.05, 4);
    LiveSpectrum whole(kSize);
    LiveSpectrum pieces(kSize);
    whole.add(x);
    std::mt19937 random(1);
    for (std::span<const float> rest(x); !rest.empty();) {
      const std::size_t n = std::min<std::size_t>(rest.size(), 2 * (1 + random() % 700));
      pieces.add(rest.first(n));
      rest = rest.subspan(n);
    }
    QCOMPARE(pieces.segments(), whole.segments());
    QVERIFY(std::equal(whole.average().begin(), whole.average().end(), pieces.average().begin()));
    QVERIFY(std::equal(whole.hold().begin(), whole.hold().end(), pieces.hold().begin()));
  }

  void the_average_forgets_and_the_hold_does_not() {
    constexpr std::size_t kSize = 256;
    LiveSpectrum live(kSize);
    live.set_averages(4);
    live.add(tone_and_noise(40 * kSize, 0.25, 0.8, 0.0, 5));
    live.add(tone_and_noise(40 * kSize, -0.25, 0.4, 0.0, 6));
    const std::size_t first = kSize / 2 + kSize / 4;
    const std::size_t second = kSize / 2 - kSize / 4;
    QVERIFY(live.average()[first] < 1e-6F);
    QVERIFY(std::abs(live.average()[second] - 0.16F) < 0.001F);
    QVERIFY(std::abs(live.hold()[first] - 0.64F) < 0.001F);
    QVERIFY(std::abs(live.peak_power() - 0.64F) < 0.001F);
    QVERIFY(!live.was_over_range());
    live.clear();
    live.clear_peak();
    QCOMPARE(live.hold()[first], 0.0F);
    QCOMPARE(live.peak_power(), 0.0F);
  }

  void full_scale_is_noticed() {
    LiveSpectrum live(64);
    std::vector<float> x(128, 0.1F);
    x[77] = -1.0F;
    live.add(x);
    QVERIFY(live.was_over_range());
  }

  void nothing_is_allocated_while_samples_come() {
    LiveSpectrum live(4096);
    const auto x = tone_and_noise(50000, 0.01, 0.5, 0.01, 7);
    live.add(x);
    counted_allocations = 0;
    counts_allocations = true;
    for (int i = 0; i < 50; ++i) live.add(x);
    counts_allocations = false;
    QCOMPARE(counted_allocations.load(), std::size_t{0});
    // The counter does count.
    counts_allocations = true;
    delete new LiveSpectrum(64);
    counts_allocations = false;
    QVERIFY(counted_allocations > 0);
  }
};

HERON_TEST(LiveSpectrumTest)

}  // namespace live_spectrum_test

#include "live_spectrum_test.moc"
