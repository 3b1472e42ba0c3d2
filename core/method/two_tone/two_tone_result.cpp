#include "core/method/two_tone/two_tone_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/two_tone/two_tone_plot.h"
#include "core/method/two_tone/two_tone_take.h"
#include "core/method/two_tone/two_tone_trace.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kLadderSpanDb = 20.0;
constexpr int kOrdersInTable = 4;

Limit rounded(Limit limit) {
  limit.value = std::round(limit.value * 10.0) / 10.0;
  return limit;
}

bool is_typed(const TwoToneAnalysis& a) {
  return a.capture.frames == 0 && a.rbw_hz == 0.0;
}

std::string side_of(const TwoToneProduct& p) {
  return p.side == Side::upper ? "upper" : "lower";
}

Answer answer_at(const TwoToneTake& t, std::size_t step, const std::string& view) {
  const TwoToneAnalysis& a = *t.analyses[step];
  const TwoToneProduct& worst = *a.worst();
  Answer answer;
  answer.figure = product_figure(a, worst, t.convention);
  answer.where = t.labels[step];
  answer.label =
      is_typed(a) ? fmt::format("Worst: {} order, typed", ordinal(worst.order))
                  : fmt::format("Worst: {} order, {} side", ordinal(worst.order), side_of(worst));
  answer.step = step;
  answer.view = view;
  if (!t.limit) {
    answer.sentence = "No limit is chosen, so nothing is judged.";
    return answer;
  }
  answer.limit = rounded(in_convention(*t.limit, t.convention, a.pep_over_tone_db()));
  answer.judgement = t.ladder.rows[step].judgement;
  answer.margin_span = t.limit->span;
  answer.sentence = verdict_sentence(*answer.judgement, "dB");
  return answer;
}

/// What the ladder says at the most that may be used; nullopt where nothing is known there.
std::optional<Answer> answer_at_ceiling(const TwoToneTake& t) {
  if (!t.settings.ceiling_dbm) return std::nullopt;
  const auto at =
      worst_at(ladder_traces(t.steps(), t.convention), *t.settings.ceiling_dbm, t.convention);
  if (!at) return std::nullopt;
  Answer answer;
  answer.figure = at->figure;
  answer.where =
      "your ceiling, " + number_text(to_watt(Dbm{*t.settings.ceiling_dbm}).value, 1) + " W";
  answer.label = fmt::format("Worst: {} order{}", ordinal(at->order),
                             at->is_between_steps ? ", between steps" : "");
  answer.head = "At " + answer.where;
  answer.view = kOverPowerView;
  const auto limit = t.shown_limit();
  if (!limit) {
    answer.sentence = "No limit is chosen, so nothing is judged.";
    return answer;
  }
  Judgement j = judge(at->figure, *limit);
  const bool is_unread = at->unread_order && j.verdict == Verdict::pass;
  if (is_unread) j.verdict = Verdict::incomplete;
  answer.limit = rounded(*limit);
  answer.judgement = j;
  answer.margin_span = limit->span;
  answer.sentence = is_unread ? fmt::format("IM{} was not read there.", *at->unread_order)
                              : verdict_sentence(j, "dB");
  const auto& at_limit = t.advice.at_limit;
  if (at_limit && !at_limit->is_surely_at_least)
    answer.sentence += at_limit->sure_dbm
                           ? fmt::format(" It passes with certainty up to {} W.",
                                         number_text(to_watt(Dbm{*at_limit->sure_dbm}).value, 1))
                           : std::string(" No step passes with certainty.");
  return answer;
}

/// Of each step, the one that the test is judged by first; over power all ask the same where
/// somebody chose a ceiling.
std::vector<Answer> answers_of(const TwoToneTake& t) {
  std::vector<Answer> all;
  const auto first = t.headline_step();
  if (!first) return all;
  const auto at_ceiling = answer_at_ceiling(t);
  const std::string view = at_ceiling ? kSpectrumView : "";
  all.push_back(answer_at(t, *first, view));
  for (std::size_t i = 0; i < t.labels.size(); ++i) {
    if (i != *first && t.ladder.rows[i].worst) all.push_back(answer_at(t, i, view));
  }
  for (std::size_t i = 0; at_ceiling && i < t.labels.size(); ++i) {
    all.push_back(*at_ceiling);
    all.back().step = i;
  }
  return all;
}

std::string watts_cell(double dbm) {
  const double w = to_watt(Dbm{dbm}).value;
  return number_text(w, w < 0.995 ? 2 : w < 99.5 ? 1 : 0);
}

TableCell product_cell(const TwoToneAnalysis& a, int order, const std::string& convention) {
  const TwoToneProduct* p = a.worse_side(order);
  if (p == nullptr) return {};
  TableCell cell;
  const Figure figure = product_figure(a, *p, convention);
  cell.text = (p->is_bound ? "\u2264 " : "") + number_text(figure.value, 1);
  cell.is_deciding = p == a.worst();
  cell.mark = figure.id;
  return cell;
}

ResultTable::Row row_of(const TwoToneTake& t, const Evidence& evidence, std::size_t i) {
  ResultTable::Row row{i, {{t.labels[i]}}};
  const LadderRow& ladder = t.ladder.rows[i];
  if (t.ladder.sweet_spot == i) row.cells.front().tag = "sweet spot";
  TableCell output;
  if (ladder.output_dbm) output.text = watts_cell(*ladder.output_dbm);
  output.figure = t.outputs[i];
  row.cells.push_back(std::move(output));
  const TwoToneAnalysis* a = t.analyses[i].get();
  const bool has_products = a != nullptr && !a->products.empty();
  for (int k = 0; k < kOrdersInTable; ++k)
    row.cells.push_back(has_products ? product_cell(*a, 3 + 2 * k, t.convention) : TableCell{});
  TableCell worst;
  if (has_products) {
    worst.figure = product_figure(*a, *a->worst(), t.convention);
    worst.text = figure_cell(*worst.figure, 1);
    worst.is_deciding = true;
  }
  row.cells.push_back(std::move(worst));
  const auto judged =
      has_products && t.limit ? std::optional(ladder.judgement) : std::optional<Judgement>();
  row.cells.push_back({judged ? number_text(judged->margin, 1, true) : std::string(), judged});
  const bool is_damaged = evidence.steps[i].is_damaged;
  row.cells.push_back(a != nullptr && !has_products && !is_damaged
                          ? TableCell{"no products"}
                          : verdict_cell(judged, a != nullptr, is_damaged));
  return row;
}

ResultTable steps_table(const TwoToneTake& t, const Evidence& evidence) {
  ResultTable table;
  table.title = "Drive steps";
  table.tab = "steps";
  table.margin_span = t.limit ? t.limit->span : kLadderSpanDb;
  table.columns = {{"step", "Drive step", CellKind::name, 142, 0, 122},
                   {"output", "Output, W", CellKind::figure, 74, 0, 72},
                   {"im3", "IM3, dB", CellKind::figure, 64, 0, 62},
                   {"im5", "IM5, dB", CellKind::figure, 64, 0, 62},
                   {"im7", "IM7, dB", CellKind::figure, 66, 1200},
                   {"im9", "IM9, dB", CellKind::figure, 66, 1440},
                   {"worst", "Worst, dB", CellKind::figure, 106, 0, 98},
                   {"margin", "Margin, dB", CellKind::margin, -1},
                   {"verdict", "Verdict", CellKind::verdict, 112, 0, 111}};
  for (std::size_t i = 0; i < t.labels.size(); ++i) table.rows.push_back(row_of(t, evidence, i));
  table.note = "Each order by its worse side, " + t.convention + ".";
  if (t.ladder.sweet_spot)
    table.note +=
        fmt::format(" Highest output that passes: {}.", t.ladder.rows[*t.ladder.sweet_spot].label);
  if (t.ladder.quietest)
    table.note += fmt::format(" Quietest step: {}.", t.ladder.rows[*t.ladder.quietest].label);
  return table;
}

/// Every product of one step, both sides.
ResultTable products_table(const TwoToneTake& t, std::size_t step) {
  const TwoToneAnalysis& a = *t.analyses[step];
  ResultTable table;
  table.title = "Products at " + t.labels[step];
  table.tab = "products";
  table.view = kSpectrumView;
  table.step = step;
  table.columns = {{"product", "Product", CellKind::name, 150},
                   {"offset", "Offset, Hz", CellKind::figure, 110},
                   {"one_tone", "dB re one tone", CellKind::figure, 130},
                   {"pep", "dB re PEP", CellKind::figure, 110},
                   {"u", "\u00b1 dB", CellKind::figure, 90},
                   {"floor", "Floor, dB re one tone", CellKind::figure, -1}};
  for (const TwoToneProduct& p : a.products) {
    const Figure figure = product_figure(a, p, t.convention);
    const int decimals =
        p.is_bound ? 1 : std::min(2, decimals_for(figure.expanded(), Rounding::compact));
    const auto level = [&](double db) {
      return (p.is_bound ? "\u2264 " : "") + number_text(db, decimals);
    };
    ResultTable::Row row{step, {{product_name(p)}}, figure.id};
    row.cells.push_back({number_text(p.frequency_hz, 0, true)});
    row.cells.push_back({level(p.level_dbc)});
    row.cells.push_back({level(p.level_db_pep)});
    TableCell u{p.is_bound ? "bound" : number_text(figure.expanded(), decimals)};
    if (!p.is_bound) u.figure = figure;
    row.cells.push_back(std::move(u));
    row.cells.push_back({p.floor_dbc > -199.0 ? number_text(p.floor_dbc, 1) : std::string()});
    for (TableCell& cell : row.cells) cell.is_deciding = &p == a.worst();
    table.rows.push_back(std::move(row));
  }
  table.note = "Offsets from the middle of the recording.";
  return table;
}

/// Passes only if its upper edge does; fails only if there is a lower one and it does not.
Judgement judged(const DrivenPoint& at, const Limit& limit) {
  const double half = (at.in_phase_db - at.power_sum_db.value_or(at.in_phase_db)) / 2.0;
  Judgement j;
  j.margin = limit.value - (at.in_phase_db - half);
  j.expanded = half + 2.0 * at.u_db;
  j.verdict = j.margin > j.expanded                       ? Verdict::pass
              : at.power_sum_db && j.margin < -j.expanded ? Verdict::fail
                                                          : Verdict::too_close;
  return j;
}

std::optional<FigureCard> driven_card(const TwoToneTake& t, double exciter_dbm) {
  const auto at = driven_at_drive(t.driven, exciter_dbm);
  if (!at) return std::nullopt;
  FigureCard card;
  card.head = "With " + t.amplifier + " behind";
  card.view = kOverPowerView;
  const std::string top = number_text(at->in_phase_db, 1);
  const std::string out = watts_text(at->amplifier_dbm);
  if (at->power_sum_db) {
    card.value = number_text(*at->power_sum_db, 1) + " to " + top + " dB";
    card.caption = out + " out, from power sum to in phase";
  } else {
    card.value = "< " + top + " dB";
    card.caption = out + " out, even in phase";
  }
  if (t.limit) card.judgement = judged(*at, *t.limit);
  return card;
}

std::vector<FigureCard> driven_cards(const TwoToneTake& t) {
  std::vector<FigureCard> all;
  if (t.settings.ceiling_dbm) {
    if (auto card = driven_card(t, *t.settings.ceiling_dbm)) all.push_back(std::move(*card));
    return all;
  }
  for (std::size_t i = 0; i < t.outputs.size(); ++i) {
    auto card = t.outputs[i] ? driven_card(t, t.outputs[i]->value) : std::nullopt;
    if (!card) continue;
    card->step = i;
    all.push_back(std::move(*card));
  }
  return all;
}

/// Down, not to the nearest: what is set has to keep what it promises.
SettingProposal ceiling_at(double dbm) {
  const double w = std::floor(to_watt(Dbm{dbm}).value * 10.0) / 10.0;
  SettingProposal p;
  p.key = "ceiling_dbm";
  p.value = to_dbm(Watt{w}).value;
  p.typed = number_text(w, std::abs(w - std::round(w)) < 0.05 ? 0 : 1) + " W";
  return p;
}

void add_doubts(const TwoToneTake& t, Result& result) {
  for (const ReadingDoubt& d : t.doubts)
    result.doubts.push_back(
        {d.step, d.order == 0 ? std::string("output") : "im" + std::to_string(d.order), d.text});
}

/// Outputs, and every product in both conventions.
void add_figures(const TwoToneTake& t, Result& result) {
  for (std::size_t i = 0; i < t.labels.size(); ++i) {
    if (t.outputs[i]) result.step_figures.push_back({t.labels[i], *t.outputs[i]});
    if (t.analyses[i] == nullptr) continue;
    const TwoToneAnalysis& a = *t.analyses[i];
    result.inputs.push_back(a.input);
    for (const char* convention : {kReOneTone, kRePep}) {
      for (const TwoToneProduct& p : a.products) {
        StepFigure f{t.labels[i], product_figure(a, p, convention)};
        if (t.limit && t.limit->convention == convention) {
          f.limit = t.limit;
          f.judgement = judge(f.figure, *t.limit);
        }
        result.step_figures.push_back(std::move(f));
      }
    }
  }
}

void add_conditions(const TwoToneTake& t, std::size_t step, Result& result) {
  const TwoToneAnalysis& a = *t.analyses[step];
  const auto add = [&](const char* what, std::string words) {
    result.conditions.emplace_back(what, std::move(words));
  };
  if (is_typed(a)) {
    add("Readings", "typed by hand");
  } else {
    add("Tones", fmt::format("{} and {} Hz", number_text(a.tones[0].frequency_hz, 1),
                             number_text(a.tones[1].frequency_hz, 1)));
    add("Recording", fmt::format("{}, {}, {}", a.capture.name, a.capture.format,
                                 engineering_text(a.capture.sample_rate_hz, "Hz", 4)));
    add("Resolution", fmt::format("{} noise bandwidth, {} averages, {} window",
                                  engineering_text(a.rbw_hz, "Hz", 3), a.averages, a.window));
  }
}

}  // namespace

Result evaluate_two_tone(const Evidence& evidence) {
  const TwoToneTake t = take_two_tone(evidence);
  Result result;
  result.method = "two_tone";
  result.views = {kSpectrumView, kOverPowerView};
  result.answers = answers_of(t);
  result.tables.push_back(steps_table(t, evidence));
  for (std::size_t i = 0; i < t.labels.size(); ++i) {
    if (t.analyses[i] == nullptr) continue;
    if (!t.analyses[i]->products.empty()) result.tables.push_back(products_table(t, i));
    result.step_remarks.push_back({i, kSpectrumView, t.analyses[i]->remarks});
  }
  result.plots = spectrum_plots(t);
  result.plots.push_back(over_power_plot(t));
  result.figure_cards = driven_cards(t);
  result.step_outputs = t.outputs;
  if (t.advice.advised_ceiling_dbm) {
    result.setting_proposals.push_back(ceiling_at(*t.advice.advised_ceiling_dbm));
    result.setting_proposals.back().words =
        result.setting_proposals.back().typed + ", for the amplifier behind";
  }
  result.remarks = remarks_of(t);
  add_doubts(t, result);
  add_figures(t, result);
  result.conditions.emplace_back("Convention", "dB " + t.convention);
  const auto headline = t.headline_step();
  if (headline) {
    add_conditions(t, *headline, result);
    const auto center = center_of(*t.analyses[*headline], evidence.drive);
    if (center) result.carrier_hz = center;
  }
  return result;
}

SettingProposal ceiling_for(const Evidence& evidence, double wanted_dbm) {
  const TwoToneTake t = take_two_tone(evidence);
  const std::string wanted = watts_text(wanted_dbm);
  const auto at = driven_at_output(t.driven, wanted_dbm);
  if (!at)
    throw InputError(wanted + " out of " + t.amplifier, "", "it was not measured",
                     t.driven.points.empty()
                         ? "Choose what is driven"
                         : "Between " + watts_text(t.driven.points.front().amplifier_dbm) +
                               " and " + watts_text(t.driven.points.back().amplifier_dbm) +
                               " it is known");
  SettingProposal p = ceiling_at(at->exciter_dbm);
  const std::string top = number_text(at->in_phase_db, 1);
  p.words = fmt::format(
      "For {} out of {} keep the exciter at or below {}: the pair {}", wanted, t.amplifier, p.typed,
      at->power_sum_db
          ? fmt::format("lies between {} and {} dB", number_text(*at->power_sum_db, 1), top)
          : fmt::format("stays below {} dB", top));
  return p;
}

std::optional<Figure> linear_output_of_two_tone(const Evidence& evidence) {
  const TwoToneTake t = take_two_tone(evidence);
  const auto limit = t.shown_limit();
  if (!limit || !t.advice.at_limit || t.advice.at_limit->unread_order) return std::nullopt;
  Figure f;
  f.id = "linear_output";
  f.label = "two tones, " + limit_text(rounded(*limit));
  f.unit = "dBm";
  f.convention = "PEP";
  f.value = t.advice.at_limit->output_dbm;
  f.contributions = {{"place between the steps", t.advice.at_limit->u_db, Scope::common}};
  if (t.advice.at_limit->is_at_least) f.bound = Bound::lower;
  return f;
}

}  // namespace heron
