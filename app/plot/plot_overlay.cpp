#include "app/plot/plot_overlay.h"

#include <algorithm>

#include "app/paint/figure_text.h"
#include "app/plot/plot_view.h"
#include "app/plot/stem_marks.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/traces.h"

namespace heron {
namespace {

constexpr double kNameHeight = 17.0;
constexpr double kAside = 10.0;      // px between points at one place
constexpr double kHalfPiece = 13.0;  // px of a limit beside its point

}  // namespace

/// Words, names, and the marks that a graph cannot draw.
class PlotOverlay : public QCPAbstractItem {
 public:
  PlotOverlay(PlotView* view, bool is_behind)
      : QCPAbstractItem(view), view_(view), is_behind_(is_behind) {
    setClipToAxisRect(false);
  }
  double selectTest(const QPointF&, bool, QVariant*) const override { return -1; }

 protected:
  void draw(QCPPainter* painter) override {
    for (std::size_t i = 0; i < view_->rects_.size(); ++i) {
      const PlotPanel& panel = view_->plot_.panels[i];
      QCPAxisRect* rect = view_->rects_[i];
      if (is_behind_) {
        for (const PlotRange& range : panel.ranges) {
          if (is_shown(range)) draw_range(*painter, rect, range);
        }
        draw_cursor(*painter, rect, panel);
      } else {
        draw_panel(*painter, rect, panel, i + 1 == view_->rects_.size());
      }
    }
    if (!is_behind_ && !view_->plot_.has_points() && !view_->rects_.empty()) draw_empty(*painter);
  }

 private:
  const Theme& theme() const { return theme_of(view_); }
  static double x_of(QCPAxisRect* rect, double x) {
    return rect->axis(QCPAxis::atBottom)->coordToPixel(x);
  }
  static double y_of(QCPAxisRect* rect, double y) {
    return rect->axis(QCPAxis::atLeft)->coordToPixel(y);
  }

  /// Of all steps, or of the chosen one.
  template <class Mark>
  bool is_shown(const Mark& mark) const {
    return !mark.step || mark.step == view_->chosen_;
  }

  static double inside(QCPAxisRect* rect, double x) {
    return std::clamp(x_of(rect, x), static_cast<double>(rect->left()),
                      static_cast<double>(rect->right()));
  }

  void draw_range(QCPPainter& p, QCPAxisRect* rect, const PlotRange& range) const {
    const QRectF r(rect->rect());
    const double left = inside(rect, range.from);
    const double right = inside(rect, range.to);
    if (right - left < 2.0) return;
    if (range.is_tinted) p.fillRect(QRectF(left, r.top(), right - left, r.height()), theme().strip);
    p.setFont(type_font(Type::label));
    p.setPen(theme().mute);
    const QString words = qt_text(range.word);
    if (right - left > QFontMetricsF(p.font()).horizontalAdvance(words) + 6)
      p.drawText(QRectF(left, r.bottom() - 18, right - left, 16), Qt::AlignCenter, words);
    p.setPen(QPen(theme().hairStrong, 1, Qt::DashLine));
    for (const double x : {left, right}) p.drawLine(QPointF(x, r.top()), QPointF(x, r.bottom()));
  }

  void draw_bracket(QCPPainter& p, QCPAxisRect* rect, const PlotBracket& bracket) const {
    const QRectF r(rect->rect());
    const double left = inside(rect, bracket.from);
    const double right = inside(rect, bracket.to);
    const double y = r.top() + 12;
    p.setPen(QPen(theme().ink, 1.5));
    p.drawLine(QPointF(left, y), QPointF(right, y));
    for (const double x : {left, right}) p.drawLine(QPointF(x, y - 5), QPointF(x, y + 5));
    QFont strong = type_font(Type::label);
    strong.setWeight(QFont::DemiBold);
    p.setFont(strong);
    const QString words = qt_text(bracket.words);
    const double w = QFontMetricsF(strong).horizontalAdvance(words);
    const double at =
        std::clamp((left + right - w) / 2, r.left(), std::max(r.left(), r.right() - w));
    p.fillRect(QRectF(at - 4, y + 4, w + 8, 17), theme().sheet);
    p.setPen(theme().ink);
    p.drawText(QPointF(at, y + 17), words);
  }

  void draw_cursor(QCPPainter& p, QCPAxisRect* rect, const PlotPanel& panel) const {
    if (!view_->chosen_) return;
    for (const PlotLayer& layer : panel.layers) {
      if (is_stem_mark(layer)) continue;  // a ring marks the chosen one
      for (const PlotPoint& point : layer.points) {
        if (point.step != view_->chosen_) continue;
        const double x = x_of(rect, point.x);
        if (x < rect->left() || x > rect->right()) continue;
        p.fillRect(QRectF(x - 9, rect->top(), 18, rect->height()), theme().waterTint);
        return;
      }
    }
  }

  void draw_panel(QCPPainter& p, QCPAxisRect* rect, const PlotPanel& panel, bool is_last) const {
    const QRectF r(rect->rect());
    p.setFont(type_font(Type::label));
    p.setPen(theme().slate);
    p.drawText(QRectF(15, r.top() - 25, 300, 18), Qt::AlignVCenter, qt_text(panel.y.title));
    if (rect == view_->rects_.front() && !view_->plot_.note.empty()) {
      p.setPen(theme().mute);
      const double left = 25 + QFontMetricsF(p.font()).horizontalAdvance(qt_text(panel.y.title));
      // Where no names stand at the right, there is more room.
      const double right = view_->right_ < 60 ? view_->width() - 20.0 : r.right();
      p.drawText(QRectF(left, r.top() - 25, right - left, 18), Qt::AlignRight | Qt::AlignVCenter,
                 qt_text(view_->plot_.note));
      p.setPen(theme().slate);
    }
    if (is_last) {
      const QCPRange range = rect->axis(QCPAxis::atBottom)->range();
      const PlotScale scale(range.lower, range.upper, view_->plot_.x.is_logarithmic);
      const std::string& base = view_->plot_.x.unit;
      QFont strong = type_font(Type::label);
      strong.setWeight(QFont::DemiBold);
      p.setFont(strong);
      p.drawText(QRectF(r.right() + 12, r.bottom() + 6, view_->right_ - 16, 18), Qt::AlignVCenter,
                 qt_text(base.empty() ? view_->plot_.x.title : scale.unit(base)));
    }
    p.setClipRect(r.adjusted(-6, -2, 6, 2));
    const auto loose = std::count_if(panel.layers.begin(), panel.layers.end(), is_loose);
    double aside = -kAside * static_cast<double>(loose - 1) / 2.0;
    for (const PlotLayer& layer : panel.layers) {
      if (layer.kind == PlotLayer::Kind::curve || is_stem_mark(layer)) continue;
      if (layer.kind != PlotLayer::Kind::trace) {
        draw_level(p, rect, layer);
        continue;
      }
      draw_points(p, rect, layer, is_loose(layer) ? aside : 0.0);
      if (is_loose(layer)) aside += kAside;
    }
    p.setClipping(false);
    draw_stem_marks(p, *rect, panel, view_->chosen_, theme());
    for (const PlotBracket& bracket : panel.brackets) {
      if (is_shown(bracket)) draw_bracket(p, rect, bracket);
    }
    double y = r.top() + 8;
    for (const PlotLayer& layer : panel.layers) {
      if (layer.is_empty() || is_stem_mark(layer)) continue;
      draw_name(p, r, layer, y);
      y += kNameHeight;
    }
  }

  /// Points that no line joins stand side by side where they share a place.
  static bool is_loose(const PlotLayer& layer) {
    return layer.kind == PlotLayer::Kind::trace && !layer.is_joined;
  }

  void draw_points(QCPPainter& p, QCPAxisRect* rect, const PlotLayer& layer, double aside) const {
    const QColor colour = trace_pen(theme(), layer.trace).color();
    QColor pale = colour;
    pale.setAlphaF(0.38F);
    for (const PlotPoint& point : layer.points) {
      const QPointF at(x_of(rect, point.x) + aside, y_of(rect, point.y));
      if (point.expanded > 0.0 && point.bound == Bound::none) {
        const double low = y_of(rect, point.y - point.expanded);
        const double high = y_of(rect, point.y + point.expanded);
        p.fillRect(QRectF(at.x() - 2.5, high, 5, low - high), pale);
      }
      p.setPen(QPen(colour, 1.6));
      p.setBrush(point.bound == Bound::none ? QBrush(colour) : QBrush(theme().sheet));
      p.drawEllipse(at, 4.0, 4.0);
      // Which way the truth may lie.
      if (point.bound != Bound::none) {
        const double way = point.bound == Bound::upper ? 1.0 : -1.0;
        p.drawLine(at + QPointF(0, 5 * way), at + QPointF(0, 13 * way));
      }
    }
  }

  /// From point to point with hooks at its ends, or a short piece at each.
  void draw_level(QCPPainter& p, QCPAxisRect* rect, const PlotLayer& layer) const {
    if (layer.points.empty()) return;
    const bool is_limit = layer.kind == PlotLayer::Kind::limit;
    QPolygonF line;
    for (const PlotPoint& point : layer.points) {
      const QPointF at(x_of(rect, point.x), y_of(rect, point.y));
      if (!layer.is_joined)
        draw_piece(p, {at - QPointF(kHalfPiece, 0), at + QPointF(kHalfPiece, 0)}, is_limit);
      line << at;
    }
    if (!layer.is_joined) return;
    line.prepend(line.front() - QPointF(kHalfPiece, 0));
    line << line.back() + QPointF(kHalfPiece, 0);
    draw_piece(p, line, is_limit);
  }

  void draw_piece(QCPPainter& p, const QPolygonF& line, bool is_limit) const {
    QPen pen(is_limit ? theme().ink : theme().slate, is_limit ? 2.0 : 1.25);
    if (!is_limit) pen.setDashPattern({5, 3});
    p.setPen(pen);
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(line);
    if (!is_limit) return;
    for (const QPointF& end : {line.front(), line.back()}) p.drawLine(end, end + QPointF(0, 6));
  }

  void draw_name(QCPPainter& p, const QRectF& r, const PlotLayer& layer, double y) const {
    const bool is_chosen = layer.step && layer.step == view_->chosen_;
    if (layer.kind == PlotLayer::Kind::trace || layer.kind == PlotLayer::Kind::curve)
      p.setPen(trace_pen(theme(), layer.trace));
    else
      p.setPen(QPen(theme().ink, 2));
    if (is_loose(layer)) {
      p.setPen(p.pen().color());
      p.setBrush(p.pen().color());
      p.drawEllipse(QPointF(r.right() + 20, y), 3.6, 3.6);
    } else {
      p.drawLine(QPointF(r.right() + 12, y), QPointF(r.right() + 28, y));
    }
    p.setPen(is_chosen ? theme().ink : theme().slate);
    p.setFont(type_font(is_chosen ? Type::control_chosen : Type::label));
    draw_elided(p, QRectF(r.right() + 33, y - 8, view_->width() - r.right() - 37, 16),
                Qt::AlignVCenter, qt_text(layer.name));
  }

  void draw_empty(QCPPainter& p) const {
    p.setFont(type_font(Type::question));
    p.setPen(theme().mute);
    const QRectF r(view_->rects_.front()->rect());
    p.drawText(r.adjusted(60, 0, -60, 0), Qt::AlignCenter | Qt::TextWordWrap,
               qt_text(view_->plot_.empty_words));
  }

  PlotView* view_;
  bool is_behind_;
};

void add_plot_overlays(PlotView& view) {
  (new PlotOverlay(&view, true))->setLayer("background");
  (new PlotOverlay(&view, false))->setLayer("overlay");
}

}  // namespace heron
