// What the sheet of a method is put together of, and who hears whom; the rest of it is in
// method_sheet.cpp.
#include <QHBoxLayout>
#include <QStackedWidget>

#include "app/live/log_keeper.h"
#include "app/live/look_view.h"
#include "app/live/meter_watch.h"
#include "app/live/needle_tone.h"
#include "app/session/log_import.h"
#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "app/sheet/method_sheet.h"
#include "app/sheet/reminders.h"
#include "app/table/table_head.h"
#include "app/theme/qt_text.h"
#include "app/widget/needle_view.h"
#include "app/widget/what_if_panel.h"
#include "app/widget/words.h"
#include "core/judge/limit.h"

namespace heron {

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
      shown_rows_(
          new Segmented(tr("Rows shown"), {tr("all"), tr("not passing"), tr("not measured")})),
      switch_(new Segmented(tr("Setting"), {QString()})),
      row_count_(new Words({}, Type::label, Tone::slate)),
      views_(new Segmented(tr("Show"), {tr("all")})),
      settings_(new Chip({})),
      limit_(new Chip(tr("Limit"))),
      more_(new Chip({})),
      convention_(new Segmented(tr("Relative to"), {tr("all")})),
      driving_(new Chip(tr("Driving"))),
      figure_card_(new FigureCardView),
      next_card_(new NextCard),
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
  for (Segmented* choice : {views_, shown_rows_, switch_, convention_}) chips->addWidget(choice);
  chips->insertWidget(2, row_count_);
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
  grid_->setToolTip(tr("%1, ~ before a reading marks it as provisional").arg(grid_->toolTip()));
  grid_->setContextMenuPolicy(Qt::CustomContextMenu);
  middle_ = new QWidget;
  auto* beside = new QHBoxLayout(middle_);
  beside->setContentsMargins(0, 0, 0, 0);
  beside->setSpacing(8);
  beside->addWidget(what_if_);
  beside->addWidget(plots_, 1);
  build_frame(controls, middle_, stack_,
              {watching_, logging_, proposals_, figure_card_, next_card_, readings_});
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
  connect(shown_rows_, &Segmented::chosen, this, [this](int which) {
    results_->show_rows(static_cast<ResultModel::Rows>(which));
    dress_rows();
    choose_rows();
  });
  connect(switch_, &Segmented::chosen, this, &MethodSheet::choose_switch);
  connect(next_card_, &NextCard::asked, this, [this](const CellLink& link) {
    emit step_asked(session_.evaluation_id(), link.test, qt_text(link.step));
  });
  connect(table_, &FigureTable::cell_chosen, this, &MethodSheet::show_cell);
  connect(table_, &QTableView::activated, this, &MethodSheet::open_cell);
  connect(results_, &ResultModel::cell_typed, this, &MethodSheet::type_result);
  connect(table_, &QWidget::customContextMenuRequested, this, &MethodSheet::show_table_menu);
  connect(grid_, &QWidget::customContextMenuRequested, this, &MethodSheet::show_grid_menu);
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

}  // namespace heron
