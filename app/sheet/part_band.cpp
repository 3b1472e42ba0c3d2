#include "app/sheet/part_band.h"

#include <QKeyEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "app/paint/focus_ring.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/role.h"
#include "app/theme/theme.h"
#include "core/error.h"
#include "core/method/measure/measured_part.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kGripReach = 7.0;
constexpr double kShortestShare = 0.005;
constexpr double kShownDb = 60.0;

QString seconds_text(double s) {
  return qt_text(part_seconds(s));
}

}  // namespace

PartBand::PartBand(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  set_role(this, QAccessible::Graphic);
  setMouseTracking(true);
  setFixedHeight(40);
  hide();
}

void PartBand::set_parts(const KeyedParts& parts, bool may_change) {
  parts_ = parts;
  shown_ = parts.measured;
  may_change_ = may_change;
  grip_ = Grip::none;
  is_moved_ = false;
  setAccessibleName(words());
  setToolTip(may_change ? tr("Power over time. Drag an end of the measured part, press Return to "
                             "type it, double-click for the part that is found by itself")
                        : words());
  update();
}

QString PartBand::words() const {
  const bool is_all = shown_.length_s >= parts_.duration_s - 1e-6;
  if (is_all) return tr("All of %1 s measured").arg(seconds_text(parts_.duration_s));
  const QString how = parts_.is_chosen || is_moved_ ? tr("chosen") : tr("found");
  return tr("Measured %1 to %2 s of %3 s, %4")
      .arg(seconds_text(shown_.start_s), seconds_text(shown_.end_s()),
           seconds_text(parts_.duration_s), how);
}

QRectF PartBand::trace_box() const {
  return {38.0, 17.0, width() - 46.0, height() - 19.0};
}

double PartBand::x_of(double seconds) const {
  const QRectF box = trace_box();
  return box.left() + box.width() * seconds / std::max(parts_.duration_s, 1e-9);
}

double PartBand::seconds_at(double x) const {
  const QRectF box = trace_box();
  return std::clamp((x - box.left()) / box.width(), 0.0, 1.0) * parts_.duration_s;
}

PartBand::Grip PartBand::grip_at(double x) const {
  const double to_start = std::abs(x - x_of(shown_.start_s));
  const double to_end = std::abs(x - x_of(shown_.end_s()));
  if (std::min(to_start, to_end) > kGripReach) return Grip::none;
  return to_start < to_end ? Grip::start : Grip::end;
}

void PartBand::move_grip(Grip grip, double seconds) {
  const double least = kShortestShare * parts_.duration_s;
  const double end = shown_.end_s();
  if (grip == Grip::start) {
    shown_.start_s = std::clamp(seconds, 0.0, end - least);
    shown_.length_s = end - shown_.start_s;
  } else if (grip == Grip::end) {
    shown_.length_s =
        std::clamp(seconds, shown_.start_s + least, parts_.duration_s) - shown_.start_s;
  }
  is_moved_ = true;
  setAccessibleName(words());
  update();
}

void PartBand::use_moved() {
  if (!std::exchange(is_moved_, false)) return;
  // Rounded as it is written, so that what is kept is what was seen.
  const auto rounded = [](double s) { return std::round(1000.0 * s) / 1000.0; };
  emit part_chosen({rounded(shown_.start_s), rounded(shown_.length_s)});
}

void PartBand::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  const QRectF box = trace_box();
  p.setFont(type_font(Type::label));
  p.setPen(t.mute);
  p.drawText(QRectF(3, 0, width() - 11, 15), Qt::AlignVCenter | Qt::AlignLeft,
             tr("Power over time"));
  p.setPen(parts_.is_chosen ? t.ink : t.mute);
  p.drawText(QRectF(0, 0, width() - 8, 15), Qt::AlignVCenter | Qt::AlignRight, words());
  p.setPen(t.mute);
  p.setFont(type_font(Type::tick));
  p.drawText(QRectF(0, box.top(), 30, box.height()), Qt::AlignVCenter | Qt::AlignRight, "0 s");

  p.fillRect(box, t.floorTint);
  const QRectF measured(x_of(shown_.start_s), box.top(),
                        x_of(shown_.end_s()) - x_of(shown_.start_s), box.height());
  p.fillRect(measured, t.waterTint);
  if (!parts_.level_dbfs.empty()) {
    const float top = *std::max_element(parts_.level_dbfs.begin(), parts_.level_dbfs.end());
    QPainterPath path;
    path.moveTo(box.bottomLeft());
    const auto n = parts_.level_dbfs.size();
    double x = box.left();
    for (std::size_t i = 0; i < n; ++i) {
      const double share = std::clamp(1.0 - (top - parts_.level_dbfs[i]) / kShownDb, 0.02, 1.0);
      const double y = box.bottom() - (box.height() - 3.0) * share;
      path.lineTo(x, y);
      x = i + 1 == n ? box.right()
                     : std::min(box.right(), x_of(static_cast<double>(i + 1) * parts_.cell_s));
      path.lineTo(x, y);
    }
    path.lineTo(box.right(), box.bottom());
    p.save();
    p.setPen(QPen(t.mute, 1.0));
    p.setBrush(Qt::NoBrush);
    p.drawPath(path);
    p.setClipRect(measured);
    p.setPen(QPen(t.water, 1.4));
    QColor fill = t.water;
    fill.setAlphaF(0.22F);
    p.setBrush(fill);
    p.drawPath(path);
    p.restore();
  }
  for (const double edge : {shown_.start_s, shown_.end_s()}) {
    const double x = x_of(edge);
    p.setPen(QPen(t.water, 1.6));
    p.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()));
    if (!may_change_) continue;
    p.setPen(Qt::NoPen);
    p.setBrush(t.water);
    p.drawRoundedRect(QRectF(x - 3.0, box.center().y() - 6.0, 6.0, 12.0), 2.0, 2.0);
  }
  if (hasFocus()) draw_focus_ring(p, rect(), 4, t);
}

void PartBand::mousePressEvent(QMouseEvent* event) {
  if (may_change_) grip_ = grip_at(event->position().x());
}

void PartBand::mouseMoveEvent(QMouseEvent* event) {
  const double x = event->position().x();
  if (grip_ != Grip::none)
    move_grip(grip_, seconds_at(x));
  else
    setCursor(may_change_ && grip_at(x) != Grip::none ? Qt::SizeHorCursor : Qt::ArrowCursor);
}

void PartBand::mouseReleaseEvent(QMouseEvent*) {
  grip_ = Grip::none;
  use_moved();
}

void PartBand::mouseDoubleClickEvent(QMouseEvent*) {
  if (may_change_ && parts_.is_chosen) emit automatic_asked();
}

void PartBand::keyPressEvent(QKeyEvent* event) {
  const int way = event->key() == Qt::Key_Left ? -1 : event->key() == Qt::Key_Right ? 1 : 0;
  if (!may_change_) {
    QWidget::keyPressEvent(event);
    return;
  }
  if (way != 0) {
    const bool is_end = (event->modifiers() & Qt::ShiftModifier) != 0;
    const double step = way * parts_.duration_s / 200.0;
    move_grip(is_end ? Grip::end : Grip::start, (is_end ? shown_.end_s() : shown_.start_s) + step);
  } else if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
    if (is_moved_)
      use_moved();
    else
      emit typing_asked();
  } else if (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) {
    if (parts_.is_chosen) emit automatic_asked();
  } else {
    QWidget::keyPressEvent(event);
  }
}

void PartBand::focusOutEvent(QFocusEvent* event) {
  use_moved();
  QWidget::focusOutEvent(event);
  update();
}

TimeSpan parse_part(const std::string& text) {
  const auto refuse = [&]() -> InputError {
    return {"\u201c" + text + "\u201d", "", "it is not a part of a recording",
            "Type it like 4.02 to 9.98 s"};
  };
  const std::size_t to = text.find("to");
  if (to == std::string::npos) throw refuse();
  const auto seconds = [&](std::string part) {
    if (part.find_first_not_of(" \t0123456789.,") == std::string::npos) part += " s";
    return parse_quantity(part, Quantity::duration).value;
  };
  const double start = seconds(text.substr(0, to));
  const double end = seconds(text.substr(to + 2));
  if (!(start >= 0.0) || !(end > start)) throw refuse();
  return {start, end - start};
}

}  // namespace heron
