#include "app/table/result_model.h"

#include <QPainter>
#include <QTableView>
#include <algorithm>

#include "app/paint/figure_text.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"

namespace heron {

void ResultModel::set_table(const ResultTable& table) {
  beginResetModel();
  table_ = table;
  endResetModel();
}

const TableCell& ResultModel::cell(const QModelIndex& index) const {
  return table_.rows[static_cast<std::size_t>(index.row())]
      .cells[static_cast<std::size_t>(index.column())];
}

bool ResultModel::is_taken(int row) const {
  const auto& cells = table_.rows[static_cast<std::size_t>(row)].cells;
  for (std::size_t c = 0; c < cells.size(); ++c) {
    if (table_.columns[c].kind == CellKind::figure && !cells[c].text.empty()) return true;
  }
  return false;
}

int ResultModel::margin_column() const {
  for (std::size_t c = 0; c < table_.columns.size(); ++c) {
    if (table_.columns[c].kind == CellKind::margin) return static_cast<int>(c);
  }
  return -1;
}

std::vector<int> ResultModel::widths(int window_px) const {
  std::vector<int> all;
  constexpr int kWidePx = 1200;
  for (const TableColumn& c : table_.columns) {
    const bool is_narrow = window_px < kWidePx && c.narrow > 0;
    all.push_back(window_px < c.from_px ? 0 : is_narrow ? c.narrow : c.width);
  }
  return all;
}

QVariant ResultModel::data(const QModelIndex& index, int role) const {
  if (role != Qt::DisplayRole && role != Qt::AccessibleTextRole && role != Qt::ToolTipRole)
    return {};
  const QString text = qt_text(cell(index).text);
  if (role == Qt::ToolTipRole) return kind(index.column()) == CellKind::name ? text : QVariant();
  if (role == Qt::AccessibleTextRole && text.isEmpty()) return tr("nothing");
  return text;
}

QVariant ResultModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  return qt_text(table_.columns[static_cast<std::size_t>(section)].head);
}

void ResultDelegate::paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index,
                                bool chosen, const Theme& t) const {
  const auto* model = static_cast<const ResultModel*>(index.model());
  const TableCell& content = model->cell(index);
  switch (model->kind(index.column())) {
    case CellKind::margin:
      draw_margin_cell(p, cell, content.judgement, model->table().margin_span, t);
      return;
    case CellKind::name:
      draw_figure_text(p, {cell.left() + 20, cell.center().y() + 4.5},
                       elided_figure_text(qt_text(content.text), Type::figure_chosen, Type::current,
                                          cell.width() - 26),
                       Type::figure_chosen, Type::current,
                       model->is_taken(index.row()) ? t.ink : t.mute);
      return;
    case CellKind::verdict:
      draw_verdict_cell(p, cell, content.judgement, qt_text(content.text), t);
      return;
    case CellKind::figure:
      if (!content.is_deciding) break;
      draw_right_figure(p, cell, qt_text(content.text), true, t.ink);
      return;
  }
  RowDelegate::paint_cell(p, cell, index, chosen, t);
}

}  // namespace heron
