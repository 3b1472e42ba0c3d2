#include "app/plot/stem_marks.h"

#include <algorithm>
#include <cmath>

#include "app/paint/figure_text.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

QString level_words(double db) {
  return qt_text(number_text(db, 1));
}

/// One panel while it is drawn; knows where words already stand.
class StemMarks {
 public:
  StemMarks(QCPPainter& p, QCPAxisRect& rect, const PlotPanel& panel,
            std::optional<std::size_t> chosen, const Theme& theme)
      : p_(p), rect_(rect), area_(rect.rect()), panel_(panel), chosen_(chosen), theme_(theme) {}

  void draw() {
    for (const PlotLayer& layer : panel_.layers) {
      if (layer.kind == PlotLayer::Kind::flag) flag_ = &layer;
    }
    for (const PlotLayer& layer : panel_.layers) {
      if (layer.kind == PlotLayer::Kind::mask) draw_mask(layer);
    }
    if (flag_ != nullptr) draw_flag();
    std::vector<const PlotPoint*> shown;
    const QCPRange range = rect_.axis(QCPAxis::atBottom)->range();
    for (const PlotLayer& layer : panel_.layers) {
      if (layer.kind != PlotLayer::Kind::stem) continue;
      for (const PlotPoint& point : layer.points) {
        if (range.contains(point.x)) shown.push_back(&point);
      }
    }
    for (const PlotPoint* point : shown) draw_stem(*point);
    for (const PlotPoint* point : shown) draw_head(*point);
    draw_levels(shown);
  }

 private:
  double x_of(double x) const { return rect_.axis(QCPAxis::atBottom)->coordToPixel(x); }
  double y_of(double y) const {
    return std::clamp(rect_.axis(QCPAxis::atLeft)->coordToPixel(y), area_.top(), area_.bottom());
  }
  bool is_chosen(const PlotPoint& point) const { return point.step && point.step == chosen_; }
  bool is_open(const PlotPoint& point) const { return point.bound != Bound::none || point.is_pale; }
  QColor colour_of(const PlotPoint& point) const {
    if (point.is_pale) return theme_.mute;
    const bool is_bad = point.verdict == Verdict::fail || point.verdict == Verdict::too_close;
    return is_bad ? verdict_colour(theme_, point.verdict) : theme_.water;
  }

  void draw_mask(const PlotLayer& layer) {
    p_.setFont(strong_label());
    double last_y = 0.0;
    double words_end = -1e9;
    const auto& points = layer.points;
    for (std::size_t i = 0; i + 1 < points.size(); i += 2) {
      if (x_of(points[i + 1].x) < area_.left() || x_of(points[i].x) > area_.right()) continue;
      const double left = std::max(std::round(x_of(points[i].x)), area_.left());
      const double right = std::min(std::round(x_of(points[i + 1].x)), area_.right());
      const double y = std::round(y_of(points[i].y));
      p_.fillRect(QRectF(left, y - 1, right - left, 2), theme_.ink);
      mask_lines_.emplace_back(left, y - 1.5, right - left, 3);
      if (i > 0 && points[i - 1].x == points[i].x && left > area_.left())
        p_.fillRect(QRectF(left - 1, std::min(y, last_y) - 1, 2, std::abs(y - last_y) + 2),
                    theme_.ink);
      else if (left > area_.left() + 1)
        p_.fillRect(QRectF(left, y - 1, 2, 7), theme_.ink);
      const bool ends = i + 2 >= points.size() || points[i + 2].x != points[i + 1].x;
      if (ends && right < area_.right() - 1)
        p_.fillRect(QRectF(right - 2, y - 1, 2, 7), theme_.ink);
      last_y = y;
      const bool is_worded = !points.front().word.empty();
      const QString words = is_worded ? qt_text(points[i].word) : level_words(points[i].y);
      if (!words.isEmpty()) words_end = draw_mask_level(words, left, right, y, words_end);
    }
  }

  /// Over its piece where there is room; returns where the words before it end.
  double draw_mask_level(const QString& words, double left, double right, double y,
                         double words_end) {
    const double w = QFontMetricsF(strong_label()).horizontalAdvance(words);
    double at = std::max(left + 6, words_end + 10);
    // The words of a flag lie over the mask where both stand high.
    const QRectF spoken = flag_ != nullptr ? flag_words_box() : QRectF();
    if (spoken.intersects(QRectF(at, y - 17, w, 15))) at = spoken.right() + 6;
    if (at + w > right) return words_end;
    p_.setPen(theme_.ink);
    p_.drawText(QPointF(at, y - 5), words);
    taken_.emplace_back(at - 2, y - 17, w + 4, 15);
    return at + w;
  }

  QRectF flag_words_box() const {
    const PlotPoint& point = flag_->points.front();
    const double x = std::round(x_of(point.x));
    const double w = QFontMetricsF(type_font(Type::label)).horizontalAdvance(qt_text(flag_->name));
    const double left = x + w + 20 < area_.right() ? x + 12 : x - 12 - w;
    return {left - 2, area_.top() - 2, w + 4, point.word.empty() ? 16.0 : 32.0};
  }

  void draw_flag() {
    const PlotPoint& point = flag_->points.front();
    const double x = std::round(x_of(point.x));
    if (x < area_.left() || x > area_.right()) return;
    p_.fillRect(QRectF(x - 1.25, area_.top() + 6, 2.5, area_.height() - 6), theme_.water);
    p_.setPen(Qt::NoPen);
    p_.setBrush(theme_.water);
    const double top = area_.top();
    p_.drawPolygon(QPolygonF({{x, top - 2}, {x - 5.5, top + 10}, {x + 5.5, top + 10}}));
    const QRectF box = flag_words_box();
    p_.setFont(type_font(Type::label));
    p_.fillRect(box, theme_.sheet);
    p_.setPen(theme_.slate);
    p_.drawText(QPointF(box.left() + 2, top + 10), qt_text(flag_->name));
    if (!point.word.empty())
      draw_figure_text(p_, {box.left() + 2, top + 26}, qt_text(point.word), Type::figure_small,
                       Type::label, theme_.ink);
    taken_.push_back(box);
  }

  void draw_stem(const PlotPoint& point) {
    const double x = std::round(x_of(point.x)) + 0.5;
    const double y = y_of(point.y);
    const QColor colour = colour_of(point);
    p_.setPen(QPen(colour, is_chosen(point) ? 2.6 : 1.6));
    p_.drawLine(QPointF(x, y), QPointF(x, area_.bottom()));
    if (point.expanded > 0.0) {
      QColor tint = colour;
      tint.setAlphaF(0.38F);
      double top = y_of(point.y + point.expanded);
      double bottom = y_of(point.y - point.expanded);
      if (bottom - top < 5.0) {
        top = y - 2.5;
        bottom = y + 2.5;
      }
      p_.setPen(QPen(tint, 5, Qt::SolidLine, Qt::RoundCap));
      p_.drawLine(QPointF(x, top), QPointF(x, bottom));
    }
    if (point.before) {
      p_.setPen(QPen(theme_.mute, 1.4));
      p_.drawLine(QPointF(x - 7.5, y_of(*point.before)), QPointF(x + 7.5, y_of(*point.before)));
    }
    if (!point.word.empty()) {
      p_.setFont(strong_label());
      p_.setPen(colour == theme_.water ? theme_.ink : colour);
      p_.drawText(QPointF(x + 4, area_.bottom() - 5), qt_text(point.word));
    }
  }

  void draw_head(const PlotPoint& point) {
    const QPointF at(std::round(x_of(point.x)) + 0.5, y_of(point.y));
    const Verdict v = point.verdict;
    if (is_open(point)) {
      p_.setPen(QPen(v == Verdict::not_taken ? theme_.mute : verdict_colour(theme_, v), 1.6));
      p_.setBrush(theme_.sheet);
      p_.drawEllipse(at, 4.5, 4.5);
    } else if (v == Verdict::not_taken) {
      p_.setPen(Qt::NoPen);
      p_.setBrush(theme_.water);
      p_.drawEllipse(at, 4.0, 4.0);
    } else {
      draw_verdict(p_, at, v == Verdict::fail ? 12 : 10, v, theme_);
    }
    if (is_chosen(point)) {
      p_.setPen(QPen(theme_.water, 1.5));
      p_.setBrush(Qt::NoBrush);
      p_.drawEllipse(at, 9, 9);
    }
  }

  /// Right of the head; left where the next line is too near; above where both are.
  void draw_levels(std::vector<const PlotPoint*> shown) {
    p_.setFont(type_font(Type::figure_small));
    std::vector<double> stems;
    for (const PlotPoint* point : shown) stems.push_back(x_of(point->x));
    if (flag_ != nullptr) stems.push_back(x_of(flag_->points.front().x));
    // The worst first: where there is no room for all, it keeps its words.
    std::stable_sort(shown.begin(), shown.end(), [](const PlotPoint* a, const PlotPoint* b) {
      if (a->verdict != b->verdict) return worse(a->verdict, b->verdict) == a->verdict;
      return a->y > b->y;
    });
    for (const PlotPoint* point : shown) draw_level(*point, stems);
  }

  void draw_level(const PlotPoint& point, const std::vector<double>& stems) {
    const QString words =
        (point.bound == Bound::upper ? QString::fromUtf8("≤ ") : QString()) + level_words(point.y);
    const double w = QFontMetricsF(p_.font()).horizontalAdvance(words);
    const double x = x_of(point.x);
    const double y = y_of(point.y);
    const double aside = is_chosen(point) ? 13 : 10;
    const QRectF places[] = {{x + aside, y - 8, w, 15},
                             {x - aside - w, y - 8, w, 15},
                             {x - w / 2, y - 25, w, 15},
                             {x + aside, y + 6, w, 15},
                             {x - aside - w, y + 6, w, 15}};
    constexpr int kAbove = 2;
    for (int k = 0; k < 10; ++k) {
      const QRectF& place = places[k % 5];
      const bool is_beside = k % 5 != kAbove;
      if (!is_free(place, is_beside ? stems : std::vector<double>(), x, k >= 5)) continue;
      p_.fillRect(place.adjusted(-1, 1, 1, -1), theme_.sheet);
      p_.setPen(colour_of(point) == theme_.water ? theme_.slate : colour_of(point));
      p_.drawText(place, Qt::AlignCenter, words);
      taken_.push_back(place);
      return;
    }
  }

  bool is_free(const QRectF& box, const std::vector<double>& stems, double own_x,
               bool may_cross_mask) const {
    if (box.left() < area_.left() || box.right() > area_.right() + 10) return false;
    const auto hits = [&](const QRectF& other) { return other.intersects(box); };
    const auto is_crossed = [&](double other) {
      return std::abs(other - own_x) > 1.0 && other > box.left() - 6 && other < box.right() + 6;
    };
    if (std::any_of(stems.begin(), stems.end(), is_crossed)) return false;
    if (!may_cross_mask && std::any_of(mask_lines_.begin(), mask_lines_.end(), hits)) return false;
    return std::none_of(taken_.begin(), taken_.end(), hits);
  }

  QCPPainter& p_;
  QCPAxisRect& rect_;
  QRectF area_;
  const PlotPanel& panel_;
  std::optional<std::size_t> chosen_;
  const Theme& theme_;
  const PlotLayer* flag_ = nullptr;
  std::vector<QRectF> taken_;  ///< by words
  std::vector<QRectF> mask_lines_;
};

}  // namespace

bool is_stem_mark(const PlotLayer& layer) {
  return layer.kind == PlotLayer::Kind::stem || layer.kind == PlotLayer::Kind::mask ||
         layer.kind == PlotLayer::Kind::flag;
}

void draw_stem_marks(QCPPainter& painter, QCPAxisRect& rect, const PlotPanel& panel,
                     std::optional<std::size_t> chosen, const Theme& theme) {
  StemMarks(painter, rect, panel, chosen, theme).draw();
}

}  // namespace heron
