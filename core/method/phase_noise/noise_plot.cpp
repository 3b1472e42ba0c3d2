#include "core/method/phase_noise/noise_plot.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr std::size_t kNamedLines = 6;
constexpr double kFloorOverDb = 3.0;  ///< drawn so far above itself: below that it spoils a reading

Verdict tint_of(NoiseChange change) {
  return change == NoiseChange::better  ? Verdict::pass
         : change == NoiseChange::worse ? Verdict::fail
                                        : Verdict::not_taken;
}

/// "better by 7 to 8 dB", "no difference".
std::string range_words(const NoiseRange& r) {
  if (r.change == NoiseChange::none) return "no difference";
  const double most = r.change == NoiseChange::better ? -r.delta_db_min : r.delta_db_max;
  return change_word(r.change) + " by up to " + number_text(most, most < 3.0 ? 1 : 0) + " dB";
}

}  // namespace

std::pair<double, double> decades_round(double low_hz, double high_hz) {
  constexpr double kNear = 0.35;  // of a decade: a curve that ends just beyond needs none more
  const double from = std::floor(std::log10(low_hz) + kNear);
  const double to = std::max(from + 1.0, std::ceil(std::log10(high_hz) - kNear));
  return {std::pow(10.0, from), std::pow(10.0, to)};
}

PlotLayer curve_layer(const NoiseCurve& curve, const std::string& name, int trace) {
  PlotLayer layer{PlotLayer::Kind::trace, name, trace, true, {}};
  layer.has_marks = false;
  for (const CurvePoint& p : curve.points) {
    PlotPoint point{p.offset_hz, p.l_dbc_hz};
    point.bound = p.bound;
    layer.points.push_back(point);
  }
  return layer;
}

PlotLayer scatter_band(const NoiseCurve& curve, int trace) {
  PlotLayer band{PlotLayer::Kind::band, "", trace, true, {}};
  for (const CurvePoint& p : curve.points) {
    PlotPoint point{p.offset_hz, p.l_dbc_hz + 2.0 * p.u_db};
    point.before = p.l_dbc_hz - 2.0 * p.u_db;
    band.points.push_back(point);
  }
  return band;
}

PlotLayer floor_layer(const NoiseCurve& floor, double low_hz, double high_hz) {
  PlotLayer layer{PlotLayer::Kind::floor, "", 6, true, {}};
  for (const CurvePoint& p : floor.points)
    if (p.offset_hz >= low_hz && p.offset_hz <= high_hz)
      layer.points.push_back({p.offset_hz, p.l_dbc_hz + kFloorOverDb});
  if (!layer.points.empty()) layer.points.front().word = "The instrument\u2019s own noise";
  return layer;
}

PlotPanel difference_panel(const NoiseComparison& c, const std::string& title, int trace) {
  PlotPanel strip{{title, ""}, {}};
  PlotLayer line{PlotLayer::Kind::trace, "", trace, true, {}};
  line.has_marks = false;
  PlotLayer band{PlotLayer::Kind::band, "", trace, true, {}};
  double most = 2.0;
  for (const NoiseDifference& d : c.differences) {
    PlotPoint p{d.offset_hz, d.delta_db};
    if (d.is_bound()) p.bound = Bound::upper;
    line.points.push_back(p);
    PlotPoint edge{d.offset_hz, d.delta_db + 2.0 * d.u_db};
    edge.before = d.delta_db - 2.0 * d.u_db;
    band.points.push_back(edge);
    most = std::max(most, std::abs(d.delta_db));
  }
  if (std::any_of(c.differences.begin(), c.differences.end(),
                  [](const auto& d) { return d.has_u; }))
    strip.layers.push_back(std::move(band));
  PlotLayer zero{PlotLayer::Kind::guide, "", 1, true, {}};
  if (!line.points.empty())
    zero.points = {{line.points.front().x, 0.0}, {line.points.back().x, 0.0}};
  zero.ends_at_points = true;
  strip.layers.push_back(std::move(zero));
  strip.layers.push_back(std::move(line));
  strip.y.range = std::pair(-std::ceil(1.15 * most), std::ceil(1.15 * most));
  for (const NoiseRange& r : c.ranges) {
    PlotRange range{r.low_hz, r.high_hz, range_words(r), r.change != NoiseChange::none};
    range.verdict = tint_of(r.change);
    strip.ranges.push_back(range);
  }
  return strip;
}

Plot noise_plot(const NoiseStates& states, const NoiseComparison* comparison,
                std::pair<double, double> counted, bool shows_am) {
  Plot plot;
  plot.title = "Phase noise over offset";
  plot.x = {"offset", "Hz", true};
  plot.empty_words =
      "Nothing measured yet. Record the carrier for 60 s, or drop analyser traces or a table here; "
      "a file called \u201cbefore\u201d and one called \u201cafter\u201d are compared.";
  PlotPanel main{{"L(f), dBc/Hz \u00b7 stems: lines, dBc", ""}, {}};
  const NoiseState* after = states.after();
  if (after == nullptr) {
    plot.x.range = std::pair(10.0, 1e6);
    main.y.range = std::pair(-140.0, -40.0);
    plot.panels.push_back(std::move(main));
    return plot;
  }
  double low_hz = after->curve.low_hz();
  double high_hz = after->curve.high_hz();
  double least = 1e9;
  double most = -1e9;
  const auto see = [&](double v) {
    least = std::min(least, v);
    most = std::max(most, v);
  };
  for (const NoiseState& s : states.all) {
    low_hz = std::min(low_hz, s.curve.low_hz());
    high_hz = std::max(high_hz, s.curve.high_hz());
    for (const CurvePoint& p : s.curve.points) see(p.l_dbc_hz);
    for (const NoiseSpur& line : s.curve.spurs) see(line.level_dbc);
  }
  if (states.floor) main.layers.push_back(floor_layer(*states.floor, low_hz, high_hz));
  if (after->curve.has_u) main.layers.push_back(scatter_band(after->curve, 1));
  if (const NoiseState* before = states.before()) {
    PlotLayer ghost = curve_layer(before->curve, before->name, 6);
    ghost.is_ghost = true;
    main.layers.push_back(std::move(ghost));
  }
  // Those in between are there without being compared.
  for (std::size_t i = 1; i + 1 < states.all.size(); ++i)
    main.layers.push_back(
        curve_layer(states.all[i].curve, states.all[i].name, 2 + static_cast<int>((i - 1) % 4)));
  if (states.yardstick)
    main.layers.push_back(curve_layer(states.yardstick->curve, states.yardstick->name, 3));
  if (shows_am && !after->curve.am.empty()) {
    NoiseCurve am = after->curve;
    am.points = am.am;
    main.layers.push_back(curve_layer(am, "amplitude", 4));
    for (const CurvePoint& p : am.points) see(p.l_dbc_hz);
  }
  PlotLayer line = curve_layer(after->curve, after->name, 1);
  line.is_bold = true;
  main.layers.push_back(std::move(line));
  PlotLayer stems{PlotLayer::Kind::stem, "", 1, false, {}};
  std::vector<NoiseSpur> lines = after->curve.spurs;
  std::sort(lines.begin(), lines.end(),
            [](const NoiseSpur& a, const NoiseSpur& b) { return a.level_dbc > b.level_dbc; });
  if (lines.size() > kNamedLines) lines.resize(kNamedLines);
  for (const NoiseSpur& s : lines) {
    PlotPoint p{s.offset_hz, s.level_dbc};
    p.mark = frequency_text(s.offset_hz);
    stems.points.push_back(p);
  }
  if (comparison != nullptr)
    for (const NoiseSpur& s : comparison->lost) {
      PlotPoint p{s.offset_hz, s.level_dbc};
      p.is_pale = true;
      stems.points.push_back(p);
    }
  if (!stems.points.empty()) main.layers.push_back(std::move(stems));
  PlotRange window{counted.first, counted.second, "", true};
  window.is_window = true;
  window.low_setting = "low_hz";
  window.high_setting = "high_hz";
  main.ranges.push_back(window);
  main.brackets.push_back(
      {counted.first, counted.second,
       "counted: " + frequency_text(counted.first) + " to " + frequency_text(counted.second)});
  // Room for the bracket above all that is drawn.
  main.y.range =
      std::pair(std::floor((least - 10.0) / 10.0) * 10.0, std::ceil((most + 15.0) / 10.0) * 10.0);
  const auto [from, to] = decades_round(low_hz, high_hz);
  plot.x.range = std::pair(from, to);
  plot.note = "offset from the carrier";
  if (after->curve.per_decade > 0)
    plot.note += fmt::format(" \u00b7 {} bins a decade", after->curve.per_decade);
  if (after->curve.length_s > 0.0) plot.note += " \u00b7 " + duration_text(after->curve.length_s);
  if (after->curve.detector == NoiseDetector::power_average) plot.note += " \u00b7 mean power";
  if (after->curve.detector == NoiseDetector::log_average) plot.note += " \u00b7 log average";
  plot.panels.push_back(std::move(main));
  if (comparison != nullptr)
    plot.panels.push_back(
        difference_panel(*comparison, after->name + " \u2212 " + states.before()->name + ", dB"));
  return plot;
}

}  // namespace heron
