// The layout of the device card; what it does is in device_view.cpp.
#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>

#include "app/device/device_view.h"
#include "app/table/table_head.h"
#include "app/theme/fonts.h"
#include "app/widget/card.h"
#include "app/widget/rail.h"
#include "app/widget/scroll_column.h"
#include "app/widget/sheet_title.h"
#include "app/widget/words.h"

namespace heron {

namespace {

class HairRule : public QWidget {
 public:
  HairRule() { setFixedHeight(1); }

 protected:
  void paintEvent(QPaintEvent*) override { QPainter(this).fillRect(rect(), theme_of(this).hair); }
};

}  // namespace

DeviceView::DeviceView(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  setAcceptDrops(true);
  rail_ = build_rail();
  auto* sheet = build_sheet();
  right_ = build_right();
  lay_out_page(*this, rail_, sheet, right_);
  connect_all();
}

QWidget* DeviceView::build_rail() {
  const Rail rail = make_rail(tr("Devices"));
  count_ = rail.count;
  list_ = rail.list;
  rail_model_ = new DeviceRailModel(this);
  list_->setModel(rail_model_);
  list_->setItemDelegate(new DeviceRailDelegate(rail_model_, list_));
  add_ = new PushButton(tr("Add a device"), ButtonRank::secondary);
  rail.foot->addWidget(add_);
  rail.foot->addStretch();
  return rail.widget;
}

QWidget* DeviceView::build_sheet() {
  auto* sheet = new Card;
  QVBoxLayout* column = card_column(sheet);
  auto* head = new SheetTitle(tr("What is it, what must it do, and what has been done to it?"),
                              tr("Start an evaluation"));
  title_ = head->title();
  primary_ = head->primary();
  consequence_ = head->consequence();
  column->addWidget(head);
  auto* controls = new QWidget;
  auto* row = sheet_controls(controls);
  show_ = new Segmented(tr("Show"), {tr("all lines"), tr("failing"), tr("due")});
  from_ = new Chip(tr("Figures from"));
  compare_ = new Chip(tr("Compare with"));
  more_ = new Chip({});
  more_->set_value(tr("More"));
  row->addWidget(show_);
  for (Chip* chip : {from_, compare_, more_}) row->addWidget(chip);
  row->addStretch();
  column->addWidget(controls);
  facts_ = new FactBand;
  column->addWidget(facts_);
  lines_model_ = new LinesModel;
  lines_ = new TypedGrid(tr("Specification"), lines_model_);
  lines_->setItemDelegate(new LinesDelegate(lines_));
  lines_->keep_slack(84);
  auto* lines_head = static_cast<TableHead*>(lines_->horizontalHeader());
  lines_head->set_gauge(LinesModel::kMargin, 20.0);
  column->addWidget(lines_, 3);
  auto* below = new QHBoxLayout;
  below->setContentsMargins(20, 4, 20, 6);
  below->setSpacing(16);
  usual_ = new PushButton(tr("Usual lines"), ButtonRank::link);
  lines_note_ = new Words({}, Type::label, Tone::mute);
  below->addWidget(usual_);
  below->addStretch();
  below->addWidget(lines_note_);
  column->addLayout(below);
  column->addWidget(new HairRule);
  auto* story_head = new QHBoxLayout;
  story_head->setContentsMargins(20, 8, 20, 2);
  story_head->setSpacing(16);
  story_head->addWidget(new Words(tr("History"), Type::heading));
  story_head->addStretch();
  auto* work = new PushButton(tr("Add work done"), ButtonRank::link);
  auto* outside = new PushButton(tr("Add a figure from elsewhere"), ButtonRank::link);
  connect(work, &QAbstractButton::clicked, this, [this] { emit work_asked(device_); });
  connect(outside, &QAbstractButton::clicked, this, [this] { emit outside_asked(device_); });
  story_head->addWidget(outside);
  story_head->addWidget(work);
  column->addLayout(story_head);
  story_model_ = new StoryModel(this);
  story_ = new FigureTable(tr("History"));
  story_->setModel(story_model_);
  story_->setItemDelegate(new StoryDelegate(story_));
  story_->horizontalHeader()->hide();
  story_->set_row_height(42);
  story_->set_empty_words(
      tr("Nothing yet. Evaluations, work done with what it changed, and what others found of it "
         "stand here."));
  lines_->set_empty_words(tr(
      "What it must keep to: a line for each characteristic, with its limit and where that comes "
      "from. Give the device a name first, at the right; its kind then offers usual lines."));
  column->addWidget(story_, 2);
  return sheet;
}

QWidget* DeviceView::build_right() {
  auto* inside = new QWidget;
  auto* column = new QVBoxLayout(inside);
  column->setContentsMargins(0, 8, 0, 8);
  column->setSpacing(8);
  form_ = new DeviceForm;
  remarks_ = new RemarkList;
  caution_ = new CautionCard;
  column->addWidget(form_);
  column->addWidget(remarks_, 1);
  column->addWidget(caution_);
  column->addStretch(0);
  return scroll_column(inside);
}

}  // namespace heron
