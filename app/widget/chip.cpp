#include "app/widget/chip.h"

#include <QFontMetricsF>
#include <QPainter>
#include <cmath>

#include "app/paint/figure_text.h"
#include "app/paint/focus_ring.h"
#include "app/theme/fonts.h"
#include "app/theme/theme.h"

namespace heron {
namespace {
double advance(Type type, const QString& text) {
  return QFontMetricsF(type_font(type)).horizontalAdvance(text);
}
}  // namespace

Chip::Chip(const QString& label, QWidget* parent)
    : PaintedButton(parent), label_(label), menu_(new QMenu(this)) {
  setFocusPolicy(Qt::StrongFocus);
  setFixedHeight(26);
  setSizePolicy(QSizePolicy::Maximum, QSizePolicy::Fixed);
  connect(this, &QAbstractButton::clicked, this, &Chip::open_menu);
}

void Chip::set_value(const QString& value) {
  value_ = value;
  setAccessibleName(label_.isEmpty() ? value : label_ + ": " + value);
  setToolTip(accessibleName());
  updateGeometry();
  update();
}

void Chip::show_label(bool shown) {
  shows_label_ = shown;
  updateGeometry();
  update();
}

void Chip::open_menu() {
  setDown(true);
  menu_->exec(mapToGlobal(QPoint(0, height() + 4)));
  setDown(false);
}

QSize Chip::sizeHint() const {
  const bool has_label = shows_label_ && !label_.isEmpty();
  const double label = !has_label ? 0.0 : advance(Type::label, label_) + 6.0;
  const Type type = !has_label ? Type::control_chosen : Type::control;
  return {static_cast<int>(std::ceil(10 + label + advance(type, value_) + 26)), 26};
}

void Chip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const bool has_label = shows_label_ && !label_.isEmpty();
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.setPen(isDown() ? t.water : underMouse() ? t.hairStrong : t.hair);
  p.setBrush(t.sheet);
  p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
  double x = 10;
  if (has_label) {
    p.setFont(type_font(Type::label));
    p.setPen(t.mute);
    p.drawText(QRectF(x, 0, width(), height()), Qt::AlignVCenter, label_);
    x += advance(Type::label, label_) + 6;
  }
  p.setFont(type_font(!has_label ? Type::control_chosen : Type::control));
  p.setPen(isEnabled() ? t.ink : t.mute);
  draw_elided(p, QRectF(x, 0, width() - x - 22, height()), Qt::AlignVCenter, value_);
  p.setPen(QPen(t.slate, 1.4, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  const QPointF c(width() - 13.5, height() / 2.0 + 0.5);
  p.drawPolyline(QPolygonF({c + QPointF(-3.5, -1.8), c + QPointF(0, 1.8), c + QPointF(3.5, -1.8)}));
  if (shows_focus()) draw_focus_ring(p, rect(), 6, t);
}

}  // namespace heron
