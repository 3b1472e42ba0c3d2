#include "core/method/amplifier/response_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <utility>

#include "core/error.h"
#include "core/method/amplifier/gain_take.h"
#include "core/method/amplifier/response.h"
#include "core/method/live_quantity.h"
#include "core/method/meter_reading.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr std::size_t kMostMarks = 24;      // points of a trace; more are a curve
constexpr std::size_t kCurvePoints = 2000;  // that are drawn at most
constexpr double kAnOctave = 2.0;

/// A point may be called by where it is.
std::optional<double> frequency_of_name(const std::string& label) {
  try {
    return parse_quantity(label, Quantity::frequency).value;
  } catch (const InputError&) {
    return std::nullopt;
  }
}

std::vector<ResponseReading> readings_of(const Evidence& evidence, const GainSettings& s) {
  std::vector<ResponseReading> all;
  for (EvidenceStep from : evidence.steps) {
    // A point that is called by its frequency is there, for the hook-up too.
    if (find_condition(from.conditions, kFrequencyCondition) == nullptr) {
      if (const auto hz = frequency_of_name(from.label))
        from.conditions.push_back({kFrequencyCondition, *hz, "Hz"});
    }
    ResponseReading r;
    r.label = from.label;
    if (const Condition* f = find_condition(from.conditions, kFrequencyCondition))
      r.frequency_hz = f->value;
    r.refusal = step_refusal(from, evidence, s);
    if (r.refusal.empty()) {
      r.input = drive_between(drive_figure(from, ReadingRole::before, evidence, s),
                              drive_figure(from, ReadingRole::after, evidence, s));
      r.output = output_figure(from, evidence, s);
    }
    r.amperes = mean_figure(from, kSupplyCurrent, "Supply current");
    all.push_back(std::move(r));
  }
  return all;
}

/// Amplifier people say 0.2 W.
std::string drive_text(double dbm) {
  const double w = to_watt(Dbm{dbm}).value;
  return w >= 0.0995 ? fmt::format("{:.2g} W", w) : watts_text(dbm);
}

class ResponseResult {
 public:
  explicit ResponseResult(const Evidence& evidence)
      : evidence_(evidence), settings_(gain_settings_from_json(evidence.settings)) {
    if (evidence.companion != nullptr)
      series_ =
          assess_amplifier(driven_steps(*evidence.companion), amplifier_plan(*evidence.companion));
    ResponsePlan plan;
    if (evidence.limit && evidence.limit->unit == "dB") plan.least_gain_db = evidence.limit->value;
    plan.most_slope_db = most_slope();
    plan.bands = shown_bands(evidence);
    if (series_ && !series_->rising.empty()) plan.series = &*series_;
    plan_ = plan;
    r_ = assess_response(readings_of(evidence, settings_), plan_);
  }

  Result result() const {
    Result r;
    r.method = "response";
    r.remarks = r_.remarks;
    for (const BandGain& b : r_.bands) r.items.push_back({b.band.name, reading_at(b)});
    r.tables.push_back(table());
    r.plots.push_back(plot());
    if (const auto first = r_.headline()) {
      r.answers.push_back(answer(*first));
      for (std::size_t i = 0; i < r_.bands.size(); ++i)
        if (i != *first && r_.bands[i].lowest) r.answers.push_back(answer(i));
    }
    for (std::size_t i = 0; i < r_.bands.size(); ++i) add_slope_card(r, i);
    add_figures(r);
    for (const ResponseSweep& s : r_.sweeps)
      r.conditions.emplace_back(
          "Drive", drive_text(s.drive_dbm) + fmt::format(", {} points", s.points.size()));
    return r;
  }

 private:
  std::optional<double> most_slope() const {
    const auto own = evidence_.settings.find(kGainSettings);
    return own != evidence_.settings.end() && own->is_object() ? number_from(*own, kSlopeKey)
                                                               : std::nullopt;
  }

  std::optional<std::size_t> reading_at(const BandGain& b) const {
    if (r_.sweeps.empty() || !b.lowest) return std::nullopt;
    for (const ResponsePoint& p : r_.sweeps.front().points)
      if (p.frequency_hz == b.lowest_hz) return p.reading;
    return std::nullopt;
  }

  ResultTable table() const {
    ResultTable t;
    t.title = "Bands";
    t.margin_span = kGainMarginSpanDb;
    const std::string drive =
        r_.sweeps.empty() ? "" : " at " + drive_text(r_.sweeps.back().drive_dbm);
    t.columns = {{"band", "Band", CellKind::name, 104, 0, 0, true},
                 {"from", "From, MHz", CellKind::figure, 70, 0, 0, true},
                 {"to", "To, MHz", CellKind::figure, 64, 0, 0, true},
                 {"lowest", "Lowest gain, dB", CellKind::figure, 108},
                 {"at", "at, MHz", CellKind::figure, 64},
                 {"slope", "Slope, dB", CellKind::figure, 66, 1200},
                 {"amperes", "A" + drive, CellKind::figure, 74, 1440},
                 {"drop", "Drop is", CellKind::figure, 106, 1200},
                 {"margin", "Margin", CellKind::margin, -1},
                 {"verdict", "Verdict", CellKind::verdict, 112, 0, 111}};
    const auto mhz = [](double hz) { return number_text(hz / 1e6, hz < 1e8 ? 3 : 1); };
    for (std::size_t i = 0; i < r_.bands.size(); ++i) {
      const BandGain& b = r_.bands[i];
      TableCell lowest;
      if (b.lowest)
        lowest = {figure_cell(*b.lowest, 2), std::nullopt, b.judgement.has_value(), b.lowest};
      TableCell slope;
      if (b.slope) slope = {number_text(b.slope->value, 2), std::nullopt, false, b.slope};
      ResultTable::Row row{i, {}};
      row.cells = {
          {b.band.name},
          {mhz(b.band.from_hz)},
          {mhz(b.band.to_hz)},
          lowest,
          {b.lowest ? mhz(b.lowest_hz) : std::string()},
          slope,
          {b.amperes ? number_text(b.amperes->value, 2) : std::string()},
          {drop_words(b.drop)},
          {b.judgement ? number_text(b.judgement->margin, 2, true) : std::string(), b.judgement},
          verdict_cell(b.judgement, b.lowest.has_value(), false)};
      t.rows.push_back(std::move(row));
    }
    t.new_row = "a new band";
    t.note =
        "Slope: highest less lowest gain in the band. Drop is: whether current falls with the "
        "output as it did over "
        "drive (gain) or stays (output network).";
    return t;
  }

  static PlotLayer points_layer(const ResponseSweep& s, int number, const std::string& name) {
    PlotLayer layer{PlotLayer::Kind::trace, name, number, true, {}};
    if (s.points.size() <= kMostMarks) {
      for (const ResponsePoint& p : s.points)
        layer.points.push_back(
            {p.frequency_hz, p.gain.value, number == 1 ? p.gain.expanded() : 0.0});
      return layer;
    }
    layer.kind = PlotLayer::Kind::curve;
    layer.curve = even_curve(s, [](const ResponsePoint& p) { return p.gain.value; });
    return layer;
  }

  /// At even steps, lowest and highest of each kept by the view.
  template <class Value>
  static std::shared_ptr<const Curve> even_curve(const ResponseSweep& s, const Value& value) {
    auto curve = std::make_shared<Curve>();
    const std::size_t n = std::min(kCurvePoints, 4 * s.points.size());
    curve->x_unit = "Hz";
    curve->x_start = s.points.front().frequency_hz;
    curve->x_step = (s.points.back().frequency_hz - curve->x_start) / static_cast<double>(n - 1);
    std::size_t k = 1;
    for (std::size_t i = 0; i < n; ++i) {
      const double hz = curve->x(i);
      while (k + 1 < s.points.size() && s.points[k].frequency_hz < hz) ++k;
      const ResponsePoint& a = s.points[k - 1];
      const ResponsePoint& b = s.points[k];
      const double width = b.frequency_hz - a.frequency_hz;
      const double share = width > 0.0 ? std::clamp((hz - a.frequency_hz) / width, 0.0, 1.0) : 0.0;
      curve->y.push_back(static_cast<float>(std::lerp(value(a), value(b), share)));
    }
    return curve;
  }

  Plot plot() const {
    Plot plot;
    plot.title = "Gain over frequency";
    plot.empty_words =
        "Nothing read yet: type frequency, drive and output of each point into the grid, or paste "
        "them.";
    plot.x = {"Frequency", "Hz"};
    PlotPanel main{{"Gain, dB", ""}, {}};
    if (r_.sweeps.empty()) {
      plot.x.is_logarithmic = true;
      plot.x.range = std::pair(1.5e6, 60e6);
      main.y.range = std::pair(0.0, 20.0);
    } else {
      const double from = r_.sweeps.front().points.front().frequency_hz;
      const double to = r_.sweeps.front().points.back().frequency_hz;
      plot.x.is_logarithmic = to > kAnOctave * from;
      const double room = std::max(0.03 * (to - from), 1.0);
      plot.x.range = plot.x.is_logarithmic ? std::pair(from / 1.15, to * 1.15)
                                           : std::pair(from - room, to + room);
      add_gain(main);
    }
    for (std::size_t i = 0; i < r_.bands.size(); ++i) {
      const BandMarker& b = r_.bands[i].band;
      main.ranges.push_back({b.from_hz, b.to_hz, "", true, i});
      main.lanes.push_back({b.from_hz, b.to_hz, b.name, false, i});
    }
    plot.panels.push_back(std::move(main));
    add_current(plot);
    return plot;
  }

  /// Bands that overlap, joined.
  std::vector<std::pair<double, double>> stretches() const {
    std::vector<std::pair<double, double>> all;
    for (const BandGain& b : r_.bands) all.emplace_back(b.band.from_hz, b.band.to_hz);
    std::sort(all.begin(), all.end());
    std::vector<std::pair<double, double>> joined;
    for (const auto& s : all) {
      if (!joined.empty() && s.first <= joined.back().second)
        joined.back().second = std::max(joined.back().second, s.second);
      else
        joined.push_back(s);
    }
    return joined;
  }

  void add_gain(PlotPanel& main) const {
    if (plan_.least_gain_db) {
      std::string name = "at least " + number_text(*plan_.least_gain_db, 1) + " dB";
      for (const auto& [from_hz, to_hz] : stretches()) {
        PlotLayer limit{PlotLayer::Kind::limit, std::exchange(name, {}), 1, true, {}};
        limit.ends_at_points = true;
        limit.points = {{from_hz, *plan_.least_gain_db}, {to_hz, *plan_.least_gain_db}};
        main.layers.push_back(std::move(limit));
      }
    }
    int number = 1;
    double least = 1e300;
    double most = -1e300;
    for (const ResponseSweep& s : r_.sweeps) {
      main.layers.push_back(points_layer(s, std::min(number, 6), drive_text(s.drive_dbm) + " in"));
      ++number;
      for (const ResponsePoint& p : s.points) {
        least = std::min(least, p.gain.value);
        most = std::max(most, p.gain.value);
      }
    }
    if (plan_.least_gain_db) least = std::min(least, *plan_.least_gain_db);
    // Room for the lanes of the bands, and for flags.
    const double low = std::floor(least - 0.4);
    main.y.range = std::pair(low, std::ceil(most + 0.5 + 0.35 * (most - low)));
    const ResponseSweep& first = r_.sweeps.front();
    PlotLayer edges{PlotLayer::Kind::pole, "", 1, false, {}};
    for (const ResponseEdge& e : first.edges) {
      if (!e.hz) continue;
      PlotPoint p{*e.hz, first.points[first.highest].gain.value - e.down_db};
      const double step = std::max(e.u_hz * 2.0, 1.0);
      const double mhz = *e.hz / 1e6;
      p.word = fmt::format(
          "\u2212{} dB {}", number_text(e.down_db, 0),
          number_text(mhz, std::clamp(decimals_for(step / 1e6, Rounding::compact), 0, 4)));
      p.is_left = e.is_lower;
      edges.points.push_back(std::move(p));
    }
    main.layers.push_back(std::move(edges));
  }

  void add_current(Plot& plot) const {
    if (r_.sweeps.empty()) return;
    const ResponseSweep& hardest = r_.sweeps.back();
    PlotPanel strip{{"Current at " + drive_text(hardest.drive_dbm) + " in, A", ""}, {}};
    PlotLayer measured{PlotLayer::Kind::trace, "measured", 4, true, {}};
    PlotLayer series{PlotLayer::Kind::trace, "as over drive", 6, true, {}};
    const bool has_marks = hardest.points.size() <= kMostMarks;
    for (const ResponsePoint& p : hardest.points) {
      if (!p.amperes) continue;
      measured.points.push_back(
          {p.frequency_hz, p.amperes->value, has_marks ? p.amperes->expanded() : 0.0});
      if (p.expected_a) series.points.push_back({p.frequency_hz, *p.expected_a});
    }
    if (measured.points.empty()) return;
    if (!has_marks) {
      thin(measured);
      thin(series);
    }
    strip.layers = {series, measured};
    for (std::size_t i = 0; i < r_.bands.size(); ++i)
      strip.ranges.push_back({r_.bands[i].band.from_hz, r_.bands[i].band.to_hz, "", true, i});
    plot.panels.push_back(std::move(strip));
  }

  static void thin(PlotLayer& layer) {
    const std::size_t every = layer.points.size() / kMostMarks + 1;
    std::vector<PlotPoint> kept;
    for (std::size_t i = 0; i < layer.points.size(); i += every) kept.push_back(layer.points[i]);
    layer.points = std::move(kept);
  }

  Answer answer(std::size_t i) const {
    const BandGain& b = r_.bands[i];
    Answer a;
    a.figure = *b.lowest;
    a.where = b.band.name;
    a.head = "Lowest gain in " + b.band.name;
    a.label = "at " + megahertz_text(b.lowest_hz) + ", " + drive_text(r_.sweeps.front().drive_dbm) +
              " of drive";
    a.step = i;
    a.margin_span = kGainMarginSpanDb;
    if (b.judgement) {
      a.limit = evidence_.limit;
      a.judgement = b.judgement;
      a.sentence = verdict_sentence(*b.judgement, "dB");
    } else {
      a.sentence = "No limit is chosen, so nothing is judged.";
    }
    return a;
  }

  void add_slope_card(Result& r, std::size_t i) const {
    const BandGain& b = r_.bands[i];
    if (!b.slope) return;
    FigureCard card;
    card.head = "Slope over " + b.band.name;
    card.value = figure_text(*b.slope, Rounding::compact);
    card.caption = plan_.most_slope_db ? "limit " + number_text(*plan_.most_slope_db, 1) + " dB"
                                       : "no limit is set";
    card.judgement = b.slope_judgement;
    card.margin_span = kGainMarginSpanDb;
    card.step = i;
    r.figure_cards.push_back(card);
  }

  void add_figures(Result& r) const {
    for (const BandGain& b : r_.bands) {
      if (!b.lowest) continue;
      StepFigure f{b.band.name, *b.lowest, std::nullopt, b.judgement};
      if (b.judgement) f.limit = evidence_.limit;
      r.step_figures.push_back(f);
      if (b.slope)
        r.step_figures.push_back({b.band.name, *b.slope, std::nullopt, b.slope_judgement});
    }
  }

  const Evidence& evidence_;
  GainSettings settings_;
  std::optional<Amplification> series_;
  ResponsePlan plan_;
  Response r_;
};

}  // namespace

std::vector<BandMarker> response_bands(const Evidence& evidence) {
  const auto own = evidence.settings.find(kGainSettings);
  if (own != evidence.settings.end() && own->is_object() && own->contains(kBandsKey) &&
      own->at(kBandsKey).is_array() && !own->at(kBandsKey).empty())
    return bands_from_json(own->at(kBandsKey));
  double low = 1e300;
  double high = 0.0;
  for (const EvidenceStep& s : evidence.steps) {
    const auto hz = step_frequency_hz(s, evidence.drive);
    if (!hz) continue;
    low = std::min(low, *hz);
    high = std::max(high, *hz);
  }
  if (evidence.drive) {
    low = std::min(low, evidence.drive->frequency_hz);
    high = std::max(high, evidence.drive->frequency_hz);
  }
  return low <= high ? usual_bands(low, high) : std::vector<BandMarker>{};
}

std::vector<BandMarker> shown_bands(const Evidence& evidence) {
  std::vector<BandMarker> bands = response_bands(evidence);
  if (!bands.empty()) return bands;
  double low = 1e300;
  double high = 0.0;
  for (const ResponseReading& r :
       readings_of(evidence, gain_settings_from_json(evidence.settings))) {
    if (!r.frequency_hz) continue;
    low = std::min(low, *r.frequency_hz);
    high = std::max(high, *r.frequency_hz);
  }
  if (low < high) bands.push_back({"Whole sweep", low, high});
  return bands;
}

Result evaluate_response(const Evidence& evidence) {
  return ResponseResult(evidence).result();
}

}  // namespace heron
