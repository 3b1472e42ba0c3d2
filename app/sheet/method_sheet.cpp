#include "app/sheet/method_sheet.h"

#include <QHBoxLayout>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/live/live_ladder.h"
#include "app/live/log_keeper.h"
#include "app/live/look_view.h"
#include "app/live/meter_watch.h"
#include "app/live/needle_tone.h"
#include "app/session/log_import.h"
#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "app/sheet/reminders.h"
#include "app/table/table_head.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "app/widget/caution_card.h"
#include "app/widget/needle_view.h"
#include "app/widget/what_if_panel.h"
#include "core/judge/limit.h"
#include "core/method/compare.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr int kUsualRows = 6;
constexpr int kRowsBelowNeedle = 3;
constexpr int kJointRows = 8;
constexpr int kLeastJointRows = 5;
constexpr int kNarrowPx = 1200;
constexpr int kWideSheetPx = 1440;
constexpr int kRoomyPx = 1900;

}  // namespace

MethodSheet::MethodSheet(const SheetContext& with, QWidget* parent)
    : Sheet(with, parent),
      plot_(new PlotView),
      look_(new LookView(with.session, with.bench)),
      plots_(new QStackedWidget),
      table_(new FigureTable(tr("Results"))),
      results_(new ResultModel(this)),
      evidence_(new EvidenceModel),
      grid_(new TypedGrid(tr("Readings typed by hand"), evidence_)),
      stack_(new QStackedWidget),
      below_(new Segmented(tr("Below the plot"), {tr("Results"), tr("Readings")})),
      views_(new Segmented(tr("Show"), {tr("all")})),
      settings_(new Chip({})),
      limit_(new Chip(tr("Limit"))),
      more_(new Chip({})),
      convention_(new Segmented(tr("Relative to"), {tr("all")})),
      driving_(new Chip(tr("Driving"))),
      figure_card_(new FigureCardView),
      masks_(new MaskMenu(limit_, this)),
      readings_(new ReadingsCard),
      proposals_(new ProposalCardView),
      watch_(new MeterWatch(with.bench, this)),
      watching_(new TakingCard),
      needle_(new NeedleView),
      what_if_(new WhatIfPanel),
      log_(new LogKeeper(with.session, with.bench, this)),
      log_files_(new LogImport(with.session, this)),
      logging_(new TakingCard),
      tone_(new NeedleTone(this)),
      reminders_(new Reminders(this)) {
  more_->set_value(tr("More"));
  build();
  connect_all();
}

void MethodSheet::build() {
  auto* controls = new QWidget;
  auto* chips = sheet_controls(controls);
  controls_ = chips;
  for (Segmented* choice : {views_, convention_}) chips->addWidget(choice);
  for (Chip* chip : {limit_, driving_, settings_, more_}) chips->addWidget(chip);
  chips->addStretch();
  chips->addWidget(below_);
  plots_->addWidget(plot_);
  plots_->addWidget(look_);
  plots_->addWidget(needle_);
  table_->setModel(results_);
  table_->setItemDelegate(new ResultDelegate(table_));
  grid_->setItemDelegate(new GridDelegate(grid_));
  static_cast<TableHead*>(grid_->horizontalHeader())->set_last_left(false);
  stack_->addWidget(table_);
  stack_->addWidget(grid_);
  table_->setContextMenuPolicy(Qt::CustomContextMenu);
  middle_ = new QWidget;
  auto* beside = new QHBoxLayout(middle_);
  beside->setContentsMargins(0, 0, 0, 0);
  beside->setSpacing(8);
  beside->addWidget(what_if_);
  beside->addWidget(plots_, 1);
  build_frame(controls, middle_, stack_,
              {watching_, logging_, proposals_, figure_card_, readings_});
}

void MethodSheet::connect_all() {
  connect(what_if_, &WhatIfPanel::sliding, this,
          [this](const WhatIfMove& move) { try_out(move, true); });
  connect(what_if_, &WhatIfPanel::moved, this,
          [this](const WhatIfMove& move) { try_out(move, false); });
  connect(below_, &Segmented::chosen, this, &MethodSheet::show_below);
  connect(views_, &Segmented::chosen, this, &MethodSheet::show_view);
  connect(convention_, &Segmented::chosen, this, [this](int i) {
    const Method& m = *session_.general()->method;
    TestEdits(session_).set_convention(
        qt_text(std::string(m.conventions[static_cast<std::size_t>(i)].id)));
  });
  connect(table_, &FigureTable::cell_chosen, this, &MethodSheet::show_cell);
  connect(table_, &QTableView::activated, this, &MethodSheet::open_cell);
  connect(results_, &ResultModel::cell_typed, this, &MethodSheet::type_result);
  connect(table_, &QWidget::customContextMenuRequested, this, &MethodSheet::show_table_menu);
  connect(plot_, &PlotView::mark_chosen, this,
          [this](const QString& mark) { choose_mark(mark.toStdString()); });
  connect(driving_->menu(), &QMenu::aboutToShow, this, &MethodSheet::fill_driving);
  connect(plot_, &PlotView::axis_asked, this, &MethodSheet::choose_axis);
  connect(plot_, &PlotView::lane_dragged, this, &MethodSheet::mark_place);
  connect(plot_, &PlotView::handle_moved, this, &MethodSheet::move_handle);
  connect(plot_, &PlotView::window_moved, this, &MethodSheet::move_window);
  connect(look_->run(), &LookRun::failed, this, &Sheet::failed);
  connect(look_->run(), &LookRun::changed, this, [this] { refresh_head(); });
  connect(table_, &FigureTable::row_chosen, this, [this](int row) {
    if (results_->is_new(row)) return;
    const auto& rows = results_->table().rows;
    if (results_->table().step) {
      choose_mark(rows[static_cast<std::size_t>(row)].mark);
      return;
    }
    // A row that is of no step chooses nothing.
    if (const auto step = rows[static_cast<std::size_t>(row)].step) choose(static_cast<int>(*step));
  });
  connect(masks_, &MaskMenu::chosen, this, &MethodSheet::set_mask);
  connect(masks_, &MaskMenu::failed, this, &Sheet::failed);
  connect(masks_, &MaskMenu::told, this, &Sheet::told);
  connect(grid_, &FigureTable::row_chosen, this, [this](int row) {
    const GeneralTest* t = session_.general();
    if (t != nullptr && row < static_cast<int>(t->steps.size())) choose(row);
  });
  connect(plot_, &PlotView::step_chosen, this, &MethodSheet::choose);
  offer_saving(plot_, tr("plot"));
  connect(evidence_, &EvidenceModel::changed, this,
          [this](const QString& what, const std::vector<TypedCells>& steps) {
            StepEdits(session_).set_fields(what, steps);
          });
  connect(grid_, &TypedGrid::refused, this, &Sheet::failed);
  follow_readings(readings_);
  connect_meters();
  connect_log();
}

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
  readings_->setVisible(has_room && !is_joint() && card == nullptr && proposals == nullptr);
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
  // Where there are few lines the plot has the room.
  const int lines =
      std::clamp(static_cast<int>(t->result.items.size()), kLeastJointRows, kJointRows);
  const int rows = is_joint() ? lines : has_needle() ? kRowsBelowNeedle : kUsualRows;
  stack_->setFixedHeight(30 + rows * 29 + 2);
  refresh_strip(*t);
  what_if_->set_values(t->result.what_ifs, !session_.refusal(t->test.id).has_value());
  what_if_->setFixedWidth(WhatIfPanel::width_at(window()->width()));
  show_plot(*t);
  // Where there is nothing to draw the table has the room.
  middle_->setVisible(plots_->isVisibleTo(middle_) || what_if_->isVisibleTo(middle_));
  if (!plots_->isVisibleTo(this)) stack_->setMaximumHeight(QWIDGETSIZE_MAX);
  show_below(-1);
  evidence_->set_test(*t, !session_.refusal(t->test.id).has_value());
  fit_columns();
  choose_rows();
  readings_->set_test(t, static_cast<int>(step().value_or(0)), session_.shack().is_read_only());
  show_cards(*t);
  refresh_menus(*t);
  refresh_convention(*t);
  lay_out_controls();
  refresh_verdict(*t);
  refresh_remarks(*t);
}

void MethodSheet::refresh_remarks(const GeneralTest& t) {
  std::vector<Remark> remarks = plan_remarks();
  const std::vector<Remark> own =
      t.result.remarks_at(static_cast<std::size_t>(chosen_), view().toStdString());
  remarks.insert(remarks.end(), own.begin(), own.end());
  sort_remarks(remarks);
  remarks_->set_remarks(remarks);
  remarks_->setVisible(!remarks.empty());
  refresh_caution();
  // Where no hook-up says how long, the method's own words stand.
  if (!caution_->isVisibleTo(this) && !t.method->caution.empty()) {
    caution_->set_words(qt_text(t.method->caution_head), qt_text(t.method->caution));
    caution_->show();
  }
}

void MethodSheet::choose(int index) {
  if (index == chosen_) return;
  flush();
  chosen_ = index;
  is_chosen_ = true;
  plot_->choose_mark({});
  refresh();
}

/// What has no room is in menus, tool tips and in what is copied.
void MethodSheet::lay_out_controls() {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  const Method& m = *t->method;
  const int total = window()->width();
  const bool is_narrow = total < kNarrowPx;
  controls_->setSpacing(is_narrow ? 2 : total < kWideSheetPx ? 5 : 8);
  controls_->setContentsMargins(is_narrow ? 8 : 19, 2, is_narrow ? 6 : 19, 14);
  const auto belongs = [&](std::string_view its) {
    return (its.empty() || its == view().toStdString()) && !is_live_view();
  };
  const auto setting = std::find_if(m.settings.begin(), m.settings.end(),
                                    [](const SettingField& f) { return !f.is_evidence; });
  settings_->setVisible(setting != m.settings.end() && belongs(setting->view));
  driving_->setVisible(!m.driven_view.empty() && belongs(m.driven_view));
  driving_->show_label(!is_narrow);
  limit_->setVisible(m.limit != nullptr || m.mask != nullptr);
  convention_->setVisible(!m.conventions.empty());
  // Beside what is driven there is no room for them.
  const bool is_full = driving_->isVisibleTo(this) && total < kRoomyPx;
  const bool has_many_views = is_narrow && t->result.views.size() > 2;
  const bool is_crowded = has_many_views || (is_narrow && !m.conventions.empty());
  for (Chip* chip : {limit_, settings_}) chip->show_label(!has_many_views);
  more_->show_label(true);
  more_->setVisible(!is_full && !is_crowded);
  below_->setVisible(!is_full && below_of(*t).words.size() > 1);
  if (is_full && is_grid_shown()) show_below(0);
  // What a value means is in its tool tip, too.
  controls_->invalidate();
  if (controls_->minimumSize().width() > controls_->parentWidget()->width() ||
      controls_->sizeHint().width() > controls_->parentWidget()->width())
    for (Chip* chip : {limit_, settings_, more_}) chip->show_label(false);
  for (Chip* chip : {limit_, settings_})
    chip->setMinimumWidth(std::min(chip->sizeHint().width(), 180));
}

void MethodSheet::resizeEvent(QResizeEvent* event) {
  Sheet::resizeEvent(event);
  if (const GeneralTest* t = session_.general(); t != nullptr && has_other_panels(*t))
    show_plot(*t);
  fit_columns();
  lay_out_controls();
  right_->setFixedWidth(right_column_width(window()->width()));
}

}  // namespace heron
