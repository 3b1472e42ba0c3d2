// The layout of the hook-up editor; what it does is in hookup_view.cpp.
#include <QHBoxLayout>
#include <QMenu>

#include "app/hookup/hookup_view.h"
#include "app/table/table_head.h"
#include "app/widget/card.h"
#include "app/widget/caution_card.h"
#include "app/widget/sheet_title.h"
#include "app/widget/words.h"

namespace heron {

HookupView::HookupView(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), edits_(session) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 8, 8, 8);
  row->setSpacing(8);
  auto* sheet = new Card;
  QVBoxLayout* column = card_column(sheet);
  column->addWidget(build_title());
  column->addWidget(build_controls());
  band_ = new ChainBand;
  column->addWidget(band_);
  diagram_ = new LevelDiagram;
  column->addWidget(diagram_, 1);
  model_ = new PartModel(this);
  table_ = new FigureTable(tr("Parts of the chain"));
  table_->setModel(model_);
  table_->setItemDelegate(new PartDelegate(table_));
  auto* head = static_cast<TableHead*>(table_->horizontalHeader());
  head->set_gauge(PartModel::kMargin, 20.0);
  head->set_last_left(false);
  head->set_right_inset(20);
  head->set_left_column(PartModel::kLimit);
  table_->setFixedHeight(30 + 5 * 29 + 8);
  column->addWidget(table_);
  row->addWidget(sheet, 1);
  right_ = build_right();
  row->addWidget(right_);
  connect_all();
}

QWidget* HookupView::build_title() {
  auto* head = new SheetTitle(tr("Is every part within its rating, and every level in range?"),
                              tr("Use this chain"));
  title_ = head->title();
  tag_ = head->tag();
  primary_ = head->primary();
  consequence_ = head->consequence();
  return head;
}

QWidget* HookupView::build_controls() {
  auto* box = new QWidget;
  auto* row = sheet_controls(box);
  row->addWidget(new Words(tr("Drive"), Type::control, Tone::mute));
  drive_ = new QuantityField(tr("Drive"), Quantity::level, QuantityField::inline_box);
  QuantityOptions options;
  options.is_two_tone = true;
  options.default_unit = "W";
  drive_->set_options(options);
  drive_->edit()->setFixedWidth(84);
  drive_->set_short(true);
  row->addWidget(drive_);
  at_word_ = new Words(tr("at"), Type::control, Tone::mute);
  row->addWidget(at_word_);
  frequency_ = new QuantityField(tr("Frequency"), Quantity::frequency, QuantityField::bare_box);
  frequency_->edit()->setFixedWidth(90);
  row->addWidget(frequency_);
  tones_ = new Segmented(tr("Drive is"), {tr("one tone"), tr("two tones")});
  row->addWidget(tones_);
  key_word_ = new Words(tr("Key down"), Type::control, Tone::mute);
  row->addWidget(key_word_);
  key_down_ = new QuantityField(tr("Key down"), Quantity::duration, QuantityField::bare_box);
  key_down_->set_placeholder(tr("no time limit"));
  key_down_->edit()->setFixedWidth(64);
  row->addWidget(key_down_);
  row->addStretch();
  which_ = new Chip({});
  which_->set_value(tr("Hook-ups"));
  row->addWidget(which_);
  return box;
}

QWidget* HookupView::build_right() {
  auto* right = new QWidget;
  right->setFixedWidth(262);
  auto* column = new QVBoxLayout(right);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(8);
  survival_ = new VerdictCard;
  remarks_ = new RemarkList;
  suggestion_ = new PushButton(tr("Swap it in"), ButtonRank::secondary);
  suggestion_->setToolTip(tr("The change that the dashed line shows"));
  take_over_ = new PushButton(tr("Update the parts from the bench"), ButtonRank::secondary);
  caution_ = new CautionCard;
  column->addWidget(survival_);
  column->addWidget(remarks_, 1);
  column->addWidget(suggestion_);
  column->addWidget(take_over_);
  column->addWidget(caution_);
  column->addStretch(0);
  return right;
}

void HookupView::connect_all() {
  connect(primary_, &QAbstractButton::clicked, this, &HookupView::primary_action);
  connect(suggestion_, &QAbstractButton::clicked, this, &HookupView::apply_swap);
  connect(take_over_, &QAbstractButton::clicked, this, [this] {
    Chain chain = scene_.chain;
    for (const BenchEntry& entry : bench(session_.shack())) {
      for (Part& part : chain.parts) {
        if (part.bench_id == bench_name(entry.id)) part = entry.part();
      }
    }
    change(std::move(chain), scene_.chosen);
  });
  connect(survival_, &VerdictCard::uncertainty_asked, this, &HookupView::uncertainty_asked);
  connect(band_, &ChainBand::chosen, this, &HookupView::choose);
  connect(band_, &ChainBand::move_asked, this, &HookupView::move_part);
  connect(band_, &ChainBand::remove_asked, this, &HookupView::remove_part);
  connect(band_, &ChainBand::add_asked, this, [this](int after, QPoint where) {
    const bool is_end = recorder_of(scene_.chain) == nullptr && after + 1 == scene_.columns();
    QMenu menu(this);
    const auto take = [this, after](const Part& part) { add_part(after, part); };
    fill_part_menu(&menu, false, take);
    if (is_end) fill_part_menu(menu.addMenu(tr("What ends the chain")), true, take);
    menu.exec(where);
  });
  connect(band_, &ChainBand::replace_asked, this, [this](int column, QPoint where) {
    QMenu menu(this);
    if (column == 0) {
      fill_source_menu(&menu);
      menu.exec(where);
      return;
    }
    const bool is_end = find_part_kind(scene_.part(column).kind)->ends_chain;
    fill_part_menu(&menu, is_end, [this, column](const Part& part) { replace_part(column, part); });
    menu.addAction(tr("Remove it"), this, [this, column] { remove_part(column); });
    menu.exec(where);
  });
  connect(band_, &ChainBand::down_asked, this, [this] { diagram_->setFocus(Qt::TabFocusReason); });
  connect(diagram_, &LevelDiagram::chosen, this, &HookupView::choose);
  connect(diagram_, &LevelDiagram::up_asked, this,
          [this] { band_->setFocus(Qt::BacktabFocusReason); });
  connect(diagram_, &LevelDiagram::down_asked, this,
          [this] { table_->setFocus(Qt::TabFocusReason); });
  connect(diagram_, &LevelDiagram::unit_asked, this, [this] {
    scene_.in_volts = !scene_.in_volts;
    diagram_->update();
  });
  connect(table_, &FigureTable::row_chosen, this, &HookupView::choose);
  connect(table_, &FigureTable::cell_chosen, this, [this](int, int cell) {
    if (cell == PartModel::kLoss) emit uncertainty_asked();
  });
  connect(drive_, &QuantityField::entered, this, [this](const QString& typed, double dbm) {
    scene_.drive.pep_dbm = dbm;
    scene_.drive.typed = typed.toStdString();
    keep_drive();
  });
  connect(frequency_, &QuantityField::entered, this, [this](const QString& typed, double hz) {
    scene_.drive.frequency_hz = hz;
    scene_.drive.typed_frequency = typed.toStdString();
    keep_drive();
  });
  connect(key_down_, &QuantityField::entered, this, [this](const QString& typed, double seconds) {
    scene_.drive.key_down_s = seconds;
    scene_.drive.typed_key_down = typed.toStdString();
    keep_drive();
  });
  connect(key_down_, &QuantityField::cleared, this, [this] {
    scene_.drive.key_down_s.reset();
    keep_drive();
  });
  connect(tones_, &Segmented::chosen, this, [this](int i) {
    scene_.drive.is_two_tone = i == 1;
    QuantityOptions options = drive_->options();
    options.is_two_tone = i == 1;
    drive_->set_options(options);
    keep_drive();
  });
  connect(&session_, &Session::shack_changed, this, [this] {
    if (isVisible()) refresh();
  });
}

}  // namespace heron
