#include "app/plot/plot_graphs.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "app/plot/dot_graph.h"
#include "app/plot/picture_graph.h"
#include "app/theme/traces.h"
#include "core/method/plot_scale.h"

namespace heron {

QColor dot_colour(const Theme& theme, int trace) {
  QColor colour = trace_pen(theme, trace).color();
  colour.setAlphaF(0.42F);
  return colour;
}

namespace {

/// One graph of a layer; knows how it is drawn.
class LayerGraph : public QCPGraph {
 public:
  /// line: a trace; bold, ghost: one that all is held against, or is only compared; faint: a part
  /// of it with a bound at one end; curve, chosen, alone: a whole curve among others, the chosen
  /// one, the only one; base, raised: what of it stands out of a floor; edge, band: foot and top of
  /// a band.
  enum class How { line, bold, ghost, faint, curve, chosen, alone, base, raised, edge, band };

  LayerGraph(QCPAxisRect& rect, const QVector<QCPGraphData>& points, int trace, How how,
             QCPAxis::AxisType y = QCPAxis::atLeft)
      : QCPGraph(rect.axis(QCPAxis::atBottom), rect.axis(y)), trace_(trace), how_(how) {
    data()->set(points, true);
  }

  /// Without its two edges.
  void set_plain() { is_plain_ = true; }

  void dress(const Theme& theme) {
    setPen(pen_in(theme));
    QColor tint = trace_pen(theme, trace_).color();
    if (how_ == How::raised) tint.setAlphaF(theme.is_dark ? 0.16F : 0.12F);
    if (how_ == How::band) tint.setAlphaF(theme.is_dark ? 0.24F : 0.13F);
    if (how_ == How::raised || how_ == How::band) setBrush(tint);
  }

 private:
  QPen pen_in(const Theme& theme) const {
    QPen pen = trace_pen(theme, trace_, how_ == How::alone);
    switch (how_) {
      case How::line:
      case How::alone:
        break;
      case How::bold:
        pen.setWidthF(2.4);
        break;
      case How::ghost:
        pen.setDashPattern({3.2, 2.6});
        break;
      case How::faint: {
        QColor faint = pen.color();
        faint.setAlphaF(0.45F);
        return QPen(faint, 1.0);
      }
      case How::curve:
        pen.setWidthF(1.1);
        break;
      case How::chosen:
        pen.setWidthF(2.0);
        pen.setStyle(Qt::SolidLine);
        break;
      case How::base:
      case How::raised:
        return QPen(Qt::NoPen);
      case How::edge:
      case How::band:
        if (is_plain_) return QPen(Qt::NoPen);
        pen.setWidthF(1.2);
        break;
    }
    return pen;
  }

  int trace_;
  How how_;
  bool is_plain_ = false;
};

using How = LayerGraph::How;

/// What stands out of a floor is tinted down to it.
void add_curve(QCPAxisRect& rect, const PlotLayer& layer, const PlotLayer* floor, How how) {
  QVector<QCPGraphData> points;
  points.reserve(static_cast<qsizetype>(layer.curve->y.size()));
  for (std::size_t k = 0; k < layer.curve->y.size(); ++k) {
    const double y = static_cast<double>(layer.curve->y[k]) - layer.curve_zero;
    if (std::isfinite(y)) points.append({layer.curve->x(k), y});
  }
  if (floor != nullptr && !points.isEmpty()) {
    const double level = floor->points.front().y;
    QVector<QCPGraphData> raised = points;
    for (QCPGraphData& p : raised) p.value = std::max(p.value, level);
    const QVector<QCPGraphData> foot{{points.front().key, level}, {points.back().key, level}};
    auto* base = new LayerGraph(rect, foot, layer.trace, How::base);
    (new LayerGraph(rect, raised, layer.trace, How::raised))->setChannelFillGraph(base);
  }
  new LayerGraph(rect, points, layer.trace, how);
}

/// From point to point; faint where a bound is at one end.
void add_trace(QCPAxisRect& rect, const PlotLayer& layer) {
  constexpr double kGap = std::numeric_limits<double>::quiet_NaN();
  QVector<QCPGraphData> sure;
  QVector<QCPGraphData> faint;
  const auto is_faint = [&](std::size_t i) {
    return layer.points[i - 1].bound != Bound::none || layer.points[i].bound != Bound::none;
  };
  for (std::size_t i = 1; i < layer.points.size(); ++i) {
    const PlotPoint& to = layer.points[i];
    auto& line = is_faint(i) ? faint : sure;
    for (const auto& [x, y] : line_between(layer, layer.points[i - 1], to)) line.append({x, y});
    // One stroke as long as it is alike, so that dashes run on.
    if (i + 1 < layer.points.size() && is_faint(i + 1) != is_faint(i)) line.append({to.x, kGap});
  }
  const How how = layer.is_bold ? How::bold : layer.is_ghost ? How::ghost : How::line;
  if (!sure.isEmpty())
    (new LayerGraph(rect, sure, layer.trace, how, y_axis_of(layer)))->setAdaptiveSampling(false);
  if (!faint.isEmpty())
    (new LayerGraph(rect, faint, layer.trace, How::faint, y_axis_of(layer)))
        ->setAdaptiveSampling(false);
}

void add_band(QCPAxisRect& rect, const PlotLayer& layer) {
  QVector<QCPGraphData> low;
  QVector<QCPGraphData> high;
  for (const PlotPoint& p : layer.points) {
    low.append({p.x, p.before.value_or(p.y)});
    high.append({p.x, p.y});
  }
  auto* foot = new LayerGraph(rect, low, layer.trace, How::edge);
  auto* top = new LayerGraph(rect, high, layer.trace, How::band);
  top->setChannelFillGraph(foot);
  // One that only says how sure a line is has no lines of its own.
  if (!layer.name.empty()) return;
  foot->set_plain();
  top->set_plain();
}

}  // namespace

void add_graphs(QCPAxisRect& rect, const PlotPanel& panel, std::optional<std::size_t> chosen,
                bool is_of_one_step) {
  if (panel.picture)
    new PictureGraph(rect.axis(QCPAxis::atBottom), rect.axis(QCPAxis::atLeft), *panel.picture);
  for (const PlotLayer& layer : panel.layers) {
    if (layer.is_empty()) continue;
    if (layer.kind == PlotLayer::Kind::curve) {
      const How how = is_of_one_step                       ? How::alone
                      : layer.step && layer.step == chosen ? How::chosen
                                                           : How::curve;
      add_curve(rect, layer, panel.find(PlotLayer::Kind::floor), how);
    } else if (layer.kind == PlotLayer::Kind::dots) {
      new DotGraph(rect.axis(QCPAxis::atBottom), rect.axis(y_axis_of(layer)), layer.dots,
                   layer.trace);
    } else if (layer.kind == PlotLayer::Kind::band) {
      add_band(rect, layer);
    } else if (layer.kind == PlotLayer::Kind::trace && layer.is_joined) {
      add_trace(rect, layer);
    }
  }
}

void dress_graphs(QCustomPlot& plot, const Theme& theme) {
  for (int i = 0; i < plot.plottableCount(); ++i) {
    if (auto* graph = dynamic_cast<LayerGraph*>(plot.plottable(i))) graph->dress(theme);
    if (auto* picture = dynamic_cast<PictureGraph*>(plot.plottable(i))) picture->dress(theme);
    if (auto* dots = dynamic_cast<DotGraph*>(plot.plottable(i)))
      dots->set_colour(dot_colour(theme, dots->trace()));
  }
}

}  // namespace heron
