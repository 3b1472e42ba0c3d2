#include "app/sheet/method_sheet.h"

#include <algorithm>

#include "app/live/live_ladder.h"
#include "app/live/look_view.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "app/widget/caution_card.h"
#include "app/widget/what_if_panel.h"
#include "store/story.h"

namespace heron {
namespace {

constexpr int kUsualRows = 6;
constexpr int kRowsBelowNeedle = 3;
constexpr int kJointRows = 8;
constexpr int kLeastJointRows = 5;

}  // namespace

std::vector<QWidget*> MethodSheet::stops() {
  std::vector<QWidget*> all{plots_->currentWidget(), stack_->currentWidget()};
  if (readings_->isVisible() && readings_->output()->isVisible())
    all.push_back(readings_->output()->edit());
  return all;
}

void MethodSheet::copy_table() {
  (is_grid_shown() ? static_cast<FigureTable*>(grid_) : table_)->copy_all();
}

const Answer* MethodSheet::shown_answer() const {
  const GeneralTest* t = session_.general();
  return t != nullptr ? t->result.answer_at(static_cast<std::size_t>(std::max(0, chosen_)),
                                            view().toStdString())
                      : nullptr;
}

bool MethodSheet::is_joint() const {
  const GeneralTest* t = session_.general();
  return t != nullptr && t->method->is_joint;
}

std::optional<std::size_t> MethodSheet::step() const {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return std::nullopt;
  const auto step = t->result.step_of(static_cast<std::size_t>(std::max(0, chosen_)));
  return step && *step < t->steps.size() ? step : std::nullopt;
}

bool MethodSheet::takes_recordings() const {
  const GeneralTest* t = session_.general();
  return t != nullptr && t->method->analyse != nullptr;
}

bool MethodSheet::is_calculated() const {
  const GeneralTest* t = session_.general();
  return t != nullptr && t->method->is_calculated;
}

bool MethodSheet::is_typed() const {
  const GeneralTest* t = session_.general();
  return t != nullptr && (t->method->analyse == nullptr || t->method->is_typed_first);
}

QString MethodSheet::view() const {
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->result.views.empty()) return {};
  const auto last = static_cast<int>(t->result.views.size()) - 1;
  if (is_live_view()) return qt_text(t->result.first_view());
  return qt_text(t->result.views[static_cast<std::size_t>(std::clamp(views_->current(), 0, last))]);
}

bool MethodSheet::is_taken() const {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return false;
  if (is_typed() || is_joint()) return !t->result.answers.empty();
  const auto at = step();
  // Read off a screen counts as much as recorded.
  return at && (t->evidence.steps[*at].analysis ||
                t->result.answer_at(*at, t->result.first_view()) != nullptr);
}

Sheet::ShownPart MethodSheet::shown_part() const {
  const GeneralTest* t = session_.general();
  const auto at = step();
  if (!at || !t->evidence.steps[*at].analysis) return {};
  if (plots_->currentWidget() != plot_ || view().toStdString() != t->result.first_view()) return {};
  return {t->evidence.steps[*at].analysis->parts(), static_cast<int>(*at)};
}

QString MethodSheet::take_words() const {
  if (only_listens()) {
    const auto due = live_->due();
    const GeneralTest* t = session_.general();
    return due.empty() || t == nullptr
               ? tr("Record")
               : tr("Record \u201c%1\u201d")
                     .arg(qt_text(t->steps[static_cast<std::size_t>(due.front())].label));
  }
  return live_->due().size() == 1 ? tr("Measure this step") : tr("Measure all steps");
}

QString MethodSheet::add_words() const {
  const GeneralTest* t = session_.general();
  if (can_log())
    return t->method->log(t->evidence).stops.empty() ? tr("Start the log") : tr("Start the run");
  if (can_plan()) return tr("Plan the steps");
  if (reads_logs()) return tr("Add a log");
  if (reads_meters()) return tr("Read the meters");
  if (is_calculated()) return tr("Say what it is for");
  if (is_typed()) return tr("Type the readings");
  if (is_joint()) return tr("Add recordings");
  const auto at = step();
  return at ? tr("Add a recording for %1").arg(qt_text(t->steps[*at].label))
            : tr("Add a recording");
}

QString MethodSheet::add_consequence() const {
  const GeneralTest* t = session_.general();
  if (can_log()) {
    const LogRecipe recipe = t->method->log(t->evidence);
    if (!recipe.stops.empty())
      return tr("%1 attenuations, down and up; no RF needed").arg(recipe.stops.size());
    return tr("Every %1 for %2, no RF needed")
        .arg(qt_text(duration_text(recipe.every_s)), qt_text(duration_text(recipe.length_s)));
  }
  if (can_plan())
    return takes_recordings() ? tr("One for each place; then measure them")
                              : tr("Then type what is read at each");
  if (reads_logs()) return tr("CSV, or a recording of the tone; or drop it here");
  if (takes_recordings() && (is_joint() || (t != nullptr && t->method->analyse_trace != nullptr)))
    return Sheet::add_consequence();
  if (reads_meters()) {
    const auto hold_s = t->method->hold_s;
    return hold_s == nullptr ? tr("Key first; the meters are read at once")
                             : tr("Key first; read now and after %1")
                                   .arg(qt_text(duration_text(hold_s(t->evidence.steps[*step()]))));
  }
  if (is_calculated()) return tr("Worked out from what is measured; nothing to connect");
  return is_typed() ? tr("Into the grid; or paste them there")
                    : tr("WAV or SigMF; or drop it here");
}

/// Where the next reading goes: the first cell of the grid that is empty.
void MethodSheet::add_evidence() {
  if (can_log()) {
    start_log();
    return;
  }
  if (can_plan()) {
    plan_steps();
    return;
  }
  if (reads_logs()) {
    ask_log_file();
    return;
  }
  if (reads_meters()) {
    if (session_.general()->method->hold_s != nullptr)
      read_meters({ReadingRole::at, ReadingRole::after});
    else
      read_meters({ReadingRole::at});
    return;
  }
  if (is_calculated()) {
    settings_->click();
    return;
  }
  if (!is_typed()) {
    ask_recordings();
    return;
  }
  show_grid();
  for (int r = 0; r < evidence_->rowCount(); ++r) {
    for (int c = 0; c < evidence_->columnCount(); ++c) {
      const QModelIndex at = evidence_->index(r, c);
      if (!at.data(Qt::EditRole).toString().isEmpty()) continue;
      grid_->setCurrentIndex(at);
      grid_->setFocus(Qt::OtherFocusReason);
      return;
    }
  }
}

void MethodSheet::show_view(int which) {
  views_->set_current(which);
  plots_->setCurrentWidget(is_live_view() ? static_cast<QWidget*>(look_) : plot_);
  if (is_live_view()) look_->refresh();
  refresh();
}

void MethodSheet::begin_test(const GeneralTest& t) {
  shown_test_ = t.test.id;
  is_chosen_ = false;
  chosen_ = static_cast<int>(t.headline_item().value_or(0));
  QStringList views;
  for (const std::string& v : t.result.views) views << qt_text(v);
  if (t.method->has_live_view) views << tr("Live");
  compared_ = -1;
  plot_->choose_mark({});
  plots_->setCurrentWidget(plot_);
  views_->set_choices(views.isEmpty() ? QStringList(QString()) : views);
  views_->setVisible(views.size() > 1);
  // Nothing read yet: the grid is what is needed.
  const bool needs_grid = !t.method->fields.empty() && t.result.answers.empty() &&
                          (!takes_recordings() || reads_logs() || t.method->is_typed_first);
  show_below(0);
  if (needs_grid) show_grid();
  // Where the grid has no output, and recordings have no level, it is typed here.
  readings_->show_output(takes_recordings() && !t.method->is_typed_first);
}

/// While steps are measured the card of that has the room of the second figure and of the readings.
void MethodSheet::show_cards(const GeneralTest& t) {
  const ProposalCard* proposals = t.result.proposals_in(view().toStdString());
  proposals_->set_card(proposals);
  const FigureCard* card =
      t.result.figure_card_at(static_cast<std::size_t>(chosen_), view().toStdString());
  const bool has_room = !live_->is_running();
  figure_card_->set_card(has_room ? card : nullptr);
  next_card_->set_list(has_room && t.result.next ? &*t.result.next : nullptr);
  readings_->setVisible(has_room && !is_joint() && card == nullptr && proposals == nullptr &&
                        !t.result.next);
}

void MethodSheet::refresh() {
  const GeneralTest* t = session_.general();
  if (t != nullptr) {
    if (t->test.id != shown_test_) begin_test(*t);
    const auto count = static_cast<int>(is_joint() ? t->result.items.size() : t->steps.size());
    // Lines come and go with what is read: the worst is shown until somebody chooses another.
    if (is_joint() && (chosen_ >= count || !is_chosen_))
      chosen_ = static_cast<int>(t->headline_item().value_or(0));
    chosen_ = std::clamp(chosen_, 0, std::max(0, count - 1));
  }
  refresh_head();
  if (t == nullptr) {
    // Until another test is read, what was there stays, pale.
    if (session_.waited_for() == nullptr || shown_test_ == 0) show_nothing();
    return;
  }
  fit_rows(*t);
  refresh_strip(*t);
  what_if_->set_values(t->result.what_ifs, !session_.refusal(t->test.id).has_value());
  what_if_->setFixedWidth(WhatIfPanel::width_at(window()->width()));
  show_plot(*t);
  // Where there is nothing to draw the table has the room.
  middle_->setVisible(plots_->isVisibleTo(middle_) || what_if_->isVisibleTo(middle_));
  fit_rows(*t);
  show_below(-1);
  evidence_->set_test(*t, !session_.refusal(t->test.id).has_value());
  fit_columns();
  choose_rows();
  readings_->set_test(t, static_cast<int>(step().value_or(0)), session_.shack().is_read_only());
  show_cards(*t);
  refresh_menus(*t);
  refresh_convention(*t);
  show_switch(*t);
  lay_out_controls();
  refresh_verdict(*t);
  refresh_remarks(*t);
}

/// Where there are few lines the plot has the room; where there is no plot the table has it.
void MethodSheet::fit_rows(const GeneralTest& t) {
  constexpr int kLowPx = 760;
  constexpr int kLeastRows = 3;
  const auto count = static_cast<int>(is_joint() ? t.result.items.size() : t.steps.size());
  int rows = is_joint()     ? std::clamp(count, kLeastJointRows, kJointRows)
             : has_needle() ? kRowsBelowNeedle
                            : kUsualRows;
  if (window()->height() < kLowPx) rows = std::min(rows, std::clamp(count, kLeastRows, 4));
  stack_->setFixedHeight(30 + rows * 29 + 2);
  if (!plots_->isVisibleTo(this)) stack_->setMaximumHeight(QWIDGETSIZE_MAX);
}

void MethodSheet::refresh_remarks(const GeneralTest& t) {
  std::vector<Remark> remarks = plan_remarks();
  const std::vector<Remark> own =
      t.result.remarks_at(static_cast<std::size_t>(chosen_), view().toStdString());
  remarks.insert(remarks.end(), own.begin(), own.end());
  const Device device = shown_device();
  if (const auto edited = limit_edited_remark(device, t.test)) remarks.push_back(*edited);
  sort_remarks(remarks);
  remarks_->set_remarks(remarks);
  remarks_->setVisible(!remarks.empty());
  refresh_caution();
  // Where no hook-up says how long, the method's own words stand; those of the device come first.
  if (caution_->isVisibleTo(this)) return;
  const bool has_high_voltage = device.facts.has_high_voltage;
  if (has_high_voltage)
    caution_->set_words(
        tr("Mains or high voltage inside"),
        tr("Work on it closed, or leave it to who is licensed: plug out and "
           "capacitors discharged before hands reach in. Local codes come first. ") +
            qt_text(t.method->caution));
  else if (!t.method->caution.empty())
    caution_->set_words(qt_text(t.method->caution_head), qt_text(t.method->caution));
  caution_->setVisible(has_high_voltage || !t.method->caution.empty());
}

void MethodSheet::choose(int index) {
  if (index == chosen_) return;
  flush();
  chosen_ = index;
  is_chosen_ = true;
  plot_->choose_mark({});
  refresh();
}

void MethodSheet::resizeEvent(QResizeEvent* event) {
  Sheet::resizeEvent(event);
  if (const GeneralTest* t = session_.general(); t != nullptr && has_other_panels(*t))
    show_plot(*t);
  if (const GeneralTest* t = session_.general(); t != nullptr) fit_rows(*t);
  fit_columns();
  lay_out_controls();
  right_->setFixedWidth(right_column_width(window()->width()));
}

}  // namespace heron
