#include "core/signal/plateau.h"

#include <QtTest>
#include <numbers>
#include <random>

#include "core/signal/keyed_parts.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace plateau_test {

namespace {

constexpr double kRate = 48000.0;
constexpr double kTwoPi = 2.0 * std::numbers::pi;
using Samples = std::vector<std::complex<float>>;
using Signal = std::function<std::complex<double>(double)>;  // of time, s

CaptureInfo described(int bits) {
  CaptureInfo about;
  about.is_float = bits == 0;
  about.bits = bits == 0 ? 32 : bits;
  return about;
}

/// A second of it, limited in I and Q to `limit`, then noise, then `bits` if there are any.
Samples sampled(const Signal& signal, double limit, double noise, int bits,
                std::mt19937_64& random) {
  NormalNumbers<double> gauss(0.0, std::max(noise, 1e-30));
  Samples x(static_cast<std::size_t>(kRate));
  for (std::size_t i = 0; i < x.size(); ++i) {
    std::complex<double> v = signal(static_cast<double>(i) / kRate);
    v = {std::clamp(v.real(), -limit, limit), std::clamp(v.imag(), -limit, limit)};
    v += std::complex<double>{gauss(random), gauss(random)};  // in this order
    if (bits > 0) {
      const double step = std::ldexp(1.0, 1 - bits);
      v = {std::round(v.real() / step) * step, std::round(v.imag() / step) * step};
    }
    x[i] = std::complex<float>(v);
  }
  return x;
}

/// The in-phase half, as audio.
class RealReader : public CaptureReader {
 public:
  RealReader(const Samples& x, int bits) : x_(x) {
    info_ = described(bits);
    info_.sample_rate_hz = kRate;
    info_.frames = static_cast<std::int64_t>(x.size());
  }
  void seek(std::int64_t frame) override { at_ = static_cast<std::size_t>(frame); }
  std::size_t read(std::span<float> out) override {
    const std::size_t n = std::min(out.size(), x_.size() - at_);
    for (std::size_t i = 0; i < n; ++i) out[i] = x_[at_++].real();
    return n;
  }

 private:
  const Samples& x_;
  std::size_t at_ = 0;
};

std::int64_t piled_up(const Samples& x, int bits, bool is_real = false) {
  const CaptureOpener open =
      is_real ? CaptureOpener([&] { return std::make_unique<RealReader>(x, bits); })
              : memory_capture(x, kRate, described(bits));
  const PowerProfile profile = power_profile(open);
  const float peak = *std::max_element(profile.peak.begin(), profile.peak.end());
  return samples_at_plateau(open, profile, 0, profile.peak.size(), peak);
}

class PlateauTest : public QObject {
  Q_OBJECT

 private slots:
  /// Limited below full scale, as floats and as 12 to 24 bit, as I and Q and as audio, with noise.
  void what_limits_before_the_recorder_is_found() {
    std::mt19937_64 random(71);
    const auto uniform = [&](double a, double b) {
      return std::uniform_real_distribution<double>(a, b)(random);
    };
    for (int round = 0; round < draws(240); ++round) {
      const double amplitude = uniform(0.02, 0.9);
      const int kind = round % 4;
      const double f1 = kind == 3 ? 1000.0 : uniform(100.0, 9000.0);
      const double f2 = kind == 0 ? uniform(-9000.0, 9000.0) : f1;
      NormalNumbers<double> gauss(0.0, 0.3 * amplitude);
      const Signal signal = [&](double t) -> std::complex<double> {
        if (kind == 2) return {gauss(random), gauss(random)};
        return 0.5 * amplitude *
               (std::polar(1.0, kTwoPi * f1 * t) + std::polar(1.0, kTwoPi * f2 * t));
      };
      const int bits = std::array{0, 12, 16, 24}[static_cast<std::size_t>(round / 4 % 4)];
      const double noise = round % 3 == 0 ? amplitude * uniform(1e-6, 1e-3) : 0.0;
      const Samples x = sampled(signal, amplitude * uniform(0.5, 0.9), noise, bits, random);
      const auto count = piled_up(x, bits, round % 5 == 0);
      // Over few steps a corner looks like a crest, and a tone that repeats shows only one.
      if (bits == 12 && amplitude < (kind == 3 ? 0.3 : 0.03)) continue;
      QVERIFY2(count > 0,
               qPrintable(QString("round %1, kind %2, %3 bit").arg(round).arg(kind).arg(bits)));
    }
  }

  /// Crests, whether they are slow, stand still, repeat with the samples or are quantised.
  void crests_are_no_plateaus() {
    std::mt19937_64 random(5);
    const auto uniform = [&](double a, double b) {
      return std::uniform_real_distribution<double>(a, b)(random);
    };
    const std::array slow{0.0, 0.05, 0.3, 1.0, 3.0, 10.0, 40.0, 100.0};
    const std::array whole{100.0, 400.0, 480.0, 1000.0, 3000.0, 6000.0, 12000.0};
    for (int round = 0; round < draws(180); ++round) {
      const double amplitude = uniform(0.02, 2.9);
      const int kind = round % 6;
      double f1 = uniform(-9000.0, 9000.0);
      double f2 = f1;
      if (kind == 0) f2 = uniform(-9000.0, 9000.0);
      if (kind == 1) f1 = f2 = slow[static_cast<std::size_t>(round / 6) % slow.size()];
      if (kind == 2) f1 = f2 = whole[static_cast<std::size_t>(round / 6) % whole.size()];
      if (kind == 3) std::tie(f1, f2) = std::pair(700.0, 1900.0);
      if (kind == 4) f1 = f2 = 1000.0 + uniform(-1.0, 1.0);
      NormalNumbers<double> gauss(0.0, 0.2 * amplitude);
      const double phase = uniform(0.0, kTwoPi);
      const Signal signal = [&](double t) -> std::complex<double> {
        if (kind == 5) return {gauss(random), gauss(random)};
        return 0.5 * amplitude *
               (std::polar(1.0, kTwoPi * f1 * t + phase) + std::polar(1.0, kTwoPi * f2 * t));
      };
      const int bits =
          amplitude > 0.99 ? 0 : std::array{0, 12, 16, 24}[static_cast<std::size_t>(round / 6 % 4)];
      const double noise = round % 4 == 0 ? amplitude * uniform(1e-6, 1e-2) : 0.0;
      const Samples x = sampled(signal, 1e9, noise, bits, random);
      const auto count = piled_up(x, bits, round % 5 == 0);
      QVERIFY2(count == 0, qPrintable(QString("round %1, kind %2, %3 Hz, %4 bit: %5")
                                          .arg(round)
                                          .arg(kind)
                                          .arg(f1)
                                          .arg(bits)
                                          .arg(count)));
    }
  }

  void floats_above_one_are_not_clipped_and_a_limit_at_one_is() {
    std::mt19937_64 random(1);
    const Signal tone = [](double t) { return std::polar(3.0, kTwoPi * 1234.0 * t); };
    const Samples free = sampled(tone, 1e9, 0.0, 0, random);
    const KeyedParts whole = find_keyed_parts(memory_capture(free, kRate, described(0)));
    QCOMPARE(whole.clipped_samples, std::int64_t{0});
    QVERIFY(whole.peak > 2.99F);
    const Samples limited = sampled(tone, 1.0, 0.0, 0, random);
    const KeyedParts cut = find_keyed_parts(memory_capture(limited, kRate, described(0)));
    QVERIFY(cut.clipped_samples > 0 && cut.is_at_full_scale());
  }
};

}  // namespace

HERON_LOOP_TEST(PlateauTest)

}  // namespace plateau_test

#include "plateau_test.moc"
