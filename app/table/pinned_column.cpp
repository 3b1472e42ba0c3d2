#include "app/table/pinned_column.h"

#include <QHeaderView>
#include <QScrollBar>

#include "app/table/figure_table.h"
#include "app/table/table_head.h"

namespace heron {

PinnedColumn::PinnedColumn(FigureTable& table) : QTableView(&table), table_(table) {
  setObjectName("pinned");
  setAccessibleName(FigureTable::tr("First column of %1").arg(table.accessibleName()));
  setFocusPolicy(Qt::NoFocus);
  setShowGrid(false);
  setFrameShape(QFrame::NoFrame);
  setSelectionBehavior(table.selectionBehavior());
  setSelectionMode(table.selectionMode());
  setEditTriggers(QAbstractItemView::NoEditTriggers);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  verticalHeader()->hide();
  auto* head = new TableHead(this);
  head->set_left(true);
  setHorizontalHeader(head);
  setContextMenuPolicy(Qt::CustomContextMenu);
  connect(table.verticalScrollBar(), &QScrollBar::valueChanged, this,
          [this](int value) { verticalScrollBar()->setValue(value); });
  connect(verticalScrollBar(), &QScrollBar::valueChanged, this,
          [this](int value) { table_.verticalScrollBar()->setValue(value); });
  connect(table.horizontalScrollBar(), &QScrollBar::valueChanged, this, [this] { follow(); });
  connect(this, &QTableView::clicked, &table,
          [this](const QModelIndex& at) { emit table_.cell_chosen(at.row(), at.column()); });
  connect(this, &QTableView::doubleClicked, &table, &QTableView::doubleClicked);
  connect(this, &QWidget::customContextMenuRequested, &table, [this](const QPoint& at) {
    emit table_.customContextMenuRequested(
        table_.viewport()->mapFromGlobal(viewport()->mapToGlobal(at)));
  });
  hide();
}

void PinnedColumn::follow() {
  if (table_.model() == nullptr) return;
  if (model() != table_.model()) {
    setModel(table_.model());
    setSelectionModel(table_.selectionModel());
    setItemDelegate(table_.itemDelegate());
  }
  const bool is_wanted = table_.horizontalScrollBar()->value() > 0;
  setVisible(is_wanted);
  if (!is_wanted) return;
  for (int c = 0; c < table_.model()->columnCount(); ++c) setColumnHidden(c, c > 0);
  setColumnWidth(0, table_.columnWidth(0));
  verticalHeader()->setMinimumSectionSize(table_.verticalHeader()->minimumSectionSize());
  verticalHeader()->setDefaultSectionSize(table_.verticalHeader()->defaultSectionSize());
  setGeometry(0, 0, table_.columnWidth(0),
              table_.horizontalHeader()->height() + table_.viewport()->height());
  verticalScrollBar()->setValue(table_.verticalScrollBar()->value());
  raise();
}

}  // namespace heron
