#include "app/hookup/level_diagram.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

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
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

QString watt_words(double dbm) {
  const double w = to_watt(Dbm{dbm}).value;
  return qt_text(engineering_text(w, "W", w < 1e-3 ? 2 : 3))
      .replace(".00 ", " ")
      .replace(".0 ", " ");
}

QString volt_words(double dbm, double ohm) {
  return qt_text(engineering_text(to_pd(to_watt(Dbm{dbm}), Ohm{ohm}).value, "V", 2));
}

}  // namespace

LevelDiagram::LevelDiagram(QWidget* parent) : QWidget(parent) {
  setMinimumHeight(220);
  setFocusPolicy(Qt::StrongFocus);
  set_role(this, QAccessible::Chart);
  setMouseTracking(true);
  setAccessibleName(tr("Levels along the chain"));
}

void LevelDiagram::set_scene(const HookupScene* scene) {
  scene_ = scene;
  fit_range();
  setAccessibleDescription(read_out(*scene, scene->chosen));
  update();
}

QString LevelDiagram::read_out(const HookupScene& scene, int column) {
  if (column == 0)
    return tr("%1 sends %2 dBm")
        .arg(scene.source, qt_text(number_text(scene.drive.pep_dbm, 1, true)));
  const ChainNode* node = scene.node(column);
  const NodeVerdict* verdict = scene.verdict(column);
  const QString name = qt_text(scene.part(column).name);
  if (node == nullptr || verdict == nullptr) return name;
  QString text = tr("%1: %2 dBm").arg(name, qt_text(number_text(node->level_dbm, 1, true)));
  text += tr(" (%1)").arg(volt_words(node->level_dbm, scene.chain.impedance_ohm));
  if (node->u_db > 0.0) text += tr(" ± %1 dB").arg(qt_text(number_text(2.0 * node->u_db, 1)));
  if (verdict->margin_db) {
    const double m = *verdict->margin_db;
    text += m >= 0.0
                ? tr(", %1 dB under %2").arg(qt_text(number_text(m, 1)), qt_text(verdict->limit))
                : tr(", %1 dB over %2").arg(qt_text(number_text(-m, 1)), qt_text(verdict->limit));
  } else {
    text += ", " + qt_text(verdict->limit);
  }
  return text;
}

HookupColumns LevelDiagram::columns() const {
  return {static_cast<double>(width()), scene_ == nullptr ? 1 : scene_->columns()};
}

QRectF LevelDiagram::plot() const {
  return QRectF(rect()).adjusted(HookupColumns::kLeft, 30, -HookupColumns::kRight, -12);
}

void LevelDiagram::fit_range() {
  double low = scene_->drive.pep_dbm - 3.0;
  double high = scene_->drive.pep_dbm;
  for (int i = 1; i < scene_->columns(); ++i) {
    const ChainNode* node = scene_->node(i);
    const Part& part = scene_->part(i);
    if (node != nullptr) {
      low = std::min(low, node->level_dbm - 3.0);
      high = std::max(high, node->level_dbm);
    }
    if (part.best_input_dbm) low = std::min(low, part.best_input_dbm->first);
    if (const auto average = average_dbm(part)) low = std::min(low, *average);
  }
  if (scene_->swap) low = std::min(low, scene_->swap->end_level_dbm);
  low_ = std::max(-160.0, std::floor((low - 10.0) / 10.0) * 10.0);
  high_ = std::max(std::ceil(high / 10.0) * 10.0,
                   std::min(60.0, std::ceil((high + 10.0) / 10.0) * 10.0));
}

double LevelDiagram::y_of(double dbm) const {
  const QRectF r = plot();
  return r.bottom() - (std::clamp(dbm, low_, high_) - low_) / (high_ - low_) * r.height();
}

void LevelDiagram::paint_axes(QPainter& p) const {
  const Theme& t = theme_of(this);
  const QRectF r = plot();
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  p.drawText(QRectF(15, 4, 140, 18), Qt::AlignVCenter, tr("Level, dBm"));
  p.setPen(t.mute);
  const QString unit = scene_->in_volts ? tr("V") : tr("W");
  p.drawText(QRectF(width() - 150.0, 4, 104, 18), Qt::AlignRight | Qt::AlignVCenter, tr("same in"));
  p.setFont(type_font(Type::link));
  p.setPen(t.water);
  p.drawText(QRectF(width() - 41.0, 4, 20, 18), Qt::AlignVCenter, unit);
  p.setPen(QPen(t.water, 1.4, Qt::SolidLine, Qt::RoundCap));
  const QPointF c(width() - 19.0, 13.5);
  draw_chevron(p, c);
  p.setFont(type_font(Type::tick));
  for (double dbm = high_; dbm >= low_ - 1e-9; dbm -= 10.0) {
    const double y = std::round(y_of(dbm));
    p.fillRect(QRectF(r.left(), y, r.width(), 1), dbm <= low_ + 1e-9 ? t.hairStrong : t.hair);
    if (std::lround(dbm) % 20 != 0) continue;
    p.setPen(t.mute);
    p.drawText(QRectF(0, y - 8, HookupColumns::kLeft - 8, 16), Qt::AlignRight | Qt::AlignVCenter,
               qt_text(number_text(dbm, 0, dbm > 0)));
    p.fillRect(QRectF(r.right(), y, 5, 1), t.hairStrong);
    const QString words =
        scene_->in_volts ? volt_words(dbm, scene_->chain.impedance_ohm) : watt_words(dbm);
    draw_figure_text(p, {r.right() + 9, y + 4}, words, Type::tick, Type::label, t.mute);
  }
}

void LevelDiagram::paint_bands(QPainter& p, int column) const {
  const Theme& t = theme_of(this);
  const Part& part = scene_->part(column);
  const QRectF box = columns().box(column, 0, 1);
  const QRectF r = plot();
  const auto fill = [&](double from, double to, const QColor& colour) {
    const double top = y_of(to);
    const double bottom = y_of(from);
    if (bottom > top) p.fillRect(QRectF(box.left(), top, box.width(), bottom - top), colour);
  };
  if (part.best_input_dbm)
    fill(part.best_input_dbm->first, part.best_input_dbm->second, t.passTint);
  const auto average = average_dbm(part);
  const auto usable = part.full_scale_dbm ? part.full_scale_dbm : average;
  const double damage = part.max_input_dbm.value_or(1e9);
  if (usable) fill(*usable, std::min(damage, high_), t.margTint);
  if (damage < high_) {
    fill(damage, high_, t.failTint);
    p.save();
    p.setClipRect(QRectF(box.left(), r.top(), box.width(), y_of(damage) - r.top()));
    QColor hatch = t.fail;
    hatch.setAlphaF(t.is_dark ? 0.34F : 0.26F);
    p.setPen(QPen(hatch, 1));
    for (double x = box.left() - r.height(); x < box.right(); x += 7.0)
      p.drawLine(QPointF(x, r.bottom()), QPointF(x + r.height(), r.top()));
    p.restore();
    p.fillRect(QRectF(box.left(), y_of(damage) - 1, box.width(), 2), t.fail);
  }
  if (usable && *usable < high_ && *usable > low_)
    p.fillRect(QRectF(box.left(), y_of(*usable) - 1, box.width(), 2), t.ink);
}

void LevelDiagram::paint_band_words(QPainter& p, int column) const {
  const Theme& t = theme_of(this);
  const Part& part = scene_->part(column);
  const QRectF box = columns().box(column, 0, 1);
  if (box.width() < 70) return;
  p.setFont(type_font(Type::label));
  const bool ends = find_part_kind(part.kind)->ends_chain;
  const auto average = average_dbm(part);
  const auto usable = part.full_scale_dbm ? part.full_scale_dbm : average;
  // Words stand clear of the level that runs through the column, and of the lines of its limits.
  if (const ChainNode* node = scene_->node(column)) {
    const double crest = peak_to_average_db(scene_->drive);
    const double top = y_of(node->level_dbm);
    room_.block(QRectF(box.left(), top - 2, box.width(), y_of(node->level_dbm - crest) - top + 4));
  }
  double taken_top = -1e9;
  if (usable && *usable < high_ && *usable > low_) {
    const QString words =
        part.full_scale_dbm ? tr("full scale") : tr("average %1").arg(watt_words(*average));
    const double y = part.full_scale_dbm ? y_of(*usable) - 17 : y_of(*usable) + 2;
    p.setPen(t.ink);
    const double w =
        std::min(box.width() - 8, QFontMetricsF(p.font()).horizontalAdvance(words) + 5);
    const QRectF place = room_.take(QRectF(box.left() + 4, y, w, 15));
    if (!part.full_scale_dbm) p.fillRect(place, t.sheet);
    draw_elided(p, QRectF(box.left() + 6, place.top(), box.width() - 8, 15), Qt::AlignVCenter,
                words);
    taken_top = y;
  }
  if (part.max_input_dbm && *part.max_input_dbm < high_) {
    const double y = y_of(*part.max_input_dbm) - 18;
    room_.block(QRectF(box.left(), y_of(*part.max_input_dbm) - 1, box.width(), 2));
    if (std::abs(y - taken_top) > 15 && y > plot().top()) {
      const QString words =
          (ends ? tr("damage %1") : tr("peak %1")).arg(watt_words(*part.max_input_dbm));
      const double w =
          std::min(box.width() - 8, QFontMetricsF(p.font()).horizontalAdvance(words) + 6);
      const QRectF place = room_.take(QRectF(box.left() + 4, y, w, 15));
      p.fillRect(place, t.failTint);
      p.setPen(t.ink);
      draw_elided(p, QRectF(box.left() + 6, place.top(), box.width() - 8, 15), Qt::AlignVCenter,
                  words);
    }
  }
  if (part.best_input_dbm) {
    const double top = y_of(part.best_input_dbm->second);
    const double bottom = y_of(part.best_input_dbm->first);
    if (bottom - top > 14) {
      p.setPen(t.pass);
      const double w = QFontMetricsF(p.font()).horizontalAdvance(tr("input range")) + 4;
      const QRectF place = room_.take(QRectF(box.left() + 5, bottom - 18, w, 15));
      p.drawText(place.adjusted(1, 0, 20, 0), Qt::AlignVCenter, tr("input range"));
    }
  }
}

void LevelDiagram::paintEvent(QPaintEvent*) {
  if (scene_ == nullptr) return;
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  const HookupColumns c = columns();
  const QRectF r = plot();
  room_.clear(r);
  if (hovered_ >= 0)
    p.fillRect(QRectF(c.centre(hovered_) - c.column() / 2, r.top(), c.column(), r.height()),
               t.hoverSheet);
  paint_axes(p);
  for (int i = 1; i < c.count; ++i) paint_bands(p, i);
  if (!scene_->result) {
    p.setFont(type_font(Type::question));
    p.setPen(t.slate);
    p.drawText(r.adjusted(40, 0, -40, 0), Qt::AlignCenter | Qt::TextWordWrap, scene_->trouble);
    return;
  }
  paint_ghost(p);
  for (int i = 1; i < c.count; ++i) paint_band_words(p, i);
  paint_levels(p);
  for (int i = 1; i < c.count; ++i) paint_margin(p, i);
  if (shows_focus_)
    draw_focus_ring(
        p, QRectF(c.centre(scene_->chosen) - c.column() / 2, r.top(), c.column(), r.height()), 4,
        t);
}

void LevelDiagram::mousePressEvent(QMouseEvent* event) {
  if (unit_box().contains(event->position())) {
    emit unit_asked();
    return;
  }
  const int column = columns().at(event->position().x());
  if (column >= 0) emit chosen(column);
}

void LevelDiagram::mouseMoveEvent(QMouseEvent* event) {
  const int column = columns().at(event->position().x());
  if (column == hovered_ || scene_ == nullptr) return;
  hovered_ = column;
  setToolTip(column >= 0 ? read_out(*scene_, column) : QString());
  update();
}

void LevelDiagram::leaveEvent(QEvent*) {
  hovered_ = -1;
  update();
}

void LevelDiagram::keyPressEvent(QKeyEvent* event) {
  if (scene_ == nullptr) return;
  const int now = scene_->chosen;
  if (event->key() == Qt::Key_Left && now > 0)
    emit chosen(now - 1);
  else if (event->key() == Qt::Key_Right && now + 1 < scene_->columns())
    emit chosen(now + 1);
  else if (event->key() == Qt::Key_Up)
    emit up_asked();
  else if (event->key() == Qt::Key_Down)
    emit down_asked();
  else if (event->key() == Qt::Key_U)
    emit unit_asked();
  else
    QWidget::keyPressEvent(event);
}

void LevelDiagram::focusInEvent(QFocusEvent* event) {
  shows_focus_ = is_keyboard_focus(event->reason());
  update();
}
void LevelDiagram::focusOutEvent(QFocusEvent*) {
  shows_focus_ = false;
  update();
}

}  // namespace heron
