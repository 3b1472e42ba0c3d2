#include "app/table/result_model.h"

#include <QPainter>
#include <QTableView>
#include <algorithm>

#include "app/paint/figure_text.h"
#include "app/paint/verdict_mark.h"
#include "app/table/axis_cell.h"
#include "app/table/judged_cell.h"
#include "app/table/parts_cell.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"

namespace heron {
namespace {

/// Whether some cell that is judged is not as it should be, or is not there.
bool is_in(const ResultTable& table, const ResultTable::Row& row, ResultModel::Rows wanted) {
  if (wanted == ResultModel::Rows::all || row.is_foot) return true;
  for (std::size_t c = 0; c < row.cells.size(); ++c) {
    if (table.columns[c].kind != CellKind::judged) continue;
    const TableCell& cell = row.cells[c];
    const bool is_missing = !cell.figure;
    const bool is_bad = cell.judgement && cell.judgement->verdict != Verdict::pass;
    if (wanted == ResultModel::Rows::not_measured ? is_missing : is_bad) return true;
  }
  return false;
}

/// "24.94 MHz, sensitivity, fail, −111.0 ± 1.0, at most −113 dBm"; where nothing is measured its
/// own words.
QString word_of(const Judgement& j) {
  return qt_text(verdict_word(j.verdict, j.is_provisional));
}

QString judged_words(const ResultTable& table, const ResultTable::Row& row, std::size_t column) {
  const TableCell& cell = row.cells[column];
  QStringList words{qt_text(row.cells.front().text), qt_text(table.columns[column].head)};
  if (cell.judgement) words << word_of(*cell.judgement).toLower();
  words << (cell.text.empty() ? QObject::tr("nothing") : qt_text(cell.text));
  if (cell.judgement && !table.columns[column].under.empty())
    words << QObject::tr("limit %1").arg(qt_text(table.columns[column].under));
  if (!cell.figure && !cell.below.empty()) words << qt_text(cell.below);
  return words.join(", ");
}

constexpr double kTwoLinesFromPx = 38.5;
constexpr int kStepsTagFrom = 44;  // px that a tag stands behind a short name, at least
const QString kPlusMinus = QStringLiteral(" \u00b1 ");

}  // namespace

void ResultModel::set_table(const ResultTable& table, bool can_type) {
  beginResetModel();
  table_ = table;
  all_rows_ = table.rows;
  can_type_ = can_type;
  filter();
  new_name_.text = table.new_row;
  uncertainty_widths_.assign(table.columns.size(), 0.0);
  for (const ResultTable::Row& row : table.rows) {
    for (std::size_t c = 0; c < row.cells.size(); ++c) {
      const QString text = qt_text(row.cells[c].text);
      const auto at = text.indexOf(kPlusMinus);
      if (at < 0 || table.columns[c].kind != CellKind::figure) continue;
      const double width = figure_text_width(text.mid(at + 1), Type::figure, Type::body);
      uncertainty_widths_[c] = std::max(uncertainty_widths_[c], width);
    }
  }
  endResetModel();
}

void ResultModel::filter() {
  rows_in_all_ = static_cast<std::size_t>(
      std::count_if(all_rows_.begin(), all_rows_.end(), [](const auto& r) { return !r.is_foot; }));
  if (!table_.has_two_lines()) return;
  table_.rows.clear();
  std::copy_if(all_rows_.begin(), all_rows_.end(), std::back_inserter(table_.rows),
               [this](const auto& row) { return is_in(table_, row, shown_); });
}

void ResultModel::show_rows(Rows which) {
  beginResetModel();
  shown_ = which;
  filter();
  endResetModel();
}

std::size_t ResultModel::row_count() const {
  return static_cast<std::size_t>(std::count_if(table_.rows.begin(), table_.rows.end(),
                                                [](const auto& row) { return !row.is_foot; }));
}

const TableCell& ResultModel::cell(const QModelIndex& index) const {
  static const TableCell kNothing;
  if (is_new(index.row())) return index.column() == 0 ? new_name_ : kNothing;
  return table_.rows[static_cast<std::size_t>(index.row())]
      .cells[static_cast<std::size_t>(index.column())];
}

bool ResultModel::is_taken(int row) const {
  if (is_new(row)) return false;
  const auto& cells = table_.rows[static_cast<std::size_t>(row)].cells;
  for (std::size_t c = 0; c < cells.size(); ++c) {
    if (table_.columns[c].kind == CellKind::figure && !cells[c].text.empty()) return true;
    if (table_.columns[c].kind == CellKind::judged && cells[c].figure) return true;
    if (table_.columns[c].kind == CellKind::text && cells.back().judgement) return true;
  }
  return false;
}

double ResultModel::uncertainty_width(int column) const {
  return uncertainty_widths_[static_cast<std::size_t>(column)];
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

Qt::ItemFlags ResultModel::flags(const QModelIndex& index) const {
  const Qt::ItemFlags usual = QAbstractTableModel::flags(index);
  if (!can_type_ || !index.isValid()) return usual;
  const bool is_typed = is_new(index.row())
                            ? index.column() == 0
                            : table_.columns[static_cast<std::size_t>(index.column())].is_typed;
  return is_typed ? usual | Qt::ItemIsEditable : usual;
}

bool ResultModel::setData(const QModelIndex& index, const QVariant& value, int role) {
  if (role != Qt::EditRole || !(flags(index) & Qt::ItemIsEditable)) return false;
  const QString typed = value.toString().trimmed();
  const QString shown = index.data(Qt::EditRole).toString();
  if (typed == shown) return false;
  emit cell_typed({static_cast<std::size_t>(index.row()),
                   table_.columns[static_cast<std::size_t>(index.column())].id, typed.toStdString(),
                   std::nullopt});
  return true;
}

QVariant ResultModel::data(const QModelIndex& index, int role) const {
  if (role == Qt::EditRole) return is_new(index.row()) ? QString() : qt_text(cell(index).text);
  if (role != Qt::DisplayRole && role != Qt::AccessibleTextRole && role != Qt::ToolTipRole)
    return {};
  const auto* row =
      is_new(index.row()) ? nullptr : &table_.rows[static_cast<std::size_t>(index.row())];
  if (row != nullptr && row->words && row->words->from == static_cast<std::size_t>(index.column()))
    return qt_text(row->words->words + (row->words->why.empty() ? "" : " " + row->words->why));
  const QString text = qt_text(cell(index).text);
  if (role == Qt::AccessibleTextRole && kind(index.column()) == CellKind::judged)
    return judged_words(table_, *row, static_cast<std::size_t>(index.column()));
  // A provisional one is hollow, which words have to say, too.
  const auto& judged = cell(index).judgement;
  if (judged && judged->is_provisional && kind(index.column()) == CellKind::verdict &&
      role != Qt::DisplayRole)
    return word_of(*judged);
  if (role == Qt::ToolTipRole)
    return kind(index.column()) != CellKind::figure && kind(index.column()) != CellKind::verdict
               ? text
               : QVariant();
  if (role == Qt::AccessibleTextRole && text.isEmpty()) return tr("nothing");
  return text;
}

QVariant ResultModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation == Qt::Horizontal && role == Qt::TextAlignmentRole &&
      (kind(section) == CellKind::text || kind(section) == CellKind::verdict ||
       kind(section) == CellKind::judged))
    return static_cast<int>(Qt::AlignLeft);
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  return qt_text(table_.columns[static_cast<std::size_t>(section)].head);
}

namespace {

/// Values align on their decimal point whatever stands behind the ±.
void draw_uncertain(QPainter& p, const QRectF& cell, const QString& text, double u_width,
                    bool is_strong, const QColor& colour, const QColor& u_colour) {
  const auto at = text.indexOf(kPlusMinus);
  const QString value = at < 0 ? text : text.left(at);
  const Type type = is_strong ? Type::figure_chosen : Type::figure;
  const double right = cell.right() - 10 - u_width - 5;
  const double baseline = cell.center().y() + 4.5;
  draw_figure_text(p, {right - figure_text_width(value, type, Type::body), baseline}, value, type,
                   Type::body, colour);
  if (at >= 0)
    draw_figure_text(p, {right + 5, baseline}, text.mid(at + 1), Type::figure, Type::body,
                     u_colour);
}

/// A row's name with what is good about it, where there is room.
void draw_name(QPainter& p, const QRectF& cell, const TableCell& content, const QColor& colour,
               const Theme& t) {
  const bool has_two_lines = !content.below.empty() || cell.height() > kTwoLinesFromPx;
  const double middle = cell.center().y() - (has_two_lines ? 9.5 : 0.0);
  const double baseline = middle + 4.5;
  const double w = draw_figure_text(p, {cell.left() + 20, baseline},
                                    elided_figure_text(qt_text(content.text), Type::figure_chosen,
                                                       Type::current, cell.width() - 26),
                                    Type::figure_chosen, Type::current, colour);
  if (has_two_lines && content.tag.empty()) {
    p.setFont(type_font(Type::label));
    p.setPen(t.mute);
    draw_elided(p, QRectF(cell.left() + 20, middle + 11, cell.width() - 22, 16), Qt::AlignVCenter,
                qt_text(content.below));
  }
  if (content.tag.empty()) return;
  p.setFont(type_font(Type::label));
  const QString tag = qt_text(content.tag);
  const double tag_width = QFontMetricsF(p.font()).horizontalAdvance(tag) + 16;
  const double x =
      cell.left() + 20 + (has_two_lines ? 2.0 : std::max<double>(w + 8, kStepsTagFrom));
  if (x + tag_width > cell.right() + 8) return;
  const QRectF box(x - 2, has_two_lines ? middle + 10.5 : middle - 8.5, tag_width, 17);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(verdict_tint(t, content.tag_is));
  p.drawRoundedRect(box, 8.5, 8.5);
  p.setPen(verdict_colour(t, content.tag_is));
  p.drawText(box, Qt::AlignCenter, tag);
}

}  // namespace

void ResultDelegate::paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index,
                                bool chosen, const Theme& t) const {
  const auto* model = static_cast<const ResultModel*>(index.model());
  const TableCell& content = model->cell(index);
  if ((index.flags() & Qt::ItemIsEditable) || content.opens) draw_cell_frame(p, cell, index, t);
  if (model->is_new(index.row())) {
    p.setFont(type_font(Type::body));
    p.setPen(t.mute);
    p.drawText(cell.adjusted(20, 0, 0, 0), Qt::AlignVCenter, qt_text(content.text));
    return;
  }
  const auto row = static_cast<std::size_t>(index.row());
  const auto column = static_cast<std::size_t>(index.column());
  const ResultTable& table = model->table();
  const bool is_words = table.rows[row].words && table.rows[row].words->from == column;
  if (table.columns[column].is_filled && !chosen && !is_words)
    p.fillRect(cell.adjusted(0, 0, 0, -1), t.waterTint);
  if (table.rows[row].is_foot) {
    draw_foot_cell(p, cell, content, column == 0, t);
    return;
  }
  if (is_words) {
    draw_words_cell(p, cell, *table.rows[row].words, t);
    return;
  }
  switch (model->kind(index.column())) {
    case CellKind::judged:
      draw_judged_cell(p, cell, content, table.columns[column].span, t);
      return;
    case CellKind::parts:
      draw_parts_cell(p, cell, table, row, column, t);
      return;
    case CellKind::margin:
      draw_margin_cell(p, cell, content.judgement, content.before, model->table().margin_span, t);
      return;
    case CellKind::name:
      draw_name(p, cell, content, model->is_taken(index.row()) ? t.ink : t.mute, t);
      return;
    case CellKind::text:
      p.setFont(type_font(Type::body));
      p.setPen(content.text.empty() ? t.mute : chosen ? t.ink : t.slate);
      draw_elided(p, cell.adjusted(8, 0, -6, 0), Qt::AlignLeft | Qt::AlignVCenter,
                  content.text.empty() ? QStringLiteral("\u2013") : qt_text(content.text));
      return;
    case CellKind::verdict:
      draw_verdict_cell(p, cell, content.judgement, qt_text(content.text), t,
                        content.judgement && content.judgement->is_provisional);
      return;
    case CellKind::axis:
      draw_axis_cell(p, cell,
                     *model->table().columns[static_cast<std::size_t>(index.column())].axis,
                     content.axis, t);
      return;
    case CellKind::figure:
      if (const double u = model->uncertainty_width(index.column());
          u > 0.0 && !content.text.empty()) {
        const bool is_strong = content.is_deciding || content.judgement.has_value();
        draw_uncertain(p, cell, qt_text(content.text), u, is_strong,
                       is_strong || chosen ? t.ink : t.slate, t.slate);
        return;
      }
      if (!content.is_deciding) break;
      draw_right_figure(p, cell, qt_text(content.text), true, t.ink);
      return;
  }
  paint_plain(p, cell, index, chosen, t);
}

}  // namespace heron
