#include "core/method/phase_noise/curve_bins.h"

#include <algorithm>
#include <cmath>

#include "core/quantity/levels.h"
#include "core/signal/median.h"
#include "core/signal/noise_quantile.h"
#include "core/signal/window.h"

namespace heron {
namespace {

constexpr double kLineDb = 6.0;
constexpr double kLineChance = 1e-7;
constexpr double kSkirtsDb = 85.0;  ///< below the top of a line its window has side lobes
const int kLineLobe = main_lobe_half_width_bins(WindowKind::blackman_harris_4);
constexpr std::size_t kLeastBin = 16;  ///< below it a steep spectrum looks like a line
constexpr std::size_t kFewest = 6;     ///< bins on a side

/// What the noise is at a bin, from both sides of it: straight in decibels over log offset.
double surroundings(const std::vector<double>& density, std::size_t at) {
  const auto reach = std::max<std::size_t>(3 * static_cast<std::size_t>(kLineLobe), at / 10);
  const auto lobe = static_cast<std::size_t>(kLineLobe) + 1;
  const auto middle = [&](std::size_t from, std::size_t to) {
    std::vector<double> some(density.begin() + static_cast<std::ptrdiff_t>(from),
                             density.begin() + static_cast<std::ptrdiff_t>(to));
    return std::max(median_of(some), 1e-300);
  };
  const std::size_t low_from = at > reach + lobe ? at - reach - lobe : 4;
  const std::size_t low_to = at > lobe ? at - lobe : 0;
  const std::size_t high_from = at + lobe + 1;
  const std::size_t high_to = std::min(density.size(), at + lobe + 1 + reach);
  const bool has_low = low_to >= low_from + kFewest;
  const bool has_high = high_to >= high_from + kFewest;
  if (has_low && has_high) {
    const double a = std::log(middle(low_from, low_to));
    const double b = std::log(middle(high_from, high_to));
    const double x = std::log(static_cast<double>(at));
    const double xa = std::log(0.5 * static_cast<double>(low_from + low_to - 1));
    const double xb = std::log(0.5 * static_cast<double>(high_from + high_to - 1));
    return std::exp(std::lerp(a, b, (x - xa) / (xb - xa)));
  }
  if (has_low) return middle(low_from, low_to);
  if (has_high) return middle(high_from, high_to);
  return 1e300;
}

/// Lines of one stage that lie where it is looked at.
void add_lines(const FineSpectrum& s, std::size_t stage, std::vector<FineLine>& all) {
  const double over_middle =
      std::max(power_ratio_from_db(kLineDb), noise_quantile(s.averages, 1.0 - kLineChance)) /
      std::min(1.0, median_over_mean(s.averages));
  const auto last = static_cast<std::size_t>(std::min(static_cast<double>(s.density.size()) - 1.0,
                                                      std::ceil(s.high_hz / s.bin_hz) + kLineLobe));
  const double first_bin = std::floor(s.low_hz / s.bin_hz) - kLineLobe;
  const auto first = static_cast<std::size_t>(std::max(static_cast<double>(kLeastBin), first_bin));
  for (std::size_t i = first; i + 1 < last; ++i) {
    const double here = s.density[i];
    if (here < s.density[i - 1] || here < s.density[i + 1]) continue;
    const double noise = surroundings(s.density, i);
    if (here < over_middle * noise) continue;
    // How wide it stands over what noise reaches there, and over the window's own skirts.
    const double wide = std::max(over_middle * noise, here * power_ratio_from_db(-kSkirtsDb));
    std::size_t from = i;
    std::size_t to = i + 1;
    while (from > 1 && s.density[from - 1] > wide) --from;
    while (to < s.density.size() && s.density[to] > wide) ++to;
    if (to - from > 2 * static_cast<std::size_t>(kLineLobe) + 2) {
      i = to;
      continue;
    }
    from = i - static_cast<std::size_t>(kLineLobe);
    to = std::min(s.density.size(), i + static_cast<std::size_t>(kLineLobe) + 1);
    double power = 0.0;
    double moment = 0.0;
    for (std::size_t k = from; k < to; ++k) {
      const double over = std::max(0.0, s.density[k] - noise);
      power += (s.density[k] - noise) * s.bin_hz;
      moment += over * static_cast<double>(k);
    }
    double weight = 0.0;
    for (std::size_t k = from; k < to; ++k) weight += std::max(0.0, s.density[k] - noise);
    FineLine line;
    line.offset_hz = weight > 0.0 ? moment / weight * s.bin_hz : static_cast<double>(i) * s.bin_hz;
    line.variance = power;
    const double relative = 2.0 * noise / (std::max(power, 1e-300) * s.effective_s);
    line.u_db = std::hypot(1.0 / kPowerPerDb * std::sqrt(relative), 0.03);
    line.stage = stage;
    // The skirts of a very strong one are no noise either.
    while (from > 1 && s.density[from - 1] > over_middle * noise) --from;
    while (to < s.density.size() && s.density[to] > over_middle * noise) ++to;
    line.from = from;
    line.to = to;
    if (line.offset_hz >= s.low_hz && line.offset_hz < s.high_hz) all.push_back(line);
    i = to - 1;
  }
}

/// The skirts of a line of another stage reach into this one where they share an edge.
bool is_covered(const std::vector<FineLine>& lines, const std::vector<FineSpectrum>& stages,
                std::size_t stage, std::size_t bin) {
  const double hz = static_cast<double>(bin) * stages[stage].bin_hz;
  return std::any_of(lines.begin(), lines.end(), [&](const FineLine& l) {
    if (l.stage == stage) return bin >= l.from && bin < l.to;
    return std::abs(hz - l.offset_hz) <= (kLineLobe + 1) * stages[stage].bin_hz;
  });
}

/// As much of a logarithmic bin as one stage shows.
struct BinPart {
  double power = 0.0;     ///< times width
  double variance = 0.0;  ///< of that
  double width = 0.0;
};

BinPart bin_part(const std::vector<FineSpectrum>& stages, std::size_t stage,
                 const std::vector<FineLine>& lines, double from_hz, double to_hz) {
  const FineSpectrum& s = stages[stage];
  BinPart part;
  const double from = std::max(from_hz, s.low_hz) / s.bin_hz;
  const double to =
      std::min({to_hz, s.high_hz, s.bin_hz * static_cast<double>(s.density.size())}) / s.bin_hz;
  if (to <= from) return part;
  std::vector<double> weighted;
  for (auto k = static_cast<std::size_t>(std::max(1.0, std::floor(from + 0.5)));
       k < s.density.size() && static_cast<double>(k) - 0.5 < to; ++k) {
    const double width =
        std::min(to, static_cast<double>(k) + 0.5) - std::max(from, static_cast<double>(k) - 0.5);
    if (width <= 0.0) continue;
    if (is_covered(lines, stages, stage, k)) {
      weighted.push_back(0.0);
      continue;
    }
    weighted.push_back(s.density[k] * width * s.bin_hz);
    part.power += weighted.back();
    part.width += width * s.bin_hz;
  }
  for (std::size_t i = 0; i < weighted.size(); ++i)
    for (std::size_t d = 0; d < s.bin_correlation.size() && i + d < weighted.size(); ++d)
      part.variance +=
          (d == 0 ? 1.0 : 2.0) * s.bin_correlation[d] * weighted[i] * weighted[i + d] / s.averages;
  return part;
}

}  // namespace

std::vector<FineLine> find_lines(const std::vector<FineSpectrum>& stages) {
  std::vector<FineLine> all;
  for (std::size_t i = 0; i < stages.size(); ++i) add_lines(stages[i], i, all);
  std::sort(all.begin(), all.end(),
            [](const FineLine& a, const FineLine& b) { return a.offset_hz < b.offset_hz; });
  // One at the edge of two stages is seen by both.
  const auto same = [&](const FineLine& a, const FineLine& b) {
    return b.offset_hz - a.offset_hz <=
           2.0 * std::max(stages[a.stage].bin_hz, stages[b.stage].bin_hz);
  };
  all.erase(std::unique(all.begin(), all.end(), same), all.end());
  return all;
}

std::vector<CurvePoint> log_bins(const std::vector<FineSpectrum>& stages,
                                 const std::vector<FineLine>& lines, int per_decade) {
  std::vector<CurvePoint> all;
  if (stages.empty()) return all;
  double low = stages.front().low_hz;
  double high = stages.front().high_hz;
  for (const FineSpectrum& s : stages) {
    low = std::min(low, s.low_hz);
    high = std::max(high, s.high_hz);
  }
  const double half = 0.5 / per_decade;
  for (int k = static_cast<int>(std::ceil(std::log10(low) * per_decade));
       k <= static_cast<int>(std::floor(std::log10(high) * per_decade)); ++k) {
    const double centre = static_cast<double>(k) / per_decade;
    const double from = std::pow(10.0, centre - half);
    const double to = std::pow(10.0, centre + half);
    // What is cut off at an end does not stand for its middle.
    if (from < low * 0.999 || to > high * 1.001) continue;
    BinPart sum;
    double bin_hz = 0.0;
    for (std::size_t i = 0; i < stages.size(); ++i) {
      const BinPart p = bin_part(stages, i, lines, from, to);
      if (p.width > 0.0) bin_hz = std::max(bin_hz, stages[i].bin_hz);
      sum.power += p.power;
      sum.variance += p.variance;
      sum.width += p.width;
    }
    // A line that hides most of it leaves nothing to say.
    if (sum.width < 0.25 * (to - from) || !(sum.power > 0.0)) continue;
    CurvePoint p;
    p.offset_hz = std::pow(10.0, centre);
    p.l_dbc_hz = db_from_power_ratio(sum.power / sum.width / 2.0);
    p.u_db = 1.0 / kPowerPerDb * std::sqrt(sum.variance) / sum.power;
    p.line_hz = enbw_bins(WindowKind::blackman_harris_4) * bin_hz;
    all.push_back(p);
  }
  return all;
}

}  // namespace heron
