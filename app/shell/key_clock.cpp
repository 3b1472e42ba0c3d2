#include "app/shell/key_clock.h"

#include <QPainter>
#include <cmath>
#include <utility>

#include "app/paint/focus_ring.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "core/error.h"

namespace heron {
namespace {

QString clock_text(double seconds) {
  const auto whole = static_cast<long long>(std::floor(seconds));
  return QStringLiteral("%1:%2").arg(whole / 60).arg(whole % 60, 2, 10, QChar('0'));
}

}  // namespace

KeyClock::KeyClock(QWidget* parent) : PaintedButton(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::PointingHandCursor);
  timer_.start();
  ticks_.setInterval(250);
  connect(&ticks_, &QTimer::timeout, this, &KeyClock::tick);
  connect(this, &QAbstractButton::clicked, this, [this] {
    if (is_keyed() && rf_ == RfState::on) emit rf_off_asked();
    if (is_keyed())
      release();
    else
      press();
  });
  tick();
}

void KeyClock::set_chain(const Chain& chain, const Drive& drive, bool may_be_keyed) {
  if (is_keyed()) {
    pending_ = Pending{chain, drive, may_be_keyed};
    return;
  }
  try {
    clock_.set_chain(chain, drive, now());
    has_chain_ = true;
    may_be_keyed_ = may_be_keyed;
  } catch (const InputError&) {
    has_chain_ = false;
  }
  tick();
}

void KeyClock::clear_chain() {
  if (is_keyed()) {
    pending_ = Pending{};
    return;
  }
  has_chain_ = false;
  tick();
}

void KeyClock::set_rf(const std::optional<RfState>& rf) {
  rf_ = rf;
  tick();
}

void KeyClock::press() {
  if (is_found_on()) {
    emit rf_off_asked();
    return;
  }
  if (!has_chain_) {
    emit refused(tr("The transmit timer has nothing to watch."),
                 tr("Give this test a hook-up and a drive first"));
    return;
  }
  if (!may_be_keyed_) {
    emit refused(
        tr("Do not key: the hook-up is not known to be safe at the planned drive."),
        tr("Change it, lower the drive, enter the missing rating, or override it by name in "
           "the editor"));
    return;
  }
  begin();
}

void KeyClock::begin() {
  if (!has_chain_) return;
  clock_.key(now());
  tick();
}

bool KeyClock::release() {
  const bool was = is_keyed();
  clock_.unkey(now());
  if (const auto next = std::exchange(pending_, std::nullopt)) {
    if (next->chain)
      set_chain(*next->chain, next->drive, next->may_be_keyed);
    else
      clear_chain();
  }
  tick();
  return was;
}

void KeyClock::tick() {
  reading_ = clock_.read(now());
  switch (reading_.state) {
    case KeyDownState::idle:
      words_ = rf_ == RfState::confirmed_off        ? tr("RF off")
               : rf_ == RfState::on                 ? tr("RF on: press for off")
               : rf_                                ? tr("RF unknown")
               : has_chain_ && clock_.has_ratings() ? tr("Transmit timer")
                                                    : tr("Manual keying");
      break;
    case KeyDownState::keyed:
      words_ = tr("Key down %1").arg(clock_text(reading_.keyed_s));
      if (reading_.left_s)
        words_ += tr(" of %1").arg(clock_text(reading_.keyed_s + *reading_.left_s));
      break;
    case KeyDownState::caution:
      words_ = tr("Key up in %1").arg(clock_text(reading_.left_s.value_or(0.0)));
      break;
    case KeyDownState::stop:
      words_ = tr("Key up now");
      break;
    case KeyDownState::resting:
      words_ = tr("rest %1").arg(clock_text(std::ceil(reading_.rest_s)));
      break;
  }
  QString more = rf_ == RfState::unknown
                     ? tr("Nothing has confirmed whether the generator's output is off. Test it on "
                          "the bench; Esc switches it off.")
                 : rf_ ? tr("The program keys this bench. Esc switches RF off at once.")
                       : tr("This bench is not keyed by the program. Press, or F9, when "
                            "you key and when you stop.");
  if (!reading_.binding.empty()) more = qt_text(reading_.binding) + ". " + more;
  setToolTip(more);
  setAccessibleName(words_);
  const bool runs = reading_.state != KeyDownState::idle;
  if (runs != ticks_.isActive()) runs ? ticks_.start() : ticks_.stop();
  update();
  emit changed();
}

QSize KeyClock::sizeHint() const {
  // As wide as its widest words, so that nothing beside it moves while it counts.
  const double w = QFontMetricsF(type_font(Type::control_chosen))
                       .horizontalAdvance(tr("Key down 00:00 of 00:00"));
  return {static_cast<int>(w) + 36, 26};
}

void KeyClock::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  QColor fill = t.sheet;
  QColor edge = underMouse() ? t.hairStrong : t.hair;
  QColor ink = t.mute;
  bool is_filled = false;
  switch (reading_.state) {
    case KeyDownState::keyed:
      fill = edge = t.bill;
      ink = t.billInk;
      is_filled = true;
      break;
    case KeyDownState::caution:
      fill = t.margTint;
      edge = ink = t.marg;
      is_filled = true;
      break;
    case KeyDownState::stop:
      fill = edge = t.fail;
      ink = t.sheet;
      is_filled = true;
      break;
    case KeyDownState::resting:
      ink = t.slate;
      break;
    default:
      if (is_found_on()) {
        fill = edge = t.bill;
        ink = t.billInk;
        is_filled = true;
      } else if (rf_ == RfState::unknown) {
        ink = edge = t.marg;
      }
      break;
  }
  p.setPen(edge);
  p.setBrush(fill);
  p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
  const QRectF square(11, 9, 8, 8);
  p.setPen(QPen(ink, 1.4));
  p.setBrush(is_filled ? QBrush(ink) : QBrush(Qt::NoBrush));
  p.drawRoundedRect(square, 2, 2);
  p.setFont(type_font(is_filled ? Type::control_chosen : Type::control));
  p.setPen(ink);
  p.drawText(QRectF(27, 0, width() - 30, height()), Qt::AlignVCenter, words_);
  if (shows_focus()) draw_focus_ring(p, rect(), 6, t);
}

}  // namespace heron
