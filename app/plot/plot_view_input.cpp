// Keys and mouse of a plot; the rest of it is in plot_view.cpp.
#include <QKeyEvent>
#include <QToolTip>
#include <algorithm>
#include <cmath>
#include <set>
#include <utility>

#include "app/plot/event_flags.h"
#include "app/plot/pennant_marks.h"
#include "app/plot/place_marks.h"
#include "app/plot/plot_graphs.h"
#include "app/plot/plot_view.h"
#include "app/plot/stem_marks.h"
#include "app/theme/qt_text.h"

namespace heron {
namespace {

constexpr double kHandleReach = 9.0;
constexpr double kHandleStep = 0.1;
constexpr double kCloser = 0.7;
constexpr double kReach = 14.0;      // px round a point that choose it
constexpr double kBelowPx = 28.0;    // px below a panel that are its own
constexpr double kStemReach = 24.0;  // px beside a stem

/// In steps, and never at nothing.
double handle_place(double x) {
  return std::max(kHandleStep, std::round(x / kHandleStep) * kHandleStep);
}

/// Of a stem all of its height counts.
double distance_of(const PlotLayer& layer, const QPointF& at, const QPointF& pressed) {
  return layer.kind == PlotLayer::Kind::stem ? std::abs(at.x() - pressed.x()) * kReach / kStemReach
                                             : QLineF(at, pressed).length();
}

}  // namespace

bool PlotView::is_on_handle(QPointF point) const {
  const PlotLayer* layer = handle();
  if (layer == nullptr || rects_.empty()) return false;
  const double x = rects_.front()->axis(QCPAxis::atBottom)->coordToPixel(layer->points.front().x);
  return std::abs(point.x() - x) < kHandleReach;
}

std::vector<PlotView::Grip> PlotView::grips() const {
  if (!can_edit_ || plot_.panels.empty()) return {};
  for (const PlotRange& r : plot_.panels.front().ranges)
    if (r.is_window && !r.low_setting.empty())
      return {{r.low_setting, r.from}, {r.high_setting, r.to}};
  return {};
}

std::optional<PlotView::Grip> PlotView::grip_at(QPointF point) const {
  constexpr double kGripReach = 13.0;
  if (rects_.empty() || !QRectF(rects_.front()->rect()).contains(point)) return std::nullopt;
  std::optional<Grip> nearest;
  double least = kGripReach;
  for (const Grip& g : grips()) {
    const double off =
        std::abs(rects_.front()->axis(QCPAxis::atBottom)->coordToPixel(g.at) - point.x());
    if (off >= least) continue;
    least = off;
    nearest = g;
  }
  return nearest;
}

double PlotView::snapped(double x) const {
  const PlotLayer* curve = read_curve();
  if (curve == nullptr || !(x > 0.0)) return x;
  const PlotPoint* best = &curve->points.front();
  for (const PlotPoint& p : curve->points)
    if (std::abs(std::log(p.x / x)) < std::abs(std::log(best->x / x))) best = &p;
  return best->x;
}

/// [ and ] move the side of the window that is nearer to the cursor, by a point of the curve.
bool PlotView::move_grip(int key) {
  const PlotLayer* curve = read_curve();
  const std::vector<Grip> all = grips();
  if (curve == nullptr || all.empty()) return false;
  const double from = cursor_.value_or(all.front().at);
  const auto distance = [from](const Grip& g) { return std::abs(std::log(g.at / from)); };
  const Grip& grip = distance(all.back()) < distance(all.front()) ? all.back() : all.front();
  const double now = snapped(grip.at);
  const PlotPoint* next = nullptr;
  for (const PlotPoint& p : curve->points) {
    if (key == Qt::Key_BracketRight && p.x > now * (1.0 + 1e-6)) {
      next = &p;
      break;
    }
    if (key == Qt::Key_BracketLeft && p.x < now * (1.0 - 1e-6)) next = &p;
  }
  if (next != nullptr) emit window_moved(qt_text(grip.setting), next->x, false);
  return true;
}

void PlotView::move_cursor(double x) {
  cursor_ = x;
  replot(rpQueuedReplot);
}

void PlotView::move_handle(double by) {
  const double x = handle()->points.front().x + by;
  if (x >= kHandleStep) put_handle(x);
}

/// Told as somebody would type it.
void PlotView::put_handle(double x) {
  const PlotLayer& layer = *handle();
  emit handle_moved(qt_text(layer.setting), qt_text(handle_words(layer, handle_place(x))));
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
    for (const PlotRange& event : panel.lanes)
      if (panel.picture && event.step && !only_bad) found.emplace(event.from, *event.step);
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

std::optional<std::size_t> PlotView::moment_step() const {
  if (plot_.panels.empty()) return std::nullopt;
  const PlotLayer* moment = plot_.panels.front().find(PlotLayer::Kind::moment);
  if (moment == nullptr) return std::nullopt;
  const double at = moment->points.front().x;
  std::optional<std::size_t> step;
  double nearest = 0.0;
  for (const PlotLayer& layer : plot_.panels.front().layers) {
    if (layer.kind != PlotLayer::Kind::trace) continue;
    for (const PlotPoint& p : layer.points) {
      if (!p.step || (step && std::abs(p.x - at) >= nearest)) continue;
      step = p.step;
      nearest = std::abs(p.x - at);
    }
  }
  return step;
}

bool PlotView::look_closer(int key) {
  if (rects_.empty()) return false;
  QCPAxis* x = rects_.front()->axis(QCPAxis::atBottom);
  const double middle = cursor_.value_or(x->range().center());
  if (key == Qt::Key_Plus || key == Qt::Key_Equal)
    x->scaleRange(kCloser, middle);
  else if (key == Qt::Key_Minus)
    x->scaleRange(1.0 / kCloser, middle);
  else if (key == Qt::Key_Home || key == Qt::Key_0)
    show_all();
  else
    return false;
  replot(rpQueuedReplot);
  return true;
}

void PlotView::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  const bool has_shift = (event->modifiers() & Qt::ShiftModifier) != 0;
  const bool is_sideways = key == Qt::Key_Left || key == Qt::Key_Right;
  const double way = key == Qt::Key_Left ? -1.0 : 1.0;
  if (look_closer(key)) return;
  if ((key == Qt::Key_BracketLeft || key == Qt::Key_BracketRight) && move_grip(key)) return;
  if (key == Qt::Key_X && plot_.x.can_be_either) {
    set_logarithmic(!is_logarithmic());
  } else if (key == Qt::Key_C && moment_step()) {
    emit step_chosen(static_cast<int>(*moment_step()));
  } else if (handle() == nullptr && read_by_key(*event)) {
    // The curve is told where the cursor stands now.
  } else if (is_sideways && handle() != nullptr) {
    move_handle(way * (has_shift ? kHandleStep : 1.0));
  } else if (is_sideways && has_curve()) {
    const QCPRange range = rects_.front()->axis(QCPAxis::atBottom)->range();
    const double pixel = range.size() / std::max(1, rects_.front()->width());
    move_cursor(cursor_.value_or(range.center()) + way * pixel * (has_shift ? 10 : 1));
  } else if (is_sideways || key == Qt::Key_Up || key == Qt::Key_Down) {
    // With Shift to the next that does not pass.
    const bool is_on = key == Qt::Key_Right || key == Qt::Key_Down;
    if (const auto next = next_step(is_on, has_shift)) emit step_chosen(static_cast<int>(*next));
  } else {
    QCustomPlot::keyPressEvent(event);
  }
}

/// Where names of places stand, over a panel; of a picture all of it.
std::optional<std::size_t> PlotView::lanes_at(QPointF point) const {
  constexpr double kLanesPx = 42.0;
  if (!can_edit_) return std::nullopt;
  for (std::size_t i = 0; i < rects_.size(); ++i) {
    const PlotPanel& panel = plot_.panels[i];
    if (panel.lanes.empty() && !panel.picture) continue;
    const QRectF area = rects_[i]->rect();
    const double height = panel.picture ? area.height() : kLanesPx;
    if (QRectF(area.left(), area.top(), area.width(), height).contains(point)) return i;
  }
  return std::nullopt;
}

/// A flag, or the time below it.
void PlotView::choose_event(QPointF point) {
  for (std::size_t i = 0; i < rects_.size(); ++i) {
    if (!plot_.panels[i].picture) continue;
    if (!QRectF(rects_[i]->rect()).adjusted(0, -kFlagRoom, 0, 0).contains(point)) continue;
    const double x = rects_[i]->axis(QCPAxis::atBottom)->pixelToCoord(point.x());
    if (const auto step = event_at(plot_.panels[i], x)) emit step_chosen(static_cast<int>(*step));
  }
}

void PlotView::mousePressEvent(QMouseEvent* event) {
  pressed_at_ = event->pos();
  if (const PlotAxis* axis = axis_titled_at(event->position())) {
    emit axis_asked(qt_text(axis->setting), event->globalPosition().toPoint());
    return;
  }
  is_dragging_ = is_on_handle(event->position());
  gripped_ = is_dragging_ ? std::nullopt : grip_at(event->position());
  if (gripped_) return;
  marked_in_ = is_dragging_ ? std::nullopt : lanes_at(event->position());
  if (!is_dragging_ && !marked_in_) QCustomPlot::mousePressEvent(event);
}

void PlotView::mouseMoveEvent(QMouseEvent* event) {
  if (rects_.empty()) return;
  const double x = rects_.front()->axis(QCPAxis::atBottom)->pixelToCoord(event->position().x());
  if (is_dragging_) {
    dragged_ = handle_place(x);
    replot(rpQueuedReplot);
    return;
  }
  if (gripped_) {
    const double to = snapped(x);
    if (to == gripped_->at) return;
    gripped_->at = to;
    emit window_moved(qt_text(gripped_->setting), to, true);
    return;
  }
  QCustomPlot::mouseMoveEvent(event);
  const bool is_on_mark =
      pennant_at(*rects_.front(), plot_.panels.front(), event->position()).has_value();
  const QString ring = ring_words_at(*rects_.front(), plot_.panels.front(), event->position());
  if (ring.isEmpty())
    QToolTip::hideText();
  else
    QToolTip::showText(event->globalPosition().toPoint(), ring, this);
  setCursor(is_on_handle(event->position()) || grip_at(event->position()) ? Qt::SizeHorCursor
            : is_on_mark || axis_titled_at(event->position()) != nullptr  ? Qt::PointingHandCursor
            : has_curve() || read_curve() != nullptr                      ? Qt::CrossCursor
                                                                          : Qt::ArrowCursor);
  // A picture has another axis.
  const bool is_elsewhere = event->position().y() > rects_.front()->bottom() + kBelowPx &&
                            std::any_of(plot_.panels.begin(), plot_.panels.end(),
                                        [](const PlotPanel& p) { return p.own_x.has_value(); });
  if (has_curve() && !is_elsewhere)
    move_cursor(x);
  else if (rects_.front()->rect().contains(event->pos()))
    read_at(x);
}

void PlotView::leaveEvent(QEvent* event) {
  QCustomPlot::leaveEvent(event);
  if (hasFocus() || !cursor_) return;
  cursor_.reset();
  replot(rpQueuedReplot);
}

void PlotView::mouseDoubleClickEvent(QMouseEvent*) {
  show_all();
}

void PlotView::mouseReleaseEvent(QMouseEvent* event) {
  if (const auto grip = std::exchange(gripped_, std::nullopt)) {
    emit window_moved(qt_text(grip->setting), grip->at, false);
    return;
  }
  if (is_dragging_) {
    is_dragging_ = false;
    const auto moved = std::exchange(dragged_, std::nullopt);
    if (moved && handle() != nullptr) put_handle(*moved);
    return;
  }
  if (const auto marked = std::exchange(marked_in_, std::nullopt)) {
    constexpr int kLeastPx = 6;
    if (*marked < rects_.size() && std::abs(event->pos().x() - pressed_at_.x()) >= kLeastPx) {
      const QCPAxis* x = rects_[*marked]->axis(QCPAxis::atBottom);
      const int from = std::min(pressed_at_.x(), event->pos().x());
      const int to = std::max(pressed_at_.x(), event->pos().x());
      emit lane_dragged(x->pixelToCoord(from), x->pixelToCoord(to));
      return;
    }
  }
  QCustomPlot::mouseReleaseEvent(event);
  if ((event->pos() - pressed_at_).manhattanLength() > 4 || rects_.empty()) return;
  choose_event(event->position());
  if (const auto mark = pennant_at(*rects_.front(), plot_.panels.front(), event->position())) {
    emit mark_chosen(qt_text(*mark));
    return;
  }
  double nearest = kReach;
  std::optional<std::size_t> step;
  for (std::size_t i = 0; i < rects_.size(); ++i) {
    for (const PlotLayer& layer : plot_.panels[i].layers) {
      for (const PlotPoint& p : layer.points) {
        if (!p.step) continue;
        const QPointF at(rects_[i]->axis(QCPAxis::atBottom)->coordToPixel(p.x),
                         rects_[i]->axis(y_axis_of(layer))->coordToPixel(p.y));
        const double distance = distance_of(layer, at, event->position());
        if (distance >= nearest) continue;
        nearest = distance;
        step = p.step;
      }
    }
  }
  if (step) emit step_chosen(static_cast<int>(*step));
}

}  // namespace heron
