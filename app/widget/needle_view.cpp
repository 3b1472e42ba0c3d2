#include "app/widget/needle_view.h"

#include <QKeyEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "app/paint/figure_text.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "app/widget/fact_band.h"
#include "core/method/plot_scale.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr double kOverTolerance = 2.4;  // of the tolerance, at the end of the scale
constexpr double kHalfAngle = 45.0;
constexpr double kBeyond = 2.0;  // degrees, where the needle stops
constexpr double kRing = 34.0;
constexpr double kFactsHeight = 62.0;
constexpr double kHistoryHeight = 96.0;
constexpr double kStepsHeight = 50.0;
constexpr double kWordsHeight = 104.0;

double radians(double degrees) {
  return degrees * std::numbers::pi / 180.0;
}

QFont sized(Type type, int px, QFont::Weight weight = QFont::DemiBold) {
  QFont font = type_font(type);
  font.setPixelSize(px);
  font.setWeight(weight);
  return font;
}

/// The arc in its place.
struct Arc {
  QPointF centre;
  double radius;
  double full;  ///< value at the end of the scale
  double angle(double value) const {
    return std::clamp(value / full * kHalfAngle, -kHalfAngle - kBeyond, kHalfAngle + kBeyond);
  }
  QPointF at(double degrees, double r) const {
    return centre + QPointF(r * std::sin(radians(degrees)), -r * std::cos(radians(degrees)));
  }
  QPainterPath ring(double from, double to, double outer, double inner) const {
    QPainterPath path;
    const auto box = [this](double r) {
      return QRectF(centre.x() - r, centre.y() - r, 2 * r, 2 * r);
    };
    path.arcMoveTo(box(outer), 90.0 - from);
    path.arcTo(box(outer), 90.0 - from, -(to - from));
    path.arcTo(box(inner), 90.0 - to, to - from);
    path.closeSubpath();
    return path;
  }
};

}  // namespace

NeedleView::NeedleView(QWidget* parent) : QWidget(parent), facts_(new FactBand) {
  setFocusPolicy(Qt::StrongFocus);
  setMinimumHeight(300);
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(0, 0, 0, 0);
  all->addWidget(facts_);
  all->addStretch();
  facts_->setFixedHeight(static_cast<int>(kFactsHeight));
}

void NeedleView::set_needle(const Needle& needle) {
  const bool is_let_go =
      needle_.state != Needle::State::hands_off && needle.state == Needle::State::hands_off;
  needle_ = needle;
  std::vector<FactBand::Fact> facts;
  for (const Needle::Fact& f : needle.facts)
    facts.push_back({qt_text(f.head), qt_text(f.value), qt_text(f.caption)});
  facts_->set_facts(facts);
  // Said when it is let go, not at each reading.
  if (is_let_go || accessibleName().isEmpty())
    setAccessibleName(QStringList{qt_text(needle.state_words),
                                  qt_text(needle.readout + " " + needle.unit),
                                  qt_text(needle.order)}
                          .join(QStringLiteral(", ")));
  update();
  emit needle_changed();
}

void NeedleView::set_plain(bool plain) {
  is_plain_ = plain;
  facts_->setVisible(!plain);
  update();
}

void NeedleView::changeEvent(QEvent* event) {
  QWidget::changeEvent(event);
  if (event->type() == QEvent::PaletteChange) update();
}

void NeedleView::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Space && !event->isAutoRepeat())
    emit hand_turned();
  else if (event->key() == Qt::Key_F11 || (is_plain_ && event->key() == Qt::Key_Escape))
    emit plain_asked();
  else if (event->key() == Qt::Key_T)
    emit tone_asked();
  else
    QWidget::keyPressEvent(event);
}

void NeedleView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.fillRect(rect(), t.sheet);
  double top = 0.0;
  double bottom = height();
  if (!is_plain_) {
    top += kFactsHeight;
    bottom -= kStepsHeight;
    paint_steps(p, QRectF(0, bottom, width(), kStepsHeight), t);
    // Where there is little room its lane goes.
    const bool has_history = bottom - top > kHistoryHeight + kWordsHeight + 120.0;
    if (has_history) {
      bottom -= kHistoryHeight;
      paint_history(p, QRectF(0, bottom, width(), kHistoryHeight), t);
    }
  }
  paint_words(p, QRectF(0, bottom - kWordsHeight, width(), kWordsHeight), t);
  paint_arc(p, QRectF(0, top, width(), bottom - kWordsHeight - top), t);
  if (hasFocus()) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.water, 2));
    p.drawRoundedRect(QRectF(rect()).adjusted(2, 2, -2, -2), 4, 4);
  }
}

void NeedleView::paint_arc(QPainter& p, const QRectF& area, const Theme& t) const {
  constexpr double kNumbers = 34.0;  // above the arc
  Arc arc{};
  // As flat as the room wants: the ends lie 0.29 R below the top.
  const double room = area.height() - kNumbers - 14.0;
  arc.radius =
      std::min({0.62 * area.width(), room / (1.0 - std::cos(radians(kHalfAngle)) + 0.02), 760.0});
  arc.centre = QPointF(area.center().x(), area.top() + kNumbers + arc.radius);
  arc.full = kOverTolerance * needle_.tolerance;
  const double limit = arc.angle(needle_.tolerance);
  const double inner = arc.radius - kRing;
  p.setPen(Qt::NoPen);
  p.setBrush(t.sunk);
  p.drawPath(arc.ring(-kHalfAngle, kHalfAngle, arc.radius, inner));
  p.setBrush(t.passTint);
  p.drawPath(arc.ring(-limit, limit, arc.radius, inner));
  if (needle_.u_zero > 0.0) {
    QColor own = t.ink;
    own.setAlphaF(0.14F);
    p.setBrush(own);
    p.drawPath(arc.ring(arc.angle(-needle_.u_zero), arc.angle(needle_.u_zero), arc.radius, inner));
  }
  p.setBrush(t.pass);
  p.drawPath(arc.ring(-limit, limit, arc.radius, arc.radius - 5));
  // Ticks, and numbers at round values.
  p.setBrush(Qt::NoBrush);
  for (int i = -24; i <= 24; i += 2) {
    const double angle = kHalfAngle * i / 24.0;
    p.setPen(QPen(t.mute, 1.6));
    p.drawLine(arc.at(angle, inner + 2), arc.at(angle, inner + 10));
  }
  p.setPen(QPen(t.ink, 4, Qt::SolidLine, Qt::FlatCap));
  for (const double side : {-limit, limit})
    p.drawLine(arc.at(side, arc.radius + 4), arc.at(side, inner));
  p.setPen(QPen(t.ink, 2));
  p.drawLine(arc.at(0, arc.radius + 2), arc.at(0, inner));
  const double number = nice_step(arc.full, 3);
  for (double v = -2.0 * number; v <= 2.0 * number + 1e-9; v += number) {
    if (std::abs(v) > arc.full) continue;
    const bool is_zero = std::abs(v) < 1e-9 * number;
    p.setFont(sized(Type::figure, is_zero ? 24 : 19, QFont::Normal));
    p.setPen(is_zero ? t.ink : t.slate);
    const QPointF at = arc.at(arc.angle(v), arc.radius + 18);
    const int decimals = number < 1.0 ? 1 : 0;
    p.drawText(QRectF(at.x() - 50, at.y() - 16, 100, 32), Qt::AlignCenter,
               qt_text(number_text(v, decimals, !is_zero)));
  }
  p.setFont(type_font(Type::label));
  if (needle_.reads_right) {
    const double angle = arc.angle(*needle_.reads_right);
    p.setPen(QPen(t.mute, 2, Qt::DashLine));
    p.drawLine(arc.at(angle, arc.radius), arc.at(angle, inner));
    const bool is_covered = needle_.value && std::abs(arc.angle(*needle_.value) - angle) < 3.0;
    if (!is_covered) {
      p.setPen(t.mute);
      const QPointF foot = arc.at(angle, inner - 10);
      p.drawText(QRectF(foot.x() - 80, foot.y() - 2, 160, 16), Qt::AlignCenter,
                 tr("counter reads nominal"));
    }
  }
  if (needle_.original) {
    const QPointF at = arc.at(arc.angle(*needle_.original), (arc.radius + inner) / 2);
    p.setPen(QPen(t.mute, 2.5));
    p.drawEllipse(at, 8, 8);
    const QPointF foot = arc.at(arc.angle(*needle_.original), inner - 12);
    p.drawText(QRectF(foot.x() - 40, foot.y() - 8, 80, 16), Qt::AlignCenter, tr("original"));
  }
  if (!needle_.value || needle_.state == Needle::State::no_reading) return;
  const double length = std::min(150.0, arc.radius * 0.34);
  const auto pointer = [&](double value) {
    const double a = arc.angle(value);
    const double along = radians(a);
    const QPointF across(std::cos(along), std::sin(along));
    const QPointF tip = arc.at(a, arc.radius - 3);
    const QPointF foot = arc.at(a, arc.radius - 3 - length);
    return QPolygonF() << tip - 3 * across << tip + 3 * across << foot + 10 * across
                       << foot - 10 * across;
  };
  const bool is_tool = needle_.state == Needle::State::tool_on;
  if (is_tool && needle_.let_go_value) {
    QColor ghost = t.slate;
    ghost.setAlphaF(0.28F);
    p.setPen(Qt::NoPen);
    p.setBrush(ghost);
    p.drawPolygon(pointer(*needle_.let_go_value));
  }
  p.setPen(is_tool ? QPen(t.mute, 2) : QPen(Qt::NoPen));
  p.setBrush(is_tool                                    ? QBrush(t.sheet)
             : needle_.state == Needle::State::settling ? QBrush(t.mute)
                                                        : QBrush(t.ink));
  p.drawPolygon(pointer(*needle_.value));
}

void NeedleView::paint_words(QPainter& p, const QRectF& area, const Theme& t) const {
  const bool is_narrow = area.width() < 700;
  const int big = is_plain_ ? 120 : is_narrow ? 60 : 76;
  const int side = is_plain_ ? 48 : is_narrow ? 22 : 28;
  const bool is_counted = needle_.state == Needle::State::hands_off;
  const QFont figures = sized(Type::figure, big);
  p.setFont(figures);
  p.setPen(is_counted ? t.ink : t.mute);
  const bool has_value = needle_.value && needle_.state != Needle::State::no_reading;
  const QString text = has_value ? qt_text(needle_.readout) : tr("no count");
  const double w = QFontMetricsF(figures).horizontalAdvance(text);
  const double base = area.top() + 72;
  p.drawText(QPointF(area.center().x() - w / 2, base), text);
  p.setFont(sized(Type::figure, is_plain_ ? 40 : 26, QFont::Normal));
  p.setPen(t.slate);
  if (has_value) p.drawText(QPointF(area.center().x() + w / 2 + 12, base), qt_text(needle_.unit));
  p.setFont(sized(Type::title, side));
  p.setPen(t.ink);
  p.drawText(QPointF(20, base), qt_text(needle_.state_words));
  const double order = QFontMetricsF(p.font()).horizontalAdvance(qt_text(needle_.order));
  p.drawText(QPointF(area.right() - 20 - order, base), qt_text(needle_.order));
  p.setFont(type_font(Type::body));
  p.setPen(t.slate);
  const QRectF line(20, base + 8, area.width() - 40, 20);
  const double third = line.width() / 3;
  draw_elided(p, QRectF(line.left(), line.top(), third, 20), Qt::AlignLeft | Qt::AlignVCenter,
              qt_text(needle_.state_caption));
  draw_elided(p, QRectF(line.left() + third, line.top(), third, 20), Qt::AlignCenter,
              qt_text(needle_.caption));
  draw_elided(p, QRectF(line.right() - third, line.top(), third, 20),
              Qt::AlignRight | Qt::AlignVCenter, qt_text(needle_.order_caption));
}

void NeedleView::paint_history(QPainter& p, const QRectF& area, const Theme& t) const {
  constexpr double kLongS = 100.0;
  constexpr double kLaneHigh = 15.0;
  p.setPen(QPen(t.hair, 1));
  p.drawLine(area.topLeft(), area.topRight());
  const QRectF plot(52, area.top() + 24, area.width() - 72, area.height() - 42);
  const auto x = [&](double seconds) { return plot.right() + seconds / kLongS * plot.width(); };
  double least = -needle_.tolerance;
  double most = needle_.tolerance;
  for (const Needle::Point& h : needle_.history) {
    least = std::min(least, h.value);
    most = std::max(most, h.value);
  }
  const double room = 0.1 * (most - least);
  const auto y = [&](double v) {
    return plot.bottom() - (v - least + room) / (most - least + 2 * room) * plot.height();
  };
  p.setFont(type_font(Type::label));
  for (const Needle::Stretch& s : needle_.stretches) {
    const QRectF lane(x(s.from), area.top() + 6, std::max(1.0, x(s.to) - x(s.from) - 1), kLaneHigh);
    if (s.is_tool) {
      QColor behind = t.sunk;
      behind.setAlphaF(0.5F);
      p.fillRect(QRectF(lane.left(), plot.top(), lane.width(), plot.height()), behind);
    }
    p.fillRect(lane, s.is_tool ? t.sunk : t.waterTint);
    const QString word = qt_text(s.word);
    if (QFontMetricsF(p.font()).horizontalAdvance(word) + 6 > lane.width()) continue;
    p.setPen(s.is_tool ? t.mute : t.water);
    p.drawText(lane, Qt::AlignCenter, word);
  }
  p.setFont(type_font(Type::tick));
  for (const double v : {-needle_.tolerance, 0.0, needle_.tolerance}) {
    p.setPen(QPen(v == 0.0 ? t.hairStrong : t.ink, v == 0.0 ? 1 : 2));
    p.drawLine(QPointF(plot.left(), y(v)), QPointF(plot.right(), y(v)));
    p.setPen(t.mute);
    p.drawText(QRectF(0, y(v) - 8, 46, 16), Qt::AlignRight | Qt::AlignVCenter,
               qt_text(number_text(v, needle_.tolerance < 2.0 ? 1 : 0, v != 0.0)));
  }
  for (const Needle::Point& h : needle_.history) {
    const QPointF at(x(h.seconds), y(h.value));
    p.setPen(h.is_counted ? QPen(Qt::NoPen) : QPen(t.mute, 1.2));
    p.setBrush(h.is_counted ? QBrush(t.water) : QBrush(Qt::NoBrush));
    p.drawEllipse(at, h.is_counted ? 2.6 : 2.3, h.is_counted ? 2.6 : 2.3);
  }
  p.setPen(t.mute);
  for (int s = -100; s <= 0; s += 20)
    p.drawText(QRectF(x(s) - 30, plot.bottom() + 2, 60, 14), Qt::AlignCenter,
               s == 0 ? tr("now") : tr("%1 s").arg(qt_text(number_text(s, 0))));
}

void NeedleView::paint_steps(QPainter& p, const QRectF& area, const Theme& t) const {
  if (needle_.steps.empty()) return;
  p.setPen(QPen(t.hair, 1));
  p.drawLine(area.topLeft(), area.topRight());
  const double wide = (area.width() - 40) / static_cast<double>(needle_.steps.size());
  double left = 20;
  for (const Needle::Step& step : needle_.steps) {
    const QPointF mark(left + 7, area.top() + 16);
    const bool is_done = step.state == Needle::StepState::done;
    const bool is_now = step.state == Needle::StepState::now;
    p.setPen(QPen(is_now ? t.water : is_done ? t.slate : t.mute, is_now ? 2.4 : 1.4));
    p.setBrush(is_done ? QBrush(t.slate) : QBrush(Qt::NoBrush));
    p.drawEllipse(mark, 6.5, 6.5);
    if (is_done) {
      p.setPen(QPen(t.sheet, 1.6));
      p.drawPolyline(QPolygonF() << mark + QPointF(-3, 0) << mark + QPointF(-1, 2.6)
                                 << mark + QPointF(3.2, -2.6));
    }
    p.setFont(type_font(is_now ? Type::control_chosen : Type::control));
    p.setPen(is_now || is_done ? t.ink : t.slate);
    draw_elided(p, QRectF(left + 20, area.top() + 7, wide - 24, 18), Qt::AlignVCenter,
                qt_text(step.name));
    p.setFont(type_font(Type::label));
    p.setPen(t.mute);
    draw_elided(p, QRectF(left + 20, area.top() + 26, wide - 24, 16), Qt::AlignVCenter,
                qt_text(step.line));
    left += wide;
  }
}

}  // namespace heron
