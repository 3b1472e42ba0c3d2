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
  close_ = new PushButton(tr("Close"), ButtonRank::link);
  row->addWidget(close_);
  connect(close_, &QAbstractButton::clicked, this, [this] {
    if (is_working_ && is_error_)
      show_progress();
    else if (is_working_)
      emit stop_asked();
    else
      hide();
  });
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

void MessageBar::show_work(const QString& what) {
  work_ = what;
  is_working_ = true;
  fraction_ = 0.0;
  timer_.stop();
  show_progress();
}

void MessageBar::show_progress() {
  set(tr("%1, %2 %").arg(work_).arg(qRound(100.0 * fraction_)), false);
}

void MessageBar::set_progress(double fraction) {
  if (!is_working_) return;
  fraction_ = fraction;
  if (is_error_)
    update();  // a complaint stays until it is closed; the bar below it goes on
  else
    show_progress();
}

void MessageBar::work_done() {
  is_working_ = false;
  hide();
}

void MessageBar::tell(const QString& what) {
  if (is_working_ || (is_error_ && isVisible())) return;  // good news does not cover bad
  set(what, false);
  timer_.start(6000);
}

void MessageBar::set(const QString& what, bool is_error) {
  is_error_ = is_error;
  close_->setText(is_working_ && !is_error ? tr("Stop") : tr("Close"));
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
  if (is_working_) {
    p.drawRect(QRectF(box.left() + 4, box.bottom() - 2, (box.width() - 8) * fraction_, 2));
  }
  if (is_error_) {
    draw_verdict(p, {30, box.center().y()}, 12, Verdict::fail, t);
  } else {
    p.drawEllipse(QPointF(30, box.center().y()), 4, 4);
  }
}

}  // namespace heron
