#include "app/table/figure_table.h"

#include <QApplication>
#include <QClipboard>
#include <QHeaderView>
#include <QKeyEvent>

#include "app/table/table_head.h"
#include "app/widget/painted_button.h"

namespace heron {
namespace {

bool is_letter(const QKeyEvent& event) {
  return (event.modifiers() & ~Qt::ShiftModifier) == Qt::NoModifier && event.key() >= Qt::Key_A &&
         event.key() <= Qt::Key_Z;
}

}  // namespace

FigureTable::FigureTable(const QString& name, QWidget* parent) : QTableView(parent) {
  setAccessibleName(name);
  setShowGrid(false);
  setFrameShape(QFrame::NoFrame);
  setSelectionBehavior(QAbstractItemView::SelectRows);
  setSelectionMode(QAbstractItemView::SingleSelection);
  setEditTriggers(QAbstractItemView::NoEditTriggers);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  setMouseTracking(true);
  setTabKeyNavigation(false);
  watch_keyboard_focus(this);
  verticalHeader()->hide();
  verticalHeader()->setDefaultSectionSize(29);
  verticalHeader()->setMinimumSectionSize(29);
  setHorizontalHeader(new TableHead(this));
  connect(this, &QTableView::clicked, this,
          [this](const QModelIndex& index) { emit cell_chosen(index.row(), index.column()); });
}

void FigureTable::set_columns(const std::vector<int>& widths) {
  widths_ = widths;
  lay_out();
}

void FigureTable::keep_slack(int px) {
  least_slack_ = px;
  setHorizontalScrollBarPolicy(Qt::ScrollBarAsNeeded);
  setHorizontalScrollMode(QAbstractItemView::ScrollPerPixel);
  lay_out();
}

void FigureTable::lay_out() {
  if (model() == nullptr || widths_.empty()) return;
  int fixed = 0;
  for (const int w : widths_) fixed += std::max(0, w);
  for (int c = 0; c < model()->columnCount() && c < static_cast<int>(widths_.size()); ++c) {
    const int w = widths_[static_cast<std::size_t>(c)];
    setColumnHidden(c, w == 0);
    if (w != 0) setColumnWidth(c, w >= 0 ? w : std::max(least_slack_, viewport()->width() - fixed));
  }
}

void FigureTable::choose_row(int row) {
  if (model() == nullptr || row < 0 || row >= model()->rowCount()) return;
  is_quiet_ = true;
  setCurrentIndex(model()->index(row, std::clamp(column_, 0, model()->columnCount() - 1)));
  is_quiet_ = false;
  viewport()->update();
}

int FigureTable::chosen_row() const {
  return currentIndex().row();
}

QString FigureTable::as_text(bool only_chosen) const {
  QStringList lines;
  QStringList heads;
  for (int c = 0; c < model()->columnCount(); ++c)
    heads << model()->headerData(c, Qt::Horizontal).toString();
  lines << heads.join('\t');
  for (int r = 0; r < model()->rowCount(); ++r) {
    if (only_chosen && r != chosen_row()) continue;
    QStringList cells;
    for (int c = 0; c < model()->columnCount(); ++c)
      cells << model()->index(r, c).data().toString();
    lines << cells.join('\t');
  }
  return lines.join('\n');
}

void FigureTable::copy_chosen() const {
  QApplication::clipboard()->setText(as_text(true));
}
void FigureTable::copy_all() const {
  QApplication::clipboard()->setText(as_text(false));
}

void FigureTable::resizeEvent(QResizeEvent* event) {
  QTableView::resizeEvent(event);
  lay_out();
}

void FigureTable::keyPressEvent(QKeyEvent* event) {
  if (event->matches(QKeySequence::Copy))
    copy_chosen();
  else if (event->key() == Qt::Key_Delete && currentIndex().isValid() &&
           (currentIndex().siblingAtColumn(0).flags() & Qt::ItemIsEditable))
    model()->setData(currentIndex().siblingAtColumn(0), QString(), Qt::EditRole);
  else if (event->key() == Qt::Key_Insert &&
           (model()->index(model()->rowCount() - 1, 0).flags() & Qt::ItemIsEditable) &&
           editTriggers() != QAbstractItemView::NoEditTriggers) {
    setCurrentIndex(model()->index(model()->rowCount() - 1, 0));
    edit(currentIndex());
  } else if (is_letter(*event) && !(editTriggers() & QAbstractItemView::AnyKeyPressed))
    event->ignore();  // keys of the sheet, not a search
  else
    QTableView::keyPressEvent(event);
}

void FigureTable::currentChanged(const QModelIndex& current, const QModelIndex& previous) {
  QTableView::currentChanged(current, previous);
  viewport()->update();
  // Kept when all of it is set anew.
  if (!is_quiet_ && current.isValid()) column_ = current.column();
  if (!is_quiet_ && current.isValid() && current.row() != previous.row())
    emit row_chosen(current.row());
}

}  // namespace heron
