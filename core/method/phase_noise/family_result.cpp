#include "core/method/phase_noise/family_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/phase_noise/family_settings.h"
#include "core/method/phase_noise/noise_compare.h"
#include "core/method/phase_noise/noise_figures.h"
#include "core/method/phase_noise/noise_plot.h"
#include "core/method/phase_noise/noise_states.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr double kSpreadOctaves = 1.0;
constexpr double kFamilyOffsets[] = {100.0, 1e3, 1e4, 1e5, 1e6};

/// One setting with its curve and what that weighs.
struct Setting {
  std::string name;
  const NoiseState* state = nullptr;
  std::optional<double> value;  ///< the number its name begins with
  std::optional<double> word;
  bool is_before = false;
  std::optional<Figure> weighted;
  std::optional<Judgement> judgement;
};

class FamilyResult {
 public:
  explicit FamilyResult(const Evidence& evidence)
      : evidence_(evidence),
        plan_(family_plan(evidence)),
        states_(noise_states(evidence, plan_.noise, setting_of_step)) {
    for (const NoiseState& s : states_.all) add(s);
    // Highest value on top; the unmodified state last.
    std::stable_sort(settings_.begin(), settings_.end(), [](const Setting& a, const Setting& b) {
      if (a.is_before != b.is_before) return b.is_before;
      return a.value.value_or(-1e300) > b.value.value_or(-1e300);
    });
    for (const Setting& s : settings_) {
      if (s.is_before) continue;
      family_.push_back({s.name, s.state->curve});
      of_family_.push_back(&s);
    }
    crossings_ = crossings_of(family_);
    if (family_.size() > 2) pivot_ = pivot_of(crossings_);
    find_in_use();
    find_best();
  }

  Result result() const {
    Result r;
    r.method = "noise_setting";
    r.remarks = remarks();
    r.plots.push_back(plot());
    for (const Setting& s : settings_)
      r.items.push_back(
          {s.name, s.state->steps.empty() ? std::nullopt : std::optional(s.state->steps.front())});
    r.tables.push_back(table());
    if (family_.size() > 1) r.tables.push_back(crossing_table());
    add_answer(r);
    add_card(r);
    if (!settings_.empty()) r.conditions.emplace_back("Weighted by", weighting_words(plan_));
    if (states_.scaled_hz)
      r.conditions.emplace_back("Told for", frequency_text(*states_.scaled_hz));
    return r;
  }

 private:
  void add(const NoiseState& state) {
    Setting s;
    s.name = state.name;
    s.state = &state;
    s.is_before = is_unmodified(state.name);
    if (const auto number = leading_number(normalised_typing(state.name))) s.value = number->value;
    for (const std::size_t i : state.steps)
      if (const Condition* word = find_condition(evidence_.steps[i].conditions, kWordCondition))
        s.word = word->value;
    try {
      s.weighted = weigh(state.curve);
      if (plan_.limit && !s.is_before) s.judgement = judge(*s.weighted, *plan_.limit);
    } catch (const InputError& error) {
      states_remarks_.push_back(
          {"not_reached", Severity::caution, s.name + ": " + error.reason + ".", error.advice});
    }
    settings_.push_back(std::move(s));
  }

  Figure weigh(const NoiseCurve& curve) const {
    Figure f;
    if (plan_.weighting.kind == NoiseWeighting::Kind::integrated) {
      const NoiseIntegral i = integrate(curve, plan_.weighting.low_hz, plan_.weighting.high_hz);
      f = plan_.is_fm ? residual_fm_figure(i, plan_.noise) : rms_figure(i, plan_.noise);
      f.id = "weighted_noise";
      return f;
    }
    f = weighted_noise(curve, plan_.weighting);
    add_level_uncertainty(f, 1.0, plan_.noise);
    return f;
  }

  /// What is named so; else the first.
  void find_in_use() {
    if (of_family_.empty()) return;
    const auto named = std::find_if(of_family_.begin(), of_family_.end(), [this](const Setting* s) {
      return lower_case(s->name) == lower_case(plan_.in_use);
    });
    in_use_ = named != of_family_.end() ? *named : of_family_.front();
  }

  /// The quietest, and whether that is more than its uncertainty.
  void find_best() {
    for (const Setting* s : of_family_)
      if (s->weighted && s != in_use_ &&
          (best_ == nullptr || s->weighted->value < best_->weighted->value))
        best_ = s;
    if (best_ == nullptr || in_use_ == nullptr || !in_use_->weighted) return;
    gain_ = difference(*best_->weighted, *in_use_->weighted);
    is_better_ = gain_->value < 0.0 && !is_no_difference(*gain_);
    try {
      against_ = compare_noise(in_use_->state->curve, best_->state->curve, plan_.noise.repeats_db);
    } catch (const InputError&) {
      against_.reset();  // they share no offset: the strip stays empty
    }
  }

  /// What the best costs elsewhere, at most.
  const NoiseDifference* cost() const {
    const NoiseDifference* worst = nullptr;
    if (against_)
      for (const NoiseDifference& d : against_->differences)
        if (d.is_significant && d.delta_db > 0.0 &&
            (worst == nullptr || d.delta_db > worst->delta_db))
          worst = &d;
    return worst;
  }

  std::string number(const Figure& f) const { return format_figure(f, Rounding::compact).shown(); }

  std::vector<Remark> remarks() const {
    std::vector<Remark> all = states_.remarks;
    all.insert(all.end(), states_remarks_.begin(), states_remarks_.end());
    const auto say = [&](const char* code, Severity severity, std::string text, std::string todo) {
      all.push_back({code, severity, std::move(text), std::move(todo)});
    };
    if (settings_.empty()) return all;
    if (evidence_.limit && !plan_.limit)
      say("limit_unit", Severity::caution,
          "The limit is in " + evidence_.limit->unit + ": what is weighted here is in " +
              weighting_unit(plan_) + ".",
          "Choose a limit for this weighting");
    if (!plan_.in_use.empty() && in_use_ != nullptr &&
        lower_case(in_use_->name) != lower_case(plan_.in_use))
      say("in_use", Severity::caution,
          "No step is called \u201c" + plan_.in_use + "\u201d: " + in_use_->name +
              " stands for the setting in use.",
          "Name the setting in use as its step");
    if (of_family_.size() < 3)
      say("few", Severity::note, "Two settings show a difference, but no pivot: three are needed.",
          "Measure one more setting");
    if (pivot_ && std::log2(pivot_->high_hz / pivot_->low_hz) > kSpreadOctaves)
      say("spread", Severity::note,
          fmt::format("Crossings lie from {} to {}: there is no single pivot, so ask again if the "
                      "neighbour moves.",
                      offset_words(pivot_->low_hz), offset_words(pivot_->high_hz)),
          "");
    for (const Setting* s : of_family_)
      if (s->judgement && s->judgement->verdict == Verdict::too_close)
        say("too_close", Severity::note,
            fmt::format("{} is {} {} from the limit: too close to call.", s->name,
                        number_text(std::abs(s->judgement->margin), 1),
                        difference_unit(weighting_unit(plan_))),
            "");
    return all;
  }

  /// "31 \u00b1 5 kHz".
  std::string pivot_words() const {
    Figure f;
    f.unit = "kHz";
    f.value = pivot_->offset_hz / 1e3;
    f.contributions = {{"scatter of the crossings", pivot_->u_hz / 1e3, Scope::independent}};
    return figure_text(f, Rounding::compact);
  }

  Plot plot() const {
    Plot plot;
    plot.title = "Phase noise over a setting";
    plot.x = {"offset", "Hz", true};
    plot.empty_words =
        "Nothing measured yet. Record the carrier at each setting; call each step by its setting, "
        "such as \u201c1 mA\u201d, and \u201c1 mA, before\u201d what is there for comparison only.";
    PlotPanel main{{"L(f), dBc/Hz", ""}, {}};
    double low_hz = 10.0;
    double high_hz = 1e6;
    if (settings_.empty()) {
      plot.x.range = std::pair(low_hz, high_hz);
      main.y.range = std::pair(-140.0, -40.0);
      plot.panels.push_back(std::move(main));
      return plot;
    }
    low_hz = 1e300;
    high_hz = 0.0;
    double least = 1e9;
    double most = -1e9;
    for (const Setting& s : settings_) {
      low_hz = std::min(low_hz, s.state->curve.low_hz());
      high_hz = std::max(high_hz, s.state->curve.high_hz());
      for (const CurvePoint& p : s.state->curve.points) {
        least = std::min(least, p.l_dbc_hz);
        most = std::max(most, p.l_dbc_hz);
      }
    }
    if (states_.floor) main.layers.push_back(floor_layer(*states_.floor, low_hz, high_hz));
    PlotLayer rings{PlotLayer::Kind::ring, "", 1, false, {}};
    int trace = 2;
    for (const Setting& s : settings_) {
      if (&s == in_use_) continue;
      PlotLayer line = curve_layer(s.state->curve, s.name, s.is_before ? 6 : trace);
      line.is_ghost = s.is_before;
      if (s.is_before)
        add_hollow(s, rings);
      else
        trace = trace == 5 ? 2 : trace + 1;
      main.layers.push_back(std::move(line));
    }
    if (in_use_ != nullptr) {
      PlotLayer line = curve_layer(in_use_->state->curve, in_use_->name + ", in use", 1);
      line.is_bold = true;
      main.layers.push_back(std::move(line));
    }
    for (const NoiseCrossing& c : crossings_)
      if (const auto at = curve_at(family_[c.a].curve.points, c.offset_hz)) {
        PlotPoint p{c.offset_hz, at->l_dbc_hz};
        p.word = pair_words(c) + ": " + crossing_text(c) + " kHz";
        rings.points.push_back(std::move(p));
      }
    if (!rings.points.empty()) main.layers.push_back(std::move(rings));
    PlotLayer marks{PlotLayer::Kind::moment, "", 1, false, {}};
    if (pivot_) {
      PlotPoint p{pivot_->offset_hz, 0.0, 2.0 * pivot_->u_hz};
      p.word = fmt::format("pivot {}, median of {}", pivot_words(), crossings_.size());
      marks.points.push_back(p);
    }
    const bool is_at = plan_.weighting.kind == NoiseWeighting::Kind::neighbour;
    if (is_at && plan_.limit) {
      PlotLayer limit{PlotLayer::Kind::limit, limit_text(*plan_.limit), 1, false, {}};
      limit.points = {{plan_.weighting.offset_hz, plan_.limit->value}};
      main.layers.push_back(std::move(limit));
    }
    if (!is_at) {
      PlotRange window{plan_.weighting.low_hz, plan_.weighting.high_hz, "", true};
      window.is_window = true;
      window.low_setting = "low_hz";
      window.high_setting = "high_hz";
      main.ranges.push_back(window);
    }
    if (!marks.points.empty()) main.layers.push_back(std::move(marks));
    main.y.range =
        std::pair(std::floor((least - 10.0) / 10.0) * 10.0, std::ceil((most + 10.0) / 10.0) * 10.0);
    const auto [from, to] = decades_round(low_hz, high_hz);
    plot.x.range = std::pair(from, to);
    plot.note = "offset from the carrier";
    plot.panels.push_back(std::move(main));
    if (against_)
      plot.panels.push_back(difference_panel(
          *against_, best_->name + " against " + in_use_->name + " in use, dB", 2));
    return plot;
  }

  /// What is for comparison only carries rings, two a decade.
  static void add_hollow(const Setting& s, PlotLayer& rings) {
    const auto first = static_cast<int>(std::ceil(2.0 * std::log10(s.state->curve.low_hz())));
    const auto last = static_cast<int>(std::floor(2.0 * std::log10(s.state->curve.high_hz())));
    for (int k = first; k <= last; ++k) {
      const double hz = std::pow(10.0, 0.5 * k);
      const auto at = curve_at(s.state->curve.points, hz);
      if (!at) continue;
      PlotPoint p{hz, at->l_dbc_hz};
      p.word = s.name + ": for comparison only";
      p.is_pale = true;
      rings.points.push_back(std::move(p));
    }
  }

  /// "1 mA and 4 mA".
  std::string pair_words(const NoiseCrossing& c) const {
    return family_[c.a].setting + " and " + family_[c.b].setting;
  }
  static Figure crossing_figure(const NoiseCrossing& c) {
    Figure f;
    f.id = "crossing";
    f.label = "Crossing";
    f.unit = "kHz";
    f.value = c.offset_hz / 1e3;
    f.contributions = {{"scatter of the two curves", c.u_hz / 1e3, Scope::independent}};
    return f;
  }
  static std::string crossing_text(const NoiseCrossing& c) {
    return figure_cell(crossing_figure(c), 1);
  }

  /// Where each two change places: from there on the other one is quieter.
  ResultTable crossing_table() const {
    ResultTable t;
    t.title = "Crossings";
    t.tab = "crossings";
    t.columns = {{"pair", "Between", CellKind::name, 220},
                 {"offset", "Cross at, kHz", CellKind::figure, 150},
                 {"below", "Quieter below", CellKind::text, 150},
                 {"above", "Quieter above", CellKind::text, -1}};
    std::vector<const NoiseCrossing*> order;
    for (const NoiseCrossing& c : crossings_) order.push_back(&c);
    std::stable_sort(order.begin(), order.end(),
                     [](const auto* a, const auto* b) { return a->offset_hz < b->offset_hz; });
    for (const NoiseCrossing* c : order) {
      ResultTable::Row row{std::nullopt, {{pair_words(*c)}}};
      row.cells.push_back({crossing_text(*c), std::nullopt, false, crossing_figure(*c)});
      constexpr double kBeside = 1.25;
      const auto quieter = [&](double hz) -> std::string {
        const auto a = curve_at(family_[c->a].curve.points, hz);
        const auto b = curve_at(family_[c->b].curve.points, hz);
        if (!a || !b) return {};
        return family_[a->l_dbc_hz < b->l_dbc_hz ? c->a : c->b].setting;
      };
      row.cells.push_back({quieter(c->offset_hz / kBeside)});
      row.cells.push_back({quieter(c->offset_hz * kBeside)});
      t.rows.push_back(std::move(row));
    }
    t.note = crossings_.empty() ? "No two curves change places by more than their uncertainty."
                                : "Where two settings change places; their median is the pivot.";
    return t;
  }

  ResultTable table() const {
    ResultTable t;
    t.title = "Settings";
    t.tab = "settings";
    t.margin_unit = difference_unit(weighting_unit(plan_));
    t.margin_span = plan_.limit ? plan_.limit->span : 20.0;
    t.columns = {{"setting", "Setting", CellKind::name, 112},
                 {"word", "Word", CellKind::figure, 44, 1200},
                 {"percent", "%", CellKind::figure, 42, 1200}};
    for (const double hz : kFamilyOffsets)
      t.columns.push_back(
          {"at", frequency_text(hz), CellKind::figure, 56, hz == 100.0 || hz == 1e6 ? 1200 : 0});
    t.columns.push_back({"weighted", column_head(), CellKind::figure, 96});
    t.columns.push_back({"margin", "Margin", CellKind::margin, -1});
    t.columns.push_back({"verdict", "Verdict", CellKind::verdict, 110, 0, 108});
    double full = plan_.full_range.value_or(0.0);
    if (!plan_.full_range)
      for (const Setting& s : settings_) full = std::max(full, s.value.value_or(0.0));
    for (std::size_t i = 0; i < settings_.size(); ++i) {
      const Setting& s = settings_[i];
      ResultTable::Row row{i, {}};
      row.cells.push_back({s.name});
      if (&s == in_use_) row.cells.back().tag = "in use";
      row.cells.push_back({s.word ? fmt::format("{:g}", *s.word) : std::string()});
      row.cells.push_back({s.value && full > 0.0
                               ? fmt::format("{:g}", std::round(1e4 * *s.value / full) / 100.0)
                               : std::string()});
      for (const double hz : kFamilyOffsets) row.cells.push_back({at(s, hz)});
      TableCell weighted;
      if (s.weighted)
        weighted = {figure_cell(*s.weighted, 1), std::nullopt, s.judgement.has_value(), s.weighted};
      row.cells.push_back(weighted);
      row.cells.push_back(
          {s.judgement ? number_text(s.judgement->margin, 1, true) : std::string(), s.judgement});
      row.cells.push_back(verdict_cell(s.judgement, s.weighted.has_value(), false));
      t.rows.push_back(std::move(row));
    }
    t.note =
        "The setting in use shows dBc/Hz, the others dB against it; minus is better. What is "
        "called \u201cbefore\u201d is for comparison only.";
    return t;
  }

  std::string column_head() const {
    const std::string what = plan_.weighting.kind == NoiseWeighting::Kind::neighbour
                                 ? "At " + frequency_text(plan_.weighting.offset_hz)
                                 : std::string("Weighted");
    return what;
  }

  std::string at(const Setting& s, double hz) const {
    const auto own = curve_at(s.state->curve.points, hz);
    if (!own) return {};
    if (&s == in_use_ || in_use_ == nullptr) return number_text(own->l_dbc_hz, 1);
    const auto used = curve_at(in_use_->state->curve.points, hz);
    return used ? number_text(own->l_dbc_hz - used->l_dbc_hz, 1, true) : std::string();
  }

  void add_answer(Result& r) const {
    if (in_use_ == nullptr || !in_use_->weighted) return;
    for (std::size_t i = 0; i < settings_.size(); ++i) {
      const Setting& s = settings_[i];
      if (!s.weighted) continue;
      Answer a;
      a.figure = *s.weighted;
      a.where = s.name;
      a.head = (&s == in_use_ ? "In use: " : "") + s.name;
      a.label = weighting_words(plan_);
      a.margin_span = plan_.limit ? plan_.limit->span : 20.0;
      a.limit = plan_.limit;
      a.judgement = s.judgement;
      a.sentence = s.is_before ? "For comparison only."
                   : a.judgement
                       ? verdict_sentence(*a.judgement, difference_unit(weighting_unit(plan_)))
                       : "No limit is chosen, so nothing is judged.";
      a.step = i;
      // What is in use is what the device is judged by.
      if (&s == in_use_)
        r.answers.insert(r.answers.begin(), a);
      else
        r.answers.push_back(a);
      r.step_figures.push_back({s.name, a.figure, a.limit, a.judgement});
    }
    r.figures.push_back(*in_use_->weighted);
    r.headline_id = in_use_->weighted->id;
  }

  void add_card(Result& r) const {
    if (!gain_ || of_family_.size() < 3) return;
    FigureCard card;
    const std::string unit = weighting_unit(plan_);
    if (!is_better_) {
      card.head = "Keep " + in_use_->name;
      card.value = figure_text(*in_use_->weighted, Rounding::compact);
      card.caption = best_->name + ": " + figure_cell(*gain_, 1, true) + " " +
                     difference_unit(weighting_unit(plan_)) +
                     (is_no_difference(*gain_) ? ", no more than its uncertainty"
                                               : ", the quietest of the others");
      r.figure_cards.push_back(std::move(card));
      return;
    }
    card.head = fmt::format("Best of {}: {}", of_family_.size(), best_->name);
    if (best_->word) card.head += fmt::format(", word {:g}", *best_->word);
    card.value = number(*in_use_->weighted) + " \u2192 " + number(*best_->weighted) + " " + unit;
    Figure better = *gain_;
    better.value = -better.value;
    card.caption =
        figure_cell(better, 1) + " " + difference_unit(weighting_unit(plan_)) + " better";
    if (const NoiseDifference* d = cost())
      card.caption += fmt::format("; costs {} dB at {}", number_text(d->delta_db, 1),
                                  offset_words(d->offset_hz));
    card.judgement = best_->judgement;
    card.margin_span = plan_.limit ? plan_.limit->span : 20.0;
    r.figure_cards.push_back(std::move(card));
  }

  const Evidence& evidence_;
  FamilyPlan plan_;
  NoiseStates states_;
  std::vector<Remark> states_remarks_;
  std::vector<Setting> settings_;
  std::vector<FamilyMember> family_;
  std::vector<const Setting*> of_family_;
  std::vector<NoiseCrossing> crossings_;
  std::optional<NoisePivot> pivot_;
  const Setting* in_use_ = nullptr;
  const Setting* best_ = nullptr;
  std::optional<Figure> gain_;
  bool is_better_ = false;
  std::optional<NoiseComparison> against_;
};

}  // namespace

Result evaluate_family(const Evidence& evidence) {
  return FamilyResult(evidence).result();
}

}  // namespace heron
