#include "report/section.h"

#include <algorithm>

#include "core/quantity/format.h"
#include "report/evidence_record.h"
#include "report/section_parts.h"

namespace heron {
namespace {

/// Words where there are some, and the last column a verdict.
ReportTable printed(const ResultTable& from) {
  ReportTable table;
  table.title = from.step ? from.title : from.view;
  // The margin line of the screen is a number on paper.
  // What a row shares with others is drawn beside the rows, and not printed.
  const auto is_printed = [&](std::size_t c) { return from.columns[c].kind != CellKind::parts; };
  for (std::size_t i = 0; i < from.columns.size(); ++i) {
    const TableColumn& c = from.columns[i];
    if (!is_printed(i)) continue;
    table.heads.push_back(c.kind == CellKind::margin ? "Margin, " + from.margin_unit : c.head);
  }
  for (const ResultTable::Row& row : from.rows) {
    if (row.is_foot) continue;
    std::vector<std::string> cells;
    for (std::size_t i = 0; i < row.cells.size(); ++i) {
      const TableCell& cell = row.cells[i];
      if (!is_printed(i)) continue;
      const bool is_hollow = cell.judgement && cell.judgement->is_provisional &&
                             from.columns[i].kind == CellKind::verdict;
      cells.push_back(cell.text.empty() ? "\u2013"
                                        : cell.text + (is_hollow ? ", provisional" : ""));
    }
    table.rows.push_back(std::move(cells));
    if (from.columns.back().kind != CellKind::verdict) continue;
    const auto& judged = row.cells.back().judgement;
    table.verdicts.push_back(judged ? judged->verdict : Verdict::not_taken);
  }
  table.note = from.note;
  return table;
}

/// As it is while the headline's step is chosen.
Plot printed(Plot plot, std::optional<std::size_t> step) {
  const auto is_other = [&](const auto& mark) { return mark.step && mark.step != step; };
  std::erase_if(plot.panels, [](const PlotPanel& panel) { return panel.from_px > 0; });
  for (PlotPanel& panel : plot.panels) {
    std::erase_if(panel.ranges, is_other);
    std::erase_if(panel.brackets, is_other);
  }
  return plot;
}

/// What the answer was taken on; of a typed one the latest of all.
std::optional<HookupVersion> taken_on(const GeneralTest& t) {
  const auto step = t.headline_step();
  if (step && t.taken_on[*step]) return t.taken_on[*step];
  if (!t.method->is_joint) return std::nullopt;
  std::optional<HookupVersion> latest;
  for (const auto& taken : t.taken_on) {
    if (taken) latest = taken;
  }
  return latest;
}

void add_figures(ReportDocument& doc, const GeneralTest& t) {
  for (const StepFigure& f : t.result.step_figures) {
    doc.figures.push_back({t.test.title, f.step, f.figure,
                           f.limit ? limit_text(*f.limit) : std::string(),
                           f.judgement ? verdict_id(f.judgement->verdict) : std::string()});
    doc.figures.back().is_provisional = f.is_provisional;
  }
}

/// When and of what: of its own step where it has one, else of all.
void add_origin(ReportFigure& f, const GeneralTest& t) {
  f.conditions = t.test.conditions;
  const bool has_step = std::any_of(t.steps.begin(), t.steps.end(),
                                    [&](const Step& step) { return step.label == f.step; });
  for (const Step& step : t.steps) {
    if (has_step && step.label != f.step) continue;
    for (const Reading& r : step.readings) f.measured_at = std::max(f.measured_at, r.at);
    if (!step.capture) continue;
    f.measured_at = std::max(f.measured_at, step.capture->taken_at);
    f.recordings.push_back(step.capture->hash);
  }
}

}  // namespace

void add_section_of(ReportDocument& doc, const GeneralTest& t) {
  const auto item = t.headline_item();
  const std::size_t figures_before = doc.figures.size();
  const double planned_hz = t.test.drive ? t.test.drive->frequency_hz : 0.0;
  ReportSection s = section_head(t, taken_on(t), t.result.carrier_hz.value_or(planned_hz));
  for (const auto& condition : t.result.conditions) s.conditions.push_back(condition);
  if (t.test.limit)
    s.limit = (t.test.limit->name.empty() ? "" : t.test.limit->name + ", ") +
              limit_text(*t.test.limit) +
              (t.test.limit->convention.empty() ? "" : " " + t.test.limit->convention);
  if (t.method->mask == nullptr)
    s.conditions.emplace_back("Limit", s.limit.empty() ? "none chosen" : s.limit);
  if (!t.result.answers.empty()) {
    const Answer& a = t.result.answers.front();
    s.is_measured = true;
    s.is_provisional = a.is_provisional;
    const Figure& shown = a.shown ? *a.shown : a.figure;
    s.answer = figure_text(shown) + (shown.convention.empty() ? "" : " " + shown.convention);
    s.answer_label = a.head.empty() ? "At " + a.where + ". " + a.label : a.head + ", " + a.label;
    if (a.limit && s.limit.empty()) s.limit = a.limit->name + ", " + limit_text(*a.limit);
    s.judgement = a.judgement.value_or(Judgement{});
    s.judgement_sentence = a.sentence;
    if (!a.figure.contributions.empty())
      s.conditions.emplace_back("\u00b1 of the answer", budget_words(a.figure));
    const auto& outputs = t.result.step_outputs;
    if (a.step && *a.step < outputs.size() && outputs[*a.step] && outputs[*a.step]->u() > 0.0)
      s.conditions.emplace_back("\u00b1 of the output", budget_words(*outputs[*a.step]));
  }
  const std::string view = t.result.first_view();
  for (std::size_t i = 0; i < t.result.tables.size(); ++i) {
    const ResultTable& table = t.result.tables[i];
    if (i == 0)
      s.table = printed(table);
    else if (!table.step)
      s.further_tables.push_back(printed(table));
  }
  for (const Plot& plot : t.result.plots) {
    const bool is_other_step = plot.step && plot.step != item;
    if (plot.has_points() && !is_other_step && (is_in_view(plot.view, view) || plot.is_printed_too))
      s.plots.push_back(printed(plot, item));
  }
  s.remarks = t.result.remarks_at(item, view);
  for (const ProposalCard& card : t.result.cards) s.remarks.push_back(proposal_remark(card));
  for (const std::string& input : t.result.inputs) doc.inputs.push_back(input);
  s.evidence = evidence_record(t);
  doc.sections.push_back(std::move(s));
  add_figures(doc, t);
  for (std::size_t i = figures_before; i < doc.figures.size(); ++i) add_origin(doc.figures[i], t);
}

}  // namespace heron
