#include "core/method/frequency/drift_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/frequency/drift.h"
#include "core/method/frequency/drift_compare.h"
#include "core/method/frequency/frequency_fields.h"
#include "core/method/frequency/time_axis.h"
#include "core/method/measure/reference_error.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kAxisRoom = 1.25;  // of the axis over what is drawn
constexpr std::size_t kDriftPoints = 200;

class DriftResult {
 public:
  explicit DriftResult(const Evidence& evidence)
      : evidence_(evidence),
        plan_(drift_plan(evidence)),
        d_(assess_drift(evidence)),
        unit_(time_unit_for(d_.record.span_s())) {
    if (evidence.compared != nullptr) then_ = assess_drift(*evidence.compared);
  }

  Result result() const {
    Result r;
    r.method = "drift";
    r.remarks = d_.remarks;
    if (const auto other = other_limit_remark(evidence_, "drift")) r.remarks.push_back(*other);
    for (const DriftBand& b : d_.bands)
      r.items.push_back({frequency_text(b.frequency_hz), std::nullopt});
    r.tables.push_back(table());
    r.plots.push_back(plot());
    add_answers(r);
    add_cards(r);
    add_figures(r);
    if (then_ && d_.error && then_->error) {
      const auto changes = compare_drift(d_, *then_, evidence_.is_compared_on_same);
      r.tables.push_back(drift_comparison(changes, evidence_.compared_name));
      const auto said = changed_remark(changes);
      if (said) r.remarks.push_back(*said);
    }
    r.conditions = conditions();
    return r;
  }

 private:
  double x(double seconds) const { return seconds / unit_.seconds; }

  std::vector<std::pair<std::string, std::string>> conditions() const {
    std::vector<std::pair<std::string, std::string>> all;
    if (plan_.reference.nominal_hz)
      all.emplace_back("Nominal", frequency_text(*plan_.reference.nominal_hz));
    if (d_.record.samples.empty()) return all;
    all.emplace_back("Record", fmt::format("{} readings over {}", d_.record.samples.size(),
                                           duration_text(d_.record.span_s())));
    for (const DriftRecord::Moment& e : d_.record.events)
      all.emplace_back("At " + duration_text(std::max(0.0, e.seconds)), e.text);
    return all;
  }

  ResultTable table() const {
    ResultTable t;
    t.title = "Bands";
    t.tab = "bands";
    t.margin_unit = "Hz";
    double widest = 1.0;
    for (const DriftBand& b : d_.bands) widest = std::max(widest, b.frequency_hz);
    t.margin_span = plan_.need_hz ? *plan_.need_hz
                    : plan_.limit ? plan_.limit->value * widest / kPerMillion
                                  : 100.0;
    t.columns = {{"band", "Band, MHz", CellKind::name, 116},
                 {"start", "At the start, Hz", CellKind::figure, 124},
                 {"settled", "Once settled, Hz", CellKind::figure, 130},
                 {"wander", "Wander, Hz p-p", CellKind::figure, 110, 1200},
                 {"margin", "Margin", CellKind::margin, -1},
                 {"verdict", "Verdict", CellKind::verdict, 112, 0, 111}};
    for (std::size_t i = 0; i < d_.bands.size(); ++i) {
      const DriftBand& b = d_.bands[i];
      const int decimals =
          b.settled ? std::max(0, decimals_for(b.settled->expanded(), Rounding::compact)) : 1;
      TableCell settled;
      if (b.settled)
        settled = {figure_cell(*b.settled, 1, true), std::nullopt, b.judgement.has_value(),
                   b.settled};
      ResultTable::Row row{i, {}};
      row.cells = {{fmt::format("{:.10g}", b.frequency_hz / 1e6)},
                   {number_text(b.start_hz, std::min(decimals, 1), true)},
                   settled,
                   {number_text(b.wander_hz, decimals)},
                   {b.judgement ? number_text(b.judgement->margin, decimals, true) : std::string(),
                    b.judgement},
                   verdict_cell(b.judgement, b.settled.has_value(), false)};
      t.rows.push_back(std::move(row));
    }
    t.note =
        "Error: actual less nominal; positive, the oscillator is high. Wander: from lowest to "
        "highest median once settled.";
    return t;
  }

  /// Of the highest band: where an error shows most.
  double top_band_hz() const {
    double top = d_.relative_to_hz;
    for (const DriftBand& b : d_.bands) top = std::max(top, b.frequency_hz);
    return top;
  }

  Plot plot() const {
    Plot plot;
    plot.title = "Error over time";
    plot.x = {unit_.word, ""};
    plot.empty_words =
        "Nothing read yet. Log a counter, drop a CSV file with time and frequency or a recording "
        "of the tone, or type readings into the grid below.";
    PlotPanel main{{"Error, ppm", ""}, {}};
    if (!d_.medians.empty()) {
      const double end = x(d_.record.span_s());
      plot.x.range = std::pair(0.0, end > 0.0 ? end * 1.01 : 1.0);
      add_widths(main, end);
      add_readings(main);
      add_curve(main);
      add_moments(main);
      scale(main);
    }
    plot.panels.push_back(std::move(main));
    add_temperature(plot);
    return plot;
  }

  void add_widths(PlotPanel& main, double end) const {
    if (d_.error) {
      PlotLayer width{PlotLayer::Kind::band, "", 1, true, {}};
      for (const double at : {0.0, end}) {
        PlotPoint p{at, d_.settle_middle_ppm + plan_.settle_ppm};
        p.before = d_.settle_middle_ppm - plan_.settle_ppm;
        width.points.push_back(p);
      }
      main.layers.push_back(std::move(width));
    }
    if (!plan_.limit) return;
    const double from = plan_.settle_limit_s ? x(*plan_.settle_limit_s) : 0.0;
    if (from >= end) return;
    for (const double side : {1.0, -1.0}) {
      PlotLayer limit{
          PlotLayer::Kind::limit, side > 0.0 ? limit_text(*plan_.limit) : "", 1, true, {}};
      limit.ends_at_points = true;
      limit.points = {{from, side * plan_.limit->value}, {end, side * plan_.limit->value}};
      main.layers.push_back(std::move(limit));
    }
  }

  void add_readings(PlotPanel& main) const {
    const auto& samples = d_.record.samples;
    const bool is_few = d_.medians.size() + d_.fit.outliers() >= samples.size();
    if (then_ && !then_->medians.empty()) {
      PlotLayer other{PlotLayer::Kind::trace, "Compared", 6, true, {}};
      other.has_marks = false;
      for (const Series::Sample& m : then_->medians)
        if (m.seconds <= d_.record.span_s()) other.points.push_back({x(m.seconds), m.value});
      main.layers.push_back(std::move(other));
    }
    if (!is_few) {
      auto dots = std::make_shared<Dots>();
      for (std::size_t i = 0; i < samples.size(); ++i) {
        dots->x.push_back(x(samples[i].seconds));
        dots->y.push_back(static_cast<float>(d_.to_ppm(samples[i].error_hz)));
      }
      PlotLayer single{PlotLayer::Kind::dots, "Readings", 1, false, {}};
      single.dots = std::move(dots);
      main.layers.push_back(std::move(single));
    }
    PlotLayer line{PlotLayer::Kind::trace, is_few ? "Readings" : "Median", 1, true, {}};
    line.has_marks = is_few;
    for (const Series::Sample& m : d_.medians) line.points.push_back({x(m.seconds), m.value});
    main.layers.push_back(std::move(line));
    if (!is_few) return;
    PlotLayer out{PlotLayer::Kind::trace, "Left out", 6, false, {}};
    for (std::size_t i = 0; i < samples.size(); ++i)
      if (d_.fit.is_outlier[i])
        out.points.push_back({x(samples[i].seconds), d_.to_ppm(samples[i].error_hz)});
    if (!out.points.empty()) main.layers.push_back(std::move(out));
  }

  void add_curve(PlotPanel& main) const {
    if (d_.fit.curve_hz.empty()) return;
    PlotLayer fit{PlotLayer::Kind::trace, d_.fit.warm_up ? "Warm-up fit" : "Fit", 2, true, {}};
    fit.has_marks = false;
    const std::size_t n = d_.fit.curve_hz.size();
    const std::size_t every = std::max<std::size_t>(1, n / kDriftPoints);
    for (std::size_t i = 0; i < n; i += every)
      fit.points.push_back({x(d_.record.samples[i].seconds), d_.to_ppm(d_.fit.curve_hz[i])});
    main.layers.push_back(std::move(fit));
  }

  void add_moments(PlotPanel& main) const {
    PlotLayer moments{PlotLayer::Kind::moment, "", 1, false, {}};
    if (d_.settle && d_.settle->value > 0.0) {
      PlotPoint p{d_.settle->value * 60.0 / unit_.seconds, 0.0,
                  d_.settle->expanded() * 60.0 / unit_.seconds};
      p.word = "settled within \u00b1 " + number_text(plan_.settle_ppm, 2) + " ppm after " +
               figure_text(*d_.settle, Rounding::compact);
      moments.points.push_back(p);
    }
    for (const DriftRecord::Moment& e : d_.record.events) {
      if (e.seconds < 0.0 || e.seconds > d_.record.span_s()) continue;
      PlotPoint p{x(e.seconds), 0.0};
      p.word = e.text;
      moments.points.push_back(p);
    }
    if (!moments.points.empty()) main.layers.push_back(std::move(moments));
  }

  /// The readings that count, their curve, and zero where it is near.
  void scale(PlotPanel& main) const {
    double least = 1e300;
    double most = -1e300;
    const auto see = [&](double v) {
      least = std::min(least, v);
      most = std::max(most, v);
    };
    for (const Series::Sample& m : d_.medians) see(m.value);
    if (then_)
      for (const Series::Sample& m : then_->medians)
        if (m.seconds <= d_.record.span_s()) see(m.value);
    see(d_.to_ppm(d_.fit.least_hz));
    see(d_.to_ppm(d_.fit.most_hz));
    if (plan_.limit) {
      see(plan_.limit->value);
      see(-plan_.limit->value);
    }
    if (least > 0.0 && least < most - least) see(0.0);
    const double room = std::max((kAxisRoom - 1.0) / 2.0 * (most - least), 1e-4);
    main.y.range = std::pair(least - room, most + 1.6 * room);
    const double per_ppm = top_band_hz() / kPerMillion;
    main.y_right =
        PlotAxis{"Hz at " + frequency_text(top_band_hz()), "", false,
                 std::pair(main.y.range->first * per_ppm, main.y.range->second * per_ppm)};
  }

  void add_temperature(Plot& plot) const {
    const auto& all = d_.record.temperatures;
    if (all.empty() || d_.medians.empty()) return;
    PlotPanel strip{{"Temperature, \u00b0C", ""}, {}};
    PlotLayer line{PlotLayer::Kind::trace, "", 4, true, {}};
    line.has_marks = false;
    const std::size_t every = std::max<std::size_t>(1, all.size() / kDriftPoints);
    for (std::size_t i = 0; i < all.size(); i += every) {
      if (all[i].seconds < 0.0 || all[i].seconds > d_.record.span_s()) continue;
      line.points.push_back({x(all[i].seconds), all[i].value});
    }
    if (line.points.empty()) return;
    const auto [low, high] =
        std::minmax_element(line.points.begin(), line.points.end(),
                            [](const PlotPoint& a, const PlotPoint& b) { return a.y < b.y; });
    strip.y.range = std::pair(std::floor(low->y - 0.5), std::ceil(high->y + 0.5));
    strip.layers.push_back(std::move(line));
    plot.panels.push_back(std::move(strip));
  }

  void add_answers(Result& r) const {
    if (!d_.error) return;
    Answer a;
    a.figure = *d_.error;
    a.where = "once settled";
    a.head = d_.settle ? "Error once settled" : "Error at the end of the record";
    a.label = error_words(*d_.error);
    a.margin_span = plan_.limit ? plan_.limit->span : 0.5;
    if (plan_.limit) a.limit = plan_.limit;
    a.judgement = d_.judgement;
    if (!d_.is_known)
      a.sentence = "The source is not known: it is not judged.";
    else if (a.judgement)
      a.sentence = verdict_sentence(*a.judgement, "ppm");
    else
      a.sentence = "No limit is chosen, so nothing is judged.";
    for (std::size_t i = 0; i < std::max<std::size_t>(1, d_.bands.size()); ++i) {
      a.step = i;
      r.answers.push_back(a);
    }
    r.figures.push_back(*d_.error);
    r.headline_id = d_.error->id;
  }

  void add_cards(Result& r) const {
    if (!d_.error) return;
    FigureCard card;
    card.head = "Time to settle";
    if (d_.settle) {
      card.value = figure_text(*d_.settle, Rounding::compact);
      card.caption = plan_.settle_limit_s
                         ? "limit " + number_text(*plan_.settle_limit_s / 60.0, 0) + " min"
                         : "no limit is set";
      card.judgement = d_.settle_judgement;
      if (plan_.settle_limit_s) card.margin_span = *plan_.settle_limit_s / 60.0;
    } else {
      card.value = "not settled";
      card.caption = "within " + duration_text(d_.record.span_s());
    }
    r.figure_cards.push_back(std::move(card));
  }

  void add_figures(Result& r) const {
    const auto add = [&](const std::optional<Figure>& f, const std::optional<Judgement>& j) {
      if (f) r.step_figures.push_back({"once settled", *f, std::nullopt, j});
    };
    if (d_.error) r.step_figures.push_back({"once settled", *d_.error, plan_.limit, d_.judgement});
    add(d_.settle, d_.settle_judgement);
    add(d_.fit.rate_per_h, std::nullopt);
    add(d_.per_kelvin, d_.kelvin_judgement);
    for (const DriftBand& b : d_.bands)
      if (b.settled)
        r.step_figures.push_back(
            {frequency_text(b.frequency_hz), *b.settled, std::nullopt, b.judgement});
  }

  const Evidence& evidence_;
  DriftPlan plan_;
  Drift d_;
  std::optional<Drift> then_;
  TimeUnit unit_;
};

}  // namespace

Result evaluate_drift(const Evidence& evidence) {
  return DriftResult(evidence).result();
}

}  // namespace heron
