#include "app/table/figure_table.h"

#include <QApplication>
#include <QClipboard>
#include <QHeaderView>
#include <QKeyEvent>
#include <QPainter>
#include <QScrollBar>

#include "app/table/pinned_column.h"
#include "app/table/table_head.h"
#include "app/theme/fonts.h"
#include "app/theme/theme.h"
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
  if (pinned_ == nullptr) pinned_ = new PinnedColumn(*this);
  lay_out();
}

void FigureTable::set_row_height(int px) {
  shared_.reset();
  verticalHeader()->setDefaultSectionSize(px);
}

void FigureTable::share_height(int least_px, int most_px, int last_px) {
  shared_ = Shared{least_px, most_px, last_px};
  lay_out_rows();
}

void FigureTable::set_empty_words(const QString& words) {
  empty_words_ = words;
  viewport()->update();
}

void FigureTable::paintEvent(QPaintEvent* event) {
  QTableView::paintEvent(event);
  if (empty_words_.isEmpty() || model() == nullptr || model()->rowCount() > 0) return;
  QPainter p(viewport());
  p.setFont(type_font(Type::body));
  p.setPen(theme_of(this).slate);
  p.drawText(QRectF(20, 8, viewport()->width() - 40.0, viewport()->height() - 16.0),
             Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, empty_words_);
}

void FigureTable::lay_out_rows() {
  if (!shared_ || model() == nullptr || model()->rowCount() < 2) return;
  const int last = model()->rowCount() - 1;
  const int px = std::clamp((viewport()->height() - shared_->last_px - 2) / last, shared_->least_px,
                            shared_->most_px);
  verticalHeader()->setDefaultSectionSize(px);
  for (int row = 0; row < last; ++row) setRowHeight(row, px);
  setRowHeight(last, shared_->last_px);
}

void FigureTable::lay_out() {
  if (model() == nullptr || widths_.empty()) return;
  int fixed = 0;
  for (const int w : widths_) fixed += std::max(0, w);
  const auto sharing =
      std::max<int>(1, static_cast<int>(std::count(widths_.begin(), widths_.end(), -1)));
  for (int c = 0; c < model()->columnCount() && c < static_cast<int>(widths_.size()); ++c) {
    const int w = widths_[static_cast<std::size_t>(c)];
    setColumnHidden(c, w == 0);
    if (w != 0)
      setColumnWidth(c,
                     w >= 0 ? w : std::max(least_slack_, (viewport()->width() - fixed) / sharing));
  }
  if (pinned_ != nullptr) pinned_->follow();
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
  lay_out_rows();
}

void FigureTable::keyPressEvent(QKeyEvent* event) {
  if (event->matches(QKeySequence::Copy))
    copy_chosen();
  else if (event->key() == Qt::Key_Delete && currentIndex().isValid() &&
           (currentIndex().siblingAtColumn(0).flags() & Qt::ItemIsEditable))
    model()->setData(currentIndex().siblingAtColumn(0), QString(), Qt::EditRole);
  else if (event->key() == Qt::Key_Delete && currentIndex().isValid())
    emit removal_asked(currentIndex().row());
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

void FigureTable::scrollTo(const QModelIndex& index, ScrollHint hint) {
  QTableView::scrollTo(index, hint);
  if (horizontalScrollBar()->value() > 0 && index.column() > 0 &&
      columnViewportPosition(index.column()) < columnWidth(0))
    scroll_to_column(index.column());
}

bool FigureTable::is_in_sight(int column) const {
  const int left = columnViewportPosition(column);
  const int from = column > 0 && horizontalScrollBar()->value() > 0 ? columnWidth(0) : 0;
  return left >= from && left + columnWidth(column) <= viewport()->width();
}

void FigureTable::scroll_to_column(int column) {
  QScrollBar& bar = *horizontalScrollBar();
  bar.setValue(bar.value() + columnViewportPosition(column) - columnWidth(0));
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
