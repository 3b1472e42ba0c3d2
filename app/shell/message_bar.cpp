#include "app/shell/message_bar.h"

#include <QHBoxLayout>
#include <QPainter>

#include "app/paint/verdict_mark.h"
#include "app/widget/push_button.h"
#include "app/widget/words.h"

namespace heron {

MessageBar::MessageBar(QWidget* parent) : QWidget(parent), words_(new Words({}, Type::body)) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(46, 6, 16, 6);
  words_->setWordWrap(true);
  words_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  row->addWidget(words_, 1);
  auto* close = new PushButton(tr("Close"), ButtonRank::link);
  row->addWidget(close);
  connect(close, &QAbstractButton::clicked, this, &QWidget::hide);
  timer_.setSingleShot(true);
  connect(&timer_, &QTimer::timeout, this, &QWidget::hide);
  hide();
}

void MessageBar::complain(const QString& what, const QString& what_to_do) {
  const QString advice =
      what_to_do.isEmpty() || what_to_do.endsWith('.') ? what_to_do : what_to_do + ".";
  set((what.endsWith('.') ? what : what + ".") + (advice.isEmpty() ? QString() : " " + advice),
      true);
  timer_.stop();
}

void MessageBar::tell(const QString& what) {
  if (is_error_ && isVisible()) return;  // good news does not cover bad
  set(what, false);
  timer_.start(6000);
}

void MessageBar::set(const QString& what, bool is_error) {
  is_error_ = is_error;
  words_->setText(what);
  setAccessibleName(what);
  show();
  update();
}

void MessageBar::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  const QRectF box = QRectF(rect()).adjusted(8.5, 2.5, -8.5, -0.5);
  p.setPen(t.hair);
  p.setBrush(t.sheet);
  p.drawRoundedRect(box, 6, 6);
  p.setPen(Qt::NoPen);
  p.setBrush(is_error_ ? t.fail : t.water);
  p.drawRoundedRect(QRectF(box.left(), box.top(), 4, box.height()), 2, 2);
  if (is_error_) {
    draw_verdict(p, {30, box.center().y()}, 12, Verdict::fail, t);
  } else {
    p.drawEllipse(QPointF(30, box.center().y()), 4, 4);
  }
}

}  // namespace heron
