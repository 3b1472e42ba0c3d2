#include "app/plot/place_marks.h"

#include <algorithm>
#include <cmath>

#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "core/method/plot_scale.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

/// One panel while it is drawn.
class PlaceMarks {
 public:
  PlaceMarks(QCPPainter& p, QCPAxisRect& rect, const PlotPanel& panel, const Theme& theme)
      : p_(p), rect_(rect), area_(rect.rect()), panel_(panel), t_(theme) {}

  template <class Draw>
  void each(PlotLayer::Kind kind, const Draw& draw) const {
    for (const PlotLayer& layer : panel_.layers) {
      if (layer.kind != kind) continue;
      for (const PlotPoint& point : layer.points) draw(point);
    }
  }

  void draw_column(const PlotPoint& place) const {
    if (place.verdict == Verdict::not_taken) return;
    const double x = x_of(place.x);
    const double top =
        std::clamp(rect_.axis(QCPAxis::atLeft)->coordToPixel(place.y), area_.top(), area_.bottom());
    p_.fillRect(QRectF(x - 9, top, 18, area_.bottom() - top), t_.passTint);
  }

  void draw_beyond(double handle) const {
    QColor beyond = t_.sunk;
    beyond.setAlphaF(0.75F);
    const double x = x_of(handle);
    if (x < area_.right())
      p_.fillRect(QRectF(x, area_.top(), area_.right() - x, area_.height()), beyond);
  }

  void draw_place(const PlotPoint& place) const {
    const double x = x_of(place.x);
    const QString words = qt_text(place.word);
    const bool is_good = place.verdict == Verdict::pass;
    p_.setFont(is_good ? strong_label() : type_font(Type::label));
    const double w = QFontMetricsF(p_.font()).horizontalAdvance(words) + (is_good ? 16 : 8);
    const QRectF box(std::clamp(x - w / 2, area_.left(), area_.right() - w), area_.bottom() - 42, w,
                     17);
    if (is_good) {
      p_.setPen(Qt::NoPen);
      p_.setBrush(t_.passTint);
      p_.drawRoundedRect(box, 8.5, 8.5);
      p_.setPen(t_.pass);
    } else {
      p_.fillRect(QRectF(x - 0.5, area_.bottom() - 24, 1, 24), t_.slate);
      p_.setPen(t_.slate);
    }
    p_.drawText(box, Qt::AlignCenter, words);
  }

  /// A line with its band.
  void draw_moment(const PlotPoint& moment) const {
    const double x = x_of(moment.x);
    if (x < area_.left() || x > area_.right()) return;
    QColor band = t_.ink;
    band.setAlphaF(0.10F);
    const double from = std::max(area_.left(), x_of(moment.x - moment.expanded));
    const double to = std::min(area_.right(), x_of(moment.x + moment.expanded));
    p_.fillRect(QRectF(from, area_.top() + 22, to - from, area_.height() - 22), band);
    p_.fillRect(QRectF(x - 0.75, area_.top(), 1.5, area_.height()), t_.ink);
  }

  /// Its flag, which flies to the emptier side.
  void draw_moment_flag(const PlotPoint& moment, double& taken_right) const {
    const double x = x_of(moment.x);
    if (x < area_.left() || x > area_.right()) return;
    if (moment.word.empty()) return;  // told in another panel
    p_.setFont(strong_label());
    const QString words = qt_text(moment.word);
    const double w = QFontMetricsF(p_.font()).horizontalAdvance(words) + 20;
    const bool to_left = x - w > area_.left() && (moment.is_left || x > area_.center().x());
    const double left = to_left ? x - w : x;
    const double y = left < taken_right + 6 ? area_.top() + 22 : area_.top() - 2;
    QPolygonF flag;
    if (to_left)
      flag << QPointF(x, y) << QPointF(left, y) << QPointF(left + 5, y + 10)
           << QPointF(left, y + 20) << QPointF(x, y + 20);
    else
      flag << QPointF(left, y) << QPointF(left + w, y) << QPointF(left + w - 5, y + 10)
           << QPointF(left + w, y + 20) << QPointF(left, y + 20);
    p_.setPen(QPen(t_.ink, 1.2));
    p_.setBrush(t_.sheet);
    p_.drawPolygon(flag);
    p_.drawText(QRectF(left, y, w, 20), Qt::AlignCenter, words);
    taken_right = left + w;
  }

  /// A ring on the trace, and a flag above it that flies outward.
  void draw_pole(const PlotPoint& place) const {
    constexpr double kAbove = 38.0;
    constexpr double kFlag = 18.0;
    const double x = x_of(place.x);
    if (x < area_.left() || x > area_.right()) return;
    const double y = rect_.axis(QCPAxis::atLeft)->coordToPixel(place.y);
    const double lanes = panel_.lanes.empty() ? -8.0 : 42.0;  // below the names of bands
    const double top = std::max(area_.top() + lanes, y - kAbove - kFlag);
    p_.setFont(strong_label());
    const QString words = qt_text(place.word);
    const double w = QFontMetricsF(p_.font()).horizontalAdvance(words) + 18;
    const double way = place.is_left ? -1.0 : 1.0;
    p_.setPen(QPen(t_.slate, 1));
    p_.drawLine(QPointF(x, y - 3), QPointF(x, top));
    QPolygonF flag;
    flag << QPointF(x, top) << QPointF(x + way * w, top)
         << QPointF(x + way * (w - 5), top + kFlag / 2) << QPointF(x + way * w, top + kFlag)
         << QPointF(x, top + kFlag);
    p_.setBrush(t_.sheet);
    p_.drawPolygon(flag);
    p_.drawEllipse(QPointF(x, y), 3.0, 3.0);
    p_.setPen(t_.ink);
    p_.drawText(QRectF(place.is_left ? x - w + 2 : x, top, w - 2, kFlag), Qt::AlignCenter, words);
  }

  void draw_ring(const PlotPoint& place) const {
    constexpr double kRing = 2.7;
    const QPointF at(x_of(place.x), rect_.axis(QCPAxis::atLeft)->coordToPixel(place.y));
    if (!area_.contains(at)) return;
    p_.setPen(QPen(place.is_pale ? t_.slate : t_.ink, 1.2));
    p_.setBrush(t_.sheet);
    p_.drawEllipse(at, kRing, kRing);
  }

  void draw_handle(double at, const QString& words) const {
    const double x = std::round(x_of(at));
    p_.fillRect(QRectF(x - 1, area_.top(), 2, area_.height()), t_.water);
    p_.setFont(strong_label());
    const double w = QFontMetricsF(p_.font()).horizontalAdvance(words) + 28;
    const QRectF grip(std::min(x - 1, area_.right() + 50 - w), area_.top() - 4, w, 22);
    p_.setPen(QPen(t_.water, 1.5));
    p_.setBrush(t_.sheet);
    p_.drawRoundedRect(grip, 6, 6);
    p_.setPen(Qt::NoPen);
    p_.setBrush(t_.water);
    for (int row = 0; row < 3; ++row) {
      for (int dot = 0; dot < 2; ++dot)
        p_.drawEllipse(QPointF(grip.left() + 9 + 4 * dot, grip.center().y() - 4 + 4 * row), 1, 1);
    }
    p_.setPen(t_.water);
    p_.drawText(grip.adjusted(20, 0, 0, 0), Qt::AlignVCenter, words);
  }

 private:
  double x_of(double x) const { return rect_.axis(QCPAxis::atBottom)->coordToPixel(x); }

  QCPPainter& p_;
  QCPAxisRect& rect_;
  QRectF area_;
  const PlotPanel& panel_;
  const Theme& t_;
};

std::optional<double> handle_at(const PlotPanel& panel, std::optional<double> dragged) {
  const PlotLayer* handle = panel.find(PlotLayer::Kind::handle);
  if (handle == nullptr) return std::nullopt;
  return dragged ? *dragged : handle->points.front().x;
}

}  // namespace

bool is_place_mark(const PlotLayer& layer) {
  return layer.kind == PlotLayer::Kind::place || layer.kind == PlotLayer::Kind::moment ||
         layer.kind == PlotLayer::Kind::handle || layer.kind == PlotLayer::Kind::pole ||
         layer.kind == PlotLayer::Kind::ring;
}

QString ring_words_at(QCPAxisRect& rect, const PlotPanel& panel, QPointF place) {
  constexpr double kReach = 7.0;
  QStringList words;
  for (const PlotLayer& layer : panel.layers) {
    if (layer.kind != PlotLayer::Kind::ring) continue;
    for (const PlotPoint& p : layer.points) {
      const QPointF at(rect.axis(QCPAxis::atBottom)->coordToPixel(p.x),
                       rect.axis(QCPAxis::atLeft)->coordToPixel(p.y));
      if (QLineF(at, place).length() < kReach) words << qt_text(p.word);
    }
  }
  return words.join(QChar('\n'));
}

void draw_places_behind(QCPPainter& painter, QCPAxisRect& rect, const PlotPanel& panel,
                        std::optional<double> handle, const Theme& theme) {
  const PlaceMarks marks(painter, rect, panel, theme);
  marks.each(PlotLayer::Kind::place, [&](const PlotPoint& p) { marks.draw_column(p); });
  if (const auto at = handle_at(panel, handle)) marks.draw_beyond(*at);
}

void draw_place_marks(QCPPainter& painter, QCPAxisRect& rect, const PlotPanel& panel,
                      std::optional<double> handle, const Theme& theme) {
  const PlaceMarks marks(painter, rect, panel, theme);
  double taken_right = -1e9;
  // No line runs through the words of another.
  marks.each(PlotLayer::Kind::moment, [&](const PlotPoint& p) { marks.draw_moment(p); });
  marks.each(PlotLayer::Kind::moment,
             [&](const PlotPoint& p) { marks.draw_moment_flag(p, taken_right); });
  marks.each(PlotLayer::Kind::place, [&](const PlotPoint& p) { marks.draw_place(p); });
  marks.each(PlotLayer::Kind::ring, [&](const PlotPoint& p) { marks.draw_ring(p); });
  marks.each(PlotLayer::Kind::pole, [&](const PlotPoint& p) { marks.draw_pole(p); });
  if (const auto at = handle_at(panel, handle)) {
    const PlotLayer& layer = *panel.find(PlotLayer::Kind::handle);
    marks.draw_handle(*at, qt_text(layer.name + " " + handle_words(layer, *at)));
  }
}

}  // namespace heron
