// The layout of the two-tone sheet; what it does is in two_tone_sheet.cpp.
#include <QHBoxLayout>
#include <QStackedWidget>
#include <QVBoxLayout>

#include "app/live/live_card.h"
#include "app/live/live_ladder.h"
#include "app/sheet/two_tone_sheet.h"
#include "app/table/row_delegate.h"
#include "app/table/table_head.h"
#include "app/widget/sheet_title.h"
#include "app/widget/words.h"
#include "core/method/method_table.h"
#include "core/quantity/levels.h"

namespace heron {

TwoToneSheet::TwoToneSheet(Session& session, LiveBench& bench, QWidget* parent)
    : QWidget(parent),
      session_(session),
      queue_(new ImportQueue(session, this)),
      live_(new LiveLadder(session, bench, *queue_, this)) {
  connect(&bench, &LiveBench::changed, this, [this] { refresh_title(session_.two_tone()); });
  setAcceptDrops(true);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 8, 8, 8);
  row->setSpacing(8);
  row->addWidget(build_sheet(), 1);
  right_ = build_right();
  row->addWidget(right_);
  connect_all();
}

QWidget* TwoToneSheet::build_sheet() {
  auto* sheet = new Card;
  auto* column = new QVBoxLayout(sheet);
  column->setContentsMargins(1, 1, 1, 1);
  column->setSpacing(0);
  column->addWidget(build_title());
  column->addWidget(build_controls());
  strip_ = new HookupStrip;
  column->addWidget(strip_);
  plot_ = new SpectrumPlot;
  plot_->setContextMenuPolicy(Qt::CustomContextMenu);
  auto* plot_box = new QVBoxLayout;
  plot_box->setContentsMargins(12, 8, 12, 4);
  ladder_plot_ = new LadderPlot;
  ladder_plot_->setContextMenuPolicy(Qt::CustomContextMenu);
  plots_ = new QStackedWidget;
  plots_->addWidget(plot_);
  plots_->addWidget(ladder_plot_);
  plot_box->addWidget(plots_);
  column->addLayout(plot_box, 1);
  column->addWidget(build_tables());
  return sheet;
}

QWidget* TwoToneSheet::build_title() {
  auto* head = new SheetTitle({}, tr("Sign off this test"));
  title_ = head->title();
  question_ = head->question();
  primary_ = head->primary();
  consequence_ = head->consequence();
  return head;
}

QWidget* TwoToneSheet::build_controls() {
  auto* box = new QWidget;
  auto* row = controls_ = sheet_controls(box);
  view_ = new Segmented(tr("Show"), {tr("Spectrum"), tr("Ladder")});
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
  ladder_table_ = new FigureTable(tr("Ladder of drive steps"));
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

QWidget* TwoToneSheet::build_right() {
  auto* right = new QWidget;
  right->setFixedWidth(262);
  auto* column = new QVBoxLayout(right);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(8);
  verdict_ = new VerdictCard;
  taking_ = new TakingCard;
  taking_->hide();
  live_card_ = new LiveCard(*live_);
  readings_ = new ReadingsCard;
  remarks_ = new RemarkList;
  column->addWidget(verdict_);
  pair_ = new PairCard;
  caution_ = new CautionCard;
  caution_->hide();
  column->addWidget(live_card_);
  column->addWidget(taking_);
  column->addWidget(pair_);
  column->addWidget(readings_);
  column->addWidget(remarks_, 1);
  column->addWidget(caution_);
  column->addStretch(0);
  return right;
}

void TwoToneSheet::connect_all() {
  connect(&session_, &Session::test_changed, this, &TwoToneSheet::refresh);
  connect(primary_, &QAbstractButton::clicked, this, &TwoToneSheet::primary_action);
  connect(strip_, &QAbstractButton::clicked, this, &TwoToneSheet::hookup_asked);
  connect(strip_, &HookupStrip::uncertainty_asked, this,
          [this](const QString& where, const Figure& level) {
            show_budget_of(level, where, std::nullopt,
                           strip_->mapTo(window(), QPoint(250, strip_->height() - 6)));
          });
  strip_->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(strip_, &QWidget::customContextMenuRequested, this, &TwoToneSheet::show_strip_menu);
  connect(convention_, &Segmented::chosen, this,
          [this](int i) { session_.set_convention(i == 0 ? kReOneTone : kRePep); });
  connect(which_table_, &Segmented::chosen, tables_, &QStackedWidget::setCurrentIndex);
  connect(view_, &Segmented::chosen, this, [this](int i) { show_ladder(i == 1); });
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
    if (cell == LadderModel::kOutput) show_output_budget();
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
  connect(verdict_, &VerdictCard::uncertainty_asked, this, &TwoToneSheet::show_budget);
  connect(taking_, &TakingCard::stop_asked, queue_, &ImportQueue::cancel);
  connect(queue_, &ImportQueue::began, this, [this](const QString& file, int waiting) {
    taking_->begin(file, waiting);
    taking_->setVisible(!live_->is_running());
    primary_->setEnabled(false);
  });
  connect(live_, &LiveLadder::changed, this, [this] {
    readings_->setVisible(!is_ladder() && !live_->is_running());
    refresh_title(session_.two_tone());
  });
  connect(live_, &LiveLadder::failed, this, &TwoToneSheet::failed);
  connect(live_, &LiveLadder::told, this, &TwoToneSheet::told);
  connect(queue_, &ImportQueue::progressed, taking_, &TakingCard::set_progress);
  connect(queue_, &ImportQueue::attached, this, &TwoToneSheet::recording_attached);
  connect(queue_, &ImportQueue::idle, this, [this] {
    taking_->hide();
    refresh_title(session_.two_tone());
  });
  connect(queue_, &ImportQueue::failed, this, &TwoToneSheet::failed);
  connect(queue_, &ImportQueue::told, this, &TwoToneSheet::told);
  connect(readings_, &ReadingsCard::output_entered, this, [this](const QString& typed, double dbm) {
    session_.set_output(static_cast<std::size_t>(step_), typed, dbm);
  });
  connect(readings_, &ReadingsCard::output_cleared, this,
          [this] { session_.set_output(static_cast<std::size_t>(step_), {}, std::nullopt); });
  connect(readings_, &ReadingsCard::note_written, this,
          [this](const QString& note) { session_.set_note(note); });
  connect(readings_, &ReadingsCard::signature_taken_back, this,
          [this] { session_.take_back_signature(); });
}

}  // namespace heron
