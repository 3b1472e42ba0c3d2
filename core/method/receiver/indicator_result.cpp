#include "core/method/receiver/indicator_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/measure/path_level.h"
#include "core/method/receiver/indicator_settings.h"
#include "core/method/receiver/receiver_way.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr double kUnitToleranceDb = 6.0;
constexpr double kIndicatorSpanDb = 10.0;
constexpr double kWorthDb = 1.0;
constexpr double kBetweenU = 0.2;  ///< standard: of a generator between two of its levels
constexpr double kReadU = 0.3;     ///< standard: of the needle brought to the same place

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

/// Read with the receiver's own attenuator in.
struct Attenuated {
  std::string band;
  IndicatorReading reading;
  double nominal_db = 0.0;
  double level_dbm = 0.0;
  bool is_after = false;
};
struct Substituted {
  std::string what;
  std::string shows;
  double nominal_db = 0.0;
  Figure step;
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
      bool is_after;
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
        if (s.attenuator_db) {
          attenuated_.push_back({s.band, s.reading, *s.attenuator_db, p.level_dbm, s.is_after});
          continue;
        }
        p.is_without_signal = s.reading.is_segments && plan_.dark_segments &&
                              s.reading.segments <= *plan_.dark_segments;
        auto band = std::find_if(all.begin(), all.end(), [&](const auto& b) {
          return lower_case(b.first) == lower_case(s.band);
        });
        if (band == all.end()) band = all.insert(all.end(), {s.band, {}});
        band->second.push_back({s.band, s.frequency_hz, p, i, s.is_after});
      } catch (const InputError& error) {
        remarks_.push_back({"row", Severity::caution,
                            from.label + ": " + error.reason + "; it is left out.", error.advice});
      }
    }
    const auto is_after = [](const Read& read) { return read.is_after; };
    const bool was_moved = std::any_of(all.begin(), all.end(), [&](const auto& band) {
      return std::any_of(band.second.begin(), band.second.end(), is_after);
    });
    for (auto& [name, reads] : all) {
      if (was_moved && std::any_of(reads.begin(), reads.end(), is_after))
        std::erase_if(reads, [&](const Read& read) { return !read.is_after; });
      else if (was_moved)
        not_again_.push_back(name.empty() ? "the band" : name);
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
    was_moved_ = was_moved;
    for (const Attenuated& a : attenuated_) substitute(a);
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
    if (!substituted_.empty()) r.tables.push_back(attenuator_table());
    if (auto card = correction_card(bands_.front())) r.print_card = std::move(card);
    r.level_plan = way();
    add_answers(r);
    for (const Substituted& s : substituted_) r.step_figures.push_back({s.what, s.step});
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
    if (plan_.change_db)
      for (const BandScale& b : bands_)
        if (b.has_scale() && !b.scale.is_segments) all.push_back(change_remark(b));
    if (was_moved_) {
      if (!not_again_.empty())
        all.push_back({"again", Severity::caution,
                       "S9 was moved: " + joined(not_again_) + " were read before only.",
                       "Read every band again, as \u201c14.2 MHz, S9, after\u201d"});
      all.push_back({"one_sensitivity", Severity::note,
                     "S9 was moved: one sensitivity repeated shows that nothing else was.",
                     "Repeat a band there as \u201c14.2 MHz, after\u201d"});
    }
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

  /// By the level that the same indication needs with the attenuator in.
  void substitute(const Attenuated& a) {
    const auto band = std::find_if(bands_.begin(), bands_.end(), [&](const BandScale& b) {
      return lower_case(b.name) == lower_case(a.band) || (a.band.empty() && b.name == "the band");
    });
    const std::string shows = a.reading.is_segments ? fmt::format("{:g}", a.reading.segments)
                                                    : indicator_text(a.reading.db);
    const IndicatorPoint* without = nullptr;
    if (band != bands_.end())
      for (const IndicatorPoint& p : band->scale.points)
        if (p.reading.is_segments == a.reading.is_segments && p.reading.db == a.reading.db &&
            p.reading.segments == a.reading.segments)
          without = &p;
    if (without == nullptr) {
      remarks_.push_back({"attenuator", Severity::note,
                          fmt::format("{}, attenuator {:g} dB: it was not read without, at {}.",
                                      a.band.empty() ? "It" : a.band, a.nominal_db, shows),
                          "Read the same indication with the attenuator out"});
      return;
    }
    Figure step;
    step.id = "attenuator_step";
    step.label = fmt::format("Attenuator {:g} dB", a.nominal_db);
    step.unit = "dB";
    step.value = a.level_dbm - without->level_dbm;
    // The same needle twice: what the generator's scale is off between the two, and how it is read.
    step.contributions = {{"generator, between two levels", kBetweenU, Scope::independent},
                          {"two readings", std::sqrt(2.0) * kReadU, Scope::independent}};
    substituted_.push_back(
        {fmt::format("{}{:g} dB", a.band.empty() ? "" : a.band + ", ", a.nominal_db), shows,
         a.nominal_db, step});
    if (std::abs(step.value - a.nominal_db) > step.expanded())
      remarks_.push_back({"attenuator_off", Severity::note,
                          fmt::format("The {:g} dB of the attenuator are {} dB{}.", a.nominal_db,
                                      figure_cell(step, 1), a.band.empty() ? "" : " at " + a.band),
                          ""});
  }

  ResultTable attenuator_table() const {
    ResultTable t;
    t.title = "Attenuator, by substitution";
    t.tab = "attenuator";
    t.columns = {{"what", "Switched in", CellKind::name, -1},
                 {"shows", "Both show", CellKind::figure, 90},
                 {"step", "Really, dB", CellKind::figure, 130},
                 {"off", "Off by, dB", CellKind::figure, 110}};
    for (const Substituted& s : substituted_) {
      ResultTable::Row row{std::nullopt, {{s.what}}};
      row.cells.push_back({s.shows});
      row.cells.push_back({figure_cell(s.step, 1), std::nullopt, true, s.step});
      row.cells.push_back({number_text(s.step.value - s.nominal_db, 1, true)});
      t.rows.push_back(std::move(row));
    }
    t.note = "The generator is raised until the indicator shows the same as without.";
    return t;
  }

  /// Ten readings and what they are, to lie beside the receiver.
  static std::optional<PrintCard> correction_card(const BandScale& b) {
    if (!b.has_scale() || b.scale.is_segments || b.scale.points.size() < 2) return std::nullopt;
    PrintCard card;
    card.title = "Signal indicator, " + b.name;
    card.heads = {"shows", "is, dBm"};
    constexpr double kS1 = -48.0;
    std::vector<double> wanted{-36.0, -24.0, -18.0, -12.0, -6.0, 0.0, 10.0, 20.0, 30.0, 40.0};
    if (b.scale.points.front().reading.db <= kS1) wanted.insert(wanted.begin(), kS1);
    double u = 0.0;
    for (const double db : wanted) {
      const auto level = level_of_reading(b.scale, db);
      if (!level || card.rows.size() >= 10) continue;
      card.rows.emplace_back(indicator_text(db), number_text(*level, 0, true));
      for (const IndicatorPoint& p : b.scale.points) u = std::max(u, p.u_db);
    }
    if (card.rows.size() < 2) return std::nullopt;
    card.foot = "\u00b1 " + number_text(std::max(1.0, 2.0 * u), 0) + " dB, in 50 \u03a9";
    return card;
  }

  std::vector<LevelPoint> way() const {
    ReceiverWay way;
    way.dial = "a level for each reading";
    way.u_level_db = plan_.u_db;
    way.point = "indicator read by eye";
    return level_plan_of(way, evidence_);
  }

  /// What somebody read off it as a change is that by the measured scale, with its \u00b1.
  Remark change_remark(const BandScale& b) const {
    const auto& [from, to] = *plan_.change_db;
    const std::string read = indicator_text(from) + " to " + indicator_text(to);
    const auto truth = true_change(b.scale, from, to);
    if (!truth)
      return {"change", Severity::note,
              b.name + ": " + read + " is beyond what was read of its scale.",
              "Read the scale as far as that"};
    return {"change", Severity::note,
            fmt::format("{}: {} reads {} dB and truly is {} dB.", b.name, read,
                        number_text(to - from, 0), figure_cell(*truth, 1)),
            ""};
  }

  static std::string joined(const std::vector<std::string>& names) {
    std::string all;
    for (std::size_t i = 0; i < names.size(); ++i)
      all += (i == 0 ? "" : i + 1 == names.size() ? " and " : ", ") + names[i];
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

  std::vector<Attenuated> attenuated_;
  std::vector<Substituted> substituted_;
  std::vector<std::string> not_again_;  ///< bands that were read before S9 was moved only
  bool was_moved_ = false;
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
