#include "app/table/typed_grid.h"

#include <QApplication>
#include <QClipboard>
#include <QKeyEvent>
#include <QLineEdit>
#include <QPainter>

#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "core/error.h"

namespace heron {

TypedGrid::TypedGrid(const QString& name, GridModel* model, QWidget* parent)
    : FigureTable(name, parent), grid_(model) {
  model->setParent(this);
  setModel(model);
  setEditTriggers(QAbstractItemView::AnyKeyPressed | QAbstractItemView::DoubleClicked |
                  QAbstractItemView::EditKeyPressed);
  setSelectionBehavior(QAbstractItemView::SelectItems);
  setSelectionMode(QAbstractItemView::ContiguousSelection);
  setTabKeyNavigation(true);
  keep_slack(112);
  setToolTip(tr("Type to edit, Enter moves on, Ctrl V pastes, Ctrl D fills down"));
  connect(model, &GridModel::refused, this, &TypedGrid::refused);
}

void TypedGrid::put(const QString& what, int row, int column,
                    const std::vector<QStringList>& block) {
  try {
    grid_->put_block(what, row, column, block);
  } catch (const InputError& error) {
    emit refused(qt_text(error.what_happened()),
                 qt_text(error.advice) + tr(". Nothing was changed"));
  }
}

void TypedGrid::paste() {
  const QModelIndex at = currentIndex();
  if (!at.isValid() || !(grid_->flags(at) & Qt::ItemIsEditable)) return;
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
void TypedGrid::fill_down() {
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
      line << grid_->index(from, c).data(Qt::EditRole).toString();
    block.push_back(line);
  }
  if (!block.empty()) put(tr("filled down"), from + 1, range.left(), block);
}

void TypedGrid::empty_chosen() {
  const QItemSelection selection = selectionModel()->selection();
  if (selection.isEmpty()) return;
  const QItemSelectionRange& range = selection.front();
  std::vector<QStringList> block;
  const int last = std::min(range.bottom(), grid_->filled_rows() - 1);
  for (int r = range.top(); r <= last; ++r) block.push_back(QStringList(range.width(), QString()));
  if (!block.empty()) put(tr("emptied readings"), range.top(), range.left(), block);
}

void TypedGrid::keyPressEvent(QKeyEvent* event) {
  if (event->matches(QKeySequence::Paste)) {
    paste();
  } else if (event->key() == Qt::Key_D && event->modifiers() == Qt::ControlModifier) {
    fill_down();
  } else if (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) {
    empty_chosen();
  } else if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
    const QModelIndex now = currentIndex();
    setCurrentIndex(grid_->index(std::min(now.row() + 1, grid_->rowCount() - 1), now.column()));
  } else {
    FigureTable::keyPressEvent(event);
  }
}

QWidget* GridDelegate::createEditor(QWidget* parent, const QStyleOptionViewItem&,
                                    const QModelIndex& index) const {
  auto* edit = new QLineEdit(parent);
  edit->setFont(type_font(index.column() == 0 ? Type::body : Type::figure));
  edit->setAccessibleName(index.model()->headerData(index.column(), Qt::Horizontal).toString());
  return edit;
}

void GridDelegate::setEditorData(QWidget* editor, const QModelIndex& index) const {
  auto* edit = static_cast<QLineEdit*>(editor);
  // What has been typed since stays.
  if (!edit->isModified()) edit->setText(index.data(Qt::EditRole).toString());
}

void GridDelegate::updateEditorGeometry(QWidget* editor, const QStyleOptionViewItem& option,
                                        const QModelIndex&) const {
  editor->setGeometry(option.rect.adjusted(2, 1, -2, -1));
}

bool GridDelegate::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    const bool moves =
        key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_Up || key == Qt::Key_Down;
    if (moves) {
      auto* editor = static_cast<QWidget*>(watched);
      const QModelIndex now = view_->currentIndex();
      emit commitData(editor);
      emit closeEditor(editor, QAbstractItemDelegate::NoHint);
      const int row =
          std::clamp(now.row() + (key == Qt::Key_Up ? -1 : 1), 0, view_->model()->rowCount() - 1);
      view_->setCurrentIndex(view_->model()->index(row, now.column()));
      view_->setFocus();
      return true;
    }
  }
  return RowDelegate::eventFilter(watched, event);
}

void GridDelegate::draw_cell_frame(QPainter& p, const QRectF& cell, const QModelIndex& index,
                                   const Theme& t) const {
  if (view_->currentIndex() != index) return;
  p.setPen(QPen(t.water, 1));
  p.setBrush(Qt::NoBrush);
  p.drawRect(cell.adjusted(2.5, 1.5, -2.5, -2.5));
}

void GridDelegate::paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index,
                              bool chosen, const Theme& t) const {
  draw_cell_frame(p, cell, index, t);
  const auto* model = static_cast<const GridModel*>(index.model());
  if (model->has_doubt(index)) {
    const QPointF c(cell.left() + 10, cell.center().y());
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(t.marg, 1.4));
    p.setBrush(Qt::NoBrush);
    p.drawPolygon(QPolygonF(
        {c + QPointF(0, -4.5), c + QPointF(4.5, 0), c + QPointF(0, 4.5), c + QPointF(-4.5, 0)}));
  }
  if (index.column() == 0 && index.row() >= model->filled_rows()) {
    p.setFont(type_font(Type::body));
    p.setPen(t.mute);
    p.drawText(cell.adjusted(20, 0, 0, 0), Qt::AlignVCenter, index.data().toString());
    return;
  }
  RowDelegate::paint_cell(p, cell, index, chosen, t);
}

}  // namespace heron
