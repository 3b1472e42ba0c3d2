#include "app/plot/pennant_marks.h"

#include <algorithm>
#include <cmath>

#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "report/flag_layout.h"

namespace heron {
namespace {

constexpr double kWordsAside = 10.0;  // px from a point to its words
constexpr double kPole = 4.0;         // px from a peak to the foot of its pole

/// One panel with its places.
class PennantMarks {
 public:
  PennantMarks(QCPAxisRect& rect, const PlotPanel& panel)
      : rect_(rect), area_(rect.rect()), panel_(panel) {
    if (const PlotLayer* layer = panel.find(PlotLayer::Kind::pennant)) place(*layer);
  }

  void draw(QCPPainter& p, const std::string& mark, const Theme& t) const {
    draw_floor_words(p, t);
    p.save();
    // Words of the outermost may reach into the margins.
    p.setClipRect(area_.adjusted(-12, -14, 40, 0));
    for (const PlotLayer& layer : panel_.layers) {
      if (layer.kind != PlotLayer::Kind::label) continue;
      for (const PlotPoint& point : layer.points) draw_label(p, point, t);
    }
    for (const bool worst : {false, true}) {  // the worst lies on top
      for (const Pennant& pennant : pennants_) {
        if (is_worst(*pennant.point) == worst) draw_pennant(p, pennant, mark, t);
      }
    }
    p.restore();
  }

  std::vector<QRectF> boxes() const {
    std::vector<QRectF> all;
    for (const PlotLayer& layer : panel_.layers) {
      if (layer.kind != PlotLayer::Kind::label) continue;
      for (const PlotPoint& point : layer.points) {
        if (!point.is_pale) all.push_back(label_box(point));
      }
    }
    for (const Pennant& pennant : pennants_) {
      if (pennant.is_shown) all.push_back(pennant.all);
    }
    return all;
  }

  std::optional<std::string> at(QPointF place) const {
    for (const Pennant& pennant : pennants_) {
      const bool is_on_pole = std::abs(place.x() - pennant.foot.x()) < 5 &&
                              place.y() > pennant.all.top() && place.y() < pennant.foot.y() + 12;
      if (pennant.is_shown && (is_on_pole || pennant.all.adjusted(-3, -3, 3, 1).contains(place)))
        return pennant.point->mark;
    }
    return std::nullopt;
  }

 private:
  struct Pennant {
    const PlotPoint* point;
    QPointF foot;
    QRectF all;
    bool is_shown;
  };

  double x_of(double x) const { return rect_.axis(QCPAxis::atBottom)->coordToPixel(x); }
  double y_of(double y) const { return rect_.axis(QCPAxis::atLeft)->coordToPixel(y); }

  QRectF label_box(const PlotPoint& point) const {
    const double w = QFontMetricsF(type_font(Type::label)).horizontalAdvance(qt_text(point.word));
    const double x = x_of(point.x);
    const double y = y_of(point.y);
    if (point.is_pale) return {x - w / 2, y - 19, w, 15};
    return {point.is_left ? x - kWordsAside - w : x + kWordsAside, y - 7, w, 15};
  }

  void place(const PlotLayer& layer) {
    const SpectrumFrame frame{[this](double x) { return x_of(x); },
                              [this](double y) { return y_of(y); },
                              area_.left(),
                              area_.right(),
                              area_.top(),
                              area_.bottom()};
    std::vector<LabelBox> labels;
    for (const QRectF& box : boxes())
      labels.push_back({box.x(), box.y(), box.width(), box.height()});
    const QFontMetricsF metrics(type_font(Type::tick));
    const std::vector<LabelBox> places =
        place_pennants(layer.points, mask_level(panel_), frame, labels,
                       [&](const std::string& w) { return metrics.horizontalAdvance(qt_text(w)); });
    for (std::size_t i = 0; i < places.size(); ++i) {
      const PlotPoint& point = layer.points[i];
      // Lines stay on pixels.
      const double x = std::round(x_of(point.x)) + 0.5;
      const double top = std::round(places[i].y) + 0.5;
      const QRectF all(point.is_left ? x - places[i].width : x, top, places[i].width,
                       places[i].height);
      pennants_.push_back({&point, {x, y_of(point.y) - kPole}, all, frame.shows(point.x)});
    }
  }

  void draw_label(QCPPainter& p, const PlotPoint& point, const Theme& t) const {
    const QRectF box = label_box(point);
    p.setFont(type_font(Type::label));
    if (point.is_pale) p.fillRect(box.adjusted(-2, 0, 2, 0), t.sheet);
    p.setPen(point.is_pale ? t.mute : t.slate);
    p.drawText(box, Qt::AlignCenter, qt_text(point.word));
  }

  /// Where a pennant stands in the floor its words give way.
  void draw_floor_words(QCPPainter& p, const Theme& t) const {
    const PlotLayer* floor = panel_.find(PlotLayer::Kind::floor);
    if (floor == nullptr || floor->points.empty() || floor->points.front().word.empty()) return;
    p.setFont(type_font(Type::label));
    p.setPen(t.mute);
    const QString words = qt_text(floor->points.front().word);
    const QRectF box(area_.left() + 6, area_.bottom() - 20, area_.width() - 12, 16);
    for (const auto side : {Qt::AlignLeft, Qt::AlignHCenter, Qt::AlignRight}) {
      const QRectF needed =
          p.boundingRect(box, side | Qt::AlignVCenter, words).adjusted(-2, 0, 2, 0);
      if (std::any_of(pennants_.begin(), pennants_.end(),
                      [&](const Pennant& x) { return x.is_shown && x.all.intersects(needed); }))
        continue;
      p.fillRect(needed, t.floorTint);
      p.drawText(box, side | Qt::AlignVCenter, words);
      return;
    }
  }

  static void draw_pennant(QCPPainter& p, const Pennant& pennant, const std::string& mark,
                           const Theme& t) {
    if (!pennant.is_shown) return;
    const PlotPoint& point = *pennant.point;
    const bool is_chosen = !mark.empty() && point.mark == mark;
    const bool is_judged = is_worst(point);
    const QColor colour = is_chosen   ? t.water
                          : is_judged ? verdict_colour(t, point.verdict)
                                      : t.slate;
    const bool is_filled = is_judged || is_chosen;
    const double d = point.is_left ? -1.0 : 1.0;
    const QPointF o(pennant.foot.x(), pennant.all.top());
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setPen(QPen(colour, is_chosen ? 2 : 1));
    if (pennant.foot.y() > o.y()) p.drawLine(pennant.foot, o);
    p.setRenderHint(QPainter::Antialiasing, true);
    p.setPen(QPen(colour, 1));
    p.setBrush(is_filled ? colour : t.sheet);
    p.drawPolygon(QPolygonF({o, o + QPointF(kPennantWidth * d, 0),
                             o + QPointF((kPennantWidth - 4) * d, kPennantHeight / 2),
                             o + QPointF(kPennantWidth * d, kPennantHeight),
                             o + QPointF(0, kPennantHeight)}));
    p.setFont(strong_label());
    p.setPen(is_filled ? (t.is_dark ? t.sunk : QColor(Qt::white)) : t.ink);
    const QRectF cloth(d > 0 ? o.x() : o.x() - kPennantWidth, o.y(), kPennantWidth, kPennantHeight);
    p.drawText(cloth.adjusted(d > 0 ? 0 : 3, 0, d > 0 ? -3 : 0, 0), Qt::AlignCenter,
               qt_text(point.word));
    QFont tick = type_font(Type::tick);
    if (is_filled) tick.setWeight(QFont::DemiBold);
    p.setFont(tick);
    p.setPen(is_filled ? colour : t.slate);
    // From the pole outwards; a strong face may reach a little further than its box.
    const QRectF box(d > 0 ? o.x() + 4 : o.x() - 84, o.y() + 15, 80, 15);
    const auto flags = (d > 0 ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter;
    const QString words = qt_text(pennant_words(point));
    p.fillRect(p.boundingRect(box, flags, words).adjusted(-2, 0, 2, 0), t.sheet);
    p.drawText(box, flags, words);
  }

  QCPAxisRect& rect_;
  QRectF area_;
  const PlotPanel& panel_;
  std::vector<Pennant> pennants_;
};

}  // namespace

bool is_pennant_mark(const PlotLayer& layer) {
  return layer.kind == PlotLayer::Kind::pennant || layer.kind == PlotLayer::Kind::label ||
         layer.kind == PlotLayer::Kind::floor;
}

void draw_pennant_marks(QCPPainter& painter, QCPAxisRect& rect, const PlotPanel& panel,
                        const std::string& mark, const Theme& theme) {
  PennantMarks(rect, panel).draw(painter, mark, theme);
}

void draw_floor(QCPPainter& painter, QCPAxisRect& rect, const PlotPanel& panel,
                const Theme& theme) {
  const PlotLayer* floor = panel.find(PlotLayer::Kind::floor);
  if (floor == nullptr || floor->points.size() < 2) return;
  const QRectF area(rect.rect());
  QPolygonF below;
  for (const PlotPoint& p : floor->points) {
    const double x = rect.axis(QCPAxis::atBottom)->coordToPixel(p.x);
    const double y = rect.axis(QCPAxis::atLeft)->coordToPixel(p.y);
    below << QPointF(x, std::clamp(y, area.top(), area.bottom()));
  }
  below << QPointF(below.back().x(), area.bottom()) << QPointF(below.front().x(), area.bottom());
  painter.save();
  painter.setClipRect(area);
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme.floorTint);
  painter.drawPolygon(below);
  painter.restore();
}

std::vector<QRectF> label_boxes(QCPAxisRect& rect, const PlotPanel& panel) {
  return PennantMarks(rect, panel).boxes();
}

std::optional<std::string> pennant_at(QCPAxisRect& rect, const PlotPanel& panel, QPointF point) {
  return PennantMarks(rect, panel).at(point);
}

}  // namespace heron
