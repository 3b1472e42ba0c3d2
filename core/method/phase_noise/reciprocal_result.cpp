#include "core/method/phase_noise/reciprocal_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/phase_noise/noise_plot.h"
#include "core/method/phase_noise/noise_states.h"
#include "core/method/phase_noise/reciprocal_settings.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kContours[] = {1.0, 3.0, 10.0, 20.0, 30.0, 40.0, 50.0};
constexpr double kNeighbours[] = {5e3, 10e3, 20e3, 50e3, 100e3, 200e3};
constexpr double kNoiseFigureAt = 174.0;  // dBm in 1 Hz at 290 K

/// A stretch of offsets in which too much is lost.
struct Lost {
  double from_hz = 0.0;
  double to_hz = 0.0;
  bool reaches_down = false;  ///< to where the map begins
  bool reaches_up = false;
};

class ReciprocalResult {
 public:
  explicit ReciprocalResult(const Evidence& evidence)
      : evidence_(evidence), plan_(reciprocal_plan(evidence)) {
    if (evidence.companion == nullptr) return;
    noise_ = noise_plan(*evidence.companion);
    states_ = noise_states(*evidence.companion, noise_, state_of_step);
    if (states_.after() == nullptr) return;
    curve_ = &states_.after()->curve;
    if (states_.before() != nullptr) before_ = &states_.before()->curve;
    low_hz_ = std::max({2.0 * plan_.bandwidth_hz, 1e3, curve_->low_hz()});
    if (low_hz_ >= curve_->high_hz()) {
      curve_ = before_ = nullptr;  // it ends before a neighbour could be told from the signal
      return;
    }
    offsets_.assign(std::begin(kNeighbours), std::end(kNeighbours));
    offsets_.push_back(plan_.offset_hz);
    std::sort(offsets_.begin(), offsets_.end());
    offsets_.erase(std::unique(offsets_.begin(), offsets_.end()), offsets_.end());
    std::erase_if(offsets_, [&](double hz) { return !is_on_map(hz); });
    if (is_known()) lost_ = lost_ranges();
  }

  Result result() const {
    Result r;
    r.method = "reciprocal";
    r.remarks = remarks();
    r.plots.push_back(plot());
    r.tables.push_back(table());
    if (curve_ == nullptr || !is_known()) return r;
    for (const double hz : offsets_) r.items.push_back({frequency_text(hz), std::nullopt});
    add_facts(r);
    add_answers(r);
    r.conditions = {{"Strong signal", number_text(*plan_.interferer_dbm, 1, true) + " dBm"},
                    {"Weak one just heard at", number_text(*plan_.mds_dbm, 1, true) + " dBm"},
                    {"Bandwidth", frequency_text(plan_.bandwidth_hz)},
                    {"Curve", states_.after()->name}};
    return r;
  }

 private:
  bool is_known() const { return plan_.interferer_dbm && plan_.mds_dbm; }
  bool is_on_map(double hz) const {
    return curve_ != nullptr && hz >= low_hz_ * 0.999 && hz <= curve_->high_hz() * 1.001;
  }

  double lost_db(const NoiseCurve& curve, double hz, double more_db = 0.0) const {
    ReciprocalCase how{hz, plan_.bandwidth_hz, *plan_.mds_dbm, *plan_.interferer_dbm + more_db};
    return *reciprocal_mixing(curve, how).desensitisation_db;
  }

  Figure lost_figure(double hz) const {
    const Reciprocal r =
        reciprocal_mixing(*curve_, {hz, plan_.bandwidth_hz, *plan_.mds_dbm, plan_.interferer_dbm});
    Figure f;
    f.id = "desensitisation";
    f.label = "Lost at " + frequency_text(hz);
    f.unit = "dB";
    f.value = *r.desensitisation_db;
    f.bound = r.bound;
    // So much of the noise is the oscillator's: only that part moves the loss.
    const double noise = power_ratio_from_db(*r.noise_in_channel_dbm - *plan_.mds_dbm);
    const double share = noise / (1.0 + noise);
    f.contributions = {
        {"phase noise, scatter", share * r.u_db, Scope::independent},
        {"phase noise, scale", share * noise_.scale_db, Scope::common},
        {"phase noise, repeatability", share * noise_.repeats_db, Scope::independent},
        {"the weak one\u2019s level", share * plan_.u_mds_db, Scope::common}};
    return f;
  }

  /// Where more than the limit is lost, on a fine grid with its ends between.
  std::vector<Lost> lost_ranges() const {
    constexpr int kPerDecade = 400;
    std::vector<Lost> all;
    const double high = curve_->high_hz();
    double last = low_hz_;
    for (double hz = low_hz_;; hz = std::min(high, hz * std::pow(10.0, 1.0 / kPerDecade))) {
      const bool is_lost = lost_db(*curve_, hz) > plan_.limit_db();
      const bool is_open = !all.empty() && all.back().to_hz == 0.0;
      if (is_lost && !is_open) all.push_back({hz, 0.0, hz == low_hz_, false});
      if (!is_lost && is_open) all.back().to_hz = std::sqrt(last * hz);
      last = hz;
      if (hz >= high) break;
    }
    if (!all.empty() && all.back().to_hz == 0.0) {
      all.back().to_hz = high;
      all.back().reaches_up = true;
    }
    return all;
  }

  /// "closer than 35 kHz", "between 9 and 22 kHz"; empty = nowhere.
  static std::string where_words(const std::vector<Lost>& all) {
    std::string words;
    for (const Lost& l : all) {
      if (!words.empty()) words += ", or ";
      if (l.reaches_down && l.reaches_up)
        words += "anywhere on the curve";
      else if (l.reaches_down)
        words += "closer than " + offset_words(l.to_hz);
      else if (l.reaches_up)
        words += "further than " + offset_words(l.from_hz);
      else
        words += "between " + offset_words(l.from_hz) + " and " + offset_words(l.to_hz);
    }
    return words;
  }

  std::string loss_sentence() const {
    const std::string limit = number_text(plan_.limit_db(), 0) + " dB";
    const std::string where = where_words(lost_);
    if (where.empty())
      return "You lose less than " + limit + " at any offset beyond " + frequency_text(low_hz_) +
             ".";
    return "You lose " + limit + " on the weak one if the neighbour is " + where + ".";
  }

  void add_facts(Result& r) const {
    const double f =
        low_hz_ > plan_.offset_hz || plan_.offset_hz > curve_->high_hz() ? 0.0 : plan_.offset_hz;
    r.facts.push_back({"Strong signal", number_text(*plan_.interferer_dbm, 0, true) + " dBm",
                       "at the antenna, 50 \u03a9"});
    const double nf = *plan_.mds_dbm + kNoiseFigureAt - db_from_power_ratio(plan_.bandwidth_hz);
    r.facts.push_back({"Weak one just heard at", number_text(*plan_.mds_dbm, 0, true) + " dBm",
                       fmt::format("\u00b1 {} dB, NF {} dB", number_text(2.0 * plan_.u_mds_db, 1),
                                   number_text(nf, 1))});
    r.facts.push_back({"Bandwidth", frequency_text(plan_.bandwidth_hz), "noise bandwidth"});
    if (f <= 0.0) return;
    const Reciprocal at =
        reciprocal_mixing(*curve_, {f, plan_.bandwidth_hz, *plan_.mds_dbm, plan_.interferer_dbm});
    r.facts.push_back({"L(f) at " + frequency_text(f), number_text(at.l_dbc_hz, 1) + " dBc/Hz",
                       states_.after()->name});
    r.facts.push_back(
        {"Noise in the channel", number_text(*at.noise_in_channel_dbm, 1) + " dBm",
         number_text(*at.noise_in_channel_dbm - *plan_.mds_dbm, 1, true) + " dB over MDS"});
  }

  void add_answers(Result& r) const {
    for (std::size_t i = 0; i < offsets_.size(); ++i) {
      Answer a;
      a.figure = lost_figure(offsets_[i]);
      a.head = "Neighbour at " + frequency_text(offsets_[i]);
      a.where = frequency_text(offsets_[i]);
      a.label = "with " + number_text(*plan_.interferer_dbm, 0, true) + " dBm beside it";
      a.limit = plan_.limit;
      if (plan_.limit) a.judgement = judge(a.figure, *plan_.limit);
      a.sentence = loss_sentence();
      a.step = i;
      if (offsets_[i] == plan_.offset_hz)
        r.answers.insert(r.answers.begin(), a);
      else
        r.answers.push_back(a);
      r.step_figures.push_back({a.where, a.figure, a.limit, a.judgement});
    }
    if (r.answers.empty()) return;
    r.figures.push_back(r.answers.front().figure);
    r.headline_id = r.answers.front().figure.id;
  }

  ResultTable table() const {
    ResultTable t;
    t.title = "What a neighbour costs";
    t.margin_span = plan_.limit ? plan_.limit->span : 20.0;
    t.columns = {{"offset", "Neighbour at", CellKind::name, 104},
                 {"l", "L(f), dBc/Hz", CellKind::figure, 104, 1200},
                 {"noise", "Noise, dBm", CellKind::figure, 88}};
    if (before_ != nullptr)
      t.columns.push_back({"before", states_.before()->name + ", dB", CellKind::figure, 84});
    t.columns.push_back({"lost", "Lost, dB", CellKind::figure, 92});
    t.columns.push_back(
        {"from", number_text(plan_.limit_db(), 0) + " dB lost from", CellKind::figure, 112, 1200});
    t.columns.push_back({"margin", "Margin", CellKind::margin, -1});
    t.columns.push_back({"verdict", "Verdict", CellKind::verdict, 110, 0, 108});
    if (curve_ == nullptr || !is_known()) return t;
    for (std::size_t i = 0; i < offsets_.size(); ++i) {
      const double hz = offsets_[i];
      const Reciprocal at = reciprocal_mixing(
          *curve_, {hz, plan_.bandwidth_hz, *plan_.mds_dbm, plan_.interferer_dbm});
      const Figure lost = lost_figure(hz);
      const auto judged = plan_.limit ? std::optional(judge(lost, *plan_.limit)) : std::nullopt;
      ResultTable::Row row{i, {}};
      row.cells.push_back({frequency_text(hz)});
      row.cells.push_back({number_text(at.l_dbc_hz, 1)});
      row.cells.push_back({number_text(*at.noise_in_channel_dbm, 1)});
      if (before_ != nullptr) {
        const bool is_there = curve_at(before_->points, hz).has_value();
        row.cells.push_back({is_there ? number_text(lost_db(*before_, hz), 1) : std::string()});
      }
      row.cells.push_back({figure_cell(lost, 1), std::nullopt, judged.has_value(), lost});
      row.cells.push_back({number_text(interferer_for_loss(at.l_dbc_hz, plan_.bandwidth_hz,
                                                           *plan_.mds_dbm, plan_.limit_db()),
                                       0, true) +
                           " dBm"});
      row.cells.push_back({judged ? number_text(judged->margin, 1, true) : std::string(), judged});
      row.cells.push_back(verdict_cell(judged, true, false));
      t.rows.push_back(std::move(row));
    }
    t.note =
        "Noise: of the strong signal\u2019s copy of the oscillator\u2019s noise, in the channel.";
    return t;
  }

  PlotLayer contour(const NoiseCurve& curve, double loss_db, const std::string& name,
                    int trace) const {
    PlotLayer layer{PlotLayer::Kind::trace, name, trace, true, {}};
    layer.has_marks = false;
    for (const CurvePoint& p : curve.points)
      if (p.offset_hz >= low_hz_ * 0.999)
        layer.points.push_back({p.offset_hz, interferer_for_loss(p.l_dbc_hz, plan_.bandwidth_hz,
                                                                 *plan_.mds_dbm, loss_db)});
    return layer;
  }

  Plot plot() const {
    Plot plot;
    plot.title = "Loss over offset and level";
    plot.x = {"offset", "Hz", true};
    plot.empty_words =
        curve_ == nullptr
            ? "It needs a curve: measure phase noise in this evaluation, and it is drawn here."
            : "Type the level of the strong signal, and what the receiver just hears without it.";
    PlotPanel main{{"strong signal at the antenna, dBm", ""}, {}};
    if (curve_ == nullptr || !is_known()) {
      plot.x.range = std::pair(1e3, 1e6);
      main.y.range = std::pair(-110.0, -20.0);
      plot.panels.push_back(std::move(main));
      return plot;
    }
    for (const double loss : kContours)
      if (loss != plan_.limit_db())
        main.layers.push_back(contour(*curve_, loss, number_text(loss, 0) + " dB", 1));
    if (before_ != nullptr) {
      PlotLayer then = contour(*before_, plan_.limit_db(), states_.before()->name, 6);
      then.is_ghost = true;
      main.layers.push_back(std::move(then));
    }
    PlotLayer limit =
        contour(*curve_, plan_.limit_db(), number_text(plan_.limit_db(), 0) + " dB, limit", 2);
    limit.is_bold = true;
    double least = 1e9;
    double most = -1e9;
    for (const PlotPoint& p : limit.points) {
      least = std::min(least, p.y);
      most = std::max(most, p.y);
    }
    main.layers.push_back(std::move(limit));
    PlotLayer here{PlotLayer::Kind::trace, "the neighbour", 5, false, {}};
    for (std::size_t i = 0; i < offsets_.size(); ++i)
      if (offsets_[i] == plan_.offset_hz) {
        PlotPoint p{plan_.offset_hz, *plan_.interferer_dbm};
        p.step = i;
        here.points.push_back(p);
      }
    if (!here.points.empty()) main.layers.push_back(std::move(here));
    PlotLayer marks{PlotLayer::Kind::moment, "", 1, false, {}};
    for (const Lost& l : lost_) {
      if (l.reaches_up) continue;
      PlotPoint p{l.to_hz, 0.0, 2.0 * u_edge_hz(l.to_hz)};
      p.word = "less than " + number_text(plan_.limit_db(), 0) + " dB from " +
               offset_words(l.to_hz) + " on";
      marks.points.push_back(p);
    }
    if (!marks.points.empty()) main.layers.push_back(std::move(marks));
    plot.x.range = std::pair(low_hz_, curve_->high_hz());
    main.y.range =
        std::pair(std::floor((std::min(least, *plan_.interferer_dbm) - 20.0) / 10.0) * 10.0,
                  std::ceil((std::max(most, *plan_.interferer_dbm) + 35.0) / 10.0) * 10.0);
    plot.note = "lines: dB lost on the weak one";
    plot.panels.push_back(std::move(main));
    return plot;
  }

  /// How far the place moves with what the level is off by.
  double u_edge_hz(double hz) const {
    constexpr double kStep = 1.05;
    const auto level = [&](double at) {
      const auto p = curve_at(curve_->points, at);
      return p ? std::optional(p->l_dbc_hz) : std::nullopt;
    };
    const auto below = level(hz / kStep);
    const auto above = level(hz * kStep);
    if (!below || !above || std::abs(*above - *below) < 0.05) return 0.0;
    const double slope = std::abs(*above - *below) / (2.0 * std::log(kStep));
    const double u_db = std::hypot(noise_.scale_db, noise_.repeats_db, plan_.u_mds_db);
    return hz * u_db / slope;
  }

  std::vector<Remark> remarks() const {
    std::vector<Remark> all;
    const auto say = [&](const char* code, Severity severity, std::string text, std::string todo) {
      all.push_back({code, severity, std::move(text), std::move(todo)});
    };
    if (evidence_.limit && evidence_.limit->unit != "dB")
      say("limit_unit", Severity::caution,
          "The limit is in " + evidence_.limit->unit + ": it judges no loss.",
          "Choose a limit in dB");
    if (curve_ == nullptr || !is_known()) return all;
    if (!is_on_map(plan_.offset_hz))
      say("offset", Severity::caution,
          fmt::format("The curve has nothing to say at {}: it is good from {} to {}.",
                      frequency_text(plan_.offset_hz), frequency_text(low_hz_),
                      frequency_text(curve_->high_hz())),
          "Choose another offset, or measure further");
    else {
      const double doubled = 10.0 * std::log10(2.0);
      say("one_oscillator", Severity::note,
          fmt::format("Only this oscillator is counted. A neighbour as noisy as it makes it {} dB "
                      "instead of {}.",
                      number_text(lost_db(*curve_, plan_.offset_hz, doubled), 1),
                      number_text(lost_db(*curve_, plan_.offset_hz), 1)),
          "");
    }
    // Where it costs most, if that is not the nearest.
    double worst_hz = low_hz_;
    for (const CurvePoint& p : curve_->points)
      if (p.offset_hz >= low_hz_ &&
          lost_db(*curve_, p.offset_hz) > lost_db(*curve_, worst_hz) + 0.5)
        worst_hz = p.offset_hz;
    if (worst_hz > 2.0 * low_hz_)
      say("not_nearest", Severity::note,
          fmt::format("Nearest is not worst: {} dB at {}, but {} dB at {}.",
                      number_text(lost_db(*curve_, worst_hz), 1), offset_words(worst_hz),
                      number_text(lost_db(*curve_, low_hz_), 1), frequency_text(low_hz_)),
          "");
    say("own_keying", Severity::note,
        fmt::format("Below {} the neighbour\u2019s own keying reaches the channel: the map begins "
                    "there.",
                    frequency_text(low_hz_)),
        "");
    return all;
  }

  const Evidence& evidence_;
  ReciprocalPlan plan_;
  NoisePlan noise_;
  NoiseStates states_;
  const NoiseCurve* curve_ = nullptr;
  const NoiseCurve* before_ = nullptr;
  double low_hz_ = 1e3;
  std::vector<double> offsets_;  ///< of the rows, rising
  std::vector<Lost> lost_;
};

}  // namespace

Result evaluate_reciprocal(const Evidence& evidence) {
  return ReciprocalResult(evidence).result();
}

}  // namespace heron
