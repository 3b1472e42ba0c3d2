#include "app/plot/plot_view.h"

#include <QKeyEvent>
#include <algorithm>
#include <cmath>
#include <set>

#include "app/plot/event_flags.h"
#include "app/plot/pennant_marks.h"
#include "app/plot/place_marks.h"
#include "app/plot/plot_graphs.h"
#include "app/plot/plot_overlay.h"
#include "app/plot/state_marks.h"
#include "app/plot/stem_marks.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/role.h"
#include "app/theme/theme.h"

namespace heron {
namespace {

constexpr int kLeft = 52;
constexpr int kLeastRight = 46;  // for the unit
constexpr int kMostRight = 140;
constexpr int kBesideName = 42;  // its line, and room
constexpr int kRightTicks = 32;  // numbers of an axis at the right
constexpr int kTop = 28;
constexpr int kBottom = 26;
constexpr int kStripHeight = 92;    // with its words
constexpr int kPictureHeight = 84;  // at least
constexpr int kScaleRoom = 66;      // of a picture, at its right

/// 1-2-5 in the unit that suits what is shown.
class ScaleTicker : public QCPAxisTicker {
 public:
  ScaleTicker(const PlotAxis& axis, int wanted)
      : is_log_(axis.is_logarithmic), names_(axis.names), wanted_(wanted) {}

 protected:
  QVector<double> createTickVector(double, const QCPRange& range) override {
    scale_ = PlotScale(range.lower, range.upper, is_log_, names_);
    const std::vector<double> ticks = scale_.ticks(wanted_);
    return {ticks.begin(), ticks.end()};
  }
  int getSubTickCount(double) override { return 0; }
  QString getTickLabel(double tick, const QLocale&, QChar, int) override {
    return qt_text(scale_.label(tick));
  }

 private:
  bool is_log_;
  std::vector<std::pair<double, std::string>> names_;
  int wanted_;
  PlotScale scale_{0.0, 1.0, false};
};

int room_for_names(const Plot& plot) {
  const QFontMetricsF metrics(type_font(Type::control_chosen));
  double widest = 0.0;
  for (const PlotPanel& panel : plot.panels) {
    for (const PlotLayer& layer : panel.layers) {
      if (is_named(layer))
        widest = std::max(widest, kBesideName + metrics.horizontalAdvance(qt_text(layer.name)));
    }
  }
  const bool has_right = std::any_of(plot.panels.begin(), plot.panels.end(),
                                     [](const PlotPanel& p) { return p.y_right.has_value(); });
  const bool has_picture = std::any_of(plot.panels.begin(), plot.panels.end(),
                                       [](const PlotPanel& p) { return p.picture.has_value(); });
  if (has_picture) widest = std::max(widest, static_cast<double>(kScaleRoom));
  const int ticks = has_right ? kRightTicks : 0;
  return std::clamp(static_cast<int>(std::ceil(widest)) + ticks, kLeastRight + ticks, kMostRight);
}

bool is_log_axis(const std::optional<PlotAxis>& axis) {
  return axis && axis->is_logarithmic;
}

}  // namespace

PlotView::PlotView(QWidget* parent) : QCustomPlot(parent) {
  setFocusPolicy(Qt::StrongFocus);
  set_role(this, QAccessible::Chart);
  setMinimumHeight(200);
  setAutoAddPlottableToLegend(false);
  setAntialiasedElements(QCP::aePlottables | QCP::aeItems);
  setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
  setMouseTracking(true);
  plotLayout()->clear();
  plotLayout()->setRowSpacing(0);
  add_plot_overlays(*this);
}

void PlotView::set_plot(const Plot& given, std::optional<std::size_t> chosen) {
  Plot plot = given;
  if (plot.x.can_be_either && is_log_wanted_) plot.x.is_logarithmic = *is_log_wanted_;
  dragged_.reset();
  const int right = room_for_names(plot);
  const bool same_panels =
      right == right_ && !rects_.empty() && plot.x.is_logarithmic == plot_.x.is_logarithmic &&
      std::equal(plot.panels.begin(), plot.panels.end(), plot_.panels.begin(), plot_.panels.end(),
                 [](const PlotPanel& a, const PlotPanel& b) {
                   return a.y.is_logarithmic == b.y.is_logarithmic && a.y.names == b.y.names &&
                          a.y_right.has_value() == b.y_right.has_value() &&
                          is_log_axis(a.y_right) == is_log_axis(b.y_right) &&
                          a.states.size() == b.states.size() &&
                          a.own_x.has_value() == b.own_x.has_value() &&
                          a.picture.has_value() == b.picture.has_value();
                 });
  const auto count = [](const Plot& p) {
    std::size_t n = 0;
    for (const PlotPanel& panel : p.panels) {
      for (const PlotLayer& layer : panel.layers)
        n += layer.points.size() + (layer.curve ? layer.curve->y.size() : 0) +
             (layer.dots ? layer.dots->x.size() : 0);
    }
    return n;
  };
  const bool same_points = same_panels && count(plot) == count(plot_) &&
                           plot.x.range == plot_.x.range &&
                           std::equal(plot.panels.begin(), plot.panels.end(), plot_.panels.begin(),
                                      [](const PlotPanel& a, const PlotPanel& b) {
                                        return !a.own_x || a.own_x->range == b.own_x->range;
                                      });
  plot_ = plot;
  chosen_ = chosen;
  right_ = right;
  setAccessibleName(qt_text(plot.title));
  QStringList words;
  for (const PlotPanel& panel : plot.panels) {
    for (const PlotBracket& b : panel.brackets) {
      if (!b.step || b.step == chosen) words << qt_text(b.words);
    }
    for (const PlotLayer& layer : panel.layers) {
      if (!is_place_mark(layer)) continue;
      for (const PlotPoint& p : layer.points) words << qt_text(p.word);
    }
  }
  words.removeAll(QString());
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
    const bool is_last = has_x_words(i);
    const PlotPanel& panel = plot_.panels[i];
    const int states = kStateHeight * static_cast<int>(panel.states.size());
    rect->setMargins(QMargins(kLeft, kTop + (panel.picture ? kFlagRoom : 0), right_,
                              (is_last ? kBottom : 4) + states));
    if (panel.picture || (i == 0 && is_last)) {
      rect->setMinimumSize(0, kPictureHeight);
    } else if (i > 0) {
      rect->setMinimumSize(0, kStripHeight);
      rect->setMaximumSize(QWIDGETSIZE_MAX, kStripHeight);
    }
    rect->setRangeDrag(Qt::Horizontal);
    rect->setRangeZoom(Qt::Horizontal);
    QCPAxis* x = rect->axis(QCPAxis::atBottom);
    QCPAxis* y = rect->axis(QCPAxis::atLeft);
    QCPAxis* at_right = rect->axis(QCPAxis::atRight);
    for (QCPAxis* axis : rect->axes()) {
      axis->setVisible(axis == x || axis == y || (axis == at_right && panel.y_right));
      axis->setTickPen(Qt::NoPen);
      axis->setSubTickPen(Qt::NoPen);
      axis->setTickLabelPadding(8);
    }
    x->setTickLabelPadding(8 + states);
    x->grid()->setVisible(false);
    x->setTickLabels(is_last);
    const bool is_log = x_axis(i).is_logarithmic;
    x->setScaleType(is_log ? QCPAxis::stLogarithmic : QCPAxis::stLinear);
    x->setTicker(QSharedPointer<ScaleTicker>::create(x_axis(i), 10));
    y->setScaleType(panel.y.is_logarithmic ? QCPAxis::stLogarithmic : QCPAxis::stLinear);
    y->setTicker(QSharedPointer<ScaleTicker>::create(panel.y, i == 0 ? 6 : 3));
    const bool is_right_log = is_log_axis(panel.y_right);
    at_right->setScaleType(is_right_log ? QCPAxis::stLogarithmic : QCPAxis::stLinear);
    at_right->setTicker(
        QSharedPointer<ScaleTicker>::create(panel.y_right.value_or(PlotAxis{}), i == 0 ? 6 : 3));
    at_right->setTickLabels(true);
    at_right->grid()->setVisible(false);
    for (QCPAxis* axis : {y, at_right}) axis->setBasePen(Qt::NoPen);
    y->grid()->setAntialiased(false);
    y->grid()->setZeroLinePen(Qt::NoPen);
    // All panels look at the same x, but those that have their own.
    if (!rects_.empty() && !panel.own_x) {
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

const PlotAxis& PlotView::x_axis(std::size_t panel) const {
  return plot_.panels[panel].own_x ? *plot_.panels[panel].own_x : plot_.x;
}

QRectF PlotView::right_title(std::size_t panel) const {
  constexpr double kAbove = 25;
  constexpr double kHeight = 18;
  constexpr double kChevron = 14;
  const auto& axis = plot_.panels[panel].y_right;
  if (!axis) return {};
  const double width =
      QFontMetricsF(type_font(Type::label)).horizontalAdvance(qt_text(axis->title)) +
      (axis->setting.empty() ? 0.0 : kChevron);
  const QRect r = rects_[panel]->rect();
  return {r.right() + kRightTicks - width, r.top() - kAbove, width, kHeight};
}

const PlotAxis* PlotView::axis_titled_at(QPointF point) const {
  for (std::size_t i = 0; i < rects_.size(); ++i)
    if (const auto& axis = plot_.panels[i].y_right;
        axis && !axis->setting.empty() && right_title(i).contains(point))
      return &*axis;
  return nullptr;
}

bool PlotView::has_x_words(std::size_t panel) const {
  return panel + 1 == plot_.panels.size() || plot_.panels[panel + 1].own_x.has_value();
}

void PlotView::fill() {
  clearPlottables();
  for (std::size_t i = 0; i < rects_.size(); ++i)
    add_graphs(*rects_[i], plot_.panels[i], chosen_, plot_.step.has_value());
}

void PlotView::choose_mark(const std::string& mark) {
  mark_ = mark;
  replot(rpQueuedReplot);
}

void PlotView::set_logarithmic(bool logarithmic) {
  is_log_wanted_ = logarithmic;
  const Plot again = plot_;
  set_plot(again, chosen_);
  show_all();
}

bool PlotView::has_curve() const {
  return std::any_of(plot_.panels.begin(), plot_.panels.end(), [](const PlotPanel& panel) {
    return panel.find(PlotLayer::Kind::curve) != nullptr;
  });
}

const PlotLayer* PlotView::handle() const {
  return can_edit_ && !plot_.panels.empty() ? plot_.panels.front().find(PlotLayer::Kind::handle)
                                            : nullptr;
}

void PlotView::show_all() {
  if (rects_.empty()) return;
  const PlotScale x = x_scale(plot_);
  for (std::size_t i = 0; i < rects_.size(); ++i) {
    const PlotScale y = y_scale(plot_.panels[i]);
    rects_[i]->axis(QCPAxis::atLeft)->setRange(y.from(), y.to());
    const PlotScale right = right_scale(plot_.panels[i]);
    rects_[i]->axis(QCPAxis::atRight)->setRange(right.from(), right.to());
    if (const auto& own = plot_.panels[i].own_x; own && own->range)
      rects_[i]->axis(QCPAxis::atBottom)->setRange(own->range->first, own->range->second);
  }
  rects_.front()->axis(QCPAxis::atBottom)->setRange(x.from(), x.to());
  replot(rpQueuedReplot);
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
  dress_graphs(*this, t);
  replot(rpQueuedReplot);
}

void PlotView::changeEvent(QEvent* event) {
  QCustomPlot::changeEvent(event);
  if (event->type() == QEvent::PaletteChange) follow_theme();
}

}  // namespace heron
