#include "core/method/two_tone/two_tone_plot.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kSpacingsShown = 6.7;  // either side of the middle of the tones
constexpr double kNoFloorDb = -190.0;   // below it nothing is known of one
constexpr double kFloorDb = 3.0;        // a line less far above the noise is a bound
constexpr int kHighestShown = 9;

double watts_of(double dbm) {
  return to_watt(Dbm{dbm}).value;
}

std::string relative_to(const std::string& convention) {
  return convention == kRePep ? "dB relative to PEP" : "dB relative to one tone";
}

std::string limit_words(double db) {
  return "Limit " + number_text(db, std::abs(db - std::round(db)) < 0.005 ? 0 : 1) + " dB";
}

/// The middle one of the floors beside the products; nullopt where nothing is known of any.
std::optional<double> floor_of(const TwoToneAnalysis& a, bool is_pep) {
  std::vector<double> floors;
  for (const TwoToneProduct& p : a.products)
    floors.push_back(p.floor_dbc - (is_pep ? p.level_dbc - p.level_db_pep : 0.0));
  if (floors.empty()) return std::nullopt;
  const auto middle = floors.begin() + static_cast<std::ptrdiff_t>(floors.size() / 2);
  std::nth_element(floors.begin(), middle, floors.end());
  return *middle > kNoFloorDb ? std::optional(*middle) : std::nullopt;
}

double median_of(std::vector<float> y) {
  if (y.empty()) return -100.0;
  const auto middle = y.begin() + static_cast<std::ptrdiff_t>(y.size() / 2);
  std::nth_element(y.begin(), middle, y.end());
  return static_cast<double>(*middle);
}

/// One recording's spectrum while it becomes a plot.
class SpectrumOf {
 public:
  SpectrumOf(const TwoToneTake& take, std::size_t step)
      : take_(take),
        a_(*take.analyses[step]),
        step_(step),
        is_pair_(a_.tones.size() == 2),
        is_pep_(take.convention == kRePep),
        zero_(is_pair_ ? (is_pep_ ? a_.pep_dbfs : a_.one_tone_dbfs) : 0.0),
        floor_(floor_of(a_, is_pep_)) {
    const double half_band = a_.capture.sample_rate_hz / 2.0;
    from_hz_ = a_.capture.is_complex ? -half_band : 0.0;
    to_hz_ = half_band;
    if (!is_pair_) return;
    const double spacing = a_.tones[1].frequency_hz - a_.tones[0].frequency_hz;
    const double middle = (a_.tones[0].frequency_hz + a_.tones[1].frequency_hz) / 2.0;
    from_hz_ = std::max(from_hz_, middle - kSpacingsShown * spacing);
    to_hz_ = std::min(to_hz_, middle + kSpacingsShown * spacing);
  }

  Plot plot() const {
    Plot plot;
    plot.title = "Spectrum at " + take_.labels[step_];
    plot.view = kSpectrumView;
    plot.step = step_;
    plot.x = {"Frequency", "Hz", false, std::pair(from_hz_, to_hz_)};
    plot.note = fmt::format("{} per point", engineering_text(a_.rbw_hz, "Hz", 2));
    if (a_.capture.center_hz)
      plot.note =
          "centre " + engineering_text(*a_.capture.center_hz, "Hz", 7) + " \u00b7 " + plot.note;
    PlotPanel panel{{is_pair_ ? relative_to(take_.convention) : "dBFS", "", false, levels()}, {}};
    for (PlotLayer& layer : std::vector{floor(), curve(), limit(), tones(), carrier(), products()})
      if (!layer.is_empty()) panel.layers.push_back(std::move(layer));
    plot.panels.push_back(std::move(panel));
    return plot;
  }

 private:
  std::pair<double, double> levels() const {
    double top = 0.0;
    for (const TestTone& t : a_.tones) top = std::max(top, t.level_dbfs - zero_);
    const double low = floor_.value_or(median_of(a_.spectrum.y) - zero_);
    return {std::max(-200.0, std::floor((low - 12.0) / 10.0) * 10.0), std::ceil(top / 10.0) * 10.0};
  }

  PlotLayer floor() const {
    PlotLayer layer{PlotLayer::Kind::floor, "", 1, true, {}};
    if (!floor_) return layer;
    for (const double x : {from_hz_, to_hz_}) layer.points.push_back({x, *floor_ + kFloorDb});
    layer.points.front().word =
        "Recorder\u2019s floor: a product in here is reported as an upper bound";
    return layer;
  }

  PlotLayer curve() const {
    PlotLayer layer{PlotLayer::Kind::curve, "", 1, true, {}};
    layer.curve = {take_.analyses[step_], &a_.spectrum};
    layer.curve_zero = zero_;
    layer.step = step_;
    return layer;
  }

  /// Open between the tones, where no product is judged.
  PlotLayer limit() const {
    PlotLayer layer{PlotLayer::Kind::mask, "", 1, true, {}};
    if (!take_.limit || !is_pair_ || a_.worst() == nullptr) return layer;
    const double db = in_convention(*take_.limit, take_.convention, a_.pep_over_tone_db()).value;
    const double gap = (a_.tones[1].frequency_hz - a_.tones[0].frequency_hz) / 2.0;
    for (const double x :
         {from_hz_, a_.tones[0].frequency_hz - gap, a_.tones[1].frequency_hz + gap, to_hz_})
      layer.points.push_back({x, db});
    layer.points.front().word = limit_words(db);
    return layer;
  }

  PlotLayer tones() const {
    PlotLayer layer{PlotLayer::Kind::label, "", 1, true, {}};
    for (std::size_t i = 0; i < a_.tones.size(); ++i) {
      const TestTone& t = a_.tones[i];
      PlotPoint p{t.frequency_hz, t.level_dbfs - zero_};
      p.word = number_text(t.frequency_hz, 0) + " Hz  " + number_text(p.y, 1);
      p.is_left = i == 0;
      layer.points.push_back(std::move(p));
    }
    return layer;
  }

  PlotLayer carrier() const {
    PlotLayer layer{PlotLayer::Kind::label, "", 1, true, {}};
    if (!a_.carrier_dbc || a_.products.empty()) return layer;
    const double level = *a_.carrier_dbc - (is_pep_ ? a_.pep_over_tone_db() : 0.0);
    if (level <= floor_.value_or(-200.0) + 6.0) return layer;
    PlotPoint p{a_.carrier_hz, level};
    p.word = "carrier";
    p.is_pale = true;
    layer.points.push_back(std::move(p));
    return layer;
  }

  PlotLayer products() const {
    PlotLayer layer{PlotLayer::Kind::pennant, "", 1, true, {}};
    const TwoToneProduct* worst = a_.worst();
    for (const TwoToneProduct& product : a_.products) {
      const double x =
          a_.capture.is_complex ? product.frequency_hz : std::abs(product.frequency_hz);
      PlotPoint p{x, is_pep_ ? product.level_db_pep : product.level_dbc};
      p.bound = product.is_bound ? Bound::upper : Bound::none;
      p.word = std::to_string(product.order);
      p.is_left = product.side == Side::lower;
      p.mark = product_figure(a_, product, take_.convention).id;
      if (&product == worst && take_.limit)
        p.verdict =
            judge(product_figure(a_, product, take_.limit->convention), *take_.limit).verdict;
      layer.points.push_back(std::move(p));
    }
    return layer;
  }

  const TwoToneTake& take_;
  const TwoToneAnalysis& a_;
  std::size_t step_;
  bool is_pair_;
  bool is_pep_;
  double zero_;
  std::optional<double> floor_;
  double from_hz_ = 0.0;
  double to_hz_ = 0.0;
};

/// What stands where a step has no spectrum: the limit, and what to do.
Plot no_spectrum(const TwoToneTake& take, const std::string& words) {
  Plot plot;
  plot.title = "Spectrum";
  plot.view = kSpectrumView;
  plot.x = {"Frequency", "Hz", false, std::pair(-6000.0, 8500.0)};
  plot.empty_words = words;
  PlotPanel panel{{relative_to(take.convention), "", false, std::pair(-80.0, 0.0)}, {}};
  if (const auto limit = take.shown_limit()) {
    PlotLayer layer{PlotLayer::Kind::mask, "", 1, true, {}};
    for (const double x : {plot.x.range->first, plot.x.range->second})
      layer.points.push_back({x, limit->value});
    layer.points.front().word = limit_words(limit->value);
    panel.layers.push_back(std::move(layer));
  }
  plot.panels.push_back(std::move(panel));
  return plot;
}

/// Levels of what is driven were worked out in the limit's convention.
double shift_of(const TwoToneTake& take) {
  const std::string worked = take.limit ? take.limit->convention : std::string(kRePep);
  if (take.convention == worked) return 0.0;
  const double apart = pep_over_one_tone(1.0).value;
  return take.convention == kRePep ? -apart : apart;
}

/// The ladder while it becomes a plot.
class OverPower {
 public:
  explicit OverPower(const TwoToneTake& take)
      : take_(take), traces_(ladder_traces(take.steps(), take.convention)), shift_(shift_of(take)) {
    std::erase_if(traces_, [](const LadderTrace& t) { return t.order > kHighestShown; });
  }

  Plot plot() const {
    Plot plot;
    plot.title = "Products over output power";
    plot.view = kOverPowerView;
    plot.is_printed_too = true;
    plot.x = x_axis();
    plot.empty_words = empty_words();
    PlotPanel panel{{relative_to(take_.convention) + ", the worse side", "", false, levels()}, {}};
    const auto add = [&](PlotLayer layer) {
      if (!layer.is_empty()) panel.layers.push_back(std::move(layer));
    };
    add(floor());
    add(places());
    add(band());
    add(limit());
    int number = 1;
    for (const LadderTrace& t : traces_) add(trace(t, number++));
    add(measured());
    add(crossings());
    add(ceiling());
    plot.panels.push_back(std::move(panel));
    return plot;
  }

 private:
  std::vector<double> outputs() const {
    std::vector<double> all;
    for (const LadderTrace& t : traces_) {
      for (const LadderPoint& p : t.points) all.push_back(watts_of(p.output_dbm));
    }
    if (all.empty()) all = {1.0, 100.0};
    std::sort(all.begin(), all.end());
    return all;
  }

  PlotAxis x_axis() const {
    const std::vector<double> all = outputs();
    // Linear, because what matters lies at the top; unless most steps crowd at the left.
    const auto small =
        std::count_if(all.begin(), all.end(), [&](double w) { return w < 0.1 * all.back(); });
    double top = all.back() * 1.06;
    if (take_.settings.ceiling_dbm)
      top = std::max(top, watts_of(*take_.settings.ceiling_dbm) * 1.06);
    PlotAxis axis{"Output", "W PEP"};
    axis.is_logarithmic = 2 * small > static_cast<std::ptrdiff_t>(all.size());
    axis.range = std::pair(all.front() / 1.15, top);
    axis.can_be_either = true;
    return axis;
  }

  std::pair<double, double> levels() const {
    double low = 0.0;
    double high = -200.0;
    for (const LadderTrace& t : traces_) {
      for (const LadderPoint& p : t.points) {
        low = std::min(low, p.level_db - 4.0);
        high = std::max(high, p.level_db + 2.0 * p.u_db);
      }
    }
    if (const auto limit = take_.shown_limit()) {
      high = std::max(high, limit->value);
      low = std::min(low, limit->value - 20.0);
    }
    for (const DrivenPoint& p : take_.driven.points) high = std::max(high, p.in_phase_db + shift_);
    if (traces_.empty()) {
      low = -70.0;
      high = std::max(high, -25.0);
    }
    return {std::floor(low / 10.0) * 10.0, std::ceil((high + 4.0) / 5.0) * 5.0};
  }

  std::string empty_words() const {
    const bool has_products =
        std::any_of(take_.analyses.begin(), take_.analyses.end(),
                    [](const auto& a) { return a != nullptr && !a->products.empty(); });
    return has_products ? "No step has an output yet: type it for each step, or give the hook-up a "
                          "recorder with a known full scale."
                        : "No step is measured yet: drop recordings here, or type readings into "
                          "the grid.";
  }

  /// Of each step: below it nothing can be seen.
  PlotLayer floor() const {
    PlotLayer layer{PlotLayer::Kind::floor, "", 1, true, {}};
    if (traces_.empty()) return layer;
    for (const LadderPoint& p : traces_.front().points) {
      if (p.floor_db > -199.0)
        layer.points.push_back({watts_of(p.output_dbm), p.floor_db + kFloorDb});
    }
    if (layer.points.size() < 2) layer.points.clear();
    const bool has_bounds = std::any_of(traces_.begin(), traces_.end(), [](const LadderTrace& t) {
      return std::any_of(t.points.begin(), t.points.end(),
                         [](const LadderPoint& p) { return p.is_bound; });
    });
    if (has_bounds && !layer.points.empty())
      layer.points.front().word = "Recorder\u2019s floor: open marks are upper bounds";
    return layer;
  }

  /// A place is worth a word under the highest trace there.
  PlotLayer places() const {
    PlotLayer layer{PlotLayer::Kind::place, "", 1, true, {}};
    const auto add = [&](const std::optional<std::size_t>& row, const char* word, Verdict verdict) {
      if (!row || !take_.ladder.rows[*row].output_dbm) return;
      const double dbm = *take_.ladder.rows[*row].output_dbm;
      PlotPoint p{watts_of(dbm), -200.0};
      for (const LadderTrace& t : traces_) {
        if (const auto level = level_at(t, dbm)) p.y = std::max(p.y, level->value);
      }
      p.word = word;
      p.verdict = verdict;
      if (layer.points.empty() || layer.points.front().x != p.x)
        layer.points.push_back(std::move(p));
    };
    add(take_.ladder.sweet_spot, "sweet spot", Verdict::pass);
    add(take_.ladder.quietest, "quietest", Verdict::not_taken);
    return layer;
  }

  PlotLayer band() const {
    PlotLayer layer{PlotLayer::Kind::band, "with " + take_.amplifier + " behind", 5, true, {}};
    for (const DrivenPoint& d : take_.driven.points) {
      PlotPoint p{watts_of(d.exciter_dbm), d.in_phase_db + shift_};
      // Where nothing is surely there, there is no bottom.
      p.before = d.power_sum_db ? *d.power_sum_db + shift_ : -200.0;
      layer.points.push_back(std::move(p));
    }
    return layer;
  }

  PlotLayer measured() const {
    PlotLayer layer{PlotLayer::Kind::trace, "", 5, false, {}};
    for (const DrivenComparison& m : take_.driven.measured)
      layer.points.push_back({watts_of(m.exciter_dbm), m.measured_db + shift_, 2.0 * m.u_db,
                              m.is_bound ? Bound::upper : Bound::none});
    return layer;
  }

  PlotLayer limit() const {
    PlotLayer layer{PlotLayer::Kind::mask, "", 1, true, {}};
    const auto limit = take_.shown_limit();
    if (!limit) return layer;
    const PlotAxis axis = x_axis();
    for (const double x : {std::min(0.0, axis.range->first), axis.range->second})
      layer.points.push_back({x, limit->value});
    layer.points.front().word = limit_words(std::round(limit->value * 10.0) / 10.0);
    return layer;
  }

  static PlotLayer trace(const LadderTrace& t, int number) {
    PlotLayer layer{PlotLayer::Kind::trace, "IM" + std::to_string(t.order), number, true, {}};
    layer.is_straight_in_log_x = true;
    for (const LadderPoint& p : t.points)
      layer.points.push_back({watts_of(p.output_dbm), p.level_db, 2.0 * p.u_db,
                              p.is_bound ? Bound::upper : Bound::none, p.row});
    return layer;
  }

  PlotLayer crossings() const {
    PlotLayer layer{PlotLayer::Kind::moment, "", 1, true, {}};
    for (const DominanceChange& c : take_.ladder.dominance_changes) {
      PlotPoint p{watts_of(c.crossing_dbm), 0.0};
      p.expanded = 2.0 * c.u_db / kDbPerRelativePower * p.x;
      const int decimals = decimals_for(p.expanded, Rounding::compact);
      p.word = fmt::format("IM{} overtakes IM{} at {} \u00b1 {} W", c.to_order, c.from_order,
                           number_text(p.x, decimals), number_text(p.expanded, decimals));
      layer.points.push_back(std::move(p));
    }
    return layer;
  }

  PlotLayer ceiling() const {
    PlotLayer layer{PlotLayer::Kind::handle, "ceiling", 1, true, {}};
    layer.setting = "ceiling_dbm";
    if (!take_.settings.ceiling_dbm) return layer;
    PlotPoint p{watts_of(*take_.settings.ceiling_dbm), 0.0};
    p.word = "W";
    layer.points.push_back(std::move(p));
    return layer;
  }

  const TwoToneTake& take_;
  std::vector<LadderTrace> traces_;
  double shift_;
};

}  // namespace

std::vector<Plot> spectrum_plots(const TwoToneTake& take) {
  std::vector<Plot> all;
  for (std::size_t i = 0; i < take.analyses.size(); ++i) {
    if (take.analyses[i] == nullptr) continue;
    if (!take.analyses[i]->spectrum.y.empty()) {
      all.push_back(SpectrumOf(take, i).plot());
      continue;
    }
    all.push_back(no_spectrum(take, "Typed readings have no spectrum: see Over power."));
    all.back().step = i;
  }
  all.push_back(
      no_spectrum(take, "No recording at this step: drop a WAV, SigMF or CSV file here."));
  return all;
}

Plot over_power_plot(const TwoToneTake& take) {
  return OverPower(take).plot();
}

}  // namespace heron
