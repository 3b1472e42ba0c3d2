#include "app/plot/plot_overlay.h"

#include <algorithm>

#include "app/paint/chevron.h"
#include "app/paint/figure_text.h"
#include "app/paint/verdict_mark.h"
#include "app/plot/event_flags.h"
#include "app/plot/pennant_marks.h"
#include "app/plot/picture_graph.h"
#include "app/plot/place_marks.h"
#include "app/plot/plot_graphs.h"
#include "app/plot/plot_view.h"
#include "app/plot/range_marks.h"
#include "app/plot/state_marks.h"
#include "app/plot/stem_marks.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/traces.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr double kNameHeight = 17.0;
constexpr double kAside = 10.0;      // px between points at one place
constexpr double kHalfPiece = 13.0;  // px of a limit beside its point
constexpr double kRightNumbers = 32.0;

/// Level of a curve nearest a place; nullopt outside.
std::optional<double> level_at(const PlotLayer& layer, double x) {
  const Curve& curve = *layer.curve;
  const double i = std::round((x - curve.x_start) / curve.x_step);
  if (!(i >= 0.0) || i >= static_cast<double>(curve.y.size())) return std::nullopt;
  return static_cast<double>(curve.y[static_cast<std::size_t>(i)]) - layer.curve_zero;
}

/// A joined trace is called where it ends.
bool has_end(const PlotLayer& layer) {
  return layer.kind == PlotLayer::Kind::trace && layer.is_joined;
}

}  // namespace

bool is_named(const PlotLayer& layer) {
  return !layer.is_empty() && !layer.name.empty() && !is_stem_mark(layer) &&
         !is_pennant_mark(layer) && !is_place_mark(layer) && layer.kind != PlotLayer::Kind::band;
}

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
        draw_floor(*painter, *rect, panel, theme());
        draw_places_behind(*painter, *rect, panel, view_->dragged_, theme());
        draw_ranges(*painter, *rect, panel, view_->right_, view_->chosen_, theme());
        draw_cursor(*painter, rect, panel);
      } else {
        draw_panel(*painter, i);
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
  static double y_of(QCPAxisRect* rect, const PlotLayer& layer, double y) {
    return rect->axis(y_axis_of(layer))->coordToPixel(y);
  }

  void draw_cursor(QCPPainter& p, QCPAxisRect* rect, const PlotPanel& panel) const {
    const std::string& mark = view_->mark_;
    if (!view_->chosen_ && mark.empty()) return;
    for (const PlotLayer& layer : panel.layers) {
      if (is_stem_mark(layer) || is_pennant_mark(layer)) continue;  // marked in their own way
      for (const PlotPoint& point : layer.points) {
        const bool is_chosen =
            (point.step && point.step == view_->chosen_) || (!mark.empty() && point.mark == mark);
        if (!is_chosen) continue;
        const double x = x_of(rect, point.x);
        if (x < rect->left() || x > rect->right()) continue;
        p.fillRect(QRectF(x - 9, rect->top(), 18, rect->height()), theme().waterTint);
        return;
      }
    }
  }

  void draw_panel(QCPPainter& p, std::size_t index) const {
    QCPAxisRect* rect = view_->rects_[index];
    const PlotPanel& panel = view_->plot_.panels[index];
    const bool is_last = view_->has_x_words(index);
    const PlotAxis& x_axis = view_->x_axis(index);
    const QRectF r(rect->rect());
    p.setFont(type_font(Type::label));
    p.setPen(theme().slate);
    const double title = r.top() - 25 - (panel.picture ? kFlagRoom - 2 : 0);
    p.drawText(QRectF(15, title, 300, 18), Qt::AlignVCenter, qt_text(panel.y.title));
    const QRectF at_right = view_->right_title(index);
    if (!at_right.isEmpty()) {
      // What can be chosen looks like it.
      const bool is_chosen = !panel.y_right->setting.empty();
      if (is_chosen) p.setPen(theme().water);
      p.drawText(at_right, Qt::AlignLeft | Qt::AlignVCenter, qt_text(panel.y_right->title));
      if (is_chosen) draw_chevron(p, {at_right.right() - 5.0, at_right.center().y() + 1.0});
      p.setPen(theme().slate);
    }
    const QString note = note_words();
    if (rect == view_->rects_.front() && !note.isEmpty()) {
      p.setPen(theme().mute);
      const double left = 25 + QFontMetricsF(p.font()).horizontalAdvance(qt_text(panel.y.title));
      // Where no names stand at the right, there is more room.
      const double right = !at_right.isEmpty()  ? at_right.left() - 14.0
                           : view_->right_ < 60 ? view_->width() - 20.0
                                                : r.right();
      draw_elided(p, QRectF(left + 8, r.top() - 25, right - left - 8, 18),
                  Qt::AlignRight | Qt::AlignVCenter, note);
      p.setPen(theme().slate);
    }
    if (is_last) {
      const QCPRange range = rect->axis(QCPAxis::atBottom)->range();
      const PlotScale scale(range.lower, range.upper, x_axis.is_logarithmic);
      const std::string& base = x_axis.unit;
      p.setFont(strong_label());
      const int below = kStateHeight * static_cast<int>(panel.states.size());
      p.drawText(QRectF(r.right() + 12, r.bottom() + 6 + below, view_->right_ - 16, 18),
                 Qt::AlignVCenter, qt_text(base.empty() ? x_axis.title : scale.unit(base)));
    }
    p.setClipRect(r.adjusted(-6, -2, 6, 2));
    const auto loose = std::count_if(panel.layers.begin(), panel.layers.end(), is_loose);
    double aside = -kAside * static_cast<double>(loose - 1) / 2.0;
    for (const PlotLayer& layer : panel.layers) {
      if (layer.kind == PlotLayer::Kind::limit || layer.kind == PlotLayer::Kind::guide)
        draw_level(p, rect, layer);
      if (layer.kind != PlotLayer::Kind::trace || !layer.has_marks) continue;
      draw_points(p, rect, layer, is_loose(layer) ? aside : 0.0);
      if (is_loose(layer)) aside += kAside;
    }
    if (!panel.picture) draw_lanes(p, *rect, panel, view_->chosen_, theme());
    p.setClipping(false);
    if (panel.picture) {
      draw_event_flags(p, *rect, panel, view_->chosen_, theme());
      draw_picture_scale(p, *rect, *panel.picture, theme());
    }
    draw_states(p, *rect, panel, theme());
    draw_stem_marks(p, *rect, panel, view_->chosen_, theme());
    draw_pennant_marks(p, *rect, panel, view_->mark_, theme());
    draw_place_marks(p, *rect, panel, view_->dragged_, theme());
    draw_brackets(p, *rect, panel, view_->chosen_, theme());
    for (const PlotLayer& layer : panel.layers) {
      if (layer.kind == PlotLayer::Kind::band && !layer.is_empty() && !layer.name.empty())
        draw_band_name(p, rect, layer);
    }
    draw_names(p, rect, panel);
    if (view_->cursor_ && view_->read_curve() != nullptr) draw_read_curves(p, rect, panel);
    if (is_last && view_->cursor_ && !panel.own_x) draw_readout(p, rect, panel);
  }

  /// Through all panels, a dot on each curve; what they are there stands below the last.
  void draw_read_curves(QCPPainter& p, QCPAxisRect* rect, const PlotPanel& panel) const {
    const QRectF r(rect->rect());
    const double x = std::round(x_of(rect, *view_->cursor_));
    if (x < r.left() || x > r.right()) return;
    p.fillRect(QRectF(x, r.top(), 1, r.height()), theme().water);
    p.setPen(QPen(theme().sheet, 1));
    for (const auto& [layer, y] : PlotView::values_at(panel, *view_->cursor_)) {
      p.setBrush(trace_pen(theme(), layer->trace).color());
      p.drawEllipse(QPointF(x + 0.5, y_of(rect, *layer, y)), 4.0, 4.0);
    }
  }

  QString note_words() const {
    const QString note = qt_text(view_->plot_.note);
    if (!view_->plot_.x.can_be_either || !note.isEmpty()) return note;
    return (view_->plot_.x.is_logarithmic ? PlotView::tr("%1 axis logarithmic, X changes it")
                                          : PlotView::tr("%1 axis linear, X changes it"))
        .arg(qt_text(view_->plot_.x.title));
  }

  /// Beside the end of the band, where others have fallen away below it.
  void draw_band_name(QCPPainter& p, QCPAxisRect* rect, const PlotLayer& layer) const {
    const QRectF r(rect->rect());
    const PlotPoint& end = layer.points.back();
    const double top = y_of(rect, end.y);
    const double foot = std::min(y_of(rect, end.before.value_or(end.y)), r.bottom());
    p.setFont(type_font(Type::label));
    const QString words = qt_text(layer.name);
    const double w = QFontMetricsF(p.font()).horizontalAdvance(words) + 6;
    const QRectF box(std::min(x_of(rect, end.x) + 10, r.right() - w), (top + foot) / 2 - 8, w, 16);
    p.fillRect(box, theme().sheet);
    p.setPen(trace_pen(theme(), layer.trace).color());
    p.drawText(box, Qt::AlignCenter, words);
  }

  /// Beside the ends of those that are joined, the others from the top on; none over another.
  void draw_names(QCPPainter& p, QCPAxisRect* rect, const PlotPanel& panel) const {
    const QRectF r(rect->rect());
    std::vector<std::pair<double, const PlotLayer*>> names;
    double y = r.top() + 8;
    for (const PlotLayer& layer : panel.layers) {
      if (!is_named(layer)) continue;
      if (has_end(layer)) {
        const double end = y_of(rect, layer, layer.points.back().y);
        names.emplace_back(std::clamp(end, r.top() + 8, r.bottom() - 8), &layer);
      } else {
        names.emplace_back(y, &layer);
        y += kNameHeight;
      }
    }
    std::stable_sort(names.begin(), names.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });
    for (std::size_t i = 1; i < names.size(); ++i)
      names[i].first = std::max(names[i].first, names[i - 1].first + kNameHeight - 2);
    // Behind the numbers of an axis at the right.
    const QRectF area = panel.y_right ? r.adjusted(0, 0, kRightNumbers - 8, 0) : r;
    for (const auto& [at, layer] : names) draw_name(p, area, *layer, at);
  }

  /// Where the cursor stands, and what the chosen curve is there.
  void draw_readout(QCPPainter& p, QCPAxisRect* rect, const PlotPanel& panel) const {
    const QRectF r(rect->rect());
    const double at = *view_->cursor_;
    const double x = std::round(x_of(rect, at));
    if (x < r.left() || x > r.right()) return;
    const PlotLayer* shown = nullptr;
    for (const PlotLayer& layer : panel.layers) {
      if (layer.kind != PlotLayer::Kind::curve) continue;
      if (shown == nullptr || layer.step == view_->chosen_) shown = &layer;
    }
    QString words = view_->cursor_words();
    if (shown == nullptr && words.isEmpty()) return;
    if (shown != nullptr) {
      p.fillRect(QRectF(x, r.top(), 1, r.height()), theme().water);
      words = qt_text(number_text(at, 0, true) + " " + view_->plot_.x.unit);
      if (const auto level = level_at(*shown, at))
        words += QStringLiteral(" \u00b7 ") + qt_text(number_text(*level, 1)) + " dB";
    }
    p.setFont(type_font(Type::label));
    const double w = QFontMetricsF(p.font()).horizontalAdvance(words) + 12;
    const QRectF tag(std::clamp(x - w / 2, r.left(), r.right() - w), r.bottom() + 3, w, 18);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(Qt::NoPen);
    p.setBrush(theme().water);
    p.drawRoundedRect(tag, 3, 3);
    p.setPen(theme().is_dark ? theme().sunk : QColor(Qt::white));
    p.drawText(tag, Qt::AlignCenter, words);
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
      const QPointF at(x_of(rect, point.x) + aside, y_of(rect, layer, point.y));
      if (layer.hangs && point.before) {
        draw_hanging(p, rect, layer, point, at);
        continue;
      }
      const auto [least, most] =
          point.interval.value_or(std::pair(point.y - point.expanded, point.y + point.expanded));
      if (most > least && point.bound == Bound::none) {
        const double low = y_of(rect, layer, least);
        const double high = y_of(rect, layer, most);
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

  /// Down from its limit: the stem is the margin. What is off the scale points out of it.
  void draw_hanging(QCPPainter& p, QCPAxisRect* rect, const PlotLayer& layer,
                    const PlotPoint& point, QPointF at) const {
    const QRectF r(rect->rect());
    const bool is_bad = point.verdict == Verdict::fail || point.verdict == Verdict::too_close;
    const QColor colour =
        is_bad ? verdict_colour(theme(), point.verdict) : trace_pen(theme(), layer.trace).color();
    const double from = y_of(rect, layer, *point.before);
    const bool is_off = at.y() < r.top() + 6.0;
    if (is_off) at.setY(r.top() + 10.0);
    p.fillRect(QRectF(at.x() - (is_bad ? 1.0 : 0.8), std::min(from, at.y()), is_bad ? 2.0 : 1.6,
                      std::abs(from - at.y())),
               colour);
    p.setFont(type_font(Type::figure_small));
    p.setPen(is_bad ? colour : theme().slate);
    const QString words = qt_text(point.word);
    if (is_off) {
      p.setBrush(colour);
      p.setPen(Qt::NoPen);
      p.drawPolygon(QPolygonF{{at.x(), r.top() + 1}, {at.x() - 5, at.y()}, {at.x() + 5, at.y()}});
      p.setPen(colour);
      p.drawText(QRectF(at.x() - 74, at.y() - 6, 66, 14), Qt::AlignRight | Qt::AlignVCenter, words);
      return;
    }
    QColor pale = colour;
    pale.setAlphaF(0.38F);
    const double low = y_of(rect, layer, point.y - point.expanded);
    const double high = y_of(rect, layer, point.y + point.expanded);
    p.fillRect(QRectF(at.x() - 2.5, high, 5, low - high), pale);
    draw_verdict(p, at, point.verdict == Verdict::fail ? 12.0 : 10.0, point.verdict, theme());
    // On the far side of the head.
    const bool is_below = at.y() >= from;
    p.setPen(is_bad ? colour : theme().slate);
    p.drawText(QRectF(at.x() - 30, is_below ? low + 3 : high - 17, 60, 14), Qt::AlignCenter, words);
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
    // A level reaches beyond its places; what slopes ends there.
    const auto is_flat = [&](qsizetype a, qsizetype b) {
      return line.size() < 2 || std::abs(line[a].y() - line[b].y()) < 0.5;
    };
    const bool has_tail =
        !layer.ends_at_points && is_flat(line.size() - 1, std::max<qsizetype>(0, line.size() - 2));
    if (!layer.ends_at_points && is_flat(0, std::min<qsizetype>(1, line.size() - 1)))
      line.prepend(line.front() - QPointF(kHalfPiece, 0));
    if (has_tail) line << line.back() + QPointF(kHalfPiece, 0);
    draw_piece(p, line, is_limit);
  }

  QPen guide_pen() const {
    QPen pen(theme().slate, 1.25);
    pen.setDashPattern({5, 3});
    return pen;
  }

  void draw_piece(QCPPainter& p, const QPolygonF& line, bool is_limit) const {
    p.setPen(is_limit ? QPen(theme().ink, 2.0) : guide_pen());
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(line);
    if (!is_limit) return;
    for (const QPointF& end : {line.front(), line.back()}) p.drawLine(end, end + QPointF(0, 6));
  }

  void draw_name(QCPPainter& p, const QRectF& r, const PlotLayer& layer, double y) const {
    const bool is_chosen = layer.step && layer.step == view_->chosen_;
    const bool is_dots = layer.kind == PlotLayer::Kind::dots;
    if (layer.kind == PlotLayer::Kind::trace || layer.kind == PlotLayer::Kind::curve || is_dots)
      p.setPen(trace_pen(theme(), layer.trace));
    else if (layer.kind == PlotLayer::Kind::guide)
      p.setPen(guide_pen());
    else
      p.setPen(QPen(theme().ink, 2));
    if (is_dots) {
      p.setPen(Qt::NoPen);
      p.setBrush(dot_colour(theme(), layer.trace));
      for (const double x : {14.0, 20.0, 26.0})
        p.drawEllipse(QPointF(r.right() + x, y + (x == 20.0 ? 2.0 : -1.0)), 1.6, 1.6);
    } else if (is_loose(layer)) {
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
    const QRectF box = r.adjusted(60, 0, -60, 0);
    const int how = Qt::AlignCenter | Qt::TextWordWrap;
    const QString words = qt_text(view_->plot_.empty_words);
    // Where a limit is drawn already it does not run through them.
    if (!words.isEmpty())
      p.fillRect(p.boundingRect(box, how, words).adjusted(-8, -4, 8, 4), theme().sheet);
    p.drawText(box, how, words);
  }

  PlotView* view_;
  bool is_behind_;
};

void add_plot_overlays(PlotView& view) {
  (new PlotOverlay(&view, true))->setLayer("background");
  (new PlotOverlay(&view, false))->setLayer("overlay");
}

}  // namespace heron
