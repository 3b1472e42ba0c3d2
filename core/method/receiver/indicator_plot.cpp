#include "core/method/receiver/indicator_plot.h"

#include <algorithm>
#include <cmath>

#include "core/quantity/format.h"

namespace heron {
namespace {

PlotLayer trace_of(const BandScale& b, int trace) {
  PlotLayer layer{PlotLayer::Kind::trace, b.name, trace, true, {}};
  for (const IndicatorPoint& p : b.scale.points) {
    layer.points.push_back({p.level_dbm, p.reading.db});
    layer.points.back().mark = reading_mark(p);
  }
  return layer;
}

/// As it stands on the indicator, not in dB.
std::vector<std::pair<double, std::string>> reading_names() {
  std::vector<std::pair<double, std::string>> all;
  for (const double db : {-48.0, -36.0, -24.0, -12.0, 0.0, 20.0, 40.0, 60.0, 80.0})
    all.emplace_back(db, db > 0.0 ? number_text(db, 0, true) : indicator_text(db));
  return all;
}

/// How far S9 is from where it ought to be, beside its point.
PlotLayer s9_words(const BandScale& b) {
  PlotLayer layer{PlotLayer::Kind::label, "", 1, true, {}};
  if (!b.scale.s9 || !b.scale.s9_error) return layer;
  const double early = b.scale.s9_error->value;
  PlotPoint at{b.scale.s9->value, 4.0};  // over the lines
  at.word =
      "S9 comes " + number_text(std::abs(early), 1) + " dB too " + (early > 0.0 ? "early" : "late");
  at.is_left = early > 0.0;
  if (std::abs(early) > b.scale.s9_error->expanded()) layer.points.push_back(std::move(at));
  return layer;
}

Plot scale_plot(const std::vector<BandScale>& bands, std::size_t which, const IndicatorPlan& plan) {
  const BandScale& b = bands[which];
  Plot plot = nothing_read_plot();
  plot.panels.clear();
  plot.note = "S1 to S9: 6 dB each, then dB over S9";
  PlotPanel main{{"reading", ""}, {}};
  main.y.names = reading_names();
  double low = 1e9;
  double high = -1e9;
  double least = -54.0;
  double most = 10.0;
  for (const IndicatorPoint& p : b.scale.points) {
    low = std::min(low, p.level_dbm);
    high = std::max(high, p.level_dbm);
    least = std::min(least, p.reading.db - 3.0);
    most = std::max(most, p.reading.db + 6.0);
  }
  low = std::floor((low - 5.0) / 5.0) * 5.0;
  high = std::ceil((high + 5.0) / 5.0) * 5.0;
  plot.x.range = std::pair(low, high);
  const auto ideal = [&](const std::string& name, double s9_dbm, PlotLayer::Kind kind) {
    PlotLayer line{kind, name, 1, true, {}};
    const double from = std::max(low, s9_dbm + least);
    const double to = std::min(high, s9_dbm + most);
    if (to > from) line.points = {{from, from - s9_dbm}, {to, to - s9_dbm}};
    line.ends_at_points = true;
    return line;
  };
  if (plan.handbook_dbm && !plan.is_handbook)
    main.layers.push_back(ideal("handbook\u2019s S9", *plan.handbook_dbm, PlotLayer::Kind::guide));
  main.layers.push_back(ideal("ideal", b.s9_dbm, PlotLayer::Kind::limit));
  for (std::size_t i = 0; i < bands.size(); ++i) {
    if (i == which || bands[i].scale.is_segments || bands[i].scale.points.size() < 2) continue;
    PlotLayer other = trace_of(bands[i], 6);
    other.has_marks = false;
    other.is_ghost = true;
    main.layers.push_back(std::move(other));
  }
  PlotLayer own = trace_of(b, 1);
  main.layers.push_back(std::move(own));
  if (PlotLayer words = s9_words(b); !words.is_empty()) main.layers.push_back(std::move(words));
  main.y.range = std::pair(least, most);
  plot.panels.push_back(std::move(main));
  if (b.scale.errors_db.empty()) return plot;
  PlotPanel strip{{"error, dB: shown less true", ""}, {}};
  PlotLayer error{PlotLayer::Kind::trace, "", 1, true, {}};
  double widest = kUnitToleranceDb + 2.0;
  for (std::size_t i = 0; i < b.scale.points.size(); ++i) {
    error.points.push_back(
        {b.scale.points[i].level_dbm, b.scale.errors_db[i], 2.0 * b.scale.points[i].u_db});
    error.points.back().mark = reading_mark(b.scale.points[i]);
    widest = std::max(widest, std::abs(b.scale.errors_db[i]) + 2.0);
  }
  for (const double edge : {-kUnitToleranceDb, kUnitToleranceDb}) {
    PlotLayer line{PlotLayer::Kind::guide, "", 1, true, {{low, edge}, {high, edge}}};
    line.ends_at_points = true;
    strip.layers.push_back(std::move(line));
  }
  // What lies between zero and it is what the indicator makes of a signal.
  PlotLayer filled{PlotLayer::Kind::band, "", 1, true, {}};
  for (PlotPoint point : error.points) {
    point.before = 0.0;
    point.expanded = 0.0;
    filled.points.push_back(point);
  }
  strip.layers.insert(strip.layers.begin(), std::move(filled));
  strip.layers.push_back(std::move(error));
  strip.y.range = std::pair(-widest, widest);
  for (const double db : {-kUnitToleranceDb, 0.0, kUnitToleranceDb})
    strip.y.names.emplace_back(db, number_text(db, 0, true));
  plot.panels.push_back(std::move(strip));
  return plot;
}

/// Where each lights going up, and goes out coming down.
Plot segment_plot(const BandScale& b) {
  Plot plot = nothing_read_plot();
  plot.panels.clear();
  PlotPanel main{{"segments", ""}, {}};
  PlotLayer lights{PlotLayer::Kind::trace, "lights", 1, true, {}};
  PlotLayer goes_out{PlotLayer::Kind::trace, "goes out", 2, true, {}};
  double low = 1e9;
  double high = -1e9;
  double most = 1.0;
  for (const IndicatorPoint& p : b.scale.points) {
    PlotPoint point{p.level_dbm, p.reading.segments};
    if (p.is_without_signal) point.bound = Bound::upper;
    lights.points.push_back(point);
    if (p.goes_out_dbm) goes_out.points.push_back({*p.goes_out_dbm, p.reading.segments});
    low = std::min({low, p.level_dbm, p.goes_out_dbm.value_or(p.level_dbm)});
    high = std::max(high, p.level_dbm);
    most = std::max(most, p.reading.segments);
  }
  plot.x.range = std::pair(low - 5.0, high + 5.0);
  main.y.range = std::pair(0.0, most + 1.0);
  main.layers.push_back(std::move(lights));
  if (!goes_out.points.empty()) main.layers.push_back(std::move(goes_out));
  plot.panels.push_back(std::move(main));
  return plot;
}

}  // namespace

std::string reading_mark(const IndicatorPoint& point) {
  return point.reading.is_segments ? number_text(point.reading.segments, 0)
                                   : indicator_text(point.reading.db);
}

Plot nothing_read_plot() {
  Plot plot;
  plot.title = "What the indicator shows";
  plot.x = {"dBm", "", false, std::pair(-125.0, -25.0)};
  plot.empty_words =
      "Nothing read yet. Raise the generator from below until the indicator shows S1, S3 and so "
      "on, and type the level of each; call the rows by band and reading, such as \u201c14.2 "
      "MHz, "
      "S9\u201d, or by the number of segments.";
  PlotPanel main{{"reading", ""}, {}};
  main.y.names = reading_names();
  main.y.range = std::pair(-54.0, 40.0);
  plot.panels.push_back(std::move(main));
  return plot;
}

Plot indicator_plot(const std::vector<BandScale>& bands, std::size_t which,
                    const IndicatorPlan& plan) {
  return bands[which].scale.is_segments ? segment_plot(bands[which])
                                        : scale_plot(bands, which, plan);
}

}  // namespace heron
