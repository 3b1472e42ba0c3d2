#include "core/method/amplifier/gain_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/amplifier/band_markers.h"
#include "core/method/amplifier/gain_compare.h"
#include "core/method/amplifier/gain_plot.h"
#include "core/method/amplifier/gain_settings.h"
#include "core/method/amplifier/gain_take.h"
#include "core/method/measure/filter_proposal.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kHarmonicU = 0.5;  // dB: of a level read off a screen

class GainResult {
 public:
  explicit GainResult(const Evidence& evidence)
      : evidence_(evidence),
        settings_(gain_settings_from_json(evidence.settings)),
        plan_(amplifier_plan(evidence)),
        a_(assess_amplifier(driven_steps(evidence), plan_)),
        mask_(gain_mask(evidence)) {
    if (evidence.compared == nullptr) return;
    other_ = assess_amplifier(driven_steps(*evidence.compared), amplifier_plan(*evidence.compared));
    changes_ = compare_gain(a_, *other_, evidence.is_compared_on_same);
  }

  Result result() const {
    Result r;
    r.method = "gain";
    r.remarks = a_.remarks;
    add_tables(r);
    r.plots = gain_plots(a_, plan_, look());
    for (const Plot& p : r.plots) r.views.push_back(p.view);
    add_answers(r);
    add_cards(r);
    add_expected(r);
    add_figures(r);
    if (a_.frequency_hz) r.carrier_hz = a_.frequency_hz;
    for (const DrivenRow& row : a_.rows) {
      r.step_outputs.push_back(row.output);
    }
    add_conditions(r);
    if (!changes_.empty())
      r.remarks.push_back({"compared", Severity::note,
                           fmt::format("{} against {}: {}.", changes_.front().what,
                                       evidence_.compared_name, change_words(changes_.front())),
                           ""});
    if (evidence_.limit && !plan_.compression_limit && evidence_.limit->unit != "dB")
      r.remarks.push_back(
          {"limit_unit", Severity::caution,
           "The limit is in " + evidence_.limit->unit + ": it judges no 1 dB point.",
           "Choose a limit in W or dBm, or in dB of the gain"});
    sort_remarks(r.remarks);
    return r;
  }

 private:
  Figure shown(const Figure& dbm) const { return level_as_shown(dbm, settings_.is_in_watts); }
  const char* unit() const { return settings_.is_in_watts ? "W" : "dBm"; }

  std::string level_cell(double dbm) const {
    if (!settings_.is_in_watts) return number_text(dbm, 2, true);
    const double w = to_watt(Dbm{dbm}).value;
    return number_text(w, w < 0.1 ? 4 : w < 1.0 ? 3 : w < 10.0 ? 2 : 1);
  }

  /// Of a level two decimals, so that output less input is the gain.
  TableCell uncertain_cell(const Figure& dbm) const {
    TableCell cell;
    if (settings_.is_in_watts)
      cell.text = figure_cell(in_watts(dbm), 2);
    else
      cell.text = number_text(dbm.value, 2, true) +
                  (dbm.u() > 0.0 ? " \u00b1 " + number_text(dbm.expanded(), 2) : "");
    cell.figure = dbm;
    return cell;
  }

  static TableCell plain_cell(const std::optional<Figure>& f, int decimals) {
    return {f ? number_text(f->value, decimals) : std::string()};
  }

  /// The highest drive first; planned ones where they will be.
  std::vector<std::size_t> falling() const {
    std::vector<std::size_t> order(a_.rows.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    std::stable_sort(order.begin(), order.end(), [&](std::size_t x, std::size_t y) {
      return a_.rows[x].input_dbm.value_or(-999.0) > a_.rows[y].input_dbm.value_or(-999.0);
    });
    return order;
  }

  TableCell verdict_of(std::size_t i) const {
    const DrivenRow& row = a_.rows[i];
    if (!row.refusal.empty()) return {"left out"};
    return verdict_cell(row.judgement, row.is_taken(), evidence_.steps[i].is_damaged);
  }

  ResultTable gain_table() const {
    ResultTable t;
    t.title = "Drive steps";
    t.view = kGainView;
    t.margin_span = kGainMarginSpanDb;
    const std::string u = unit();
    t.columns = {{"step", "Drive step", CellKind::name, 70},
                 {"input", "In, " + u, CellKind::figure, 62},
                 {"expected", "Expected", CellKind::figure, 64, 1200},
                 {"output", "Output, " + u, CellKind::figure, 106},
                 {"gain", "Gain, dB", CellKind::figure, 60},
                 {"down", "dB down", CellKind::figure, 62},
                 {"volts", "V", CellKind::figure, 42, 1200},
                 {"amperes", "A", CellKind::figure, 44, 1200},
                 {"efficiency", "Eff., %", CellKind::figure, 52},
                 {"added", "PAE, %", CellKind::figure, 58, 1440},
                 {"heat", "Heat, W", CellKind::figure, 60, 1440},
                 {"key_down", "Key-down", CellKind::figure, 72, 1440},
                 {"margin", "Margin", CellKind::margin, -1},
                 {"verdict", "Verdict", CellKind::verdict, 112, 0, 111}};
    for (const std::size_t i : falling()) {
      const DrivenRow& r = a_.rows[i];
      const bool is_beyond = r.compression && r.compression->value > plan_.linear_to_db;
      ResultTable::Row row{i, {}};
      row.cells = {
          {r.label},
          {r.input ? level_cell(r.input->value) : std::string()},
          {r.expected_dbm ? level_cell(*r.expected_dbm) : std::string()},
          r.output ? uncertain_cell(*r.output) : TableCell{},
          plain_cell(r.gain, 2),
          plain_cell(r.compression, 2),
          plain_cell(r.volts, 1),
          plain_cell(r.amperes, 2),
          plain_cell(r.efficiency, 0),
          plain_cell(r.added_efficiency, 0),
          plain_cell(r.heat, 0),
          {r.key_down_s ? duration_text(*r.key_down_s) : std::string()},
          {r.judgement ? number_text(r.judgement->margin, 2, true) : std::string(), r.judgement},
          verdict_of(i)};
      if (r.gain) row.cells[4].figure = r.gain;
      if (r.compression) row.cells[5].figure = r.compression;
      if (r.efficiency) row.cells[8].figure = r.efficiency;
      if (r.added_efficiency) row.cells[9].figure = r.added_efficiency;
      if (r.heat) row.cells[10].figure = r.heat;
      row.cells[5].is_deciding = is_beyond;
      row.cells[3].is_deciding = r.judgement.has_value();
      t.rows.push_back(std::move(row));
    }
    t.note =
        "Expected: drive and specified gain, up to the rated output. dB down: below small-signal "
        "gain. V and A at "
        "the amplifier\u2019s terminals.";
    return t;
  }

  ResultTable heat_table() const {
    ResultTable t;
    t.title = "DC power and heat";
    t.view = kHeatView;
    t.columns = {{"step", "Drive step", CellKind::name, 78},
                 {"output", "Output, W", CellKind::figure, 92},
                 {"volts", "V", CellKind::figure, 54},
                 {"amperes", "A", CellKind::figure, 52},
                 {"dc", "DC, W", CellKind::figure, 58},
                 {"heat", "Heat, W", CellKind::figure, 88},
                 {"efficiency", "Eff., %", CellKind::figure, 84},
                 {"added", "PAE, %", CellKind::figure, 84},
                 {"case", "Case, \u00b0C", CellKind::figure, 66},
                 {"key_down", "Key-down", CellKind::figure, -1}};
    for (const std::size_t i : falling()) {
      const DrivenRow& r = a_.rows[i];
      const auto cell = [](const std::optional<Figure>& f) {
        return f ? TableCell{figure_cell(*f, 1), std::nullopt, false, f} : TableCell{};
      };
      ResultTable::Row row{i, {}};
      row.cells = {
          {r.label},
          r.output ? TableCell{figure_cell(in_watts(*r.output), 1), std::nullopt, false, r.output}
                   : TableCell{},
          plain_cell(r.volts, 2),
          plain_cell(r.amperes, 2),
          {r.volts && r.amperes ? number_text(r.volts->value * r.amperes->value, 1)
                                : std::string()},
          cell(r.heat),
          cell(r.efficiency),
          cell(r.added_efficiency),
          {r.temperature_c ? number_text(*r.temperature_c, 1) : std::string()},
          {r.key_down_s ? duration_text(*r.key_down_s) : std::string()}};
      t.rows.push_back(std::move(row));
    }
    t.note = "Heat: DC power and drive less output. PAE: output less drive over DC power.";
    return t;
  }

  struct Harmonic {
    Figure level;
    std::optional<double> most_dbc;
    std::optional<Judgement> judgement;
  };

  Harmonic harmonic(const DrivenRow& r, int order) const {
    Harmonic h;
    h.level.unit = "dB";
    h.level.convention = "re carrier";
    h.level.label = ordinal(order) + " harmonic";
    h.level.value = order == 2 ? *r.second_dbc : *r.third_dbc;
    h.level.contributions = {{"reading off a screen", kHarmonicU, Scope::independent}};
    h.most_dbc = harmonic_limit_dbc(mask_, r, a_.frequency_hz, order);
    if (h.most_dbc) {
      Limit limit{mask_.name, Sense::at_most, *h.most_dbc, "dB", "re carrier", kGainMarginSpanDb};
      h.judgement = judge(h.level, limit);
    }
    return h;
  }

  ResultTable harmonic_table() const {
    ResultTable t;
    t.title = "Harmonics";
    t.view = kHarmonicsView;
    t.margin_span = kGainMarginSpanDb;
    t.columns = {{"step", "Drive step", CellKind::name, 90},
                 {"output", "Output, " + std::string(unit()), CellKind::figure, 120},
                 {"second", "2nd, dBc", CellKind::figure, 96},
                 {"third", "3rd, dBc", CellKind::figure, 96},
                 {"limit", "Limit, dBc", CellKind::figure, 90},
                 {"margin", "Margin", CellKind::margin, -1},
                 {"verdict", "Verdict", CellKind::verdict, 111}};
    for (const std::size_t i : falling()) {
      const DrivenRow& r = a_.rows[i];
      std::optional<Judgement> worst;
      std::optional<double> most;
      std::vector<TableCell> levels(2);
      for (int order = 2; order <= 3; ++order) {
        if (!(order == 2 ? r.second_dbc : r.third_dbc)) continue;
        const Harmonic h = harmonic(r, order);
        levels[static_cast<std::size_t>(order - 2)] = {number_text(h.level.value, 1), std::nullopt,
                                                       false, h.level};
        if (h.most_dbc) most = h.most_dbc;
        if (h.judgement && (!worst || is_worse(*h.judgement, *worst))) worst = h.judgement;
      }
      const bool is_read = r.second_dbc || r.third_dbc;
      ResultTable::Row row{i, {}};
      row.cells = {{r.label},
                   r.output ? uncertain_cell(*r.output) : TableCell{},
                   levels[0],
                   levels[1],
                   {most ? number_text(*most, 1) : std::string()},
                   {worst ? number_text(worst->margin, 1, true) : std::string(), worst},
                   verdict_cell(worst, is_read, false)};
      t.rows.push_back(std::move(row));
    }
    t.note =
        "Relative to the carrier of the same step. Limit: " + mask_.name + "; " + kOwnLicence + ".";
    return t;
  }

  bool has_harmonics() const {
    return std::any_of(a_.rows.begin(), a_.rows.end(),
                       [](const DrivenRow& r) { return r.second_dbc || r.third_dbc; });
  }

  void add_tables(Result& r) const {
    r.tables.push_back(gain_table());
    if (!changes_.empty())
      r.tables.push_back(
          comparison_table(changes_, evidence_.compared_name, evidence_.is_compared_on_same));
    if (std::any_of(a_.rows.begin(), a_.rows.end(),
                    [](const DrivenRow& x) { return x.amperes.has_value(); }))
      r.tables.push_back(heat_table());
    if (has_harmonics()) r.tables.push_back(harmonic_table());
  }

  GainLook look() const {
    GainLook look;
    look.is_in_watts = settings_.is_in_watts;
    look.mask = mask_;
    if (other_) {
      look.compared = &*other_;
      look.compared_name = evidence_.compared_name;
    }
    const auto add = [&](const std::string& words) {
      look.note += (look.note.empty() ? "" : " \u00b7 ") + words;
    };
    if (a_.frequency_hz) add(megahertz_text(*a_.frequency_hz));
    if (plan_.nominal_v) add(number_text(*plan_.nominal_v, 1) + " V");
    double least = 1e300;
    double most = -1e300;
    for (const DrivenRow& row : a_.rows) {
      if (!row.temperature_c) continue;
      least = std::min(least, *row.temperature_c);
      most = std::max(most, *row.temperature_c);
    }
    if (least < most)
      add(fmt::format("case {} to {} \u00b0C", number_text(least, 0), number_text(most, 0)));
    look.empty_words =
        "Nothing read yet. Begin with the first power checks, then drive it from far below its "
        "rating "
        "upwards: type drive, output, volts and amperes of each step into the grid below.";
    return look;
  }

  bool is_sagged(const std::optional<double>& volts) const {
    return volts && plan_.nominal_v && *volts < (1.0 - kSagShare) * *plan_.nominal_v;
  }

  /// Of a figure that was taken at too few volts.
  std::string sagged_words(const Answer& a, double volts) const {
    const double margin = a.judgement->margin;
    return fmt::format("{} dB {} the limit, at {} V of {} V: it counts as at least that.",
                       number_text(std::abs(margin), 2), margin < 0.0 ? "below" : "above",
                       number_text(volts, 1), number_text(*plan_.nominal_v, 1));
  }

  Limit limit_of(double dbm) const {
    Limit limit{"", Sense::at_least,  settings_.is_in_watts ? to_watt(Dbm{dbm}).value : dbm, unit(),
                "", kGainMarginSpanDb};
    limit.value = std::round(limit.value * 100.0) / 100.0;
    return limit;
  }

  /// The 1 dB point where it has a limit or was reached; else small-signal gain.
  std::optional<Answer> main_answer() const {
    if (!a_.gain) return std::nullopt;
    Answer a;
    a.where = a_.frequency_hz ? megahertz_text(*a_.frequency_hz) : "all steps";
    a.margin_span = kGainMarginSpanDb;
    const bool is_reached = a_.one_db_out && a_.one_db_out->bound == Bound::none;
    if (a_.one_db_out && (plan_.compression_limit || is_reached) &&
        !(a_.gain_judgement && !plan_.compression_limit)) {
      a.figure = *a_.one_db_out;
      a.shown = shown(*a_.one_db_out);
      a.head = "1 dB compression";
      a.label = settings_.is_in_watts ? number_text(a_.one_db_out->value, 1, true) + " dBm"
                                      : watts_text(a_.one_db_out->value) + " out";
      if (a_.one_db_in) a.label += ", for " + watts_text(a_.one_db_in->value) + " of drive";
      if (plan_.compression_limit) {
        a.limit = limit_of(plan_.compression_limit->value);
        a.limit->name = plan_.compression_limit->name;
        a.judgement = a_.one_db_judgement;
        a.sentence = is_sagged(a_.one_db_v) ? sagged_words(a, *a_.one_db_v)
                                            : verdict_sentence(*a.judgement, "dB");
      } else {
        a.sentence = "No limit is chosen, so it is not judged.";
      }
      if (!is_reached)
        a.sentence = "It was not reached: the highest output that was measured." +
                     (a.judgement ? " " + a.sentence : std::string());
      return a;
    }
    a.figure = *a_.gain;
    a.head = "Small-signal gain";
    a.label = a_.curve.is_fitted() ? "from all steps"
              : a_.curve.flat_steps() > 1
                  ? fmt::format("mean of {} steps that agree", a_.curve.flat_steps())
                  : "of the lowest step";
    if (a_.gain_judgement) {
      a.limit = Limit{"specified", Sense::at_least,  *plan_.specified_gain_db, "dB",
                      "",          kGainMarginSpanDb};
      a.judgement = a_.gain_judgement;
      a.sentence = verdict_sentence(*a.judgement, "dB");
    } else {
      a.sentence = "No gain is specified, so it is not judged.";
    }
    return a;
  }

  void add_answers(Result& r) const {
    const auto answer = main_answer();
    if (!answer) return;
    // All steps ask the same; the one nearest to the answer is shown first.
    std::size_t first = a_.rising.back();
    if (a_.one_db_in)
      first =
          *std::min_element(a_.rising.begin(), a_.rising.end(), [&](std::size_t x, std::size_t y) {
            return std::abs(a_.rows[x].input->value - a_.one_db_in->value) <
                   std::abs(a_.rows[y].input->value - a_.one_db_in->value);
          });
    r.answers.push_back(*answer);
    r.answers.back().step = first;
    for (std::size_t i = 0; i < a_.rows.size(); ++i) {
      if (i == first) continue;
      r.answers.push_back(*answer);
      r.answers.back().step = i;
    }
  }

  void add_cards(Result& r) const {
    if (a_.at_rated && plan_.rated_output_dbm) {
      FigureCard card;
      card.head = "Output for " + watts_text(*plan_.rated_input_dbm) + " of drive";
      card.value = figure_text(in_watts(*a_.at_rated), Rounding::compact);
      card.caption = "rated " + watts_text(*plan_.rated_output_dbm);
      if (is_sagged(a_.rated_v)) card.caption += ", at " + number_text(*a_.rated_v, 1) + " V";
      card.judgement = a_.rated_judgement;
      card.margin_span = kGainMarginSpanDb;
      card.view = kGainView;
      r.figure_cards.push_back(card);
    } else if (a_.gain && a_.one_db_out && a_.one_db_out->bound == Bound::none) {
      FigureCard card;
      card.head = "Small-signal gain";
      card.value = figure_text(*a_.gain, Rounding::compact);
      card.caption = plan_.specified_gain_db
                         ? "specified " + number_text(*plan_.specified_gain_db, 1) + " dB"
                         : "no gain is specified";
      card.judgement = a_.gain_judgement;
      card.margin_span = kGainMarginSpanDb;
      card.view = kGainView;
      r.figure_cards.push_back(card);
    }
    if (a_.most_efficient) {
      const DrivenRow& best = a_.rows[*a_.most_efficient];
      FigureCard card;
      card.head = "Highest efficiency";
      card.value = figure_text(*best.efficiency, Rounding::compact);
      card.caption = fmt::format("at {} of drive, {} of heat", best.label,
                                 engineering_text(best.heat->value, "W", 2));
      card.view = kHeatView;
      r.figure_cards.push_back(card);
    }
    if (auto card = filters()) {
      card->view = kHarmonicsView;
      r.cards.push_back(std::move(*card));
    }
  }

  /// What would bring the harmonics of the step that is worst under the mask.
  std::optional<ProposalCard> filters() const {
    if (!a_.frequency_hz) return std::nullopt;
    const DrivenRow* worst = nullptr;
    double margin = 1e300;
    for (const DrivenRow& r : a_.rows) {
      for (int order = 2; order <= 3; ++order) {
        if (!(order == 2 ? r.second_dbc : r.third_dbc) || !r.output) continue;
        const Harmonic h = harmonic(r, order);
        if (h.judgement && h.judgement->margin < margin) {
          margin = h.judgement->margin;
          worst = &r;
        }
      }
    }
    if (worst == nullptr) return std::nullopt;
    FilterCase of{*a_.frequency_hz, worst->output->value, mask_, {}, {}};
    std::vector<FilterNeed> needs;
    bool is_needed = false;
    for (int order = 2; order <= 3; ++order) {
      if (!(order == 2 ? worst->second_dbc : worst->third_dbc)) continue;
      const Harmonic h = harmonic(*worst, order);
      if (!h.most_dbc) continue;
      needs.push_back({order * of.carrier_hz, h.level.value, *h.most_dbc, h.level.expanded()});
      of.lines.push_back({order * of.carrier_hz, ordinal(order) + " harmonic", h.judgement});
      is_needed = is_needed || h.judgement->verdict != Verdict::pass;
    }
    if (!is_needed) return std::nullopt;
    of.advice = filter_advice(of.carrier_hz, needs);
    return filter_card(of);
  }

  /// What the instrument should show at each step, before and after it is read.
  void add_expected(Result& r) const {
    for (std::size_t i = 0; i < a_.rows.size(); ++i) {
      const DrivenRow& row = a_.rows[i];
      std::optional<double> expected = row.expected_dbm;
      if (!expected && row.input_dbm && a_.gain) expected = *row.input_dbm + a_.gain->value;
      if (!expected) continue;
      const double hz =
          a_.frequency_hz.value_or(evidence_.drive ? evidence_.drive->frequency_hz : 0.0);
      const std::string meter = shown_words(*expected, evidence_, hz);
      const std::string level =
          meter.empty() ? figure_words(*expected) : meter + " (" + figure_words(*expected) + ")";
      StepRemarks said{i, "", {}};
      if (row.output) {
        const double off = row.output->value - *expected;
        said.remarks.push_back(
            {"expected", Severity::note,
             fmt::format("{}: expected {}, it is {} dB {}.", row.label, level,
                         number_text(std::abs(off), 2), off < 0.0 ? "less" : "more"),
             ""});
      } else {
        said.remarks.push_back(
            {"expected", Severity::note, fmt::format("{}: expect {}.", row.label, level), ""});
      }
      r.step_remarks.push_back(std::move(said));
    }
  }

  std::string figure_words(double dbm) const {
    return number_text(dbm, 2, true) + " dBm, " + watts_text(dbm);
  }

  void add_figures(Result& r) const {
    const auto add = [&](const std::string& step, const std::optional<Figure>& f,
                         const std::optional<Judgement>& j = std::nullopt,
                         const std::optional<Limit>& limit = std::nullopt) {
      if (f) r.step_figures.push_back({step, *f, limit, j});
    };
    const auto at_least = [](std::optional<double> value,
                             const char* unit) -> std::optional<Limit> {
      if (!value) return std::nullopt;
      return Limit{"", Sense::at_least, *value, unit, "", kGainMarginSpanDb};
    };
    add("all", a_.gain, a_.gain_judgement, at_least(plan_.specified_gain_db, "dB"));
    add("all", a_.one_db_out, a_.one_db_judgement, plan_.compression_limit);
    add("all", a_.one_db_in);
    if (plan_.linear_to_db != 1.0) add("all", a_.linear_out);
    add("all", a_.at_rated, a_.rated_judgement, at_least(plan_.rated_output_dbm, "dBm"));
    add("all", a_.idle);
    add("all", a_.needed_a);
    for (const std::size_t i : a_.rising) {
      const DrivenRow& row = a_.rows[i];
      for (const auto* f : {&row.output, &row.gain, &row.compression, &row.volts, &row.amperes,
                            &row.efficiency, &row.added_efficiency, &row.heat})
        add(row.label, *f);
    }
  }

  void add_conditions(Result& r) const {
    r.conditions.emplace_back("Specified", gain_setting_words(evidence_));
    if (plan_.nominal_v)
      r.conditions.emplace_back(
          "Supply",
          number_text(*plan_.nominal_v, 1) + " V" +
              (plan_.supply_limit_a ? ", stops at " + number_text(*plan_.supply_limit_a, 1) + " A"
                                    : ""));
    if (a_.idle) r.conditions.emplace_back("Quiescent current", figure_text(*a_.idle));
    if (settings_.is_one_meter)
      r.conditions.emplace_back("Drive and output", "one meter, device bypassed, then in line");
    if (a_.linear_out && a_.linear_out->bound == Bound::none)
      r.conditions.emplace_back(
          fmt::format("Linear within {} dB", number_text(plan_.linear_to_db, 1)),
          "up to " + watts_text(a_.linear_out->value, a_.linear_out->u()));
  }

  const Evidence& evidence_;
  GainSettings settings_;
  AmplifierPlan plan_;
  Amplification a_;
  Mask mask_;
  std::optional<Amplification> other_ = std::nullopt;
  std::vector<GainChange> changes_ = {};
};

}  // namespace

Mask gain_mask(const Evidence& evidence) {
  const auto own = evidence.settings.find(kGainSettings);
  if (own != evidence.settings.end() && own->is_object() && own->contains("mask"))
    return own->at("mask").is_null() ? Mask{"none", "", {}}
                                     : parse_mask(own->at("mask").dump(), "the test\u2019s mask");
  for (const EvidenceStep& s : evidence.steps)
    if (const auto hz = frequency_of(s, evidence)) return generic_mask(*hz);
  return evidence.drive ? generic_mask(evidence.drive->frequency_hz) : Mask{"none", "", {}};
}

Result evaluate_gain(const Evidence& evidence) {
  return GainResult(evidence).result();
}

}  // namespace heron
