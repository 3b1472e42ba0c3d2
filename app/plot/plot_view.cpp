#include "app/plot/plot_view.h"

#include <QKeyEvent>
#include <algorithm>
#include <cmath>
#include <set>

#include "app/plot/plot_overlay.h"
#include "app/plot/stem_marks.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "app/theme/traces.h"

namespace heron {
namespace {

constexpr int kLeft = 52;
constexpr int kRight = 96;
constexpr int kRightOfCurves = 140;  // they are called like their steps
constexpr int kRightOfStems = 46;    // only the unit
constexpr int kTop = 28;
constexpr int kBottom = 26;
constexpr int kStripHeight = 92;     // with its words
constexpr double kReach = 14.0;      // px round a point that choose it
constexpr double kStemReach = 24.0;  // px beside a stem

/// 1-2-5 in the unit that suits what is shown.
class ScaleTicker : public QCPAxisTicker {
 public:
  ScaleTicker(bool is_logarithmic, int wanted) : is_log_(is_logarithmic), wanted_(wanted) {}

 protected:
  QVector<double> createTickVector(double, const QCPRange& range) override {
    scale_ = PlotScale(range.lower, range.upper, is_log_);
    const std::vector<double> ticks = scale_.ticks(wanted_);
    return {ticks.begin(), ticks.end()};
  }
  int getSubTickCount(double) override { return 0; }
  QString getTickLabel(double tick, const QLocale&, QChar, int) override {
    return qt_text(scale_.label(tick));
  }

 private:
  bool is_log_;
  int wanted_;
  PlotScale scale_{0.0, 1.0, false};
};

int room_for_names(const Plot& plot) {
  if (plot.panels.empty() || plot.panels.front().layers.empty()) return kRight;
  const PlotLayer& first = plot.panels.front().layers.front();
  return first.kind == PlotLayer::Kind::curve ? kRightOfCurves
         : is_stem_mark(first)                ? kRightOfStems
                                              : kRight;
}

/// Of a stem all of its height counts.
double distance_of(const PlotLayer& layer, const QPointF& at, const QPointF& pressed) {
  return layer.kind == PlotLayer::Kind::stem ? std::abs(at.x() - pressed.x()) * kReach / kStemReach
                                             : QLineF(at, pressed).length();
}

}  // namespace

PlotView::PlotView(QWidget* parent) : QCustomPlot(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setMinimumHeight(200);
  setAutoAddPlottableToLegend(false);
  setAntialiasedElements(QCP::aePlottables | QCP::aeItems);
  setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
  plotLayout()->clear();
  plotLayout()->setRowSpacing(0);
  add_plot_overlays(*this);
}

void PlotView::set_plot(const Plot& plot, std::optional<std::size_t> chosen) {
  const int right = room_for_names(plot);
  const bool same_panels = right == right_ && plot.panels.size() == plot_.panels.size() &&
                           !rects_.empty() && plot.x.is_logarithmic == plot_.x.is_logarithmic;
  const auto count = [](const Plot& p) {
    std::size_t n = 0;
    for (const PlotPanel& panel : p.panels) {
      for (const PlotLayer& layer : panel.layers)
        n += layer.points.size() + (layer.curve ? layer.curve->y.size() : 0);
    }
    return n;
  };
  const bool same_points = same_panels && count(plot) == count(plot_);
  plot_ = plot;
  chosen_ = chosen;
  right_ = right;
  setAccessibleName(qt_text(plot.title));
  QStringList words;
  for (const PlotPanel& panel : plot.panels) {
    for (const PlotBracket& b : panel.brackets) {
      if (!b.step || b.step == chosen) words << qt_text(b.words);
    }
  }
  setAccessibleDescription(words.join(QStringLiteral(", ")));
  if (!same_panels) build_panels();
  fill();
  // What somebody looks closer at stays while only figures change.
  if (!same_points) show_all();
  follow_theme();
}

void PlotView::build_panels() {
  clearPlottables();
  plotLayout()->clear();
  rects_.clear();
  for (std::size_t i = 0; i < plot_.panels.size(); ++i) {
    auto* rect = new QCPAxisRect(this);
    rect->setupFullAxesBox(false);
    rect->setAutoMargins(QCP::msNone);
    const bool is_last = i + 1 == plot_.panels.size();
    rect->setMargins(QMargins(kLeft, kTop, right_, is_last ? kBottom : 4));
    if (i > 0) {
      rect->setMinimumSize(0, kStripHeight);
      rect->setMaximumSize(QWIDGETSIZE_MAX, kStripHeight);
    }
    rect->setRangeDrag(Qt::Horizontal);
    rect->setRangeZoom(Qt::Horizontal);
    QCPAxis* x = rect->axis(QCPAxis::atBottom);
    QCPAxis* y = rect->axis(QCPAxis::atLeft);
    for (QCPAxis* axis : rect->axes()) {
      axis->setVisible(axis == x || axis == y);
      axis->setTickPen(Qt::NoPen);
      axis->setSubTickPen(Qt::NoPen);
      axis->setTickLabelPadding(8);
    }
    x->grid()->setVisible(false);
    x->setTickLabels(is_last);
    x->setScaleType(plot_.x.is_logarithmic ? QCPAxis::stLogarithmic : QCPAxis::stLinear);
    x->setTicker(QSharedPointer<ScaleTicker>::create(plot_.x.is_logarithmic, 8));
    y->setTicker(QSharedPointer<ScaleTicker>::create(false, i == 0 ? 6 : 2));
    y->setBasePen(Qt::NoPen);
    y->grid()->setAntialiased(false);
    y->grid()->setZeroLinePen(Qt::NoPen);
    // All panels look at the same x.
    if (!rects_.empty()) {
      QCPAxis* first = rects_.front()->axis(QCPAxis::atBottom);
      const auto follow = [](QCPAxis* from, QCPAxis* to) {
        connect(from, qOverload<const QCPRange&>(&QCPAxis::rangeChanged), to,
                [to](const QCPRange& range) { to->setRange(range); });
      };
      follow(first, x);
      follow(x, first);
    }
    plotLayout()->addElement(static_cast<int>(i), 0, rect);
    rects_.push_back(rect);
  }
}

void PlotView::fill() {
  clearPlottables();
  for (std::size_t i = 0; i < rects_.size(); ++i) {
    for (const PlotLayer& layer : plot_.panels[i].layers) {
      const bool is_curve = layer.kind == PlotLayer::Kind::curve;
      if (!is_curve && (layer.kind != PlotLayer::Kind::trace || !layer.is_joined)) continue;
      auto* graph =
          new QCPGraph(rects_[i]->axis(QCPAxis::atBottom), rects_[i]->axis(QCPAxis::atLeft));
      QVector<QCPGraphData> points;
      for (const PlotPoint& p : layer.points) points.append({p.x, p.y});
      if (is_curve) {
        points.reserve(static_cast<qsizetype>(layer.curve->y.size()));
        for (std::size_t k = 0; k < layer.curve->y.size(); ++k) {
          const double y = static_cast<double>(layer.curve->y[k]) - layer.curve_zero;
          if (std::isfinite(y)) points.append({layer.curve->x(k), y});
        }
      }
      graph->data()->set(points, true);
      graph->setProperty("trace", layer.trace);
      if (is_curve) graph->setProperty("weight", layer.step && layer.step == chosen_ ? 2.0 : 1.1);
    }
  }
}

void PlotView::show_all() {
  if (rects_.empty()) return;
  const PlotScale x = x_scale(plot_);
  for (std::size_t i = 0; i < rects_.size(); ++i) {
    const PlotScale y = y_scale(plot_.panels[i]);
    rects_[i]->axis(QCPAxis::atLeft)->setRange(y.from(), y.to());
  }
  rects_.front()->axis(QCPAxis::atBottom)->setRange(x.from(), x.to());
  replot(rpQueuedReplot);
}

/// A curve that is chosen is drawn thicker, and solid.
QPen PlotView::pen_of(const Theme& theme, const QCPGraph& graph) {
  QPen pen = trace_pen(theme, graph.property("trace").toInt());
  if (!graph.property("weight").isValid()) return pen;
  pen.setWidthF(graph.property("weight").toDouble());
  if (pen.widthF() > 1.5) pen.setStyle(Qt::SolidLine);
  return pen;
}

void PlotView::follow_theme() {
  const Theme& t = theme_of(this);
  setBackground(t.sheet);
  for (QCPAxisRect* rect : rects_) {
    rect->axis(QCPAxis::atLeft)->grid()->setPen(QPen(t.hair, 1));
    rect->axis(QCPAxis::atBottom)->setBasePen(QPen(t.hairStrong, 1));
    for (QCPAxis* axis : rect->axes()) {
      axis->setTickLabelFont(type_font(Type::tick));
      axis->setTickLabelColor(t.mute);
    }
  }
  for (int i = 0; i < plottableCount(); ++i) {
    if (auto* graph = qobject_cast<QCPGraph*>(plottable(i))) graph->setPen(pen_of(t, *graph));
  }
  replot(rpQueuedReplot);
}

/// Those with a point, from left to right; or of stems only those that do not pass.
std::vector<std::size_t> PlotView::steps(bool only_bad) const {
  std::set<std::pair<double, std::size_t>> found;
  for (const PlotPanel& panel : plot_.panels) {
    for (const PlotLayer& layer : panel.layers) {
      for (const PlotPoint& p : layer.points) {
        const bool is_place =
            layer.kind == PlotLayer::Kind::trace || layer.kind == PlotLayer::Kind::stem;
        const bool is_left_out =
            only_bad && (p.verdict == Verdict::pass || p.verdict == Verdict::not_taken);
        if (p.step && is_place && !is_left_out) found.emplace(p.x, *p.step);
      }
      // Whole curves have no place: they come in the order of their steps.
      if (layer.step && !only_bad) found.emplace(static_cast<double>(*layer.step), *layer.step);
    }
  }
  std::vector<std::size_t> list;
  for (const auto& [x, step] : found) {
    if (std::find(list.begin(), list.end(), step) == list.end()) list.push_back(step);
  }
  return list;
}

/// The next on the way that is wanted; nullopt if there is none.
std::optional<std::size_t> PlotView::next_step(bool is_on, bool only_bad) const {
  std::vector<std::size_t> all = steps(false);
  if (!is_on) std::reverse(all.begin(), all.end());
  const std::vector<std::size_t> wanted = steps(only_bad);
  const auto now = chosen_ ? std::find(all.begin(), all.end(), *chosen_) : all.end();
  const auto next =
      std::find_if(now == all.end() ? all.begin() : now + 1, all.end(), [&](std::size_t step) {
        return std::find(wanted.begin(), wanted.end(), step) != wanted.end();
      });
  return next == all.end() ? std::nullopt : std::optional(*next);
}

void PlotView::keyPressEvent(QKeyEvent* event) {
  const bool is_back = event->key() == Qt::Key_Left || event->key() == Qt::Key_Up;
  const bool is_on = event->key() == Qt::Key_Right || event->key() == Qt::Key_Down;
  if (event->key() == Qt::Key_Home) {
    show_all();
  } else if (is_back || is_on) {
    // With Shift to the next that does not pass.
    const bool only_bad = (event->modifiers() & Qt::ShiftModifier) != 0;
    if (const auto next = next_step(is_on, only_bad)) emit step_chosen(static_cast<int>(*next));
  } else {
    QCustomPlot::keyPressEvent(event);
  }
}

void PlotView::mousePressEvent(QMouseEvent* event) {
  pressed_at_ = event->pos();
  QCustomPlot::mousePressEvent(event);
}

void PlotView::mouseReleaseEvent(QMouseEvent* event) {
  QCustomPlot::mouseReleaseEvent(event);
  if ((event->pos() - pressed_at_).manhattanLength() > 4) return;
  double nearest = kReach;
  std::optional<std::size_t> step;
  for (std::size_t i = 0; i < rects_.size(); ++i) {
    for (const PlotLayer& layer : plot_.panels[i].layers) {
      for (const PlotPoint& p : layer.points) {
        if (!p.step) continue;
        const QPointF at(rects_[i]->axis(QCPAxis::atBottom)->coordToPixel(p.x),
                         rects_[i]->axis(QCPAxis::atLeft)->coordToPixel(p.y));
        const double distance = distance_of(layer, at, event->position());
        if (distance >= nearest) continue;
        nearest = distance;
        step = p.step;
      }
    }
  }
  if (step) emit step_chosen(static_cast<int>(*step));
}

void PlotView::changeEvent(QEvent* event) {
  QCustomPlot::changeEvent(event);
  if (event->type() == QEvent::PaletteChange) follow_theme();
}

}  // namespace heron
