#include "core/method/frequency/lock_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>

#include "core/method/frequency/lock_settings.h"
#include "core/method/measure/whole_answer.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kLockSpanDb = 20.0;

Verdict verdict_of(LockState state) {
  return state == LockState::held        ? Verdict::pass
         : state == LockState::disturbed ? Verdict::too_close
                                         : Verdict::fail;
}

class LockResult {
 public:
  explicit LockResult(const Evidence& evidence)
      : evidence_(evidence), plan_(lock_plan(evidence)), readings_(lock_readings(evidence, plan_)) {
    for (std::size_t i = 0; i < readings_.size(); ++i) {
      const LockReading& r = readings_[i];
      if (!r.refusal.empty() || !r.state || !r.attenuation_db) continue;
      used_.push_back(i);
      LockStep s{*r.attenuation_db, *r.state};
      if (r.offset_hz) s.frequency_hz = plan_.nominal_hz.value_or(0.0) + *r.offset_hz;
      steps_.push_back(s);
    }
    margin_ = find_lock_margin(steps_, plan_.need);
    const auto turn = std::max_element(
        steps_.begin(), steps_.end(),
        [](const auto& a, const auto& b) { return a.attenuation_db < b.attenuation_db; });
    rising_from_ = steps_.empty() ? 0 : static_cast<std::size_t>(turn - steps_.begin()) + 1;
  }

  Result result() const {
    Result r;
    r.method = "lock";
    r.remarks = remarks();
    r.tables.push_back(table());
    r.plots.push_back(plot());
    add_answer(r);
    add_level_card(r);
    if (plan_.is_level_planned) add_level_plan(r);
    if (plan_.source_dbm)
      r.conditions.emplace_back("Level into the device",
                                number_text(*plan_.source_dbm, 1, true) + " dBm");
    if (plan_.offset_hz)
      r.conditions.emplace_back("Internal offset",
                                number_text(*plan_.offset_hz, 1, true) + " Hz" +
                                    (plan_.is_restored ? ", restored" : ", not yet restored"));
    return r;
  }

 private:
  bool is_unfinished() const { return plan_.offset_hz && !plan_.is_restored; }

  std::vector<Remark> remarks() const {
    std::vector<Remark> all = margin_.remarks;
    for (const LockReading& r : readings_)
      if (!r.refusal.empty())
        all.push_back({"row", Severity::caution, r.label + ": " + r.refusal + "; it is left out.",
                       "Correct the row"});
    if (evidence_.limit && evidence_.limit->unit != "dB")
      all.push_back({"limit_unit", Severity::caution,
                     "The limit is in " + evidence_.limit->unit + ": it judges no margin.",
                     "Choose a limit in dB"});
    if (steps_.empty()) {
      if (!plan_.offset_hz)
        all.push_back(
            {"offset_first", Severity::note,
             "Locked and free running may be at the same frequency: loss would not be seen.",
             "Set the internal oscillator off first, and type by how much"});
      return all;
    }
    if (is_unfinished())
      all.push_back({"restore", Severity::note,
                     fmt::format("The internal offset of {} Hz is still set: without its reference "
                                 "the device is off by that much.",
                                 number_text(*plan_.offset_hz, 1, true)),
                     "Restore it, read it back, and say so among the settings"});
    tell_sidebands(all);
    if (plan_.shares_source)
      all.push_back({"shared", Severity::note,
                     "Counter and device share one reference: 0 Hz means held, never accurate.",
                     ""});
    add_level_remark(all);
    const bool has_scatter = std::any_of(readings_.begin(), readings_.end(), [](const auto& r) {
      return r.scatter_hz || r.is_by_hand;
    });
    if (!has_scatter)
      all.push_back(
          {"no_scatter", Severity::caution,
           "One count a step shows no scatter: disturbed could not have been told from held.",
           "Read the counter three times at each step"});
    return all;
  }

  void tell_sidebands(std::vector<Remark>& all) const {
    const LockReading* worst = nullptr;
    for (const LockReading& r : readings_)
      if (r.sideband_dbc && r.state && *r.state != LockState::lost &&
          (worst == nullptr || *r.sideband_dbc > *worst->sideband_dbc))
        worst = &r;
    if (worst == nullptr || *worst->sideband_dbc <= plan_.most_sideband_dbc) return;
    all.push_back({"sidebands", Severity::note,
                   fmt::format("{}: sidebands of {} dBc beside the tone: it follows, but is not "
                               "held.",
                               worst->label, number_text(*worst->sideband_dbc, 0, true)),
                   ""});
  }

  void add_level_remark(std::vector<Remark>& all) const {
    if (!plan_.source_dbm) return;
    const auto outside = [&](const char* code, const std::string& words, const char* advice) {
      all.push_back({code, Severity::caution, words, advice});
    };
    if (plan_.highest_dbm && *plan_.source_dbm > *plan_.highest_dbm)
      outside("level_high",
              fmt::format("{} dBm is above the input window, which ends at {} dBm.",
                          number_text(*plan_.source_dbm, 1, true),
                          number_text(*plan_.highest_dbm, 1, true)),
              "Put a pad before the reference input");
    if (plan_.lowest_dbm && *plan_.source_dbm < *plan_.lowest_dbm)
      outside("level_low",
              fmt::format("{} dBm is below the input window, which begins at {} dBm.",
                          number_text(*plan_.source_dbm, 1, true),
                          number_text(*plan_.lowest_dbm, 1, true)),
              "Take pads away, or a splitter with fewer ways");
  }

  /// One row an attenuation: the falling run, and the rising one beside it.
  struct Row {
    const LockReading* falling = nullptr;
    const LockReading* rising = nullptr;
    std::size_t step = 0;
  };
  std::map<double, Row> rows() const {
    std::map<double, Row> all;
    for (std::size_t k = 0; k < used_.size(); ++k) {
      const LockReading& r = readings_[used_[k]];
      Row& row = all[*r.attenuation_db];
      if (row.falling == nullptr && row.rising == nullptr) row.step = used_[k];
      (k < rising_from_ ? row.falling : row.rising) = &r;
    }
    return all;
  }

  /// First, last, and all within two steps of a change.
  static std::vector<bool> worth_telling(const std::map<double, Row>& all) {
    constexpr std::size_t kNear = 2;
    std::vector<Row> rows;
    for (const auto& [added, row] : all) rows.push_back(row);
    std::vector<bool> told(rows.size(), false);
    const auto state = [](const LockReading* r) { return r != nullptr ? r->state : std::nullopt; };
    for (std::size_t i = 0; i < rows.size(); ++i) {
      told[i] = told[i] || i == 0 || i + 1 == rows.size();
      if (i == 0 || (state(rows[i].falling) == state(rows[i - 1].falling) &&
                     state(rows[i].rising) == state(rows[i - 1].rising)))
        continue;
      for (std::size_t k = i > kNear ? i - kNear : 0; k < std::min(i + kNear, rows.size()); ++k)
        told[k] = true;
    }
    return told;
  }

  static std::string offset_text(const LockReading* r) {
    if (r == nullptr || !r->offset_hz) return {};
    // Never finer than it scatters.
    const int decimals = r->scatter_hz && *r->scatter_hz > 0.0
                             ? std::clamp(decimals_for(*r->scatter_hz, Rounding::compact), 0, 3)
                             : 2;
    return number_text(*r->offset_hz, decimals, true);
  }
  static std::string scatter_text(const LockReading* r) {
    if (r == nullptr || !r->scatter_hz) return {};
    return number_text(*r->scatter_hz,
                       std::clamp(decimals_for(*r->scatter_hz, Rounding::two_digits), 0, 4));
  }
  static TableCell state_cell(const LockReading* r) {
    if (r == nullptr || !r->state) return {};
    TableCell cell{lock_state_word(*r->state)};
    Judgement j;
    j.verdict = verdict_of(*r->state);
    cell.judgement = j;
    return cell;
  }

  ResultTable table() const {
    ResultTable t;
    t.title = "States over attenuation";
    t.tab = "states";
    t.columns = {{"added", "Added, dB", CellKind::name, 84},
                 {"input", "Input, dBm", CellKind::figure, 84},
                 {"offset", "Falling, Hz", CellKind::figure, 98},
                 {"scatter", "scatter", CellKind::figure, 68, 1200},
                 {"state", "state", CellKind::verdict, 108, 0, 100},
                 {"back_offset", "Rising, Hz", CellKind::figure, -1},
                 {"back_scatter", "scatter", CellKind::figure, 68, 1200},
                 {"back_state", "state", CellKind::verdict, 108, 0, 100}};
    const auto all = rows();
    const std::vector<bool> told = worth_telling(all);
    std::size_t n = 0;
    for (const auto& [added, row] : all) {
      if (!told[n++]) continue;
      ResultTable::Row to{row.step, {}};
      to.cells = {
          {number_text(added, added == std::round(added) ? 0 : 1)},
          {plan_.source_dbm ? number_text(*plan_.source_dbm - added, 1, true) : std::string()},
          {offset_text(row.falling)},
          {scatter_text(row.falling)},
          state_cell(row.falling),
          {offset_text(row.rising)},
          {scatter_text(row.rising)},
          state_cell(row.rising)};
      t.rows.push_back(std::move(to));
    }
    // What cannot be used is seen all the same.
    if (t.rows.empty())
      for (std::size_t i = 0; i < readings_.size(); ++i) {
        ResultTable::Row to{i, {{readings_[i].label}}};
        to.cells.resize(t.columns.size());
        to.cells.back() = verdict_cell(std::nullopt, false, evidence_.steps[i].is_damaged);
        t.rows.push_back(std::move(to));
      }
    t.note =
        "Falling: more and more attenuation; rising: back again. Only the last step that is held "
        "all "
        "the way counts.";
    return t;
  }

  Plot plot() const {
    Plot plot;
    plot.title = "Offset over added attenuation";
    plot.x = {"dB", ""};
    plot.empty_words =
        "Nothing read yet. Set the internal oscillator off, add attenuation before the reference "
        "input step by step until lock is lost, then take it away again; type each state below.";
    PlotPanel main{{"Offset, Hz", ""}, {}};
    if (steps_.empty()) {
      plot.panels.push_back(std::move(main));
      return plot;
    }
    double most = 0.0;
    PlotLayer falling{PlotLayer::Kind::trace, "falling", 1, true, {}};
    PlotLayer rising{PlotLayer::Kind::trace, "rising", 2, true, {}};
    double least_hz = 0.0;
    double most_hz = plan_.offset_hz.value_or(0.0);
    for (std::size_t k = 0; k < used_.size(); ++k) {
      const LockReading& r = readings_[used_[k]];
      most = std::max(most, *r.attenuation_db);
      if (!r.offset_hz) continue;
      PlotPoint p{*r.attenuation_db, *r.offset_hz, 2.0 * r.scatter_hz.value_or(0.0)};
      p.step = used_[k];
      least_hz = std::min(least_hz, p.y - p.expanded);
      most_hz = std::max(most_hz, p.y + p.expanded);
      (k < rising_from_ ? falling : rising).points.push_back(p);
    }
    plot.x.range = std::pair(-0.5, most + 0.5);
    const bool has_offsets = !falling.points.empty() || !rising.points.empty();
    if (plan_.offset_hz && has_offsets) {
      PlotLayer free{PlotLayer::Kind::guide, "free running", 1, true, {}};
      free.points = {{0.0, *plan_.offset_hz}, {most, *plan_.offset_hz}};
      main.layers.push_back(std::move(free));
    }
    const double room = std::max(0.15 * (most_hz - least_hz), 0.01);
    main.y.range = std::pair(least_hz - room, most_hz + 1.5 * room);
    for (PlotLayer* layer : {&falling, &rising})
      if (!layer->points.empty()) main.layers.push_back(std::move(*layer));
    PlotLayer marks{PlotLayer::Kind::moment, "", 1, false, {}};
    const double from = steps_.front().attenuation_db;
    PlotPoint needed{from + plan_.need.needed_db, 0.0};
    needed.is_left = true;
    needed.word = "needed " + number_text(plan_.need.needed_db, 0) + " dB";
    if (needed.x <= most) marks.points.push_back(needed);
    if (margin_.margin && margin_.lost_at_db) {
      PlotPoint last{from + margin_.margin->value, 0.0};
      last.word = "last held " + number_text(margin_.margin->value, 0) + " dB";
      marks.points.push_back(last);
    }
    main.layers.push_back(std::move(marks));
    main.states = {states_of("falling", 0, rising_from_),
                   states_of("rising", rising_from_, used_.size())};
    std::erase_if(main.states, [](const PlotStates& s) { return s.cells.empty(); });
    plot.panels.push_back(std::move(main));
    return plot;
  }

  /// Each as wide as a step, joined while they are the same.
  PlotStates states_of(const char* name, std::size_t from, std::size_t to) const {
    PlotStates states{name, {}};
    std::vector<const LockReading*> all;
    for (std::size_t k = from; k < to; ++k) all.push_back(&readings_[used_[k]]);
    std::sort(all.begin(), all.end(),
              [](const auto* a, const auto* b) { return *a->attenuation_db < *b->attenuation_db; });
    for (std::size_t i = 0; i < all.size(); ++i) {
      const double at = *all[i]->attenuation_db;
      const double left = i > 0 ? (at + *all[i - 1]->attenuation_db) / 2.0 : at - 0.5;
      const double right = i + 1 < all.size() ? (at + *all[i + 1]->attenuation_db) / 2.0 : at + 0.5;
      const std::string word = lock_state_word(*all[i]->state);
      if (!states.cells.empty() && states.cells.back().word == word)
        states.cells.back().to = right;
      else
        states.cells.push_back({left, right, word, verdict_of(*all[i]->state)});
    }
    return states;
  }

  void add_answer(Result& r) const {
    if (steps_.empty()) return;
    Answer a;
    if (margin_.margin) {
      a.figure = *margin_.margin;
    } else {
      a.figure.id = "margin";
      a.figure.label = "Lock margin";
      a.figure.unit = "dB";
    }
    a.head = "Lock margin";
    a.where = "falling";
    a.margin_span = kLockSpanDb;
    if (margin_.margin && plan_.source_dbm)
      a.label = fmt::format(
          "held down to {} dBm at the input",
          number_text(*plan_.source_dbm - steps_.front().attenuation_db - margin_.margin->value, 1,
                      true));
    else
      a.label = margin_.margin ? "the level at the input is not known" : "never held";
    Limit needed{"needed", Sense::at_least, plan_.need.needed_db, "dB", "", kLockSpanDb};
    if (evidence_.limit && evidence_.limit->unit == "dB") needed = *evidence_.limit;
    a.limit = needed;
    a.judgement = margin_.judgement;
    if (!margin_.margin) {
      Judgement none;
      none.verdict = Verdict::fail;
      none.margin = -plan_.need.needed_db;
      a.judgement = none;
    }
    a.sentence = verdict_sentence(*a.judgement, "dB");
    if (is_unfinished() && a.judgement->verdict == Verdict::pass) {
      a.judgement->verdict = Verdict::incomplete;
      a.sentence = "1 step left: restore the internal offset.";
    }
    const std::size_t first = used_.empty() ? 0 : used_.front();
    answer_all_steps(r, a, first, readings_.size());
    r.figures.push_back(a.figure);
    r.headline_id = a.figure.id;
    r.step_figures.push_back({"falling", a.figure, needed, a.judgement});
    if (margin_.hysteresis_db) {
      Figure h;
      h.id = "hysteresis";
      h.label = "Hysteresis";
      h.unit = "dB";
      h.value = *margin_.hysteresis_db;
      r.step_figures.push_back({"falling and rising", h});
    }
  }

  /// From the source through what is between to the input.
  void add_level_plan(Result& r) const {
    constexpr double kPartU = 0.15;  // of a loss that is stated and not measured
    Figure level;
    level.id = "reference_level";
    level.label = "Level";
    level.unit = "dBm";
    level.value = *plan_.output_dbm;
    level.contributions = {{"source", plan_.u_source_db, Scope::common}};
    LevelPoint source{"Source", "outside reference"};
    if (plan_.nominal_hz) source.line = frequency_text(*plan_.nominal_hz);
    source.level = level;
    r.level_plan.push_back(std::move(source));
    for (const LockPlan::Part& part : plan_.between) {
      level.value += part.gain_db;
      level.contributions.push_back({part.name, kPartU, Scope::independent});
      LevelPoint p{part.name, (part.gain_db <= 0.0 ? "loses " : "adds ") +
                                  number_text(std::abs(part.gain_db), 1) + " dB"};
      p.level = level;
      r.level_plan.push_back(std::move(p));
    }
    LevelPoint input{"Input", number_text(level.value, 1, true) + " dBm into it"};
    if (plan_.lowest_dbm && plan_.highest_dbm) {
      input.line = fmt::format("{} to {} dBm", number_text(*plan_.lowest_dbm, 0, true),
                               number_text(*plan_.highest_dbm, 0, true));
      input.place = (level.value - *plan_.lowest_dbm) / (*plan_.highest_dbm - *plan_.lowest_dbm);
      const double inside =
          std::min(level.value - *plan_.lowest_dbm, *plan_.highest_dbm - level.value);
      input.verdict = inside > level.expanded()    ? Verdict::pass
                      : inside < -level.expanded() ? Verdict::fail
                                                   : Verdict::too_close;
    }
    r.level_plan.push_back(std::move(input));
  }

  void add_level_card(Result& r) const {
    if (!plan_.source_dbm || steps_.empty()) return;
    FigureCard card;
    card.head = "Level into the device";
    card.value = number_text(*plan_.source_dbm, 1, true) + " dBm";
    if (plan_.lowest_dbm && plan_.highest_dbm) {
      card.caption = fmt::format("window {} to {} dBm", number_text(*plan_.lowest_dbm, 0, true),
                                 number_text(*plan_.highest_dbm, 0, true));
      Judgement j;
      j.margin =
          std::min(*plan_.source_dbm - *plan_.lowest_dbm, *plan_.highest_dbm - *plan_.source_dbm);
      j.expanded = 2.0 * plan_.u_source_db;
      j.verdict = j.margin > j.expanded    ? Verdict::pass
                  : j.margin < -j.expanded ? Verdict::fail
                                           : Verdict::too_close;
      card.judgement = j;
      card.margin_span = (*plan_.highest_dbm - *plan_.lowest_dbm) / 2.0;
    } else {
      card.caption = "no input window is stated";
    }
    r.figure_cards.push_back(std::move(card));
  }

  const Evidence& evidence_;
  LockPlan plan_;
  std::vector<LockReading> readings_;
  std::vector<std::size_t> used_;  ///< of the readings
  std::vector<LockStep> steps_;    ///< one a used reading
  LockMargin margin_;
  std::size_t rising_from_ = 0;  ///< of the used ones
};

}  // namespace

Result evaluate_lock(const Evidence& evidence) {
  return LockResult(evidence).result();
}

}  // namespace heron
