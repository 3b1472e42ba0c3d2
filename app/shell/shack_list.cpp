#include "app/shell/shack_list.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>

#include "app/paint/figure_text.h"
#include "app/paint/focus_ring.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/role.h"
#include "app/widget/painted_button.h"

namespace heron {
namespace {
constexpr int kListTop = 48;
constexpr int kListRow = 40;
}  // namespace

ShackList::ShackList(const QString& heading, const QString& aside, const QString& empty,
                     QWidget* parent)
    : Card(parent), heading_(heading), aside_(aside), empty_(empty) {
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  set_role(this, QAccessible::List);
  watch_keyboard_focus(this);
  speak();
}

void ShackList::speak() {
  // The name says where the keyboard is, so that moving is heard.
  const bool has_row = current_ < static_cast<int>(rows_.size());
  const Row* row = has_row ? &rows_[static_cast<std::size_t>(current_)] : nullptr;
  setAccessibleName(row == nullptr ? heading_ + ": " + empty_
                                   : heading_ + ": " + row->name + ", " + row->line);
}

void ShackList::set_rows(const std::vector<Row>& rows) {
  rows_ = rows;
  QStringList words;
  for (const Row& r : rows_) words << r.name + ", " + r.line;
  setAccessibleDescription(words.join("; "));
  current_ = std::clamp(current_, 0, std::max(0, static_cast<int>(rows_.size()) - 1));
  speak();
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
    p.drawText(QRectF(20, kListTop, width() - 40, height() - kListTop), Qt::TextWordWrap, empty_);
  }
  for (std::size_t i = 0; i < rows_.size(); ++i) {
    const Row& r = rows_[i];
    const double y = kListTop + static_cast<double>(i) * kListRow;
    if (y + kListRow > height()) break;
    if (has_keyboard_focus(this) && static_cast<int>(i) == current_)
      draw_focus_ring(p, QRectF(10, y - 2, width() - 20, kListRow - 2), 5, t);
    if (i > 0) p.fillRect(QRectF(44, y - 2, width() - 64, 1), t.hair);
    draw_verdict(p, {26, y + 15}, 10, r.mark.verdict, t, r.is_provisional);
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
  const int i = (static_cast<int>(event->position().y()) - kListTop) / kListRow;
  if (event->position().y() >= kListTop) choose(i);
}

void ShackList::choose(int i) {
  if (i < 0 || i >= static_cast<int>(rows_.size())) return;
  const Row r = rows_[static_cast<std::size_t>(i)];
  if (r.evaluation != 0) emit chosen(r.evaluation, r.test);
}

void ShackList::keyPressEvent(QKeyEvent* event) {
  const int last = std::max(0, static_cast<int>(rows_.size()) - 1);
  switch (event->key()) {
    case Qt::Key_Up:
      current_ = std::max(0, current_ - 1);
      break;
    case Qt::Key_Down:
      current_ = std::min(last, current_ + 1);
      break;
    case Qt::Key_Return:
    case Qt::Key_Enter:
    case Qt::Key_Space:
      choose(current_);
      return;
    default:
      Card::keyPressEvent(event);
      return;
  }
  speak();
  update();
}

void ShackList::mouseMoveEvent(QMouseEvent* event) {
  const int i = (static_cast<int>(event->position().y()) - kListTop) / kListRow;
  const bool on_row = event->position().y() >= kListTop && i < static_cast<int>(rows_.size());
  setCursor(on_row ? Qt::PointingHandCursor : Qt::ArrowCursor);
}

}  // namespace heron
