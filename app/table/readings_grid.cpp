#include "app/table/readings_grid.h"

#include <QApplication>
#include <QClipboard>
#include <QKeyEvent>

#include "app/table/table_head.h"
#include "app/theme/qt_text.h"
#include "core/error.h"

namespace heron {

ReadingsGrid::ReadingsGrid(QWidget* parent)
    : FigureTable(tr("Readings typed by hand"), parent), model_(new ReadingsModel(this)) {
  setModel(model_);
  setItemDelegate(new ReadingsDelegate(this));
  setEditTriggers(QAbstractItemView::AnyKeyPressed | QAbstractItemView::DoubleClicked |
                  QAbstractItemView::EditKeyPressed);
  setSelectionBehavior(QAbstractItemView::SelectItems);
  setSelectionMode(QAbstractItemView::ContiguousSelection);
  setTabKeyNavigation(true);
  setToolTip(tr("Type to edit, Enter moves on, Ctrl V pastes, Ctrl D fills down"));
  set_columns({130, 156, 68, 68, 68, 68, -1});
  static_cast<TableHead*>(horizontalHeader())->set_left_column(ReadingsModel::kDoubt);
  connect(model_, &ReadingsModel::refused, this, &ReadingsGrid::refused);
}

void ReadingsGrid::put(const QString& what, int row, int column,
                       const std::vector<QStringList>& block) {
  try {
    emit model_->changed(what, model_->with_block(row, column, block));
  } catch (const InputError& error) {
    emit refused(qt_text(error.what_happened()),
                 qt_text(error.advice) + tr(". Nothing was taken over"));
  }
}

void ReadingsGrid::paste() {
  const QModelIndex at = currentIndex();
  if (!at.isValid() || !(model_->flags(at) & Qt::ItemIsEditable)) return;
  QString text = QApplication::clipboard()->text();
  while (text.endsWith('\n') || text.endsWith('\r')) text.chop(1);
  if (text.isEmpty()) return;
  std::vector<QStringList> block;
  text.replace("\r\n", "\n").replace('\r', '\n');
  for (const QString& line : text.split('\n'))
    block.push_back(line.split(line.contains('\t') ? '\t' : ';'));
  put(tr("pasted readings"), at.row(), at.column(), block);
}

/// The top cell of the selection into all below it; one cell alone takes the one above.
void ReadingsGrid::fill_down() {
  const QItemSelection selection = selectionModel()->selection();
  if (selection.isEmpty()) return;
  const QItemSelectionRange& range = selection.front();
  const bool is_single = range.height() == 1;
  const int from = is_single ? range.top() - 1 : range.top();
  const int to = range.bottom();
  if (from < 0) return;
  std::vector<QStringList> block;
  for (int r = from + 1; r <= to; ++r) {
    QStringList line;
    for (int c = range.left(); c <= range.right(); ++c)
      line << model_->index(from, c).data(Qt::EditRole).toString();
    block.push_back(line);
  }
  if (!block.empty()) put(tr("filled down"), from + 1, range.left(), block);
}

void ReadingsGrid::keyPressEvent(QKeyEvent* event) {
  if (event->matches(QKeySequence::Paste)) {
    paste();
  } else if (event->key() == Qt::Key_D && event->modifiers() == Qt::ControlModifier) {
    fill_down();
  } else if (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) {
    std::vector<Step> steps;
    const QItemSelection selection = selectionModel()->selection();
    if (selection.isEmpty()) return;
    const QItemSelectionRange& range = selection.front();
    std::vector<QStringList> block;
    const int last = std::min(range.bottom(), static_cast<int>(model_->steps().size()) - 1);
    for (int r = range.top(); r <= last; ++r)
      block.push_back(QStringList(range.width(), QString()));
    if (!block.empty()) put(tr("emptied readings"), range.top(), range.left(), block);
  } else if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
    const QModelIndex now = currentIndex();
    setCurrentIndex(model_->index(std::min(now.row() + 1, model_->rowCount() - 1), now.column()));
  } else {
    FigureTable::keyPressEvent(event);
  }
}

}  // namespace heron
