#include "core/method/receiver/indicator_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/measure/path_level.h"
#include "core/method/receiver/indicator_settings.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr double kUnitToleranceDb = 6.0;
constexpr double kIndicatorSpanDb = 10.0;
constexpr double kWorthDb = 1.0;

std::string microvolts_text(double level_dbm) {
  const double uv = 1e6 * to_pd(to_watt(Dbm{level_dbm})).value;
  const double unit = std::pow(10.0, std::floor(std::log10(uv)) - 1.0);
  const double rounded = std::round(uv / unit) * unit;
  return number_text(rounded, rounded >= 10.0 ? 0 : rounded >= 1.0 ? 1 : 2);
}

/// One band with its scale against either S9.
struct BandScale {
  std::string name;
  std::optional<double> frequency_hz;
  std::vector<std::size_t> steps;  ///< of the test, in the order of the scale's points
  IndicatorScale scale;
  double s9_dbm = kS9Hf;
  std::optional<Judgement> judgement;
  std::string refusal;
  bool has_scale() const { return refusal.empty(); }
};

class IndicatorResult {
 public:
  explicit IndicatorResult(const Evidence& evidence)
      : evidence_(evidence), plan_(indicator_plan(evidence)) {
    struct Read {
      std::string band;
      std::optional<double> hz;
      IndicatorPoint point;
      std::size_t step;
    };
    std::vector<std::pair<std::string, std::vector<Read>>> all;
    for (std::size_t i = 0; i < evidence.steps.size(); ++i) {
      const EvidenceStep& from = evidence.steps[i];
      try {
        const IndicatorStep s = indicator_step(from.label);
        IndicatorPoint p;
        p.reading = s.reading;
        const auto level = level_of(from, kIndicatorLevel, s.frequency_hz, p.u_db);
        if (!level) continue;
        p.level_dbm = *level;
        double unused = 0.0;
        p.goes_out_dbm = level_of(from, kGoesOut, s.frequency_hz, unused);
        p.is_without_signal = s.reading.is_segments && plan_.dark_segments &&
                              s.reading.segments <= *plan_.dark_segments;
        auto band = std::find_if(all.begin(), all.end(), [&](const auto& b) {
          return lower_case(b.first) == lower_case(s.band);
        });
        if (band == all.end()) band = all.insert(all.end(), {s.band, {}});
        band->second.push_back({s.band, s.frequency_hz, p, i});
      } catch (const InputError& error) {
        remarks_.push_back({"row", Severity::caution,
                            from.label + ": " + error.reason + "; it is left out.", error.advice});
      }
    }
    for (auto& [name, reads] : all) {
      std::stable_sort(reads.begin(), reads.end(), [](const Read& a, const Read& b) {
        return a.point.level_dbm < b.point.level_dbm;
      });
      BandScale b;
      b.name = name.empty() ? "the band" : name;
      std::vector<IndicatorPoint> points;
      for (const Read& r : reads) {
        b.frequency_hz = r.hz ? r.hz : b.frequency_hz;
        points.push_back(r.point);
        b.steps.push_back(r.step);
      }
      b.s9_dbm = plan_.s9_dbm(b.frequency_hz.value_or(0.0));
      try {
        b.scale = indicator_scale(points, b.s9_dbm);
        if (b.scale.s9_error && plan_.limit) b.judgement = judge(*b.scale.s9_error, *plan_.limit);
      } catch (const InputError& error) {
        b.refusal = error.reason;
        b.scale.points = points;
        remarks_.push_back(
            {"band", Severity::note, b.name + ": " + error.reason + ".", error.advice});
      }
      for (const Remark& r : b.scale.remarks)
        remarks_.push_back({r.code, r.severity, b.name + ": " + r.text, r.action});
      bands_.push_back(std::move(b));
    }
  }

  Result result() const {
    Result r;
    r.method = "indicator";
    r.remarks = remarks();
    for (const BandScale& b : bands_)
      r.items.push_back({b.name, b.steps.empty() ? std::nullopt : std::optional(b.steps.front())});
    if (bands_.empty()) {
      r.tables.push_back(reading_table(nullptr));
      r.plots.push_back(empty_plot());
      return r;
    }
    for (std::size_t i = 0; i < bands_.size(); ++i) {
      ResultTable t =
          bands_[i].scale.is_segments ? segment_table(bands_[i]) : reading_table(&bands_[i]);
      t.step = i;
      r.tables.push_back(std::move(t));
      Plot p = bands_[i].scale.is_segments ? segment_plot(bands_[i]) : scale_plot(i);
      p.step = i;
      r.plots.push_back(std::move(p));
    }
    if (bands_.size() > 1) r.tables.push_back(band_table());
    add_answers(r);
    r.conditions = {
        {"S9 is", plan_.is_handbook && plan_.handbook_dbm
                      ? "the handbook\u2019s, " + number_text(*plan_.handbook_dbm, 1) + " dBm"
                      : "50 \u00b5V PD below 30 MHz, 5 \u00b5V from there on"}};
    return r;
  }

 private:
  std::optional<double> level_of(const EvidenceStep& step, const char* quantity,
                                 std::optional<double> hz, double& u_db) const {
    const Reading* typed = find_reading(step.readings, quantity);
    if (typed == nullptr) return std::nullopt;
    u_db = plan_.u_db;
    double level = typed->value;
    if (evidence_.hookup && !evidence_.hookup->parts.empty()) {
      if (!hz)
        throw InputError(step.label, "", "its band is not known, and the hook-up needs it",
                         "Call it by its band, too: 14.2 MHz, S9");
      level += total_gain_db(*evidence_.hookup, *hz);
      double square = u_db * u_db;
      for (const Contribution& c : level_contributions(*evidence_.hookup, *hz)) square += c.u * c.u;
      u_db = std::sqrt(square);
    }
    return level;
  }

  std::vector<Remark> remarks() const {
    std::vector<Remark> all = remarks_;
    if (evidence_.limit && !plan_.limit)
      all.push_back({"limit_unit", Severity::caution,
                     "The limit is in " + evidence_.limit->unit + ": it judges no S9.",
                     "Choose a limit in dB"});
    const BandScale* lowest = nullptr;
    const BandScale* highest = nullptr;
    const BandScale* off = nullptr;
    for (const BandScale& b : bands_) {
      if (!b.scale.s9) continue;
      if (lowest == nullptr || b.scale.s9->value < lowest->scale.s9->value) lowest = &b;
      if (highest == nullptr || b.scale.s9->value > highest->scale.s9->value) highest = &b;
      const bool is_off = b.judgement && b.judgement->verdict == Verdict::fail;
      if (is_off && (off == nullptr ||
                     std::abs(b.scale.s9_error->value) > std::abs(off->scale.s9_error->value)))
        off = &b;
    }
    if (off != nullptr)
      all.push_back(
          {"s9_trimmer", Severity::note,
           fmt::format("S9 comes {} dB too {} at {}: the trimmer in the IF moves S9, never "
                       "the sensitivity.",
                       number_text(std::abs(off->scale.s9_error->value), 1),
                       off->scale.s9_error->value > 0.0 ? "early" : "late", off->name),
           "After it is moved, read every band again, and one sensitivity"});
    if (lowest != nullptr && lowest != highest) {
      const Figure d = difference(*highest->scale.s9, *lowest->scale.s9);
      if (d.value > kWorthDb)
        all.push_back({"front_end", Severity::note,
                       fmt::format("{} needs {} dB more for S9 than {}: that is gain before the "
                                   "indicator, never sensitivity.",
                                   highest->name, number_text(d.value, 1), lowest->name),
                       ""});
    }
    if (plan_.dark_segments && *plan_.dark_segments > 0.0)
      all.push_back({"dark", Severity::note,
                     number_text(*plan_.dark_segments, 0) +
                         " segments are lit without signal: they are not judged.",
                     ""});
    return all;
  }

  Judgement unit_judgement(const IndicatorScale& s, std::size_t i) const {
    Figure f;
    f.unit = "dB";
    f.value = s.errors_db[i];
    f.contributions = {{"level and reading", s.points[i].u_db, Scope::common}};
    return judge(f, {"one unit", Sense::within, kUnitToleranceDb, "dB", "", kIndicatorSpanDb});
  }

  ResultTable reading_table(const BandScale* b) const {
    ResultTable t;
    t.title = "Readings";
    t.tab = "readings of the band";
    t.margin_span = kIndicatorSpanDb;
    t.columns = {{"reading", "Shows", CellKind::name, -1},
                 {"level", "Level, dBm", CellKind::figure, 102},
                 {"uv", "\u00b5V PD", CellKind::figure, 54, 1200},
                 {"really", "Is really", CellKind::text, 70},
                 {"ideal", "Ideal, dBm", CellKind::figure, 72, 1200},
                 {"error", "Error, dB", CellKind::figure, 102},
                 {"unit", "Unit or 10 dB", CellKind::figure, 84},
                 {"margin", "Margin", CellKind::margin, 80, 0, 72},
                 {"verdict", "Verdict", CellKind::verdict, 96, 0, 94}};
    if (b == nullptr) return t;
    const IndicatorScale& s = b->scale;
    for (std::size_t i = 0; i < s.points.size(); ++i) {
      const IndicatorPoint& p = s.points[i];
      Figure level;
      level.id = "level";
      level.label = "Level for " + indicator_text(p.reading.db);
      level.unit = "dBm";
      level.value = p.level_dbm;
      level.contributions = {{"level and reading", p.u_db, Scope::common}};
      ResultTable::Row row{std::nullopt, {{indicator_text(p.reading.db)}}};
      row.cells.push_back({figure_cell(level, 1), std::nullopt, false, level});
      row.cells.push_back({microvolts_text(p.level_dbm)});
      if (!b->has_scale() || s.errors_db.size() <= i) {
        row.cells.resize(t.columns.size());
        t.rows.push_back(std::move(row));
        continue;
      }
      row.cells.push_back({indicator_text(p.level_dbm - b->s9_dbm)});
      row.cells.push_back({number_text(b->s9_dbm + p.reading.db, 0)});
      Figure error = level;
      error.id = "error";
      error.label = "Error at " + indicator_text(p.reading.db);
      error.unit = "dB";
      error.value = s.errors_db[i];
      row.cells.push_back({figure_cell(error, 1, true), std::nullopt, true, error});
      const auto slope = std::find_if(s.slopes.begin(), s.slopes.end(),
                                      [&](const auto& x) { return x.to_db == p.reading.db; });
      row.cells.push_back(
          {slope != s.slopes.end() ? number_text(slope->db_per_unit, 1) : std::string()});
      const Judgement j = unit_judgement(s, i);
      row.cells.push_back({number_text(j.margin, 1, true), j});
      row.cells.push_back(verdict_cell(j, true, false));
      t.rows.push_back(std::move(row));
    }
    t.note =
        "Error: shown less true; within one unit, 6 dB, either way. Unit: what one S unit up to "
        "here is worth, over S9 what 10 dB are.";
    return t;
  }

  ResultTable segment_table(const BandScale& b) const {
    ResultTable t;
    t.title = "Segments";
    t.tab = "segments of the band";
    t.columns = {{"segment", "Segment", CellKind::name, 110},
                 {"lights", "Lights at, dBm", CellKind::figure, 120},
                 {"goes_out", "Goes out at, dBm", CellKind::figure, 120},
                 {"hysteresis", "Hysteresis, dB", CellKind::figure, 110},
                 {"uv", "\u00b5V PD", CellKind::figure, 80},
                 {"what", "", CellKind::text, -1}};
    for (const IndicatorPoint& p : b.scale.points) {
      ResultTable::Row row{std::nullopt, {{fmt::format("{:g}", p.reading.segments)}}};
      row.cells.push_back({number_text(p.level_dbm, 1)});
      row.cells.push_back({p.goes_out_dbm ? number_text(*p.goes_out_dbm, 1) : std::string()});
      row.cells.push_back(
          {p.goes_out_dbm ? number_text(p.level_dbm - *p.goes_out_dbm, 1) : std::string()});
      row.cells.push_back({microvolts_text(p.level_dbm)});
      row.cells.push_back({p.is_without_signal ? "lit without signal: not judged" : ""});
      t.rows.push_back(std::move(row));
    }
    return t;
  }

  ResultTable band_table() const {
    ResultTable t;
    t.title = "S9 on each band";
    t.tab = "bands";
    t.margin_span = plan_.limit ? plan_.limit->span : kIndicatorSpanDb;
    t.columns = {{"band", "Band", CellKind::name, 120},
                 {"s9", "S9 at, dBm", CellKind::figure, 120},
                 {"uv", "\u00b5V PD", CellKind::figure, 70},
                 {"error", "Too early by, dB", CellKind::figure, 130},
                 {"handbook", "Against handbook, dB", CellKind::figure, 140, 1200},
                 {"margin", "Margin", CellKind::margin, -1},
                 {"verdict", "Verdict", CellKind::verdict, 108, 0, 100}};
    for (std::size_t i = 0; i < bands_.size(); ++i) {
      const BandScale& b = bands_[i];
      ResultTable::Row row{i, {{b.name}}};
      if (b.scale.s9) {
        row.cells.push_back({figure_cell(*b.scale.s9, 1), std::nullopt, false, b.scale.s9});
        row.cells.push_back({microvolts_text(b.scale.s9->value)});
        row.cells.push_back({figure_cell(*b.scale.s9_error, 1, true), std::nullopt,
                             b.judgement.has_value(), b.scale.s9_error});
        row.cells.push_back({plan_.handbook_dbm
                                 ? number_text(*plan_.handbook_dbm - b.scale.s9->value, 1, true)
                                 : std::string()});
      } else {
        row.cells.resize(5);
      }
      row.cells.push_back(
          {b.judgement ? number_text(b.judgement->margin, 1, true) : std::string(), b.judgement});
      row.cells.push_back(verdict_cell(b.judgement, b.scale.s9.has_value(), false));
      t.rows.push_back(std::move(row));
    }
    return t;
  }

  static Plot empty_plot() {
    Plot plot;
    plot.title = "What the indicator shows";
    plot.x = {"dBm", "", false, std::pair(-125.0, -25.0)};
    plot.empty_words =
        "Nothing read yet. Raise the generator from below until the indicator shows S1, S3 and so "
        "on, and type the level of each; call the rows by band and reading, such as \u201c14.2 "
        "MHz, "
        "S9\u201d, or by the number of segments.";
    PlotPanel main{{"reading, dB re S9", ""}, {}};
    main.y.range = std::pair(-54.0, 40.0);
    plot.panels.push_back(std::move(main));
    return plot;
  }

  static PlotLayer trace_of(const BandScale& b, int trace) {
    PlotLayer layer{PlotLayer::Kind::trace, b.name, trace, true, {}};
    for (const IndicatorPoint& p : b.scale.points)
      layer.points.push_back({p.level_dbm, p.reading.db});
    return layer;
  }

  Plot scale_plot(std::size_t which) const {
    const BandScale& b = bands_[which];
    Plot plot = empty_plot();
    plot.panels.clear();
    plot.note = "S1 to S9: 6 dB each, then dB over S9";
    PlotPanel main{{"reading, dB re S9", ""}, {}};
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
    if (plan_.handbook_dbm && !plan_.is_handbook)
      main.layers.push_back(
          ideal("handbook\u2019s S9", *plan_.handbook_dbm, PlotLayer::Kind::guide));
    main.layers.push_back(ideal("ideal", b.s9_dbm, PlotLayer::Kind::limit));
    for (std::size_t i = 0; i < bands_.size(); ++i) {
      if (i == which || bands_[i].scale.is_segments || !bands_[i].has_scale()) continue;
      PlotLayer other = trace_of(bands_[i], 6);
      other.has_marks = false;
      other.is_ghost = true;
      main.layers.push_back(std::move(other));
    }
    PlotLayer own = trace_of(b, 1);
    main.layers.push_back(std::move(own));
    main.y.range = std::pair(least, most);
    plot.panels.push_back(std::move(main));
    if (b.scale.errors_db.empty()) return plot;
    PlotPanel strip{{"error, dB: shown less true", ""}, {}};
    PlotLayer error{PlotLayer::Kind::trace, "", 1, true, {}};
    double widest = kUnitToleranceDb + 2.0;
    for (std::size_t i = 0; i < b.scale.points.size(); ++i) {
      error.points.push_back(
          {b.scale.points[i].level_dbm, b.scale.errors_db[i], 2.0 * b.scale.points[i].u_db});
      widest = std::max(widest, std::abs(b.scale.errors_db[i]) + 2.0);
    }
    for (const double edge : {-kUnitToleranceDb, kUnitToleranceDb}) {
      PlotLayer line{PlotLayer::Kind::guide, "", 1, true, {{low, edge}, {high, edge}}};
      line.ends_at_points = true;
      strip.layers.push_back(std::move(line));
    }
    strip.layers.push_back(std::move(error));
    strip.y.range = std::pair(-widest, widest);
    plot.panels.push_back(std::move(strip));
    return plot;
  }

  /// Where each lights going up, and goes out coming down.
  static Plot segment_plot(const BandScale& b) {
    Plot plot = empty_plot();
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

  void add_answers(Result& r) const {
    std::vector<std::size_t> order;
    for (std::size_t i = 0; i < bands_.size(); ++i)
      if (bands_[i].scale.s9) order.push_back(i);
    if (order.empty()) return;
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
      if (bands_[a].judgement && bands_[b].judgement)
        return is_worse(*bands_[a].judgement, *bands_[b].judgement);
      return std::abs(bands_[a].scale.s9_error->value) > std::abs(bands_[b].scale.s9_error->value);
    });
    for (const std::size_t i : order) {
      const BandScale& b = bands_[i];
      Answer a;
      a.figure = *b.scale.s9_error;
      a.shown = b.scale.s9;
      a.where = b.name;
      a.head = "S9 point, " + b.name;
      a.label = microvolts_text(b.scale.s9->value) + " \u00b5V PD, " +
                number_text(std::abs(b.scale.s9_error->value), 1) + " dB " +
                (b.scale.s9_error->value >= 0.0 ? "generous" : "stingy");
      a.limit = plan_.limit;
      a.judgement = b.judgement;
      a.margin_span = plan_.limit ? plan_.limit->span : kIndicatorSpanDb;
      std::string words = range_words(b.scale);
      if (words.empty()) words = "right within its uncertainty throughout";
      words.front() = static_cast<char>(std::toupper(static_cast<unsigned char>(words.front())));
      a.sentence = words + ".";
      a.step = i;
      r.answers.push_back(a);
      r.step_figures.push_back({b.name, *b.scale.s9});
      r.step_figures.push_back({b.name, a.figure, a.limit, a.judgement});
      if (!plan_.handbook_dbm) continue;
      // The other school stands beside it, judged by the same width.
      FigureCard card;
      Figure other = *b.scale.s9_error;
      const double s9 =
          plan_.is_handbook ? usual_s9_dbm(b.frequency_hz.value_or(0.0)) : *plan_.handbook_dbm;
      other.value = s9 - b.scale.s9->value;
      card.head = plan_.is_handbook ? "Against 50 \u00b5V" : "Against the handbook";
      card.value = figure_cell(other, 1, true) + " dB";
      card.caption = "its S9 is " + number_text(s9, 1) + " dBm";
      if (plan_.limit) card.judgement = judge(other, *plan_.limit);
      card.margin_span = a.margin_span;
      card.step = i;
      r.figure_cards.push_back(std::move(card));
    }
    r.figures.push_back(r.answers.front().figure);
    r.headline_id = r.answers.front().figure.id;
  }

  const Evidence& evidence_;
  IndicatorPlan plan_;
  std::vector<Remark> remarks_;
  std::vector<BandScale> bands_;
};

}  // namespace

Result evaluate_indicator(const Evidence& evidence) {
  return IndicatorResult(evidence).result();
}

}  // namespace heron
