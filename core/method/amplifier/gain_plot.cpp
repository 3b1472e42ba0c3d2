#include "core/method/amplifier/gain_plot.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/amplifier/gain_harmonics.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr int kWidePx = 1920;

constexpr double kRoom = 1.0;  // dB beside the lowest and the highest drive

class GainPlots {
 public:
  GainPlots(const GainCase& of, const std::string& note, const std::string& empty_words)
      : c_(of), a_(of.amplifier), plan_(of.plan), note_(note), empty_words_(empty_words) {
    for (const DrivenRow& r : a_.rows) {
      if (!r.input_dbm) continue;
      low_ = std::min(low_, *r.input_dbm);
      high_ = std::max(high_, *r.input_dbm);
    }
    if (plan_.rated_input_dbm && low_ <= high_) high_ = std::max(high_, *plan_.rated_input_dbm);
    if (!(low_ <= high_)) {
      low_ = plan_.rated_input_dbm.value_or(30.0) - 20.0;
      high_ = plan_.rated_input_dbm.value_or(30.0);
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
      strip.y_right =
          PlotAxis{c_.settings.is_power_added ? "Power-added eff., %" : "Efficiency, %", ""};
      strip.y_right->range = std::pair(0.0, 80.0);
    }
    zone(strip);
    for (PlotRange& r : strip.ranges) r.word.clear();
    if (a_.rising.empty()) return plot;
    plot.panels.push_back(strip);
    if (!strip.y_right) return plot;
    // Where there is room, gain stands alone, and efficiency beside the heat that it leaves.
    plot.panels.back().below_px = kWidePx;
    PlotPanel apart = strip;
    std::erase_if(apart.layers, [](const PlotLayer& layer) { return layer.is_right; });
    apart.y_right.reset();
    apart.from_px = kWidePx;
    plot.panels.push_back(std::move(apart));
    PlotPanel cost{{c_.settings.is_power_added ? "Power-added eff., %" : "Efficiency, %", ""}, {}};
    PlotLayer share = efficiency();
    share.is_right = false;
    PlotLayer warm{PlotLayer::Kind::trace, "heat", 4, true, {}};
    warm.is_right = true;
    for (const std::size_t i : a_.rising) {
      const DrivenRow& r = a_.rows[i];
      if (r.heat)
        warm.points.push_back(
            {place(r.input->value), r.heat->value, r.heat->expanded(), Bound::none, i});
    }
    cost.layers = {share, warm};
    cost.y.range = std::pair(0.0, 80.0);
    cost.y_right = PlotAxis{"Heat, W", ""};
    cost.from_px = kWidePx;
    zone(cost);
    for (PlotRange& r : cost.ranges) r.word.clear();
    plot.panels.push_back(std::move(cost));
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
      const double x = place(a_.rows[i].input->value);
      for (const StepHarmonic& h : harmonics_of(a_.rows[i], c_)) {
        (h.order == 2 ? second : third)
            .points.push_back({x, h.level.value, h.level.expanded(), Bound::none, i});
        if (h.limit_dbc && (mask.points.empty() || mask.points.back().x != x))
          mask.points.push_back({x, *h.limit_dbc});
      }
    }
    main.layers = {mask, second, third};
    plot.panels.push_back(std::move(main));
    return plot;
  }

 private:
  double place(double dbm) const { return c_.settings.is_in_watts ? to_watt(Dbm{dbm}).value : dbm; }

  PlotAxis axis(const std::string& what) const {
    PlotAxis axis{what + (c_.settings.is_in_watts ? ", W" : ", dBm"), ""};
    axis.is_logarithmic = c_.settings.is_in_watts;
    return axis;
  }

  Plot empty(const char* title, const char* view) const {
    Plot plot;
    plot.title = title;
    plot.x = {c_.settings.is_in_watts ? "W in" : "dBm in", ""};
    plot.x.is_logarithmic = c_.settings.is_in_watts;
    plot.x.range = std::pair(place(low_), place(high_));
    plot.view = view;
    plot.note = note_;
    plot.empty_words = empty_words_;
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
    if (a_.rising.empty()) return layer;
    for (const double in : {low_ + 0.4, high_ - 0.4})
      layer.points.push_back({place(in), place(in + a_.curve.gain_db())});
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
      const Figure shown = c_.shown(*r.output);
      layer.points.push_back(
          {place(r.input->value), shown.value, shown.expanded(), Bound::none, i});
    }
    return layer;
  }

  /// What it is compared with, its output or its gain.
  PlotLayer other(bool is_gain) const {
    PlotLayer layer{PlotLayer::Kind::trace, is_gain ? "" : c_.evidence.compared_name, 6, true, {}};
    if (!c_.compared) return layer;
    for (const std::size_t i : c_.compared->rising) {
      const DrivenRow& r = c_.compared->rows[i];
      if (r.input->value < low_ || r.input->value > high_) continue;
      const double y = is_gain ? r.gain->value : c_.shown(*r.output).value;
      layer.points.push_back({place(r.input->value), y});
    }
    return layer;
  }

  PlotLayer gain() const {
    PlotLayer layer{PlotLayer::Kind::trace, "gain", 1, true, {}};
    for (const std::size_t i : a_.rising) {
      const DrivenRow& r = a_.rows[i];
      // Against each other: what is common to all steps moves the whole curve.
      layer.points.push_back(
          {place(r.input->value), r.gain->value, 2.0 * r.gain->independent_u(), Bound::none, i});
    }
    return layer;
  }

  PlotLayer efficiency() const {
    PlotLayer layer{PlotLayer::Kind::trace, "efficiency", 2, true, {}};
    layer.is_right = true;
    for (const std::size_t i : a_.rising) {
      const DrivenRow& r = a_.rows[i];
      const auto& shown = c_.settings.is_power_added ? r.added_efficiency : r.efficiency;
      if (shown)
        layer.points.push_back(
            {place(r.input->value), shown->value, shown->expanded(), Bound::none, i});
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
    for (const PlotPoint& p : other(true).points) {
      least = std::min(least, p.y - 0.2);
      most = std::max(most, p.y + 0.2);
    }
    most = std::ceil(most);
    return {std::min(std::floor(least), most - 3.0), most};
  }

  PlotLayer one_db(bool has_words) const {
    PlotLayer layer{PlotLayer::Kind::moment, "", 1, true, {}};
    if (!a_.one_db_in) return layer;
    PlotPoint p{place(a_.one_db_in->value), 0.0};
    const double u = a_.curve.at(1.0)->u_input_db;
    p.expanded = c_.settings.is_in_watts ? p.x * 2.0 * u / kDbPerRelativePower : 2.0 * u;
    if (has_words) {
      const Figure out = c_.shown(*a_.one_db_out);
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

  const GainCase& c_;
  const Amplification& a_;
  const AmplifierPlan& plan_;
  const std::string& note_;
  const std::string& empty_words_;
  double low_ = 1e300;
  double high_ = -1e300;
};

}  // namespace

std::vector<Plot> gain_plots(const GainCase& of, const std::string& note,
                             const std::string& empty_words) {
  const GainPlots plots(of, note, empty_words);
  std::vector<Plot> all{plots.output()};
  const auto any = [&](auto has) {
    return std::any_of(of.amplifier.rows.begin(), of.amplifier.rows.end(), has);
  };
  if (any([](const DrivenRow& r) { return r.amperes.has_value(); })) all.push_back(plots.heat());
  if (any([](const DrivenRow& r) { return r.second_dbc || r.third_dbc; }))
    all.push_back(plots.harmonics());
  return all;
}

}  // namespace heron
