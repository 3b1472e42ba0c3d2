// Tables and the grid below the plot of the sheet of a method; the rest of it is in
// method_sheet.cpp.
#include <QKeyEvent>
#include <QStackedWidget>
#include <algorithm>

#include "app/live/live_ladder.h"
#include "app/live/live_plan.h"
#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "app/sheet/method_sheet.h"
#include "app/table/table_head.h"
#include "app/theme/qt_text.h"
#include "app/widget/words.h"
#include "core/error.h"

namespace heron {

/// What can be chosen below the plot: tables by their tabs, each told once, and the grid.
MethodSheet::Below MethodSheet::below_of(const GeneralTest& t) const {
  Below below;
  for (const ResultTable& table : t.result.tables) {
    if (!is_in_view(table.view, view().toStdString())) continue;
    const QString word = table.tab.empty() ? tr("Results") : qt_text(table.tab);
    if (!below.words.contains(word)) below.words << word;
  }
  below.has_grid = !t.method->fields.empty();
  if (below.has_grid)
    below.words << (below.words.contains(tr("Results")) ? tr("Readings") : tr("readings"));
  return below;
}

bool MethodSheet::is_grid_shown() const {
  return stack_->currentWidget() == grid_;
}

const ResultTable* MethodSheet::shown_table(const GeneralTest& t) const {
  const auto all =
      t.result.tables_at(static_cast<std::size_t>(std::max(0, chosen_)), view().toStdString());
  const std::string tab = below_->current_text().toStdString();
  const auto found =
      std::find_if(all.begin(), all.end(), [&](const ResultTable* one) { return one->tab == tab; });
  return found != all.end() ? *found : all.empty() ? nullptr : all.front();
}

void MethodSheet::show_below(int which) {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  const Below below = below_of(*t);
  const QString before = below_->current_text();
  below_->set_choices(below.words);
  const int last = static_cast<int>(below.words.size()) - 1;
  // Where another view has other tables, what was looked at stays if it is there.
  const int same = which < 0 ? static_cast<int>(below.words.indexOf(before)) : which;
  below_->set_current(std::clamp(same, 0, std::max(0, last)));
  below_->setVisible(below.words.size() > 1);
  const bool is_grid = below.has_grid && below_->current() == last;
  stack_->setCurrentWidget(is_grid ? static_cast<QWidget*>(grid_) : table_);
  // A needle needs the room; what is typed stands beside it on wish.
  stack_->setVisible(!has_needle() || is_grid);
  show_table(*t);
  fit_columns();
  choose_rows();
}

void MethodSheet::show_grid() {
  const GeneralTest* t = session_.general();
  if (t != nullptr) show_below(static_cast<int>(below_of(*t).words.size()) - 1);
}

namespace {

/// What is looked at first while nobody has chosen: the first row where none is judged.
std::vector<ResultTable::Row>::const_iterator worst_row(const ResultTable& table) {
  const auto judged = [](const ResultTable::Row& row) -> const Judgement* {
    for (const TableCell& cell : row.cells)
      if (cell.judgement) return &*cell.judgement;
    return nullptr;
  };
  return std::min_element(table.rows.begin(), table.rows.end(), [&](const auto& a, const auto& b) {
    const Judgement* of_a = judged(a);
    const Judgement* of_b = judged(b);
    if (of_a == nullptr || of_b == nullptr) return of_a != nullptr && of_b == nullptr;
    return is_worse(*of_a, *of_b);
  });
}

}  // namespace

/// The rows of what is chosen: a step, an item, or the line of a mark.
void MethodSheet::choose_rows() {
  const ResultTable& table = results_->table();
  if (!table.step) {
    const auto own = std::find_if(table.rows.begin(), table.rows.end(), [&](const auto& row) {
      return row.step == static_cast<std::size_t>(chosen_);
    });
    table_->choose_row(own == table.rows.end() ? chosen_
                                               : static_cast<int>(own - table.rows.begin()));
    return;
  }
  const auto marked = std::find_if(table.rows.begin(), table.rows.end(), [&](const auto& row) {
    return !row.mark.empty() && row.mark == plot_->mark();
  });
  const auto shown = marked != table.rows.end() ? marked : worst_row(table);
  if (shown != table.rows.end()) table_->choose_row(static_cast<int>(shown - table.rows.begin()));
}

void MethodSheet::show_table(const GeneralTest& t) {
  if (const ResultTable* found = shown_table(t)) {
    const bool can_type = t.method->cell_typed != nullptr && !session_.refusal(t.test.id);
    results_->set_table(*found, can_type);
    table_->setEditTriggers(can_type ? QAbstractItemView::DoubleClicked |
                                           QAbstractItemView::EditKeyPressed
                                     : QAbstractItemView::NoEditTriggers);
    table_->setAccessibleName(qt_text(found->title));
  }
  dress_rows();
  auto* head = static_cast<TableHead*>(table_->horizontalHeader());
  head->set_columns(results_->table().columns);
  const auto& columns = results_->table().columns;
  const auto shared = std::find_if(columns.begin(), columns.end(),
                                   [](const TableColumn& c) { return c.axis.has_value(); });
  head->set_axis(static_cast<int>(shared - columns.begin()),
                 shared != columns.end() ? shared->axis : std::nullopt);
  // Without a margin there is no gauge either.
  head->set_gauge(results_->margin_column(), results_->table().margin_span);
}

/// Where rows have two lines there are few of them, and they share what room there is.
void MethodSheet::dress_rows() {
  constexpr int kOneLine = 29;
  constexpr int kLeast = 42;
  constexpr int kMost = 66;
  constexpr int kFoot = 38;
  const ResultTable& shown = results_->table();
  const auto count = results_->row_count();
  const bool has_two_lines = shown.has_two_lines();
  const bool has_foot = !shown.rows.empty() && shown.rows.back().is_foot;
  if (has_two_lines && has_foot)
    table_->share_height(kLeast, kMost, kFoot);
  else
    table_->set_row_height(kOneLine);
  table_->clearSpans();
  for (std::size_t r = 0; r < shown.rows.size(); ++r)
    if (const auto& words = shown.rows[r].words; words && words->to > words->from + 1)
      table_->setSpan(static_cast<int>(r), static_cast<int>(words->from), 1,
                      static_cast<int>(words->to - words->from));
  row_count_->setText(tr("%1 of %2").arg(count).arg(results_->rows_in_all()));
  row_count_->setVisible(has_two_lines && shown_rows_->current() > 0);
}

void MethodSheet::fit_columns() {
  if (session_.general() == nullptr) return;
  table_->set_columns(results_->widths(window()->width()));
  grid_->set_columns(evidence_->widths());
}

/// A place that was dragged over its names becomes a row of the table, to be named there.
void MethodSheet::mark_place(double from, double to) {
  const ResultTable& table = results_->table();
  if (table.new_row.empty()) return;
  type_result({table.rows.size(), table.columns.front().id, {}, std::pair(from, to)});
}

/// What its table will be is the method's own; a text that does not do says what does.
void MethodSheet::type_result(const TypedCell& cell) {
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->method->cell_typed == nullptr) return;
  try {
    TestEdits(session_).set_settings(qt_text(results_->table().title).toLower(),
                                     t->method->cell_typed(t->evidence, cell));
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
  }
}

void MethodSheet::try_out(const WhatIfMove& move, bool is_held) {
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->method->tried == nullptr) return;
  try {
    const nlohmann::json settings = t->method->tried(t->evidence, move);
    if (is_held)
      session_.preview(settings);
    else if (settings == t->evidence.settings)
      session_.reload();  // let go where it was
    else
      TestEdits(session_).set_settings(tr("what is tried"), settings);
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
    session_.reload();
  }
}

void MethodSheet::move_window(const QString& key, double to, bool is_held) {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  for (const SettingField& field : t->method->settings) {
    if (field.key != key.toStdString()) continue;
    nlohmann::json all = t->evidence.settings;
    nlohmann::json& own = all[std::string(t->method->settings_key)];
    if (!own.is_object()) own = nlohmann::json::object();
    own[std::string(field.key)] = to;
    const bool is_refused = t->method->check != nullptr && !t->method->check(all).empty();
    try {
      if (is_held && !is_refused) session_.preview(all);
    } catch (const InputError&) {
      return;  // it stays as it was shown last
    }
    if (!is_held) set_setting(field, {{std::string(field.key), to}});
    if (!is_held && is_refused) session_.reload();  // back from what was tried
    return;
  }
}

void MethodSheet::choose_mark(const std::string& mark) {
  plot_->choose_mark(mark);
  choose_rows();
}

/// A figure tells where its ± comes from, and a line is shown in the plot.
void MethodSheet::show_cell(int row, int column) {
  if (results_->is_new(row)) {
    table_->edit(results_->index(row, 0));
    return;
  }
  const TableCell& cell = results_->cell(results_->index(row, column));
  const ResultTable::Row& whole = results_->table().rows[static_cast<std::size_t>(row)];
  if (whole.is_foot) {
    open_cell(results_->index(row, column));
    return;
  }
  if (!cell.mark.empty()) choose_mark(cell.mark);
  if (!cell.figure || cell.figure->contributions.empty()) return;
  const QString where =
      qt_text(results_->table().rows[static_cast<std::size_t>(row)].cells.front().text);
  show_budget_of(*cell.figure, tr("%1 at %2").arg(qt_text(cell.figure->label), where), std::nullopt,
                 table_->mapTo(window(), QPoint(table_->columnViewportPosition(column) + 60, 30)));
}

/// The sheet whose figure it is, at its step; where it is still to be measured that is added.
void MethodSheet::open_cell(const QModelIndex& index) {
  if (!index.isValid() || results_->is_new(index.row())) return;
  if (const auto& link = results_->cell(index).opens)
    emit step_asked(session_.evaluation_id(), link->test, qt_text(link->step));
}

/// The cell, or all of its test that is due, with the instruments; what keys a device is only
/// opened.
void MethodSheet::measure_cell(const QModelIndex& index, bool is_whole) {
  if (!index.isValid() || results_->is_new(index.row())) return;
  const auto link = results_->cell(index).opens;
  if (!link) {
    emit told(tr("Nothing is measured in this cell"));
    return;
  }
  emit step_asked(session_.evaluation_id(), link->test, is_whole ? QString() : qt_text(link->step));
  session_.settle();
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->test.id != link->test) return;
  if (!is_listening(session_.loaded())) {
    emit told(tr("%1: Ctrl Return goes on here").arg(qt_text(t->test.title)));
    return;
  }
  for (std::size_t i = 0; !is_whole && i < t->steps.size(); ++i)
    if (t->steps[i].label == link->step) {
      live_->start(static_cast<int>(i));
      return;
    }
  if (is_whole) live_->start();
}

/// Of a table that is calculated: M measures a cell, F2 asks for what it is calculated with.
bool MethodSheet::table_key(const GeneralTest& t, const QKeyEvent& event) {
  if (!t.method->is_calculated) return false;
  if (event.key() == Qt::Key_M && table_->hasFocus()) {
    measure_cell(table_->currentIndex(), event.modifiers() == Qt::ShiftModifier);
    return true;
  }
  if (event.key() != Qt::Key_F2) return false;
  for (const SettingField& field : t.method->settings)
    if (field.kind == SettingField::Kind::text) {
      ask_setting(field);
      return true;
    }
  return false;
}

void MethodSheet::choose_step_called(const QString& label) {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  const auto is_it = [&](const std::string& name) {
    return qt_text(name).compare(label, Qt::CaseInsensitive) == 0;
  };
  if (is_joint())
    for (std::size_t i = 0; i < t->result.items.size(); ++i)
      if (is_it(t->result.items[i].name)) {
        choose(static_cast<int>(i));
        return;
      }
  const auto step =
      std::find_if(t->steps.begin(), t->steps.end(), [&](const Step& s) { return is_it(s.label); });
  if (step != t->steps.end()) {
    // Nothing was read of it yet where it is no item.
    if (is_joint())
      show_grid();
    else
      choose(static_cast<int>(step - t->steps.begin()));
    return;
  }
  if (label.isEmpty() || session_.refusal(t->test.id)) return;
  StepEdits(session_).add_step(label);
  show_grid();
}

}  // namespace heron
