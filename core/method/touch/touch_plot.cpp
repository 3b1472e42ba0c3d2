#include "core/method/touch/touch_plot.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kLowShare = 0.25;  ///< of all levels are told as nothing
constexpr double kHeadroomDb = 12.0;
constexpr double kSameFilter = 0.02;

PlotAxis offset_axis(double span_hz) {
  return {"offset", "Hz", false, std::pair(-span_hz, span_hz)};
}

PlotLayer spectrum_layer(const TouchBand& band, std::vector<float> levels, const std::string& name,
                         int trace) {
  auto curve = std::make_shared<Curve>();
  curve->id = "spectrum";
  curve->label = name;
  curve->x_unit = "Hz";
  curve->y_unit = "dB";
  curve->x_step = band.bin_hz;
  const std::size_t side = levels.size() / 2;
  curve->x_start = -band.bin_hz * static_cast<double>(side);
  curve->y = std::move(levels);
  PlotLayer layer{PlotLayer::Kind::curve, name, trace, true, {}};
  layer.curve = std::move(curve);
  return layer;
}

/// Beside the carrier, on both sides.
void add_limit(PlotPanel& panel, const Limit& limit, const TouchPlan& plan, double span_hz) {
  PlotLayer left{PlotLayer::Kind::limit, "Limit " + number_text(limit.value, 0), 1, true, {}};
  left.points = {{-span_hz, limit.value}, {-plan.least_hz, limit.value}};
  left.ends_at_points = true;
  PlotLayer right = left;
  right.name.clear();
  right.points = {{plan.least_hz, limit.value}, {span_hz, limit.value}};
  panel.layers.push_back(std::move(left));
  panel.layers.push_back(std::move(right));
}

}  // namespace

std::string touch_filter_words(const TouchBand& band) {
  return "in " + number_text(band.rbw_hz, 0) + " Hz";
}

PlotPicture touch_picture(const TouchRecord& record, const TouchPlan& plan) {
  const TouchBand& band = record.band_for(plan.span_hz);
  const std::size_t bins = 1 + static_cast<std::size_t>(std::min(plan.span_hz / band.bin_hz,
                                                                 static_cast<double>(band.side)));
  auto levels = std::make_shared<std::vector<float>>();
  levels->reserve(record.frames * bins);
  std::vector<float> known;
  float most = -1e9F;
  const auto least_bin = static_cast<std::size_t>(std::ceil(plan.least_hz / band.bin_hz));
  for (std::size_t f = 0; f < record.frames; ++f) {
    const std::vector<double> power = one_sided(band, f, bins);
    for (std::size_t k = 0; k < bins; ++k) {
      const float db = power.empty()
                           ? std::numeric_limits<float>::quiet_NaN()
                           : static_cast<float>(db_from_power_ratio(std::max(1e-20, power[k])));
      levels->push_back(db);
      if (power.empty() || k < least_bin) continue;
      known.push_back(db);
      most = std::max(most, db);
    }
  }
  PlotPicture p;
  p.columns = record.frames;
  p.rows = bins;
  p.x = {record.first_s - record.frame_s / 2.0,
         record.time_s(record.frames - 1) + record.frame_s / 2.0};
  p.y = {-band.bin_hz / 2.0, band.bin_hz * (static_cast<double>(bins) - 0.5)};
  p.levels = std::move(levels);
  p.unit = "dBc " + touch_filter_words(band);
  if (!known.empty()) {
    const auto low = known.begin() +
                     static_cast<std::ptrdiff_t>(kLowShare * static_cast<double>(known.size() - 1));
    std::nth_element(known.begin(), low, known.end());
    p.lowest = std::floor(static_cast<double>(*low) / 10.0) * 10.0;
    p.highest = std::max(p.lowest + 20.0, std::ceil(static_cast<double>(most) / 10.0) * 10.0);
  }
  return p;
}

Plot empty_touch_plot(const TouchPlan& plan) {
  Plot plot;
  plot.title = "Spectra while it is touched";
  plot.x = offset_axis(plan.span_hz);
  plot.empty_words =
      "Nothing recorded yet. Record the carrier for a minute with the case open, hands off first; "
      "then tap, touch and change the supply one after the other, and note when. Or drop a "
      "recording here.";
  PlotPanel main{{"dB relative to the carrier", ""}, {}};
  main.y.range = std::pair(-90.0, 0.0);
  plot.panels.push_back(std::move(main));
  return plot;
}

Plot touch_plot(const TouchRecord& record, const TouchPlan& plan, const TouchTest& test,
                std::size_t chosen, const std::optional<Limit>& limit, const PlotPicture& picture,
                const std::vector<TouchBeside>& beside) {
  const TouchBand& band = record.band_for(plan.span_hz);
  const TouchReading& reading = test.readings[chosen];
  const TouchReading* quiet =
      test.reference && *test.reference != chosen ? &test.readings[*test.reference] : nullptr;
  // A highest one of more frames is higher: all are of equally many.
  std::size_t frames = reading.to - reading.from;
  if (quiet != nullptr) frames = std::min(frames, quiet->to - quiet->from);
  Plot plot;
  plot.title = "Spectra while it is touched";
  plot.step = chosen;
  const double span = std::min(plan.span_hz, band.reach_hz());
  plot.x = offset_axis(span);
  PlotPanel main{{"dB relative to the carrier", ""}, {}};
  double least = 0.0;
  const auto add = [&](const TouchRecord& of, const TouchReading& r, int trace) {
    // Only what was seen through the same filter stands side by side.
    if (std::abs(of.band_for(plan.span_hz).rbw_hz / band.rbw_hz - 1.0) > kSameFilter) return;
    std::vector<float> levels = touch_spectrum(of, r, span, plan.shows_mean, frames);
    if (levels.empty()) return;
    std::vector<float> copy = levels;
    const auto low = copy.begin() + static_cast<std::ptrdiff_t>(copy.size() / 20);
    std::nth_element(copy.begin(), low, copy.end());
    least = std::min(least, static_cast<double>(*low));
    main.layers.push_back(
        spectrum_layer(of.band_for(plan.span_hz), std::move(levels), r.event.words, trace));
  };
  if (limit) add_limit(main, *limit, plan, span);
  int trace = 2;
  for (const TouchBeside& other : beside) {
    TouchReading all;
    all.event.words = other.name;
    all.to = other.record->frames;
    add(*other.record, all, trace);
    trace = trace == 5 ? 2 : trace + 1;
  }
  if (quiet != nullptr) add(record, *quiet, 6);
  add(record, reading, 1);
  if (const TouchLine* line = reading.line(); line != nullptr) {
    PlotPoint p{line->offset_hz, line->level.value};
    p.word = frequency_text(std::round(line->offset_hz)) + ": " + number_text(line->level.value, 1);
    if (line->level.bound == Bound::none)
      main.layers.push_back({PlotLayer::Kind::pole, "", 1, false, {p}});
  }
  main.y.range = std::pair(std::floor(least / 10.0) * 10.0 - 5.0, kHeadroomDb);
  plot.note =
      (record.rf_hz ? frequency_text(std::round(*record.rf_hz / 1e3) * 1e3) + " \u00b7 " : "") +
      touch_filter_words(band) + " \u00b7 ";
  plot.note += record.frames == 1
                   ? std::string("one trace")
                   : fmt::format("{} over {} s", plan.shows_mean ? "mean" : "highest",
                                 number_text(record.frame_s * static_cast<double>(frames), 1));
  plot.panels.push_back(std::move(main));
  // Of a trace there is nothing over time.
  constexpr std::size_t kLeastColumns = 4;
  if (record.frames < kLeastColumns) return plot;
  PlotPanel over_time{{"offset, Hz", ""}, {}};
  over_time.own_x = PlotAxis{"time", "s", false, std::pair(0.0, record.length_s)};
  over_time.y.range = std::pair(0.0, span);
  over_time.picture = picture;
  for (std::size_t i = 0; i < test.readings.size(); ++i) {
    const TouchEvent& e = test.readings[i].event;
    PlotRange lane{e.from_s, e.to_s, e.words};
    lane.step = i;
    over_time.lanes.push_back(std::move(lane));
  }
  plot.panels.push_back(std::move(over_time));
  return plot;
}

}  // namespace heron
