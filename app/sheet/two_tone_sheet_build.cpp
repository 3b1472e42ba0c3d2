// The layout of the two-tone sheet; what it does is in two_tone_sheet.cpp.
#include <QHBoxLayout>
#include <QStackedWidget>
#include <QVBoxLayout>

#include "app/live/live_card.h"
#include "app/live/live_ladder.h"
#include "app/live/look_view.h"
#include "app/sheet/two_tone_sheet.h"
#include "app/table/row_delegate.h"
#include "app/table/table_head.h"
#include "app/widget/sheet_title.h"
#include "app/widget/words.h"
#include "core/method/method_table.h"
#include "core/quantity/levels.h"

namespace heron {

TwoToneSheet::TwoToneSheet(const SheetContext& with, QWidget* parent) : Sheet(with, parent) {
  QWidget* controls = build_controls();
  build_plots();
  readings_ = new ReadingsCard;
  pair_ = new PairCard;
  build_frame(controls, plots_, build_tables(), {pair_, readings_});
  connect_all();
}

void TwoToneSheet::build_plots() {
  plot_ = new SpectrumPlot;
  ladder_plot_ = new LadderPlot;
  look_ = new LookView(session_, *bench_);
  plots_ = new QStackedWidget;
  for (QWidget* plot : std::initializer_list<QWidget*>{plot_, ladder_plot_, look_})
    plots_->addWidget(plot);
  for (QWidget* plot : std::initializer_list<QWidget*>{plot_, ladder_plot_})
    plot->setContextMenuPolicy(Qt::CustomContextMenu);
}

QWidget* TwoToneSheet::build_controls() {
  auto* box = new QWidget;
  auto* row = controls_ = sheet_controls(box);
  view_ = new Segmented(tr("Show"), {tr("Spectrum"), tr("Over power"), tr("Live")});
  row->addWidget(view_);
  relative_words_ = new Words(tr("Relative to"), Type::control, Tone::mute);
  row->addWidget(relative_words_);
  convention_ = new Segmented(tr("Relative to"), {tr("one tone"), tr("PEP")});
  limit_ = new Chip(tr("Limit"));
  driving_ = new Chip(tr("Driving"));
  ceiling_ = new Chip(tr("Ceiling"));
  more_ = new Chip({});
  more_->set_value(tr("More"));
  row->addWidget(convention_);
  row->addWidget(limit_);
  row->addWidget(driving_);
  row->addWidget(ceiling_);
  row->addWidget(more_);
  row->addStretch();
  table_words_ = new Words(tr("Table"), Type::control, Tone::mute);
  row->addWidget(table_words_);
  which_table_ = new Segmented(tr("Table shows"), {tr("steps"), tr("products"), tr("readings")});
  row->addWidget(which_table_);
  return box;
}

QWidget* TwoToneSheet::build_tables() {
  tables_ = new QStackedWidget;
  ladder_model_ = new LadderModel(this);
  ladder_table_ = new FigureTable(tr("Drive steps"));
  ladder_table_->setModel(ladder_model_);
  ladder_table_->setItemDelegate(new LadderDelegate(ladder_table_));
  ladder_table_->setContextMenuPolicy(Qt::CustomContextMenu);
  static_cast<TableHead*>(ladder_table_->horizontalHeader())->set_gauge(LadderModel::kMargin, 20.0);
  product_model_ = new ProductModel(this);
  product_table_ = new FigureTable(tr("Products of this recording"));
  product_table_->setModel(product_model_);
  product_table_->setItemDelegate(new ProductDelegate(product_table_));
  static_cast<TableHead*>(product_table_->horizontalHeader())->set_last_left(false);
  product_table_->set_columns({150, 110, 130, 110, 90, -1});
  tables_->addWidget(ladder_table_);
  tables_->addWidget(product_table_);
  readings_grid_ = new ReadingsGrid;
  tables_->addWidget(readings_grid_);
  tables_->setFixedHeight(30 + 6 * 29 + 2);
  return tables_;
}

void TwoToneSheet::connect_all() {
  connect(convention_, &Segmented::chosen, this,
          [this](int i) { session_.set_convention(i == 0 ? kReOneTone : kRePep); });
  connect(which_table_, &Segmented::chosen, tables_, &QStackedWidget::setCurrentIndex);
  connect(view_, &Segmented::chosen, this, [this](int i) { show_view(static_cast<View>(i)); });
  connect(look_->run(), &LookRun::failed, this, &TwoToneSheet::failed);
  connect(look_->run(), &LookRun::changed, this, &TwoToneSheet::refresh_head);
  connect(ladder_plot_, &LadderPlot::step_chosen, this, &TwoToneSheet::choose_step);
  connect(ladder_plot_, &LadderPlot::ceiling_moved, this, [this](double dbm) {
    set_ceiling(dbm, QStringLiteral("%1 W").arg(to_watt(Dbm{dbm}).value, 0, 'f', 1));
  });
  connect(ladder_plot_, &QWidget::customContextMenuRequested, this, &TwoToneSheet::show_plot_menu);
  connect(readings_grid_->readings(), &ReadingsModel::changed, this,
          [this](const QString& what, const std::vector<Step>& steps) {
            session_.set_readings(what, steps);
          });
  connect(readings_grid_, &ReadingsGrid::refused, this, &TwoToneSheet::failed);
  connect(ladder_table_, &FigureTable::row_chosen, this, &TwoToneSheet::choose_step);
  connect(ladder_table_, &FigureTable::cell_chosen, this, [this](int row, int cell) {
    if (cell == LadderModel::kWorst) show_budget();
    if (cell == LadderModel::kOutputPep) show_output_budget();
    const int k = cell - LadderModel::kIm3;
    if (k < 0 || k >= LadderModel::kOrders) return;
    const int side = ladder_model_->row(row).im_side[k];
    if (side != 0) choose_product(3 + 2 * k, side == 2);
  });
  connect(product_table_, &FigureTable::row_chosen, this, [this](int row) {
    const TwoToneProduct& p = product_model_->product(row);
    choose_product(p.order, p.side == Side::upper);
  });
  connect(product_table_, &FigureTable::cell_chosen, this, [this](int row, int cell) {
    const TwoToneAnalysis* a = chosen_analysis();
    if (a == nullptr || cell != ProductModel::kUncertainty) return;
    const TwoToneProduct& p = product_model_->product(row);
    if (!p.is_bound)
      show_budget_of(product_figure(*a, p, shown_convention().toStdString()),
                     qt_text(product_name(p)), std::nullopt,
                     product_table_->mapTo(window(), QPoint(420, 30)));
  });
  connect(plot_, &SpectrumPlot::product_chosen, this, &TwoToneSheet::choose_product);
  connect(plot_, &QWidget::customContextMenuRequested, this, &TwoToneSheet::show_plot_menu);
  connect(ladder_table_, &QWidget::customContextMenuRequested, this,
          &TwoToneSheet::show_ladder_menu);
  follow_readings(readings_);
}

}  // namespace heron
