#include "core/method/receiver/sensitivity_plot.h"

#include <algorithm>
#include <cmath>

#include "core/method/receiver/shared_parts.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

/// Over the band of which most frequencies were read, where that is a curve.
std::optional<PlotPanel> edge_panel(const std::vector<SensitivityBand>& bands) {
  constexpr std::size_t kCurve = 3;
  std::vector<std::size_t> best;
  for (std::size_t i = 0; i < bands.size(); ++i) {
    std::vector<std::size_t> same;
    for (std::size_t k = 0; k < bands.size(); ++k)
      if (bands[i].row.frequency_hz && bands[k].row.frequency_hz && bands[k].row.for_ten_db &&
          !bands[k].name.is_after &&
          is_same_band(*bands[i].row.frequency_hz, *bands[k].row.frequency_hz))
        same.push_back(k);
    if (same.size() >= kCurve && same.size() > best.size()) best = std::move(same);
  }
  if (best.empty()) return std::nullopt;
  std::sort(best.begin(), best.end(), [&](std::size_t a, std::size_t b) {
    return *bands[a].row.frequency_hz < *bands[b].row.frequency_hz;
  });
  PlotPanel panel{{"over the band, dBm", ""}, {}};
  PlotLayer curve{PlotLayer::Kind::trace, "", 1, true, {}};
  double least = 1e9;
  double most = -1e9;
  for (const std::size_t k : best) {
    const Figure& f = *bands[k].row.for_ten_db;
    curve.points.push_back(
        {*bands[k].row.frequency_hz / 1e6, f.value, 2.0 * f.independent_u(), f.bound, k});
    least = std::min(least, f.value);
    most = std::max(most, f.value);
  }
  const double width = curve.points.back().x - curve.points.front().x;
  panel.own_x = PlotAxis{"MHz", "", false,
                         std::pair(curve.points.front().x - 0.1 * width - 1e-3,
                                   curve.points.back().x + 0.1 * width + 1e-3)};
  panel.y.range = std::pair(least - 3.0, most + 3.0);
  panel.layers.push_back(std::move(curve));
  return panel;
}

/// Level for 10 dB with nothing but thermal noise.
std::optional<double> perfect_receiver_dbm(const std::vector<SensitivityBand>& bands) {
  for (const SensitivityBand& b : bands)
    if (b.reading.bandwidth_hz)
      return kThermalDbmHz + db_from_power_ratio(*b.reading.bandwidth_hz) + kTenDbSn;
  return std::nullopt;
}

/// The same levels in another unit.
PlotAxis right_axis(const std::string& wanted, const std::optional<double>& perfect_dbm,
                    const std::pair<double, double>& dbm) {
  PlotAxis axis;
  axis.setting = kRightAxis;
  if (wanted == "nf" && perfect_dbm) {
    axis.title = "NF, dB";
    axis.range = std::pair(dbm.first - *perfect_dbm, dbm.second - *perfect_dbm);
    return axis;
  }
  const bool is_emf = wanted == "emf";
  const auto microvolt = [is_emf](double level) {
    return (is_emf ? 2e6 : 1e6) * to_pd(to_watt(Dbm{level})).value;
  };
  axis.title = is_emf ? "\u00b5V EMF" : "\u00b5V PD";
  axis.is_logarithmic = true;
  axis.range = std::pair(microvolt(dbm.first), microvolt(dbm.second));
  return axis;
}

}  // namespace

Plot sensitivity_plot(const std::vector<SensitivityBand>& bands, const ReceiverPlan& plan) {
  Plot plot;
  plot.title = "Level for 10 dB over frequency";
  plot.x = {"Frequency", "Hz", true};
  plot.empty_words =
      "Nothing read yet. Set the generator to a band, read the audio without and with it at the "
      "same volume, and type both into the grid below; or drop recordings of both.";
  PlotPanel main{{"level for 10 dB (S+N)/N, dBm", ""}, {}};
  double low_hz = 1e300;
  double high_hz = 0.0;
  double least = 1e9;
  double most = -1e9;
  PlotLayer levels{PlotLayer::Kind::trace, "for 10 dB", 1, false, {}};
  PlotLayer limits{PlotLayer::Kind::limit, "limit", 1, false, {}};
  limits.is_joined = false;
  levels.hangs = true;
  for (std::size_t k = 0; k < bands.size(); ++k) {
    const SensitivityRow& r = bands[k].row;
    if (!r.frequency_hz || !(*r.frequency_hz > 0.0)) continue;
    low_hz = std::min(low_hz, *r.frequency_hz);
    high_hz = std::max(high_hz, *r.frequency_hz);
    if (r.for_ten_db) {
      PlotPoint p{*r.frequency_hz, r.for_ten_db->value, r.for_ten_db->expanded(),
                  r.for_ten_db->bound, k};
      p.word = number_text(p.y, p.bound == Bound::none ? 1 : 0);
      if (p.bound != Bound::none) p.word = "> " + p.word;
      if (r.limit) p.before = r.limit->value;
      if (r.judgement) p.verdict = r.judgement->verdict;
      levels.points.push_back(std::move(p));
      least = std::min(least, r.for_ten_db->value);
      if (!bands[k].reading.is_deaf) most = std::max(most, r.for_ten_db->value);
    }
    if (r.limit) {
      limits.points.push_back({*r.frequency_hz, r.limit->value, 0.0, Bound::none, k});
      most = std::max(most, r.limit->value);
      least = std::min(least, r.limit->value);
    }
  }
  if (levels.points.empty()) {
    plot.x.range = std::pair(1.5e6, 31e6);
    main.y.range = std::pair(-140.0, -100.0);
    plot.panels.push_back(std::move(main));
    return plot;
  }
  plot.x.range = std::pair(low_hz / 1.3, high_hz * 1.3);
  double bottom = least - 8.0;
  const std::optional<double> perfect = perfect_receiver_dbm(bands);
  if (perfect) {
    bottom = std::min(bottom, *perfect - 4.0);
    PlotLayer floor{PlotLayer::Kind::floor, "", 6, true, {}};
    floor.points = {{low_hz / 1.3, *perfect}, {high_hz * 1.3, *perfect}};
    floor.points.front().word =
        "a perfect receiver, NF 0 dB, hears " + number_text(*perfect, 1) + " dBm";
    main.layers.push_back(std::move(floor));
  }
  main.y.range = std::pair(std::floor(bottom / 2.0) * 2.0, std::ceil((most + 7.0) / 2.0) * 2.0);
  main.y_right = right_axis(plan.right_axis, perfect, *main.y.range);
  if (!limits.points.empty()) {
    // One for all bands is a line over all of them.
    const double level = limits.points.front().y;
    const auto is_same = [level](const PlotPoint& p) { return p.y == level; };
    if (std::all_of(limits.points.begin(), limits.points.end(), is_same)) {
      limits.is_joined = true;
      limits.ends_at_points = true;
      limits.points = {{low_hz / 1.2, level}, {high_hz * 1.2, level}};
    }
    main.layers.push_back(std::move(limits));
  }
  main.layers.push_back(std::move(levels));
  plot.note = plan.mode + (plan.bandwidth_hz ? ", " + frequency_text(*plan.bandwidth_hz) : "") +
              " \u00b7 " + plan.point.place + ", " + plan.point.impedance;
  plot.panels.push_back(std::move(main));
  if (auto edges = edge_panel(bands)) plot.panels.push_back(std::move(*edges));
  return plot;
}

}  // namespace heron
