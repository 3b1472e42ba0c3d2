#include "app/widget/floating_card.h"

#include <QApplication>
#include <QGraphicsDropShadowEffect>
#include <QKeyEvent>
#include <QPainter>
#include <algorithm>

#include "app/theme/fonts.h"
#include "app/theme/role.h"
#include "app/theme/theme.h"

namespace heron {

FloatingCard::FloatingCard(const QString& heading, QWidget* window)
    : QWidget(window), heading_(heading) {
  set_role(this, QAccessible::Dialog);
  setAccessibleName(heading);
  setFocusPolicy(Qt::StrongFocus);
  setAttribute(Qt::WA_StyledBackground, false);
  auto* shadow = new QGraphicsDropShadowEffect(this);
  shadow->setBlurRadius(24);
  shadow->setOffset(0, 8);
  shadow->setColor(QColor(0, 0, 0, 36));
  setGraphicsEffect(shadow);
  hide();
}

void FloatingCard::open_at(QPoint corner) {
  const QRect room = parentWidget()->rect().adjusted(8, 52, -8, -8);
  corner.setX(std::clamp(corner.x(), room.left(), std::max(room.left(), room.right() - width())));
  corner.setY(std::clamp(corner.y(), room.top(), std::max(room.top(), room.bottom() - height())));
  home_ = corner;
  focus_before_ = QApplication::focusWidget();
  move(corner);
  show();
  raise();
  setFocus(Qt::OtherFocusReason);
}

void FloatingCard::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.setPen(t.hairStrong);
  p.setBrush(t.raised);
  p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
  if (notch_x_ > 0) {
    p.setPen(Qt::NoPen);
    p.setBrush(t.hairStrong);
    p.drawPolygon(QPolygonF({{notch_x_ - 9.0, 1.0}, {notch_x_ + 0.0, 9.0}, {notch_x_ + 9.0, 1.0}}));
    p.setBrush(t.sheet);
    p.drawPolygon(QPolygonF({{notch_x_ - 8.0, 0.0}, {notch_x_ + 0.0, 7.5}, {notch_x_ + 8.0, 0.0}}));
  }
  p.setFont(type_font(Type::heading));
  p.setPen(t.ink);
  p.drawText(QRectF(20, 12, width() - 80, 24), Qt::AlignVCenter, heading_);
  if (!keys_.isEmpty()) {
    p.setFont(type_font(Type::label));
    const double w = QFontMetricsF(p.font()).horizontalAdvance(keys_) + 14;
    const QRectF cap(width() - 46 - w, 15, w, 18);
    p.setPen(Qt::NoPen);
    p.setBrush(t.sunk);
    p.drawRoundedRect(cap, 4, 4);
    p.setPen(t.slate);
    p.drawText(cap, Qt::AlignCenter, keys_);
  }
  const QPointF c = QRectF(close_box()).center();
  p.setPen(QPen(t.slate, 1.5, Qt::SolidLine, Qt::RoundCap));
  p.drawLine(c + QPointF(-4, -4), c + QPointF(4, 4));
  p.drawLine(c + QPointF(4, -4), c + QPointF(-4, 4));
}

void FloatingCard::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape)
    close();
  else
    QWidget::keyPressEvent(event);
}

void FloatingCard::mousePressEvent(QMouseEvent* event) {
  if (close_box().contains(event->pos())) {
    close();
    return;
  }
  is_dragged_ = event->pos().y() < kHead;
  grabbed_ = event->pos();
  raise();
}

void FloatingCard::mouseMoveEvent(QMouseEvent* event) {
  if (!is_dragged_) return;
  notch_x_ = -1;
  QPoint to = mapToParent(event->pos()) - grabbed_;
  const QRect room = parentWidget()->rect();
  to.setX(std::clamp(to.x(), -width() + 80, room.width() - 80));
  to.setY(std::clamp(to.y(), 48, std::max(48, room.height() - kHead)));
  move(to);
  update();
}

void FloatingCard::mouseReleaseEvent(QMouseEvent*) {
  is_dragged_ = false;
}

void FloatingCard::mouseDoubleClickEvent(QMouseEvent* event) {
  if (event->pos().y() < kHead) move(home_);
}

void FloatingCard::hideEvent(QHideEvent* event) {
  QWidget::hideEvent(event);
  if (focus_before_ != nullptr && focus_before_->isVisible())
    focus_before_->setFocus(Qt::OtherFocusReason);
  emit closed();
}

}  // namespace heron
