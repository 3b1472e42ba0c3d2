#include "core/method/phase_noise/loop_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <functional>

#include "core/error.h"
#include "core/method/phase_noise/family_settings.h"
#include "core/method/phase_noise/loop_fit.h"
#include "core/method/phase_noise/loop_json.h"
#include "core/method/phase_noise/loop_plot.h"
#include "core/method/phase_noise/loop_settings.h"
#include "core/method/phase_noise/loop_what_if.h"
#include "core/method/phase_noise/noise_states.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kStrongCorrelation = 0.95;

class LoopResult {
 public:
  explicit LoopResult(const Evidence& evidence) : evidence_(evidence), plan_(loop_plan(evidence)) {
    if (!plan_.built.has_all) return;
    read_measured();
    try {
      if (plan_.tried)
        for (const double current : plan_.tried->currents_a) add(*plan_.tried, current, true);
      for (const double current : plan_.built.currents_a) add(plan_.built, current, false);
    } catch (const InputError& error) {
      rows_.clear();
      refusal_ = error;
    }
    std::stable_sort(rows_.begin(), rows_.end(), [](const LoopRow& a, const LoopRow& b) {
      if (a.is_tried != b.is_tried) return a.is_tried;
      return a.current_a > b.current_a;
    });
    fit_ = fit_loop(plan_.built, measured_, kRepeatsDb);
  }

  Result result() const {
    Result r;
    r.method = "loop";
    r.remarks = remarks();
    r.views = {kLoopNoiseView, kOpenLoopView};
    for (std::size_t i = 0; i < std::max<std::size_t>(1, rows_.size()); ++i) {
      const LoopRow* built = rows_.empty() ? nullptr : built_beside(rows_[i]);
      const bool is_built = !rows_.empty() && !rows_[i].is_tried;
      const NoiseCurve* measured = is_built           ? measured_at(rows_[i].current_a)
                                   : built != nullptr ? measured_at(built->current_a)
                                                      : nullptr;
      r.plots.push_back(loop_noise_plot(rows_, i, measured, built));
      r.plots.push_back(open_loop_plot(rows_, i));
    }
    r.tables.push_back(table());
    for (const LoopRow& row : rows_) r.items.push_back({row.name, std::nullopt});
    r.what_ifs = loop_what_ifs(plan_, loop_current_in_use(evidence_, plan_));
    if (rows_.empty()) return r;
    add_answers(r);
    add_cards(r);
    return r;
  }

 private:
  static constexpr double kRepeatsDb = 0.2;

  /// Curves of the family in the same evaluation, by the current their names begin with.
  void read_measured() {
    if (evidence_.companion == nullptr) return;
    const FamilyPlan family = family_plan(*evidence_.companion);
    states_ = noise_states(*evidence_.companion, family.noise, setting_of_step);
    for (const NoiseState& s : states_.all) {
      if (is_unmodified(s.name)) continue;
      const auto current = prefixed_number(s.name);
      if (current && *current > 0.0 && *current < 1.0) measured_.push_back({*current, &s.curve});
    }
  }

  const NoiseCurve* measured_at(double current_a) const {
    for (const MeasuredLoop& m : measured_)
      if (std::abs(m.current_a / current_a - 1.0) < 0.01) return m.curve;
    return nullptr;
  }

  /// As it is built at the same current, or at the one in use: what a tried one is seen against.
  const LoopRow* built_beside(const LoopRow& row) const {
    if (!row.is_tried) return nullptr;
    const LoopRow* best = nullptr;
    const double in_use = loop_current_in_use(evidence_, plan_);
    for (const LoopRow& other : rows_) {
      if (other.is_tried) continue;
      if (std::abs(other.current_a / row.current_a - 1.0) < 0.01) return &other;
      if (std::abs(other.current_a / in_use - 1.0) < 0.01) best = &other;
    }
    return best;
  }

  void add(const LoopParts& parts, double current_a, bool is_tried) {
    LoopRow row;
    row.parts = parts;
    row.current_a = current_a;
    row.is_tried = is_tried;
    row.name = fmt::format("{:g} mA", 1e3 * current_a);
    row.figures = loop_figures(row.design());
    row.crossover = figure_of(row, "crossover", "Crossover", "kHz",
                              [](const LoopFigures& f) { return f.crossover_hz / 1e3; });
    row.margin = figure_of(row, "phase_margin", "Phase margin", "\u00b0",
                           [](const LoopFigures& f) { return f.phase_margin_deg; });
    if (plan_.limit) row.judgement = judge(row.margin, *plan_.limit);
    row.level = loop_level(parts, current_a, plan_.offset_hz);
    if (!is_tried)
      if (const NoiseCurve* curve = measured_at(current_a))
        if (const auto p = curve_at(curve->points, plan_.offset_hz)) row.measured = p->l_dbc_hz;
    rows_.push_back(std::move(row));
  }

  /// With what each part's tolerance makes of it.
  Figure figure_of(const LoopRow& row, const char* id, const char* label, const char* unit,
                   const std::function<double(const LoopFigures&)>& of) const {
    Figure f;
    f.id = id;
    f.label = label;
    f.unit = unit;
    f.value = of(row.figures);
    const LoopDesign here = row.design();
    const auto move = [&](const char* name, double LoopDesign::* part) {
      if (!(here.*part > 0.0)) return;
      LoopDesign other = here;
      other.*part *= 1.0 + plan_.u_parts;
      f.contributions.push_back({name, of(loop_margin(other)) - f.value, Scope::independent});
    };
    move("VCO gain tolerance", &LoopDesign::kvco_hz_per_v);
    move("R2 tolerance", &LoopDesign::r2_ohm);
    move("C1 tolerance", &LoopDesign::c1_f);
    move("C2 tolerance", &LoopDesign::c2_f);
    move("R3 tolerance", &LoopDesign::r3_ohm);
    move("C3 tolerance", &LoopDesign::c3_f);
    for (Contribution& c : f.contributions) c.u = std::abs(c.u);
    return f;
  }

  std::vector<Remark> remarks() const {
    std::vector<Remark> all;
    const auto say = [&](const char* code, Severity severity, std::string text, std::string todo) {
      all.push_back({code, severity, std::move(text), std::move(todo)});
    };
    if (evidence_.limit && !plan_.limit)
      say("limit_unit", Severity::caution,
          "The limit is in " + evidence_.limit->unit + ": it judges no phase margin.",
          "Choose a limit in degrees");
    if (refusal_) say("loop", Severity::caution, refusal_->what_happened(), refusal_->advice);
    for (const LoopRow& row : rows_) {
      if (!row.figures.is_stable())
        all.push_back(unstable_remark(row.design(), row.figures));
      else if (row.is_tried)
        for (const Remark& r : loop_remarks(row.design(), row.figures)) all.push_back(r);
      if (row.measured && std::abs(*row.measured - row.level) > kFarDb)
        say("far", Severity::caution,
            fmt::format("{}: measured {} dBc/Hz at {}, calculated {}.", row.name,
                        number_text(*row.measured, 1), frequency_text(plan_.offset_hz),
                        number_text(row.level, 1)),
            "Fit the VCO gain, or look for noise that the model does not have");
    }
    if (!fit_) return all;
    if (std::abs(fit_->correlation) > kStrongCorrelation)
      say("fit_product", Severity::note,
          fmt::format("VCO gain and R2 move together in the fit (correlation {}): their product is "
                      "{} times what was typed, \u00b1 {} %; each is known to the parts\u2019 "
                      "tolerance only.",
                      number_text(fit_->correlation, 2),
                      number_text(fit_->gain_factor * fit_->r2_factor, 3),
                      number_text(200.0 * fit_->u_product, 1)),
          "");
    else
      say("fit", Severity::note,
          fmt::format("Fitted to {} measured curves: VCO gain {} \u00b1 {} MHz/V, R2 {} \u00b1 {} "
                      "\u03a9; {} dB are left.",
                      measured_.size(),
                      number_text(fit_->gain_factor * plan_.built.design.kvco_hz_per_v / 1e6, 1),
                      number_text(2.0 * fit_->u_gain * plan_.built.design.kvco_hz_per_v / 1e6, 1),
                      number_text(fit_->r2_factor * plan_.built.design.r2_ohm, 0),
                      number_text(2.0 * fit_->u_r2 * plan_.built.design.r2_ohm, 0),
                      number_text(fit_->residual_db, 2)),
          "");
    return all;
  }

  void add_answers(Result& r) const {
    // What is tried comes first; else what was asked for most: the first of the built ones.
    for (std::size_t i = 0; i < rows_.size(); ++i) {
      const LoopRow& row = rows_[i];
      Answer a;
      a.figure = row.margin;
      a.head = row.is_tried ? "Phase margin, tried" : "Phase margin, " + row.name;
      a.where = row.name + (row.is_tried ? ", tried" : "");
      a.label = "crossover " + figure_text(row.crossover, Rounding::compact);
      a.limit = plan_.limit;
      a.judgement = row.judgement;
      if (!row.figures.is_stable())
        a.sentence = "It does not lock.";
      else
        a.sentence =
            fmt::format("It peaks by {} dB at {}.", number_text(*row.figures.peaking_db, 1),
                        offset_words(*row.figures.peaking_hz));
      a.step = i;
      r.answers.push_back(a);
      r.step_figures.push_back({a.where, row.margin, a.limit, a.judgement});
      r.step_figures.push_back({a.where, row.crossover});
    }
    r.figures.push_back(r.answers.front().figure);
    r.headline_id = r.answers.front().figure.id;
  }

  void add_cards(Result& r) const {
    for (std::size_t i = 0; i < rows_.size(); ++i) {
      const LoopRow& row = rows_[i];
      FigureCard card;
      card.step = i;
      if (row.is_tried && row.parts.noise.bulk_f != plan_.built.noise.bulk_f) {
        // What more capacitance would do, before it is soldered.
        LoopParts same = row.parts;
        same.noise.bulk_f = plan_.built.noise.bulk_f;
        const double gain = loop_level(same, row.current_a, plan_.offset_hz) - row.level;
        const LoopNoise n = loop_noise(row.design(), row.parts.noise, plan_.offset_hz);
        card.head = "Decoupling";
        card.value = number_text(gain, 2, true) + " dB";
        card.caption = fmt::format("{} instead of {}; the supply\u2019s share is {} %",
                                   engineering_text(row.parts.noise.bulk_f, "F", 3),
                                   engineering_text(plan_.built.noise.bulk_f, "F", 3),
                                   number_text(100.0 * n.supply / n.total(), 1));
      } else {
        card.head = "Noise at " + frequency_text(plan_.offset_hz);
        card.value = row.figures.is_stable() ? number_text(row.level, 1) + " dBc/Hz" : "none";
        card.caption = row.measured   ? "measured " + number_text(*row.measured, 1)
                       : row.is_tried ? "calculated; not built"
                                      : "calculated; not measured";
      }
      r.figure_cards.push_back(std::move(card));
    }
  }

  ResultTable table() const {
    ResultTable t;
    t.title = "Loops";
    t.margin_unit = "\u00b0";
    t.margin_span = plan_.limit ? plan_.limit->span : 20.0;
    t.columns = {{"current", "Charge pump", CellKind::name, 118},
                 {"r2", "R2", CellKind::figure, 62, 1200},
                 {"crossover", "Crossover, kHz", CellKind::figure, 104},
                 {"phase", "Margin, \u00b0", CellKind::figure, 90},
                 {"peaking", "Peaking, dB", CellKind::figure, 86, 1200},
                 {"calculated", "Calculated", CellKind::figure, 80},
                 {"measured", "Measured", CellKind::figure, 76},
                 {"margin", "Margin", CellKind::margin, -1},
                 {"verdict", "Verdict", CellKind::verdict, 110, 0, 108}};
    for (std::size_t i = 0; i < rows_.size(); ++i) {
      const LoopRow& row = rows_[i];
      ResultTable::Row to{i, {}};
      to.cells.push_back({row.name});
      if (row.is_tried) to.cells.back().tag = "tried";
      to.cells.push_back({engineering_text(row.parts.design.r2_ohm, "\u03a9", 3)});
      to.cells.push_back({figure_cell(row.crossover, 1), std::nullopt, false, row.crossover});
      to.cells.push_back(
          {figure_cell(row.margin, 1), std::nullopt, row.judgement.has_value(), row.margin});
      const bool locks = row.figures.is_stable();
      to.cells.push_back({locks ? number_text(*row.figures.peaking_db, 1) : std::string()});
      to.cells.push_back({locks ? number_text(row.level, 1) : std::string()});
      to.cells.push_back({row.measured ? number_text(*row.measured, 1) : std::string()});
      to.cells.push_back(
          {row.judgement ? number_text(row.judgement->margin, 1, true) : std::string(),
           row.judgement});
      to.cells.push_back(verdict_cell(row.judgement, true, false));
      t.rows.push_back(std::move(to));
    }
    t.note = "Calculated and measured: dBc/Hz at " + frequency_text(plan_.offset_hz) + ".";
    return t;
  }

  static constexpr double kFarDb = 1.5;
  const Evidence& evidence_;
  LoopPlan plan_;
  NoiseStates states_;
  std::vector<MeasuredLoop> measured_;
  std::vector<LoopRow> rows_;
  std::optional<LoopFit> fit_;
  std::optional<InputError> refusal_;
};

}  // namespace

Result evaluate_loop(const Evidence& evidence) {
  return LoopResult(evidence).result();
}

}  // namespace heron
