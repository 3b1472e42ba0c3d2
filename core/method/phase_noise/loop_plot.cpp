#include "core/method/phase_noise/loop_plot.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <memory>
#include <numbers>

#include "core/method/phase_noise/loop_fit.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kLoopLowHz = 100.0;
constexpr double kLoopHighHz = 1e6;
constexpr int kLoopPerDecade = 40;
constexpr double kGainLow = -40.0;  ///< dB, of the upper panel
constexpr double kGainHigh = 80.0;
constexpr double kDegreesPerDb = 1.125;  ///< −180° stands on the 0 dB line

std::vector<double> loop_offsets() {
  std::vector<double> all;
  for (int k = 0;
       kLoopLowHz * std::pow(10.0, static_cast<double>(k) / kLoopPerDecade) <= kLoopHighHz * 1.0001;
       ++k)
    all.push_back(kLoopLowHz * std::pow(10.0, static_cast<double>(k) / kLoopPerDecade));
  return all;
}

PlotLayer line(const std::string& name, int trace, const std::vector<double>& hz,
               const std::function<double(double)>& y) {
  PlotLayer layer{PlotLayer::Kind::trace, name, trace, true, {}};
  layer.has_marks = false;
  for (const double f : hz) layer.points.push_back({f, y(f)});
  return layer;
}

Plot bare_plot(const std::vector<LoopRow>& rows, std::size_t which, const char* view) {
  Plot plot;
  plot.title = "Loop and its noise";
  plot.view = view;
  plot.x = {"offset", "Hz", true, std::pair(kLoopLowHz, kLoopHighHz)};
  plot.empty_words =
      "Type the loop among the settings: charge pump, VCO gain, N, R2, C1 and C2, and R3 and C3 "
      "if they are there.";
  if (!rows.empty()) plot.step = which;
  return plot;
}

PlotPanel noise_panel(const LoopRow& row, const NoiseCurve* measured, const LoopRow* built) {
  const std::vector<double> hz = loop_offsets();
  PlotPanel lower{{"L(f), dBc/Hz", ""}, {}};
  const double times = row.parts.multiplication * row.parts.multiplication;
  const LoopDesign design = row.design();
  double least = 1e9;
  double most = -1e9;
  struct Contributor {
    const char* name;
    double LoopNoise::* part;
    int trace;
  };
  constexpr double kLeastShare = 0.01;
  for (const Contributor& c : {Contributor{"oscillator", &LoopNoise::oscillator, 2},
                               Contributor{"detector", &LoopNoise::detector, 3},
                               Contributor{"reference", &LoopNoise::reference, 4},
                               Contributor{"resistors", &LoopNoise::resistors, 5},
                               Contributor{"supply", &LoopNoise::supply, 6}}) {
    double share = 0.0;
    for (const double f : hz) {
      const LoopNoise n = loop_noise(design, row.parts.noise, f);
      share = std::max(share, n.*c.part / n.total());
    }
    // What never matters only fills the plot.
    if (share < kLeastShare) continue;
    lower.layers.push_back(line(c.name, c.trace, hz, [&](double f) {
      return db_from_power_ratio(
          std::max(1e-25, times * (loop_noise(design, row.parts.noise, f).*c.part)));
    }));
  }
  if (built != nullptr && built->figures.is_stable()) {
    PlotLayer ghost = line("as built", 6, hz,
                           [&](double f) { return loop_level(built->parts, built->current_a, f); });
    ghost.is_ghost = true;
    lower.layers.push_back(std::move(ghost));
  }
  PlotLayer total =
      line("total", 1, hz, [&](double f) { return loop_level(row.parts, row.current_a, f); });
  total.is_bold = true;
  for (const PlotPoint& p : total.points) {
    least = std::min(least, p.y);
    most = std::max(most, p.y);
  }
  lower.layers.push_back(std::move(total));
  if (measured != nullptr) {
    auto dots = std::make_shared<Dots>();
    for (const CurvePoint& p : measured->points) {
      dots->x.push_back(p.offset_hz);
      dots->y.push_back(static_cast<float>(p.l_dbc_hz));
    }
    PlotLayer layer{PlotLayer::Kind::dots, "measured", 5, false, {}};
    layer.dots = std::move(dots);
    lower.layers.push_back(std::move(layer));
  }
  lower.y.range =
      std::pair(std::floor((least - 12.0) / 10.0) * 10.0, std::ceil((most + 5.0) / 10.0) * 10.0);
  return lower;
}

}  // namespace

Plot loop_noise_plot(const std::vector<LoopRow>& rows, std::size_t which,
                     const NoiseCurve* measured, const LoopRow* built) {
  Plot plot = bare_plot(rows, which, kLoopNoiseView);
  if (rows.empty() || !rows[which].figures.is_stable()) {
    if (!rows.empty())
      plot.empty_words = "It does not lock: there is no closed loop to tell the noise of.";
    PlotPanel none{{"L(f), dBc/Hz", ""}, {}};
    none.y.range = std::pair(-140.0, -60.0);
    plot.panels.push_back(std::move(none));
    return plot;
  }
  const LoopRow& row = rows[which];
  plot.panels.push_back(noise_panel(row, measured, built));
  plot.note = row.is_tried ? row.name + ", tried, not built" : row.name + ", as built";
  if (built != nullptr) plot.note += "; built: " + built->name;
  return plot;
}

Plot open_loop_plot(const std::vector<LoopRow>& rows, std::size_t which) {
  Plot plot = bare_plot(rows, which, kOpenLoopView);
  PlotPanel upper{{"gain, dB", ""}, {}};
  upper.y.range = std::pair(kGainLow, kGainHigh);
  if (rows.empty()) {
    plot.panels.push_back(std::move(upper));
    return plot;
  }
  const LoopRow& row = rows[which];
  const LoopDesign design = row.design();
  const std::vector<double> hz = loop_offsets();
  const auto db = [](double power) {
    return std::clamp(db_from_power_ratio(power), kGainLow, kGainHigh);
  };
  upper.layers.push_back(
      line("open loop", 1, hz, [&](double f) { return db(std::norm(open_loop(design, f))); }));
  if (row.figures.is_stable())
    upper.layers.push_back(line("closed loop", 2, hz,
                                [&](double f) { return db(std::norm(closed_loop(design, f))); }));
  PlotLayer phase = line("phase", 4, hz, [&](double f) {
    double degrees = std::arg(open_loop(design, f)) * 180.0 / std::numbers::pi;
    if (degrees > 0.0) degrees -= 360.0;
    return degrees;
  });
  phase.is_right = true;
  upper.layers.push_back(std::move(phase));
  PlotLayer zero{PlotLayer::Kind::guide, "", 1, true, {}};
  zero.points = {{kLoopLowHz, 0.0}, {kLoopHighHz, 0.0}};
  zero.ends_at_points = true;
  upper.layers.push_back(std::move(zero));
  PlotLayer marks{PlotLayer::Kind::moment, "", 1, false, {}};
  PlotPoint cross{row.figures.crossover_hz, 0.0, 2.0 * row.crossover.u() * 1e3};
  cross.word = "crossover " + figure_text(row.crossover, Rounding::compact) + ", " +
               figure_text(row.margin, Rounding::compact);
  marks.points.push_back(cross);
  upper.layers.push_back(marks);
  upper.y_right =
      PlotAxis{"open-loop phase, \u00b0", "", false,
               std::pair(-180.0 + kDegreesPerDb * kGainLow, -180.0 + kDegreesPerDb * kGainHigh)};
  plot.panels.push_back(std::move(upper));
  return plot;
}

}  // namespace heron
