#include "app/live/live_card.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QVBoxLayout>

#include "app/theme/qt_text.h"
#include "app/widget/words.h"

namespace heron {
namespace {

constexpr int kTickMs = 500;

}  // namespace

LiveCard::LiveCard(LiveLadder& ladder, QWidget* parent)
    : Card(parent),
      ladder_(ladder),
      head_(new Words({}, Type::heading)),
      count_(new Words({}, Type::label, Tone::mute)),
      what_(new Words({}, Type::body, Tone::slate)),
      pause_(new PushButton(tr("Pause, RF off"), ButtonRank::link)),
      skip_(new PushButton(tr("Skip this step"), ButtonRank::link)),
      less_(new PushButton(tr("\u22121 dB"), ButtonRank::secondary)),
      more_(new PushButton(tr("+1 dB"), ButtonRank::secondary)),
      there_(new PushButton(tr("Shows it"), ButtonRank::secondary)),
      stop_(new PushButton(tr("Stop, keep what was measured"), ButtonRank::link)) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 12, 16, 10);
  column->setSpacing(6);
  auto* row = new QHBoxLayout;
  row->addWidget(head_);
  row->addStretch();
  row->addWidget(count_);
  column->addLayout(row);
  column->addSpacing(18);
  what_->setWordWrap(true);
  // Two lines whatever it says, so that what stops RF below it stays where it is.
  what_->setFixedHeight(2 * what_->fontMetrics().lineSpacing() + 4);
  what_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
  pause_->keep_room_for({tr("Pause, RF off"), tr("Go on")});
  column->addWidget(what_);
  auto* moves = new QHBoxLayout;
  moves->setSpacing(8);
  for (PushButton* b : {less_, more_}) {
    b->setFixedWidth(60);
    moves->addWidget(b);
  }
  moves->addWidget(there_, 1);
  column->addLayout(moves);
  less_->setAccessibleName(tr("Generator 1 dB lower"));
  more_->setAccessibleName(tr("Generator 1 dB higher"));
  connect(less_, &QAbstractButton::clicked, this, [this] { ladder_.move_level(-1.0); });
  connect(more_, &QAbstractButton::clicked, this, [this] { ladder_.move_level(1.0); });
  connect(there_, &QAbstractButton::clicked, this, [this] { ladder_.take_level(); });
  setFocusPolicy(Qt::StrongFocus);
  auto* links = new QHBoxLayout;
  links->addWidget(pause_);
  links->addWidget(skip_);
  links->addStretch();
  column->addLayout(links);
  column->addWidget(stop_);
  connect(pause_, &QAbstractButton::clicked, this, [this] {
    if (ladder_.is_waiting())
      ladder_.resume();
    else
      ladder_.pause();
  });
  connect(skip_, &QAbstractButton::clicked, this, [this] { ladder_.skip(); });
  connect(stop_, &QAbstractButton::clicked, this, [this] { ladder_.stop(); });
  connect(&ladder_, &LiveLadder::changed, this, &LiveCard::refresh);
  // A long recording tells how far it is.
  connect(&clock_, &QTimer::timeout, this, &LiveCard::refresh);
  clock_.setInterval(kTickMs);
  refresh();
}

QString LiveCard::words() const {
  return what_->text();
}

void LiveCard::refresh() {
  setVisible(ladder_.is_running());
  const bool is_listening = ladder_.is_running() && !ladder_.is_keyed();
  if (is_listening != clock_.isActive()) is_listening ? clock_.start() : clock_.stop();
  if (!ladder_.is_running()) return;
  head_->setText(is_listening ? tr("Recording") : tr("Measuring all steps"));
  pause_->setVisible(!is_listening);
  stop_->setText(is_listening ? tr("Stop, keep nothing") : tr("Stop, keep what was measured"));
  const bool is_paused = ladder_.is_waiting();
  count_->setText(tr("%1 of %2").arg(ladder_.taken()).arg(ladder_.count()));
  what_->setText(ladder_.words());
  pause_->setText(is_paused ? tr("Go on") : tr("Pause, RF off"));
  skip_->setVisible(ladder_.state().kind == RunState::Kind::paused);
  const bool is_moving = ladder_.state().kind == RunState::Kind::moving;
  if (is_moving) there_->setText(tr("Shows %1").arg(qt_text(ladder_.state().what)));
  for (PushButton* b : {less_, more_, there_}) b->setVisible(is_moving);
  // The arrows are the generator's now.
  if (is_moving && !was_moving_) setFocus();
  was_moving_ = is_moving;
  update();
}

void LiveCard::keyPressEvent(QKeyEvent* event) {
  if (ladder_.state().kind != RunState::Kind::moving) {
    Card::keyPressEvent(event);
    return;
  }
  constexpr double kUnitDb = 6.0;
  const double by = event->modifiers() == Qt::ShiftModifier ? 0.1 : 1.0;
  switch (event->key()) {
    case Qt::Key_Up:
      ladder_.move_level(by);
      break;
    case Qt::Key_Down:
      ladder_.move_level(-by);
      break;
    case Qt::Key_PageUp:
      ladder_.move_level(kUnitDb);
      break;
    case Qt::Key_PageDown:
      ladder_.move_level(-kUnitDb);
      break;
    case Qt::Key_Return:
    case Qt::Key_Enter:
      if (!event->isAutoRepeat()) ladder_.take_level();
      break;
    default:
      Card::keyPressEvent(event);
  }
}

void LiveCard::paintEvent(QPaintEvent* event) {
  Card::paintEvent(event);
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  double share = ladder_.count() == 0
                     ? 0.0
                     : static_cast<double>(ladder_.taken()) / static_cast<double>(ladder_.count());
  if (const auto now = ladder_.taking_s(); now && !ladder_.is_keyed() && now->second > 0.0)
    share = now->first / now->second;
  p.setPen(Qt::NoPen);
  p.setBrush(t.sunk);
  p.drawRoundedRect(QRectF(16, 40, width() - 32, 4), 2, 2);
  p.setBrush(t.water);
  p.drawRoundedRect(QRectF(16, 40, (width() - 32) * share, 4), 2, 2);
}

}  // namespace heron
