#include "app/widget/segmented.h"

#include <QFocusEvent>
#include <QFontMetricsF>
#include <QPainter>
#include <cmath>

#include "app/paint/focus_ring.h"
#include "app/theme/fonts.h"
#include "app/theme/theme.h"
#include "app/widget/painted_button.h"

namespace heron {
namespace {

constexpr double kPadding = 16.0;  // px beside the words of a segment, both sides

}  // namespace

Segmented::Segmented(const QString& name, const QStringList& choices, QWidget* parent)
    : QWidget(parent), name_(name), choices_(choices) {
  setFocusPolicy(Qt::StrongFocus);
  setFixedHeight(26);
  setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
  set_current(0);
}

void Segmented::set_choices(const QStringList& choices) {
  if (choices.isEmpty() || choices == choices_) return;
  choices_ = choices;
  set_current(0);
  updateGeometry();
}

void Segmented::set_current(int index) {
  current_ = std::clamp(index, 0, static_cast<int>(choices_.size()) - 1);
  setAccessibleName(name_ + ": " + choices_[current_]);
  update();
}

void Segmented::choose(int index) {
  if (index < 0 || index >= choices_.size() || index == current_) return;
  set_current(index);
  emit chosen(index);
}

QRectF Segmented::segment(int index) const {
  const QFontMetricsF metrics(type_font(Type::control_chosen));
  double x = 2;
  for (int i = 0; i < index; ++i) x += std::ceil(metrics.horizontalAdvance(choices_[i])) + kPadding;
  return {x, 2, std::ceil(metrics.horizontalAdvance(choices_[index])) + kPadding, 22};
}

QSize Segmented::sizeHint() const {
  const QRectF last = segment(static_cast<int>(choices_.size()) - 1);
  return {static_cast<int>(last.right()) + 2, 26};
}

void Segmented::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.setPen(Qt::NoPen);
  p.setBrush(t.sunk);
  p.drawRoundedRect(rect(), 6, 6);
  for (int i = 0; i < choices_.size(); ++i) {
    const QRectF box = segment(i);
    if (i == current_) {
      p.setPen(t.is_dark ? QPen(Qt::NoPen) : QPen(t.hairStrong));
      p.setBrush(t.segOn);
      p.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 4.5, 4.5);
    }
    p.setFont(type_font(i == current_ ? Type::control_chosen : Type::control));
    p.setPen(i == current_ ? t.ink : t.slate);
    p.drawText(box, Qt::AlignCenter, choices_[i]);
  }
  if (shows_focus_) draw_focus_ring(p, rect(), 6, t);
}

void Segmented::mousePressEvent(QMouseEvent* event) {
  for (int i = 0; i < choices_.size(); ++i) {
    if (segment(i).adjusted(-2, -2, 2, 2).contains(event->position())) choose(i);
  }
}

void Segmented::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Left)
    choose(current_ - 1);
  else if (event->key() == Qt::Key_Right)
    choose(current_ + 1);
  else if (event->key() == Qt::Key_Space)
    choose((current_ + 1) % static_cast<int>(choices_.size()));
  else
    QWidget::keyPressEvent(event);
}

void Segmented::focusInEvent(QFocusEvent* event) {
  shows_focus_ = is_keyboard_focus(event->reason());
  update();
}
void Segmented::focusOutEvent(QFocusEvent*) {
  shows_focus_ = false;
  update();
}

}  // namespace heron
