#include "core/method/amplifier/gain_plot.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kRoom = 1.0;  // dB beside the lowest and the highest drive

class GainPlots {
 public:
  GainPlots(const Amplification& a, const AmplifierPlan& plan, const GainLook& look)
      : a_(a), plan_(plan), look_(look) {
    for (const DrivenRow& r : a.rows) {
      if (!r.input_dbm) continue;
      low_ = std::min(low_, *r.input_dbm);
      high_ = std::max(high_, *r.input_dbm);
    }
    if (plan.rated_input_dbm && low_ <= high_) high_ = std::max(high_, *plan.rated_input_dbm);
    if (!(low_ <= high_)) {
      low_ = plan.rated_input_dbm.value_or(30.0) - 20.0;
      high_ = plan.rated_input_dbm.value_or(30.0);
    }
    low_ -= kRoom;
    high_ += kRoom;
  }

  Plot output() const {
    Plot plot = empty("Output over drive", kGainView);
    PlotPanel main{axis("Output"), {}};
    main.layers = {ideal(), limit(), other(false), measured(), one_db(true)};
    zone(main);
    plot.panels.push_back(std::move(main));
    PlotPanel strip{{"Gain, dB", ""}, {}};
    strip.layers = {gain(), level("1 dB down", a_.curve.gain_db() - 1.0, a_.rising.size() > 1),
                    efficiency(), other(true), one_db(false)};
    const auto [least, most] = gain_range();
    strip.y.range = std::pair(least, most);
    if (!strip.layers[2].points.empty()) {
      strip.y_right = PlotAxis{"Efficiency, %", ""};
      strip.y_right->range = std::pair(0.0, 80.0);
    }
    zone(strip);
    for (PlotRange& r : strip.ranges) r.word.clear();
    if (!a_.rising.empty()) plot.panels.push_back(std::move(strip));
    return plot;
  }

  Plot heat() const {
    Plot plot = empty("DC power and heat", kHeatView);
    PlotPanel main{{"Power, W", ""}, {}};
    PlotLayer dc{PlotLayer::Kind::trace, "DC", 4, true, {}};
    PlotLayer warm{PlotLayer::Kind::trace, "heat", 2, true, {}};
    PlotLayer out{PlotLayer::Kind::trace, "output", 1, true, {}};
    PlotPanel strip{{"Current, A", ""}, {}};
    PlotLayer amperes{PlotLayer::Kind::trace, "current", 4, true, {}};
    PlotLayer volts{PlotLayer::Kind::trace, "volts", 3, true, {}};
    volts.is_right = true;
    for (const std::size_t i : a_.rising) {
      const DrivenRow& r = a_.rows[i];
      const double x = place(r.input->value);
      if (r.heat) {
        const double watt = r.volts->value * r.amperes->value;
        dc.points.push_back({x, watt, 0.0, Bound::none, i});
        warm.points.push_back({x, r.heat->value, r.heat->expanded(), Bound::none, i});
        const Figure w = in_watts(*r.output);
        out.points.push_back({x, w.value, w.expanded(), Bound::none, i});
      }
      if (r.amperes)
        amperes.points.push_back({x, r.amperes->value, r.amperes->expanded(), Bound::none, i});
      if (r.volts) volts.points.push_back({x, r.volts->value, r.volts->expanded(), Bound::none, i});
    }
    main.layers = {dc, warm, out};
    plot.panels.push_back(std::move(main));
    strip.layers = {amperes, volts};
    if (plan_.supply_limit_a)
      strip.layers.push_back(across("supply stops", *plan_.supply_limit_a, PlotLayer::Kind::limit));
    if (!volts.points.empty()) {
      strip.y_right = PlotAxis{"Supply, V", ""};
      const double top = plan_.nominal_v.value_or(volts.points.front().y);
      strip.y_right->range = std::pair(0.8 * top, 1.05 * top);
    }
    if (!amperes.points.empty()) plot.panels.push_back(std::move(strip));
    return plot;
  }

  Plot harmonics() const {
    Plot plot = empty("Harmonics over drive", kHarmonicsView);
    PlotPanel main{{"Harmonics, dBc", ""}, {}};
    PlotLayer second{PlotLayer::Kind::trace, "2nd", 1, true, {}};
    PlotLayer third{PlotLayer::Kind::trace, "3rd", 2, true, {}};
    PlotLayer mask{PlotLayer::Kind::limit, "mask", 1, true, {}};
    for (const std::size_t i : a_.rising) {
      const DrivenRow& r = a_.rows[i];
      const double x = place(r.input->value);
      if (r.second_dbc) second.points.push_back({x, *r.second_dbc, 0.0, Bound::none, i});
      if (r.third_dbc) third.points.push_back({x, *r.third_dbc, 0.0, Bound::none, i});
      if (const auto most = harmonic_limit_dbc(look_.mask, r, a_.frequency_hz, 2))
        mask.points.push_back({x, *most});
    }
    main.layers = {mask, second, third};
    plot.panels.push_back(std::move(main));
    return plot;
  }

 private:
  double place(double dbm) const { return look_.is_in_watts ? to_watt(Dbm{dbm}).value : dbm; }

  PlotAxis axis(const std::string& what) const {
    PlotAxis axis{what + (look_.is_in_watts ? ", W" : ", dBm"), ""};
    axis.is_logarithmic = look_.is_in_watts;
    return axis;
  }

  Plot empty(const char* title, const char* view) const {
    Plot plot;
    plot.title = title;
    plot.x = {look_.is_in_watts ? "W in" : "dBm in", ""};
    plot.x.is_logarithmic = look_.is_in_watts;
    plot.x.range = std::pair(place(low_), place(high_));
    plot.view = view;
    plot.note = look_.note;
    plot.empty_words = look_.empty_words;
    plot.is_printed_too = true;
    return plot;
  }

  PlotLayer across(const char* name, double y, PlotLayer::Kind kind) const {
    PlotLayer layer{kind, name, 1, true, {}};
    layer.points = {{place(low_ + 0.4), y}, {place(high_ - 0.4), y}};
    return layer;
  }

  PlotLayer level(const char* name, double y, bool is_known) const {
    PlotLayer layer = across(name, y, PlotLayer::Kind::guide);
    if (!is_known) layer.points.clear();
    return layer;
  }

  PlotLayer ideal() const {
    PlotLayer layer{PlotLayer::Kind::guide, "ideal", 1, true, {}};
    const std::optional<double> gain =
        !a_.rising.empty() ? std::optional(a_.curve.gain_db()) : std::nullopt;
    if (!gain) return layer;
    for (const double in : {low_ + 0.4, high_ - 0.4})
      layer.points.push_back({place(in), place(in + *gain)});
    return layer;
  }

  /// Specified output against drive, up to the rated one.
  PlotLayer limit() const {
    PlotLayer layer{PlotLayer::Kind::limit, "specified", 1, true, {}};
    const auto gain = plan_.wanted_gain_db();
    if (!gain) return layer;
    double end = high_ - kRoom;
    const auto rated = plan_.rated_output_dbm;
    const double bend = rated ? *rated - *gain : end;
    layer.points.push_back({place(low_ + kRoom), place(low_ + kRoom + *gain)});
    if (rated && bend < end && bend > low_ + kRoom)
      layer.points.push_back({place(bend), place(*rated)});
    layer.points.push_back(
        {place(end), place(rated ? std::min(*rated, end + *gain) : end + *gain)});
    return layer;
  }

  PlotLayer measured() const {
    PlotLayer layer{PlotLayer::Kind::trace, "measured", 1, true, {}};
    for (const std::size_t i : a_.rising) {
      const DrivenRow& r = a_.rows[i];
      const Figure shown = level_as_shown(*r.output, look_.is_in_watts);
      layer.points.push_back(
          {place(r.input->value), shown.value, shown.expanded(), Bound::none, i});
    }
    return layer;
  }

  /// What it is compared with, its output or its gain.
  PlotLayer other(bool is_gain) const {
    PlotLayer layer{PlotLayer::Kind::trace, is_gain ? "" : look_.compared_name, 6, true, {}};
    if (look_.compared == nullptr) return layer;
    for (const std::size_t i : look_.compared->rising) {
      const DrivenRow& r = look_.compared->rows[i];
      if (r.input->value < low_ || r.input->value > high_) continue;
      const double y = is_gain ? r.gain->value : level_as_shown(*r.output, look_.is_in_watts).value;
      layer.points.push_back({place(r.input->value), y});
    }
    return layer;
  }

  PlotLayer gain() const {
    PlotLayer layer{PlotLayer::Kind::trace, "gain", 1, true, {}};
    for (const std::size_t i : a_.rising) {
      const DrivenRow& r = a_.rows[i];
      // Against each other: what is common to all steps moves the whole curve.
      layer.points.push_back({place(r.input->value), r.gain->value,
                              2.0 * r.compression->contributions.front().u, Bound::none, i});
    }
    return layer;
  }

  PlotLayer efficiency() const {
    PlotLayer layer{PlotLayer::Kind::trace, "efficiency", 2, true, {}};
    layer.is_right = true;
    for (const std::size_t i : a_.rising) {
      const DrivenRow& r = a_.rows[i];
      if (r.efficiency)
        layer.points.push_back(
            {place(r.input->value), r.efficiency->value, r.efficiency->expanded(), Bound::none, i});
    }
    return layer;
  }

  /// At least 3 dB, in whole dB.
  std::pair<double, double> gain_range() const {
    double least = a_.curve.gain_db() - 1.2;
    double most = a_.curve.gain_db() + 0.4;
    for (const std::size_t i : a_.rising) {
      least = std::min(least, a_.rows[i].gain->value - 0.2);
      most = std::max(most, a_.rows[i].gain->value + 0.2);
    }
    most = std::ceil(most);
    return {std::min(std::floor(least), most - 3.0), most};
  }

  PlotLayer one_db(bool has_words) const {
    PlotLayer layer{PlotLayer::Kind::moment, "", 1, true, {}};
    if (!a_.one_db_in) return layer;
    PlotPoint p{place(a_.one_db_in->value), 0.0};
    const double u = a_.curve.at(1.0)->u_input_db;
    p.expanded = look_.is_in_watts ? p.x * 2.0 * u / kDbPerRelativePower : 2.0 * u;
    if (has_words) {
      const Figure out = level_as_shown(*a_.one_db_out, look_.is_in_watts);
      const FormattedFigure f = format_figure(out, Rounding::compact, 1);
      p.word = fmt::format("1 dB down at {} \u00b1 {} {}", f.value, f.uncertainty, out.unit);
    }
    layer.points.push_back(std::move(p));
    return layer;
  }

  /// From the drive on at which the supply reaches its limit.
  void zone(PlotPanel& panel) const {
    if (!plan_.supply_limit_a || !a_.current || a_.rising.empty()) return;
    const double reach_w = a_.current->output_at(*plan_.supply_limit_a);
    if (reach_w <= 0.0) return;
    const double reach_dbm = to_dbm(Watt{reach_w}).value;
    double from = reach_dbm - a_.curve.gain_db();
    // Along the measured way as far as that goes.
    for (double in = low_; in < high_; in += 0.05) {
      const auto out = a_.curve.output_at(in);
      if (out && *out >= reach_dbm) {
        from = in;
        break;
      }
      if (out) from = std::max(from, in);
    }
    if (from >= high_) return;
    PlotRange range{place(from), place(high_),
                    fmt::format("supply stops at {} A", number_text(*plan_.supply_limit_a, 1)),
                    true, std::nullopt};
    range.is_caution = true;
    panel.ranges.push_back(std::move(range));
  }

  const Amplification& a_;
  const AmplifierPlan& plan_;
  const GainLook& look_;
  double low_ = 1e300;
  double high_ = -1e300;
};

}  // namespace

Figure level_as_shown(const Figure& dbm, bool is_in_watts) {
  return is_in_watts ? in_watts(dbm) : dbm;
}

std::optional<double> harmonic_limit_dbc(const Mask& mask, const DrivenRow& row,
                                         std::optional<double> carrier_hz, int order) {
  if (mask.is_none() || !carrier_hz || !row.output) return std::nullopt;
  return mask_limit_dbc(mask, {*carrier_hz, row.output->value}, order * *carrier_hz);
}

std::vector<Plot> gain_plots(const Amplification& a, const AmplifierPlan& plan,
                             const GainLook& look) {
  const GainPlots plots(a, plan, look);
  std::vector<Plot> all{plots.output()};
  const auto any = [&](auto has) { return std::any_of(a.rows.begin(), a.rows.end(), has); };
  if (any([](const DrivenRow& r) { return r.amperes.has_value(); })) all.push_back(plots.heat());
  if (any([](const DrivenRow& r) { return r.second_dbc || r.third_dbc; }))
    all.push_back(plots.harmonics());
  return all;
}

}  // namespace heron
