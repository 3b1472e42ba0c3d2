// The layout of the bench; what it does is in bench_view.cpp.
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMenu>
#include <QStackedWidget>

#include "app/bench/bench_view.h"
#include "app/table/table_head.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "app/widget/card.h"
#include "app/widget/rail.h"
#include "app/widget/scroll_column.h"
#include "app/widget/sheet_title.h"
#include "app/widget/words.h"

namespace heron {

BenchView::BenchView(Session& session, LiveInstruments& live, QWidget* parent)
    : QWidget(parent), session_(session), edits_(session), live_(live) {
  setAcceptDrops(true);
  rail_ = build_rail();
  auto* sheet = build_sheet();
  right_ = build_right();
  lay_out_page(*this, rail_, sheet, right_);
  connect_all();
}

QWidget* BenchView::build_rail() {
  const Rail rail = make_rail(tr("The bench"));
  count_ = rail.count;
  list_ = rail.list;
  model_ = new BenchModel(this);
  list_->setModel(model_);
  list_->setItemDelegate(new BenchDelegate(model_, list_));
  add_ = new Chip({});
  add_->set_value(tr("Add"));
  file_ = new Chip({});
  file_->set_value(tr("File"));
  rail.foot->addWidget(add_);
  rail.foot->addStretch();
  rail.foot->addWidget(file_);
  QString group;
  for (const BenchSort& sort : bench_sorts()) {
    if (qt_text(sort.group) != group) {
      group = qt_text(sort.group);
      add_->menu()->addSection(group);
    }
    add_->menu()->addAction(qt_text(sort.label), this, [this, id = qt_text(sort.id)] { add(id); });
  }
  file_->menu()->addAction(tr("Import a bench or a Touchstone file\u2026"), this, [this] {
    take_files(QFileDialog::getOpenFileNames(
                   this, tr("Import"), {},
                   tr("Bench and two-port files (*.json *.s2p *.ts);;All files (*)")),
               false);
  });
  file_->menu()->addAction(tr("Export the bench as JSON\u2026"), this, [this] {
    QString path =
        QFileDialog::getSaveFileName(this, tr("Export the bench"), "bench.json", "JSON (*.json)");
    if (path.isEmpty()) return;
    if (!path.endsWith(".json", Qt::CaseInsensitive)) path += ".json";
    export_to(path);
  });
  return rail.widget;
}

QWidget* BenchView::build_sheet() {
  auto* sheet = new Card;
  QVBoxLayout* column = card_column(sheet);
  auto* head_box = new SheetTitle({}, tr("Enter a calibration\u2026"));
  title_ = head_box->title();
  question_ = head_box->question();
  primary_ = head_box->primary();
  consequence_ = head_box->consequence();
  consequence_->setText(tr("The old ones are kept with their figures"));
  column->addWidget(head_box);
  auto* controls = new QWidget;
  auto* row = sheet_controls(controls);
  row->addWidget(new Words(tr("Show"), Type::control, Tone::mute));
  show_ = new Segmented(tr("Show"), {tr("loss"), tr("VSWR"), tr("details")});
  row->addWidget(show_);
  row->addSpacing(6);
  row->addWidget(new Words(tr("at"), Type::control, Tone::mute));
  frequency_ =
      new QuantityField(tr("Frequency in use"), Quantity::frequency, QuantityField::bare_box);
  frequency_->edit()->setFixedWidth(110);
  frequency_->set_typed("14.2 MHz");
  row->addWidget(frequency_);
  row->addStretch();
  more_ = new Chip({});
  more_->set_value(tr("More"));
  row->addWidget(more_);
  column->addWidget(controls);
  facts_ = new FactBand;
  column->addWidget(facts_);
  stack_ = new QStackedWidget;
  auto* page = new QWidget;
  auto* page_column = new QVBoxLayout(page);
  page_column->setContentsMargins(0, 8, 0, 0);
  page_column->setSpacing(4);
  curve_ = new CurvePlot;
  page_column->addWidget(curve_, 1);
  ageing_ = new AgeingStrip;
  page_column->addWidget(ageing_);
  used_model_ = new UsedModel(this);
  used_ = new FigureTable(tr("Used in"));
  used_->setModel(used_model_);
  used_->setItemDelegate(new UsedDelegate(used_));
  auto* head = static_cast<TableHead*>(used_->horizontalHeader());
  head->set_gauge(UsedModel::kMargin, 20.0);
  head->set_last_left(false);
  head->set_right_inset(20);
  head->set_left_column(UsedModel::kTest);
  used_->setFixedHeight(30 + 4 * 29 + 6);
  page_column->addWidget(used_);
  form_ = new ItemForm;
  stack_->addWidget(page);
  stack_->addWidget(form_);
  column->addWidget(stack_, 1);
  column->addStretch(0);
  return sheet;
}

QWidget* BenchView::build_right() {
  auto* right = new QWidget;
  auto* column = new QVBoxLayout(right);
  column->setContentsMargins(0, 8, 0, 8);
  column->setSpacing(8);
  calibration_ = new VerdictCard;
  remarks_ = new RemarkList;
  column->addWidget(calibration_);
  column->addWidget(remarks_, 1);
  instruments_ = new InstrumentsCard(live_);
  column->addWidget(instruments_);
  column->addStretch(0);
  return scroll_column(right);
}

void BenchView::connect_all() {
  connect(list_->selectionModel(), &QItemSelectionModel::currentChanged, this,
          [this](const QModelIndex& now) {
            if (!now.isValid() || model_->row(now.row()).is_head) return;
            form_->flush();
            item_ = model_->row(now.row()).entry.id;
            show_all();
          });
  connect(list_, &QListView::activated, this, [this] { show_details(false); });
  connect(show_, &Segmented::chosen, this, [this](int i) {
    if (i < 2) wants_vswr_ = i == 1;
    stack_->setCurrentIndex(i == 2 ? 1 : 0);
    show_all();
  });
  connect(frequency_, &QuantityField::entered, this, [this](const QString&, double hz) {
    frequency_hz_ = hz;
    show_all();
  });
  connect(form_, &ItemForm::entered, this, [this](const QString& key, const QString& typed) {
    auto e = entry();
    if (!e) return;
    for (const BenchField& field : bench_fields(e->item.sort)) {
      if (qt_text(field.key) != key) continue;
      set_field(e->item, field, typed.toStdString());  // the form has tried it already
      edits_.set_item(item_, e->item,
                      tr("%1 of %2").arg(qt_text(field.label), qt_text(e->item.part.name)));
      return;
    }
  });
  connect(primary_, &QAbstractButton::clicked, this, &BenchView::primary_action);
  connect(used_, &FigureTable::cell_chosen, this, [this](int r, int) {
    const UsedModel::Row& row = used_model_->row(r);
    emit hookup_asked(row.hookup, row.evaluation, row.test);
  });
  connect(calibration_, &VerdictCard::uncertainty_asked, this, [this] {
    tell(this, tr("How ageing is estimated"),
         tr("On the day of its calibration a part has the ± that was found then. Each month adds "
            "its "
            "ageing; both join in quadrature: U = √(U₀² + (a·months)²). Where no ageing is stated, "
            "a is "
            "taken so that the calibration's own ± comes again within one interval.\n\nFigures use "
            "the "
            "age on the day when their recording was made, so old results stay as they were."),
         tr("Good"));
  });
  connect(&session_, &Session::shack_changed, this, [this] {
    if (isVisible()) refresh();
  });
}

}  // namespace heron
