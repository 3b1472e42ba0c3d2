#include "app/sheet/taking_card.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

#include "app/widget/words.h"

namespace heron {

TakingCard::TakingCard(QWidget* parent)
    : Card(parent),
      head_(new Words(tr("Reading"), Type::heading)),
      percent_(new Words({}, Type::label, Tone::mute)),
      what_(new Words({}, Type::body, Tone::slate)) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 12, 16, 10);
  column->setSpacing(8);
  auto* row = new QHBoxLayout;
  row->addWidget(head_);
  row->addStretch();
  row->addWidget(percent_);
  column->addLayout(row);
  column->addSpacing(8);
  what_->setWordWrap(true);
  column->addWidget(what_);
  auto* stop = new PushButton(tr("Stop, keep nothing of it"), ButtonRank::link);
  column->addWidget(stop);
  connect(stop, &QAbstractButton::clicked, this, &TakingCard::stop_asked);
}

void TakingCard::begin(const QString& file, int waiting) {
  what_->setText(waiting > 0 ? tr("%1, then %2 more").arg(file).arg(waiting) : file);
  set_progress(0.0);
}

void TakingCard::set_progress(double fraction) {
  fraction_ = fraction;
  percent_->setText(QString::number(fraction * 100.0, 'f', 0) + " %");
  update();
}

void TakingCard::paintEvent(QPaintEvent* event) {
  Card::paintEvent(event);
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.setPen(Qt::NoPen);
  p.setBrush(t.sunk);
  const QRectF trough(16, 40, width() - 32, 4);
  p.drawRoundedRect(trough, 2, 2);
  p.setBrush(t.water);
  p.drawRoundedRect(QRectF(16, 40, (width() - 32) * fraction_, 4), 2, 2);
}

}  // namespace heron
