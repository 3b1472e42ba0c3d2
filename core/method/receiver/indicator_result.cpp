#include "core/method/receiver/indicator_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/receiver/indicator_plot.h"
#include "core/method/receiver/indicator_settings.h"
#include "core/method/receiver/indicator_substitution.h"
#include "core/method/receiver/receiver_step.h"
#include "core/method/receiver/receiver_way.h"
#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr double kIndicatorSpanDb = 10.0;
constexpr double kWorthDb = 1.0;

class IndicatorResult {
 public:
  explicit IndicatorResult(const Evidence& evidence)
      : evidence_(evidence), plan_(indicator_plan(evidence)) {
    std::vector<IndicatorRead> all;
    for (std::size_t i = 0; i < evidence.steps.size(); ++i) {
      const EvidenceStep& from = evidence.steps[i];
      try {
        if (auto read = read_of(from)) {
          read->step = i;
          all.push_back(std::move(*read));
        }
      } catch (const InputError& error) {
        remarks_.push_back({"row", Severity::caution,
                            from.label + ": " + error.reason + "; it is left out.", error.advice});
      }
    }
    Substitution by_attenuator = attenuator_steps(all);
    substituted_ = std::move(by_attenuator.steps);
    std::erase_if(all, [](const IndicatorRead& r) { return r.attenuator_db.has_value(); });
    was_moved_ =
        std::any_of(all.begin(), all.end(), [](const IndicatorRead& r) { return r.is_after; });
    while (!all.empty()) {
      const std::string key = lower_case(all.front().band);
      const auto others =
          std::stable_partition(all.begin(), all.end(),
                                [&](const IndicatorRead& r) { return lower_case(r.band) == key; });
      add_band({all.begin(), others});
      all.erase(all.begin(), others);
    }
    for (Remark& r : by_attenuator.remarks) remarks_.push_back(std::move(r));
  }

  Result result() const {
    Result r;
    r.method = "indicator";
    r.remarks = remarks();
    for (const BandScale& b : bands_)
      r.items.push_back({b.name, b.steps.empty() ? std::nullopt : std::optional(b.steps.front())});
    if (bands_.empty()) {
      r.tables.push_back(reading_table(nullptr));
      r.plots.push_back(nothing_read_plot());
      return r;
    }
    for (std::size_t i = 0; i < bands_.size(); ++i) {
      ResultTable t =
          bands_[i].scale.is_segments ? segment_table(bands_[i]) : reading_table(&bands_[i]);
      t.step = i;
      r.tables.push_back(std::move(t));
      Plot p = indicator_plot(bands_, i, plan_);
      p.step = i;
      r.plots.push_back(std::move(p));
    }
    if (bands_.size() > 1) r.tables.push_back(band_table());
    if (!substituted_.empty()) r.tables.push_back(attenuator_table(substituted_));
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
  /// Of the generator as it arrives; nullopt where it was not read.
  std::optional<Figure> level_of(const EvidenceStep& step, const char* quantity,
                                 std::optional<double> hz) const {
    const Reading* typed = find_reading(step.readings, quantity);
    if (typed == nullptr) return std::nullopt;
    Figure f;
    f.label = step.label;
    f.value = typed->value;
    f.contributions = {{"level and reading", plan_.u_db, Scope::common}};
    return at_receiver(std::move(f), evidence_, hz);
  }

  std::optional<IndicatorRead> read_of(const EvidenceStep& from) const {
    const IndicatorStep s = indicator_step(from.label);
    const auto level = level_of(from, kIndicatorLevel, s.frequency_hz);
    if (!level) return std::nullopt;
    IndicatorPoint p;
    p.reading = s.reading;
    p.level_dbm = level->value;
    p.u_db = level->u();
    if (const auto out = level_of(from, kGoesOut, s.frequency_hz)) p.goes_out_dbm = out->value;
    p.is_without_signal =
        s.reading.is_segments && plan_.dark_segments && s.reading.segments <= *plan_.dark_segments;
    return IndicatorRead{s.band, s.frequency_hz, p, 0, s.is_after, s.attenuator_db};
  }

  /// Once S9 was moved, only what was read after that counts.
  void add_band(std::vector<IndicatorRead> reads) {
    BandScale b;
    b.name = reads.front().band.empty() ? "the band" : reads.front().band;
    const auto is_before = [](const IndicatorRead& r) { return !r.is_after; };
    if (std::all_of(reads.begin(), reads.end(), is_before)) {
      if (was_moved_) not_again_.push_back(b.name);
    } else {
      std::erase_if(reads, is_before);
    }
    std::stable_sort(reads.begin(), reads.end(),
                     [](const IndicatorRead& x, const IndicatorRead& y) {
                       return x.point.level_dbm < y.point.level_dbm;
                     });
    std::vector<IndicatorPoint> points;
    for (const IndicatorRead& r : reads) {
      b.frequency_hz = r.frequency_hz ? r.frequency_hz : b.frequency_hz;
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
                 {"unit", "Unit or 10 dB", CellKind::figure, 84, 1100},
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
      ResultTable::Row row{std::nullopt, {{indicator_text(p.reading.db)}}, reading_mark(p)};
      row.cells.push_back({figure_cell(level, 1), std::nullopt, false, level});
      row.cells.push_back({microvolt_text(p.level_dbm)});
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
      ResultTable::Row row{
          std::nullopt, {{fmt::format("{:g}", p.reading.segments)}}, reading_mark(p)};
      row.cells.push_back({number_text(p.level_dbm, 1)});
      row.cells.push_back({p.goes_out_dbm ? number_text(*p.goes_out_dbm, 1) : std::string()});
      row.cells.push_back(
          {p.goes_out_dbm ? number_text(p.level_dbm - *p.goes_out_dbm, 1) : std::string()});
      row.cells.push_back({microvolt_text(p.level_dbm)});
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
        row.cells.push_back({microvolt_text(b.scale.s9->value)});
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
      a.label = microvolt_text(b.scale.s9->value) + " \u00b5V PD, " +
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
