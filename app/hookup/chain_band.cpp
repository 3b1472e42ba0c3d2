#include "app/hookup/chain_band.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include "app/paint/chevron.h"
#include "app/paint/figure_text.h"
#include "app/paint/focus_ring.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/role.h"
#include "app/theme/theme.h"
#include "app/widget/painted_button.h"
#include "core/error.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr double kBandTop = 8;
constexpr double kBandHeight = 66;

QString loss_words(const Part& part, double frequency_hz) {
  if (find_part_kind(part.kind)->ends_chain) {
    if (!part.best_input_dbm) return QObject::tr("ends the chain");
    return QObject::tr("input %1 to %2")
        .arg(qt_text(number_text(part.best_input_dbm->first, 0)),
             qt_text(number_text(part.best_input_dbm->second, 0)));
  }
  try {
    const double gain = part.gain.at(frequency_hz, part.name);
    return gain > 0.0 ? QObject::tr("gains %1 dB").arg(qt_text(number_text(gain, 2)))
                      : QObject::tr("loses %1 dB").arg(qt_text(number_text(-gain, 2)));
  } catch (const InputError&) {
    return QObject::tr("not known here");
  }
}

}  // namespace

ChainBand::ChainBand(QWidget* parent) : QWidget(parent) {
  setFixedHeight(82);
  setFocusPolicy(Qt::StrongFocus);
  set_role(this, QAccessible::List);
  setMouseTracking(true);
  setAccessibleName(tr("The chain"));
}

void ChainBand::set_scene(const HookupScene* scene) {
  scene_ = scene;
  is_dragged_ = false;
  pressed_ = -1;
  QStringList names{scene->source};
  for (const Part& part : scene->chain.parts) names << qt_text(part.name);
  setAccessibleDescription(names.join(", "));
  update();
}

HookupColumns ChainBand::columns() const {
  return {static_cast<double>(width()), scene_ == nullptr ? 1 : scene_->columns()};
}

QRectF ChainBand::node_box(int column) const {
  return columns().box(column, kBandTop, kBandHeight);
}

bool ChainBand::is_movable(int column) const {
  return column > 0 && column < scene_->columns() &&
         !find_part_kind(scene_->part(column).kind)->ends_chain;
}

int ChainBand::gap_at(QPointF point) const {
  if (scene_ == nullptr || std::abs(point.y() - kBandTop - kBandHeight / 2) > 20) return -1;
  const HookupColumns c = columns();
  for (int i = 0; i < scene_->columns(); ++i) {
    const bool is_end = i > 0 && find_part_kind(scene_->part(i).kind)->ends_chain;
    if (!is_end && std::abs(point.x() - (c.centre(i) + c.column() / 2)) < 13) return i;
  }
  return -1;
}

QPoint ChainBand::below(int column) const {
  const QRectF box = node_box(column);
  return mapToGlobal(QPoint(static_cast<int>(box.left()), static_cast<int>(box.bottom()) + 2));
}

void ChainBand::paint_node(QPainter& p, int column, const QRectF& box) const {
  const Theme& t = theme_of(this);
  const bool is_chosen = scene_->chosen == column;
  const NodeVerdict* verdict = scene_->verdict(column);
  QColor edge = hovered_ == column ? t.slate : t.hairStrong;
  if (verdict != nullptr && verdict->verdict == Verdict::too_close) edge = t.marg;
  if (verdict != nullptr && verdict->verdict == Verdict::fail) edge = t.fail;
  p.setPen(QPen(edge, 1));
  p.setBrush(is_chosen ? t.waterTint : t.sheet);
  p.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
  if (is_chosen && shows_focus_) draw_focus_ring(p, box, 6, t);
  const QRectF inner = box.adjusted(8, 6, -8, -6);
  p.setFont(type_font(Type::current));
  p.setPen(t.ink);
  const QString name = column == 0 ? scene_->source : qt_text(scene_->part(column).name);
  draw_elided(p, QRectF(inner.left(), inner.top(), inner.width(), 17), Qt::AlignVCenter, name);
  const QString line = column == 0 ? scene_->source_line
                                   : loss_words(scene_->part(column), scene_->drive.frequency_hz);
  p.setPen(t.slate);
  draw_figure_text(p, {inner.left(), inner.top() + 29},
                   elided_figure_text(line, Type::figure_small, Type::label, inner.width()),
                   Type::figure_small, Type::label, t.slate);
  const double foot = inner.bottom() - 7;
  if (is_movable(column)) {
    p.setPen(Qt::NoPen);
    p.setBrush(t.mute);
    for (int row = 0; row < 3; ++row) {
      for (int dot = 0; dot < 2; ++dot)
        p.drawEllipse(QPointF(inner.left() + 1.5 + 4 * dot, foot - 4 + 4 * row), 1, 1);
    }
  }
  if (is_chosen && inner.width() > 80) {
    p.setFont(type_font(Type::link));
    p.setPen(t.water);
    p.drawText(QRectF(inner.left(), foot - 8, inner.width() - 14, 16),
               Qt::AlignRight | Qt::AlignVCenter, tr("Replace"));
  }
  p.setPen(QPen(is_chosen ? t.water : t.slate, 1.4, Qt::SolidLine, Qt::RoundCap));
  const QPointF c(inner.right() - 4, foot + 0.5);
  draw_chevron(p, c);
}

void ChainBand::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.fillRect(QRectF(1, 0, width() - 2, height()), t.strip);
  p.fillRect(QRectF(1, 0, width() - 2, 1), t.hair);
  p.fillRect(QRectF(1, height() - 1, width() - 2, 1), t.hair);
  if (scene_ == nullptr) return;
  const HookupColumns c = columns();
  const double y = kBandTop + kBandHeight / 2;
  p.setPen(QPen(t.slate, 1.5));
  p.drawLine(QPointF(c.centre(0), y), QPointF(c.centre(c.count - 1), y));
  for (int i = 0; i < c.count; ++i) {
    if (is_dragged_ && i == pressed_) continue;
    paint_node(p, i, node_box(i));
  }
  for (int i = 0; i < c.count; ++i) {
    const bool is_end = i > 0 && find_part_kind(scene_->part(i).kind)->ends_chain;
    if (is_end) continue;
    const QPointF at(c.centre(i) + c.column() / 2, y);
    if (is_dragged_) {
      if (gap_ == i) p.fillRect(QRectF(at.x() - 1, kBandTop, 2, kBandHeight), t.bill);
      continue;
    }
    p.setPen(QPen(gap_ == i ? t.water : t.hairStrong, 1));
    p.setBrush(gap_ == i ? t.waterTint : t.sheet);
    p.drawEllipse(at, 7, 7);
    p.setPen(QPen(gap_ == i ? t.water : t.slate, 1.3));
    p.drawLine(at + QPointF(-3, 0), at + QPointF(3, 0));
    p.drawLine(at + QPointF(0, -3), at + QPointF(0, 3));
  }
  if (is_dragged_)
    paint_node(p, pressed_, node_box(pressed_).translated(dragged_to_ - pressed_at_));
}

void ChainBand::mousePressEvent(QMouseEvent* event) {
  if (scene_ == nullptr || event->button() != Qt::LeftButton) return;
  const int gap = gap_at(event->position());
  pressed_ = -1;
  if (gap >= 0) {
    emit add_asked(gap, below(gap));
    return;
  }
  const int column = columns().at(event->position().x());
  if (column < 0 || !node_box(column).contains(event->position())) return;
  pressed_ = column;
  pressed_at_ = event->position();
  emit chosen(column);
}

void ChainBand::mouseMoveEvent(QMouseEvent* event) {
  if (scene_ == nullptr) return;
  if (pressed_ >= 0 && is_movable(pressed_) &&
      (is_dragged_ || (event->position() - pressed_at_).manhattanLength() > 8)) {
    is_dragged_ = true;
    dragged_to_ = event->position();
    const HookupColumns c = columns();
    int nearest = 0;
    for (int i = 0; i < c.count; ++i) {
      const bool is_end = i > 0 && find_part_kind(scene_->part(i).kind)->ends_chain;
      const double gap = c.centre(i) + c.column() / 2;
      const double best = c.centre(nearest) + c.column() / 2;
      if (!is_end && std::abs(gap - dragged_to_.x()) < std::abs(best - dragged_to_.x()))
        nearest = i;
    }
    gap_ = nearest;
  } else {
    gap_ = gap_at(event->position());
    const int column = columns().at(event->position().x());
    hovered_ = column >= 0 && node_box(column).contains(event->position()) ? column : -1;
    setCursor(gap_ >= 0 || hovered_ >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
  }
  update();
}

void ChainBand::mouseReleaseEvent(QMouseEvent* event) {
  const int from = pressed_;
  pressed_ = -1;
  if (from < 0) return;
  if (is_dragged_) {
    is_dragged_ = false;
    const int gap = gap_;
    gap_ = -1;
    update();
    // Behind column `gap`; what stood before the part moves up by one.
    const int to = gap >= from ? gap : gap + 1;
    if (to != from) emit move_asked(from, to);
    return;
  }
  const QRectF box = node_box(from);
  if (event->position().y() > box.bottom() - 24 && event->position().x() > box.center().x() - 10)
    emit replace_asked(from, below(from));
}

void ChainBand::leaveEvent(QEvent*) {
  hovered_ = gap_ = -1;
  update();
}

void ChainBand::keyPressEvent(QKeyEvent* event) {
  if (scene_ == nullptr) return;
  const int now = scene_->chosen;
  const bool moves = event->modifiers() & Qt::ControlModifier;
  switch (event->key()) {
    case Qt::Key_Left:
    case Qt::Key_Right: {
      const int to = now + (event->key() == Qt::Key_Left ? -1 : 1);
      if (to < 0 || to >= scene_->columns()) return;
      if (!moves)
        emit chosen(to);
      else if (is_movable(now) && is_movable(to))
        emit move_asked(now, to);
      return;
    }
    case Qt::Key_Home:
      emit chosen(0);
      return;
    case Qt::Key_End:
      emit chosen(scene_->columns() - 1);
      return;
    case Qt::Key_Insert:
    case Qt::Key_Plus: {
      const bool is_end = now > 0 && find_part_kind(scene_->part(now).kind)->ends_chain;
      emit add_asked(is_end ? now - 1 : now, below(now));
      return;
    }
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
      if (now > 0) emit remove_asked(now);
      return;
    case Qt::Key_F2:
    case Qt::Key_Return:
    case Qt::Key_Enter:
    case Qt::Key_Space:
      emit replace_asked(now, below(now));
      return;
    case Qt::Key_Down:
      emit down_asked();
      return;
    case Qt::Key_Escape:
      if (is_dragged_) {
        is_dragged_ = false;
        pressed_ = gap_ = -1;
        update();
        return;
      }
      break;
    default:
      break;
  }
  QWidget::keyPressEvent(event);
}

void ChainBand::focusInEvent(QFocusEvent* event) {
  shows_focus_ = is_keyboard_focus(event->reason());
  update();
}
void ChainBand::focusOutEvent(QFocusEvent*) {
  shows_focus_ = false;
  update();
}

}  // namespace heron
