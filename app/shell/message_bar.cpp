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
  offer_ = new PushButton({}, ButtonRank::secondary);
  offer_->hide();
  row->addWidget(offer_);
  connect(offer_, &QAbstractButton::clicked, this, [this] {
    const auto action = offered_;
    hide();
    if (action) action();
  });
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

void MessageBar::complain(const QString& what, const QString& what_to_do, MessageTopic topic) {
  const QString advice =
      what_to_do.isEmpty() || what_to_do.endsWith('.') ? what_to_do : what_to_do + ".";
  set((what.endsWith('.') ? what : what + ".") + (advice.isEmpty() ? QString() : " " + advice),
      true, topic);
  timer_.stop();
}

void MessageBar::offer(const QString& what, const QString& button, std::function<void()> action,
                       MessageTopic topic) {
  complain(what, {}, topic);
  offered_ = std::move(action);
  offer_->setText(button);
  offer_->show();
  place();
}

void MessageBar::retract(MessageTopic topic) {
  if (isHidden() || topic_ != topic) return;
  if (is_working_)
    show_progress();
  else
    hide();
}

void MessageBar::show_work(const QString& what) {
  work_ = what;
  is_working_ = true;
  fraction_ = 0.0;
  timer_.stop();
  show_progress();
}

void MessageBar::show_progress() {
  set(tr("%1, %2 %").arg(work_).arg(qRound(100.0 * fraction_)), false, MessageTopic::general);
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

void MessageBar::tell(const QString& what, MessageTopic topic) {
  if (is_working_ || (is_error_ && isVisible())) return;  // good news does not cover bad
  set(what, false, topic);
  timer_.start(6000);
}

void MessageBar::set(const QString& what, bool is_error, MessageTopic topic) {
  is_error_ = is_error;
  topic_ = topic;
  offered_ = {};
  offer_->hide();
  close_->setText(is_working_ && !is_error ? tr("Stop") : tr("Close"));
  words_->setText(what);
  setAccessibleName(what);
  show();
  place();
  update();
}

void MessageBar::place() {
  constexpr int kMostWidth = 744;
  constexpr int kBeside = 512;  // the rail and the column of cards stay free
  const QWidget* over = parentWidget();
  if (over == nullptr || isHidden()) return;
  const int wide = std::clamp(over->width() - kBeside, 400, kMostWidth);
  const int high = std::max(40, layout()->totalHeightForWidth(wide));
  setGeometry((over->width() - wide) / 2 - 19, over->height() - high - 10, wide, high);
  raise();
}

void MessageBar::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  const QRectF box = QRectF(rect()).adjusted(8.5, 2.5, -8.5, -0.5);
  p.setPen(is_error_ ? t.fail : t.hairStrong);
  p.setBrush(t.raised);
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
