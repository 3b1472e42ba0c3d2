#include "app/shell/shack_list.h"

#include <QMouseEvent>

#include "app/paint/figure_text.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"

namespace heron {
namespace {
constexpr int kTop = 48;
constexpr int kRow = 40;
}  // namespace

ShackList::ShackList(const QString& heading, const QString& aside, const QString& empty,
                     QWidget* parent)
    : Card(parent), heading_(heading), aside_(aside), empty_(empty) {
  setMouseTracking(true);
  setAccessibleName(heading);
}

void ShackList::set_rows(const std::vector<Row>& rows) {
  rows_ = rows;
  QStringList words;
  for (const Row& r : rows_) words << r.name + ", " + r.line;
  setAccessibleDescription(words.join("; "));
  update();
}

void ShackList::paintEvent(QPaintEvent* event) {
  Card::paintEvent(event);
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.setFont(type_font(Type::heading));
  p.setPen(t.ink);
  p.drawText(QRectF(20, 12, width() - 40, 24), Qt::AlignVCenter, heading_);
  p.setFont(type_font(Type::label));
  p.setPen(t.mute);
  p.drawText(QRectF(20, 12, width() - 40, 24), Qt::AlignVCenter | Qt::AlignRight, aside_);
  if (rows_.empty()) {
    p.setFont(type_font(Type::body));
    p.setPen(t.slate);
    p.drawText(QRectF(20, kTop, width() - 40, height() - kTop), Qt::TextWordWrap, empty_);
  }
  for (std::size_t i = 0; i < rows_.size(); ++i) {
    const Row& r = rows_[i];
    const double y = kTop + static_cast<double>(i) * kRow;
    if (y + kRow > height()) break;
    if (i > 0) p.fillRect(QRectF(44, y - 2, width() - 64, 1), t.hair);
    draw_verdict(p, {26, y + 15}, 10, r.mark.verdict, t);
    p.setFont(type_font(Type::name));
    p.setPen(t.ink);
    const double text_right = r.has_margin ? width() - 160 : width() - 20;
    draw_elided(p, QRectF(44, y, text_right - 44, 18), Qt::AlignVCenter, r.name);
    draw_figure_text(p, {44, y + 31}, r.line, Type::figure_small, Type::label, t.slate);
    if (r.has_margin)
      draw_margin_line(p, QRectF(width() - 150, y + 5, 126, 20), MarginSize::cell, r.mark, r.span,
                       t);
  }
}

void ShackList::mousePressEvent(QMouseEvent* event) {
  const int i = (static_cast<int>(event->position().y()) - kTop) / kRow;
  if (event->position().y() >= kTop && i >= 0 && i < static_cast<int>(rows_.size())) {
    const Row& r = rows_[static_cast<std::size_t>(i)];
    if (r.evaluation != 0) emit chosen(r.evaluation, r.test);
  }
}

void ShackList::mouseMoveEvent(QMouseEvent* event) {
  const int i = (static_cast<int>(event->position().y()) - kTop) / kRow;
  const bool on_row = event->position().y() >= kTop && i < static_cast<int>(rows_.size());
  setCursor(on_row ? Qt::PointingHandCursor : Qt::ArrowCursor);
}

}  // namespace heron
