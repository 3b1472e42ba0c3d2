#include "core/method/plot_scale.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr std::array<const char*, 4> kPrefixes{"", "k", "M", "G"};

}  // namespace

double nice_step(double range, int wanted) {
  const double raw = range / std::max(1, wanted);
  const double decade = std::pow(10.0, std::floor(std::log10(raw)));
  for (const double m : {1.0, 2.0, 5.0}) {
    if (m * decade >= raw * (1.0 - 1e-9)) return m * decade;
  }
  return 10.0 * decade;
}

std::vector<double> decade_ticks(double from, double to, int wanted) {
  const auto ticks = [&](std::initializer_list<double> of_decade) {
    std::vector<double> all;
    for (double decade = std::pow(10.0, std::floor(std::log10(from))); decade <= to;
         decade *= 10.0) {
      for (const double m : of_decade) {
        if (m * decade >= from && m * decade <= to) all.push_back(m * decade);
      }
    }
    return all;
  };
  const std::vector<double> few = ticks({1.0, 2.0, 5.0});
  const bool are_enough = 5 * few.size() >= 3 * static_cast<std::size_t>(wanted);
  return are_enough ? few : ticks({1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0});
}

PlotScale::PlotScale(double from, double to, bool is_logarithmic,
                     std::vector<std::pair<double, std::string>> names)
    : from_(from),
      to_(to),
      is_log_(is_logarithmic && from > 0.0 && to > from),
      names_(std::move(names)) {
  if (!(to_ > from_)) to_ = from_ + std::max(1.0, std::abs(from_) * 0.1);
  const double size = std::max(std::abs(from_), std::abs(to_));
  constexpr double kWideDecades = 3.8;
  is_wide_ = is_log_ && std::log10(to_ / from_) > kWideDecades;
  thousand_ = is_wide_ ? 0 : size >= 2e9 ? 3 : size >= 2e6 ? 2 : size >= 2e3 ? 1 : 0;
}

double PlotScale::share(double value) const {
  if (is_log_)
    return value > 0.0 ? std::clamp(std::log(value / from_) / std::log(to_ / from_), 0.0, 1.0)
                       : 0.0;
  return std::clamp((value - from_) / (to_ - from_), 0.0, 1.0);
}

std::vector<double> PlotScale::ticks(int wanted) const {
  if (!names_.empty()) {
    std::vector<double> named;
    for (const auto& [at, name] : names_)
      if (at >= from_ && at <= to_) named.push_back(at);
    return named;
  }
  if (is_wide_) {
    std::vector<double> all;
    constexpr double kNear = 1e-6;
    for (double lg = std::ceil(std::log10(from_) - kNear); lg <= std::log10(to_) + kNear; lg += 1.0)
      all.push_back(std::pow(10.0, lg));
    return all;
  }
  if (is_log_) {
    const std::vector<double> decades = decade_ticks(from_, to_, wanted);
    if (decades.size() >= 2) return decades;
  }
  std::vector<double> all;
  const double step = nice_step(to_ - from_, wanted);
  for (double v = std::ceil(from_ / step - 1e-9) * step; v <= to_ + 1e-9 * step; v += step)
    all.push_back(v);
  return all;
}

std::string PlotScale::label(double tick) const {
  for (const auto& [at, name] : names_)
    if (at == tick) return name;
  if (is_wide_ && tick >= 1e3) {
    const int own = tick >= 1e9 ? 3 : tick >= 1e6 ? 2 : 1;
    return number_text(tick / std::pow(1000.0, own), 0) + kPrefixes[static_cast<std::size_t>(own)];
  }
  const double value = tick / std::pow(1000.0, thousand_);
  int decimals = 0;
  while (decimals < 4 && std::abs(value * std::pow(10.0, decimals) -
                                  std::round(value * std::pow(10.0, decimals))) > 1e-6)
    ++decimals;
  return number_text(value, decimals);
}

std::string PlotScale::unit(const std::string& base) const {
  return kPrefixes[static_cast<std::size_t>(thousand_)] + base;
}

std::vector<std::pair<double, double>> line_between(const PlotLayer& layer, const PlotPoint& from,
                                                    const PlotPoint& to) {
  constexpr int kPieces = 24;  // of a line that bends on this axis
  const bool is_bent = layer.is_straight_in_log_x && from.x > 0.0 && to.x > 0.0;
  if (!is_bent) return {{from.x, from.y}, {to.x, to.y}};
  std::vector<std::pair<double, double>> line;
  for (int k = 0; k <= kPieces; ++k) {
    const double part = static_cast<double>(k) / kPieces;
    line.emplace_back(from.x * std::pow(to.x / from.x, part), from.y + part * (to.y - from.y));
  }
  return line;
}

std::string handle_words(const PlotLayer& layer, double x) {
  return number_text(x, 1) + " " + layer.points.front().word;
}

PlotScale x_scale(const Plot& plot) {
  // Linear, such an axis begins at nothing.
  if (plot.x.range && plot.x.can_be_either && !plot.x.is_logarithmic)
    return {0.0, plot.x.range->second, false};
  if (plot.x.range) return {plot.x.range->first, plot.x.range->second, plot.x.is_logarithmic};
  double least = std::numeric_limits<double>::infinity();
  double most = -least;
  for (const PlotPanel& panel : plot.panels) {
    for (const PlotLayer& layer : panel.layers) {
      for (const PlotPoint& p : layer.points) {
        least = std::min(least, p.x);
        most = std::max(most, p.x);
      }
    }
  }
  if (!(least <= most)) return {1.0, 10.0, plot.x.is_logarithmic};
  if (plot.x.is_logarithmic && least > 0.0) return {least / 1.3, most * 1.3, true};
  const double room = std::max((most - least) * 0.05, 1e-9 + std::abs(most) * 0.02);
  return {least - room, most + room, false};
}

namespace {

PlotScale scale_of(const PlotPanel& panel, const PlotAxis& axis, bool is_right) {
  if (axis.range) return {axis.range->first, axis.range->second, axis.is_logarithmic, axis.names};
  double least = std::numeric_limits<double>::infinity();
  double most = -least;
  for (const PlotLayer& layer : panel.layers) {
    // A moment is a place on x only.
    if (layer.is_right != is_right || layer.kind == PlotLayer::Kind::moment) continue;
    for (const PlotPoint& p : layer.points) {
      least = std::min(least, p.interval ? p.interval->first : p.y - p.expanded);
      most = std::max(most, p.interval ? p.interval->second : p.y + p.expanded);
    }
  }
  if (!(least <= most))
    return {axis.is_logarithmic ? 1.0 : 0.0, axis.is_logarithmic ? 10.0 : 1.0, axis.is_logarithmic};
  if (axis.is_logarithmic && least > 0.0) return {least / 1.5, most * 1.5, true};
  const double room = std::max((most - least) * 0.12, std::abs(most) * 0.03 + 1e-9);
  // Powers and shares begin at nothing where that costs little.
  const double bottom = least >= 0.0 && least - room < 0.4 * most ? 0.0 : least - room;
  return {bottom, most + room, false};
}

}  // namespace

PlotScale y_scale(const PlotPanel& panel) {
  return scale_of(panel, panel.y, false);
}

PlotScale right_scale(const PlotPanel& panel) {
  return panel.y_right ? scale_of(panel, *panel.y_right, true) : y_scale(panel);
}

}  // namespace heron
