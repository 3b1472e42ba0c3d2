#include "core/method/two_tone/tone_pair.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace heron {
namespace {

struct NamedLine {
  double frequency_hz;
  std::string name;
};

std::vector<NamedLine> products(double f1, double f2) {
  std::vector<NamedLine> lines;
  for (int k = 2; k <= 4; ++k) {
    const char* order = k == 2 ? "3rd" : k == 3 ? "5th" : "7th";
    const double low = k * f1 - (k - 1) * f2;
    const double high = k * f2 - (k - 1) * f1;
    lines.push_back({low, fmt::format("{} order lower, {:g} Hz", order, low)});
    lines.push_back({high, fmt::format("{} order upper, {:g} Hz", order, high)});
  }
  return lines;
}

std::vector<NamedLine> audio_lines(double f1, double f2) {
  std::vector<NamedLine> lines;
  for (int k = 2; k <= 5; ++k) {
    for (const double f : {f1, f2})
      lines.push_back({k * f, fmt::format("{} x {:g} Hz = {:g} Hz", k, f, k * f)});
  }
  for (int a = 1; a <= 5; ++a) {
    for (int b = 1; a + b <= 6; ++b) {
      if ((a + b) % 2 != 0) continue;
      const double sum = a * f1 + b * f2;
      const double gap = std::abs(a * f1 - b * f2);
      lines.push_back({sum, fmt::format("{} x {:g} + {} x {:g} = {:g} Hz", a, f1, b, f2, sum)});
      lines.push_back({gap, fmt::format("|{} x {:g} - {} x {:g}| = {:g} Hz", a, f1, b, f2, gap)});
    }
  }
  return lines;
}

}  // namespace

std::vector<ToneCollision> tone_pair_collisions(double f1, double f2, double rbw_hz) {
  std::vector<ToneCollision> collisions;
  for (const NamedLine& product : products(f1, f2)) {
    for (const NamedLine& audio : audio_lines(f1, f2)) {
      const double distance = std::abs(product.frequency_hz - audio.frequency_hz);
      // Hertz-exact coincidences at the very limit count as inside it.
      if (distance < 3.0 * rbw_hz - 1e-9)
        collisions.push_back({product.name, audio.name, distance});
    }
  }
  return collisions;
}

std::string tone_pair_trouble(double f1, double f2, double low, double high) {
  constexpr double kLeastSpacingHz = 100.0;
  if (f2 - f1 < kLeastSpacingHz)
    return fmt::format("the tones are {:g} Hz apart: products are not clear of them below {:g} Hz",
                       f2 - f1, kLeastSpacingHz);
  for (const double f : {f1, f2}) {
    if (f < low || f > high)
      return fmt::format("{:g} Hz lies outside the passband of {:g} to {:g} Hz", f, low, high);
  }
  return {};
}

double tone_pair_clearance(double f1, double f2) {
  double nearest = 1e300;
  for (const NamedLine& product : products(f1, f2)) {
    for (const NamedLine& audio : audio_lines(f1, f2)) {
      nearest = std::min(nearest, std::abs(product.frequency_hz - audio.frequency_hz));
    }
  }
  return nearest;
}

std::vector<std::pair<double, double>> suggest_tone_pairs(double low_hz, double high_hz,
                                                          std::size_t most) {
  struct Candidate {
    double f1;
    double f2;
    double clearance;
  };
  std::vector<Candidate> candidates;
  const double span = high_hz - low_hz;
  for (double f1 = std::ceil(low_hz / 50.0) * 50.0; f1 <= high_hz; f1 += 50.0) {
    // Tones far apart exercise the whole passband; closer than a third of it does not.
    for (double f2 = f1 + std::max(200.0, std::ceil(span / 150.0) * 50.0); f2 <= high_hz;
         f2 += 50.0) {
      const double clearance = tone_pair_clearance(f1, f2);
      if (f1 > 0.0 && clearance >= 50.0 - 1e-9) candidates.push_back({f1, f2, clearance});
    }
  }
  std::stable_sort(candidates.begin(), candidates.end(),
                   [](const Candidate& a, const Candidate& b) {
                     if (a.clearance != b.clearance) return a.clearance > b.clearance;
                     return a.f2 - a.f1 > b.f2 - b.f1;
                   });
  std::vector<std::pair<double, double>> pairs;
  for (const Candidate& c : candidates) {
    if (pairs.size() == most) break;
    pairs.emplace_back(c.f1, c.f2);
  }
  return pairs;
}

}  // namespace heron
