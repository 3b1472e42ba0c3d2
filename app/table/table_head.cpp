#include "app/table/table_head.h"

#include <QFontMetricsF>
#include <QPainter>

#include "app/paint/figure_text.h"
#include "app/paint/margin_line.h"
#include "app/table/axis_cell.h"
#include "app/table/parts_cell.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "core/quantity/format.h"

namespace heron {

namespace {

constexpr int kHeadOneLine = 30;
constexpr int kHeadTwoLines = 48;

}  // namespace

TableHead::TableHead(QWidget* parent) : QHeaderView(Qt::Horizontal, parent) {
  setSectionResizeMode(QHeaderView::Fixed);
  setFixedHeight(kHeadOneLine);
  setDefaultAlignment(Qt::AlignRight | Qt::AlignVCenter);
}

void TableHead::set_columns(const std::vector<TableColumn>& columns) {
  const bool has_two_lines = std::any_of(columns.begin(), columns.end(), [](const TableColumn& c) {
    return c.kind == CellKind::judged || !c.under.empty();
  });
  columns_ = has_two_lines ? columns : std::vector<TableColumn>();
  setFixedHeight(has_two_lines ? kHeadTwoLines : kHeadOneLine);
  viewport()->update();
}

/// The name, and under it what it is judged by.
void TableHead::paint_two_lines(QPainter& p, const QRectF& rect, int index) const {
  const Theme& t = theme_of(this);
  const TableColumn& column = columns_[static_cast<std::size_t>(index)];
  if (column.is_filled) p.fillRect(rect, t.waterTint);
  if (column.kind == CellKind::parts) {
    draw_parts_head(p, rect, column, t);
    return;
  }
  const double left = rect.left() + (index == 0 ? 20 : 8);
  const double width = rect.right() - left - 4;
  const bool is_right = column.kind == CellKind::figure;
  const QRectF box(left, rect.top() + 5, width - (is_right ? 6 : 0), 18);
  const auto side = (is_right ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter;
  p.setFont(strong_label());
  p.setPen(t.slate);
  draw_elided(p, box, side, qt_text(column.head));
  p.setFont(type_font(Type::label));
  p.setPen(t.mute);
  draw_elided(p, box.translated(0, 18), side, qt_text(column.under));
}

void TableHead::paintSection(QPainter* p, const QRect& rect, int index) const {
  const Theme& t = theme_of(this);
  if (index < static_cast<int>(columns_.size())) {
    paint_two_lines(*p, rect, index);
    return;
  }
  p->setFont(type_font(Type::label));
  p->setPen(t.mute);
  if (axis_ && index == axis_column_) {
    draw_axis_head(*p, rect, *axis_, t);
    return;
  }
  if (index != gauge_column_) {
    const bool is_first = index == 0 && !is_first_right_;
    const bool is_of_words =
        index == left_column_ ||
        model()->headerData(index, Qt::Horizontal, Qt::TextAlignmentRole) == int(Qt::AlignLeft);
    const bool is_last = (is_last_left_ && index == count() - 1) || is_left_ || is_of_words;
    const QRectF box = QRectF(rect).adjusted(is_first      ? 20
                                             : is_of_words ? 8
                                                           : 4,
                                             0,
                                             is_first || is_last    ? 0
                                             : index == count() - 1 ? -right_inset_
                                                                    : -10,
                                             0);
    p->drawText(box, (is_first || is_last ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter,
                model()->headerData(index, Qt::Horizontal).toString());
    return;
  }
  const QRectF gauge = QRectF(rect).adjusted(14, 0, -14, 0);
  const auto at = [&](double m) {
    return gauge.left() + 4 + margin_position(m, span_) * (gauge.width() - 8);
  };
  QFont strong = type_font(Type::label);
  strong.setWeight(QFont::DemiBold);
  p->setFont(strong);
  p->setPen(t.slate);
  const QString word = QObject::tr("limit");
  const double half = QFontMetricsF(strong).horizontalAdvance(word) / 2.0;
  p->drawText(QRectF(at(0) - 30, rect.top(), 60, rect.height()), Qt::AlignCenter, word);
  p->setFont(type_font(Type::label));
  p->setPen(t.mute);
  const double k = span_ / 20.0;
  // The end first: it says how far the scale reaches. The others stand where there is room.
  double free_from = at(0) + half + 5;
  double free_to = gauge.right() + 4;
  for (const double m : {span_, 3 * k, 8 * k}) {
    const QString text = qt_text(number_text(m, span_ < 5 ? 1 : 0, true));
    const double width = QFontMetricsF(p->font()).horizontalAdvance(text);
    QRectF box(at(m) - width / 2, rect.top(), width, rect.height());
    if (m == span_) box.moveRight(free_to);
    if (box.left() < free_from || box.right() > free_to) continue;
    p->drawText(box, Qt::AlignCenter, text);
    if (m == span_)
      free_to = box.left() - 5;
    else
      free_from = box.right() + 5;
  }
}

}  // namespace heron
