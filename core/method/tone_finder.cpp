#include "core/method/tone_finder.h"

#include <algorithm>
#include <cmath>

#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kMostImbalanceDb = 7.0;

/// Floor per bin: medians of blocks, interpolated.
std::vector<float> floor_curve(const Spectrum& s) {
  const std::size_t bins = s.power.size();
  const std::size_t block = std::clamp<std::size_t>(bins / 64, 64, 1024);
  std::vector<float> medians;
  std::vector<float> part;
  const double correction = median_over_mean(s.statistics.k_eff);
  for (std::size_t at = 0; at < bins; at += block) {
    part.assign(s.power.begin() + static_cast<std::ptrdiff_t>(at),
                s.power.begin() + static_cast<std::ptrdiff_t>(std::min(bins, at + block)));
    const auto middle = part.begin() + static_cast<std::ptrdiff_t>(part.size() / 2);
    std::nth_element(part.begin(), middle, part.end());
    medians.push_back(static_cast<float>(*middle / correction));
  }
  std::vector<float> floor(bins);
  for (std::size_t k = 0; k < bins; ++k) {
    const double x = std::clamp((static_cast<double>(k) + 0.5) / static_cast<double>(block) - 0.5,
                                0.0, static_cast<double>(medians.size() - 1));
    const auto i = static_cast<std::size_t>(x);
    const auto j = std::min(i + 1, medians.size() - 1);
    const auto part_of = static_cast<float>(x - static_cast<double>(i));
    floor[k] = medians[i] * (1.0F - part_of) + medians[j] * part_of;
  }
  return floor;
}

bool is_dc(const Spectrum& s, double frequency_hz) {
  return std::abs(frequency_hz) < 4.0 * s.bin_hz();
}

}  // namespace

bool is_mains_line(double frequency_hz, double tolerance_hz) {
  const double f = std::abs(frequency_hz);
  if (f > 420.0) return false;
  for (const double mains : {50.0, 60.0}) {
    const double multiple = std::round(f / mains);
    if (multiple >= 1.0 && std::abs(f - multiple * mains) <= tolerance_hz) return true;
  }
  return false;
}

std::vector<SpectralLine> find_lines(const Spectrum& s, std::size_t most) {
  const std::vector<float> floor = floor_curve(s);
  const auto bins = static_cast<std::ptrdiff_t>(s.power.size());
  const int reach = main_lobe_half_width_bins(s.window);
  // Few averages scatter more than 10 dB allows for.
  const double threshold = 10.0 * (1.0 + 1.0 / s.statistics.k_eff);
  std::vector<SpectralLine> lines;
  for (std::ptrdiff_t k = 0; k < bins; ++k) {
    const float p = s.power[static_cast<std::size_t>(k)];
    if (!(p > threshold * floor[static_cast<std::size_t>(k)]) || p < 1e-20F) continue;
    bool is_peak = true;
    double sum = 0.0;
    double moment = 0.0;
    for (std::ptrdiff_t j = std::max<std::ptrdiff_t>(0, k - reach);
         j <= std::min(bins - 1, k + reach); ++j) {
      const float q = s.power[static_cast<std::size_t>(j)];
      if (q > p || (q == p && j < k)) is_peak = false;
      const double above = q - floor[static_cast<std::size_t>(j)];
      sum += above;
      moment += above * static_cast<double>(j - k);
    }
    if (!is_peak) continue;
    const double offset = std::clamp(moment / sum, -1.0, 1.0);
    lines.push_back({s.frequency_hz(static_cast<std::size_t>(k)) + offset * s.bin_hz(), sum});
  }
  std::sort(lines.begin(), lines.end(),
            [](const SpectralLine& a, const SpectralLine& b) { return a.power > b.power; });
  // Further down than this below the strongest is rounding of single precision, not signal.
  while (!lines.empty() && lines.back().power < 1e-12 * lines.front().power) lines.pop_back();
  if (lines.size() > most) lines.resize(most);
  return lines;
}

namespace {

/// The most plausible pair; with `one_mains`, one of the two may lie on a multiple of the mains
/// frequency.
std::optional<std::pair<SpectralLine, SpectralLine>> choose_pair(
    const Spectrum& s, const std::vector<SpectralLine>& lines, bool one_mains) {
  const auto is_mains = [&](const SpectralLine& line) {
    return is_mains_line(line.frequency_hz, s.bin_hz());
  };
  std::vector<SpectralLine> candidates;
  for (const SpectralLine& line : lines) {
    if (is_dc(s, line.frequency_hz)) continue;
    if (!one_mains && is_mains(line)) continue;
    candidates.push_back(line);
    if (candidates.size() == 10) break;
  }
  if (candidates.size() < 2) return std::nullopt;
  const double strongest_db = db_from_power_ratio(candidates.front().power);
  const double tolerance = 2.5 * s.bin_hz();
  const auto has_line = [&](double f) {
    return std::any_of(lines.begin(), lines.end(), [&](const SpectralLine& l) {
      return std::abs(l.frequency_hz - f) < tolerance;
    });
  };

  std::optional<std::pair<SpectralLine, SpectralLine>> best;
  double best_score = -1e9;
  for (std::size_t i = 0; i < candidates.size(); ++i) {
    for (std::size_t j = i + 1; j < candidates.size(); ++j) {
      const SpectralLine& a = candidates[i];
      const SpectralLine& b = candidates[j];
      if (db_from_power_ratio(a.power / b.power) > kMostImbalanceDb) continue;
      if (db_from_power_ratio(a.power) < strongest_db - 1.0) continue;
      if (is_mains(a) && is_mains(b)) continue;
      const double lower = std::min(a.frequency_hz, b.frequency_hz);
      const double upper = std::max(a.frequency_hz, b.frequency_hz);
      const double spacing = upper - lower;
      double score = db_from_power_ratio(a.power + b.power);
      for (int k = 1; k <= 2; ++k) {
        if (has_line(lower - k * spacing)) score += 3.0;
        if (has_line(upper + k * spacing)) score += 3.0;
      }
      if (score > best_score) {
        best_score = score;
        best = lower == a.frequency_hz ? std::pair(a, b) : std::pair(b, a);
      }
    }
  }
  return best;
}

}  // namespace

std::optional<std::pair<SpectralLine, SpectralLine>> choose_tone_pair(
    const Spectrum& s, const std::vector<SpectralLine>& lines) {
  if (auto pair = choose_pair(s, lines, false)) return pair;
  // I/Q counts from the centre, where 240 Hz is as good a place for a tone as any; in audio it is
  // more likely hum.
  return s.is_complex ? choose_pair(s, lines, true) : std::nullopt;
}

}  // namespace heron
