#include "app/plot/ladder_plot.h"

#include <cmath>

#include "app/plot/ladder_items.h"
#include "app/plot/plot_dress.h"
#include "app/plot/tickers.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/traces.h"
#include "core/method/plot_scale.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

double watts_of(double dbm) {
  return to_watt(Dbm{dbm}).value;
}

class WattTicker : public QCPAxisTicker {
 public:
  explicit WattTicker(bool is_log) : is_log_(is_log) { setTickCount(6); }

 protected:
  QVector<double> createTickVector(double step, const QCPRange& range) override {
    if (!is_log_) return QCPAxisTicker::createTickVector(step, range);
    const std::vector<double> ticks = decade_ticks(std::max(range.lower, 1e-6), range.upper);
    return {ticks.begin(), ticks.end()};
  }
  int getSubTickCount(double) override { return 0; }
  QString getTickLabel(double tick, const QLocale&, QChar, int) override {
    return QString::number(tick, 'g', 4);
  }

 private:
  bool is_log_;
};

}  // namespace

LadderPlot::LadderPlot(QWidget* parent) : QCustomPlot(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setMinimumHeight(220);
  setMouseTracking(true);
  setAccessibleName(tr("Products over output power"));
  dress_plot(*this, QMargins(38, 30, 54, 26));
  yAxis->setTicker(QSharedPointer<DecibelTicker>::create());
  xAxis->setTicker(QSharedPointer<WattTicker>::create(false));
  (new LadderBackdrop(this))->setLayer("background");
  (new LadderOverlay(this))->setLayer("overlay");
  follow_theme();
}

double LadderPlot::x_of(double dbm) const {
  return xAxis->coordToPixel(watts_of(dbm));
}

void LadderPlot::set_logarithmic(bool logarithmic) {
  axis_was_chosen_ = true;
  is_log_ = logarithmic;
  set_picture(picture_);
}

void LadderPlot::set_picture(const LadderPicture& picture) {
  picture_ = picture;
  dragged_dbm_.reset();
  std::vector<double> outputs;
  double low = 0.0;
  double high = -200.0;
  for (const LadderTrace& trace : picture_.traces) {
    for (const LadderPoint& p : trace.points) {
      outputs.push_back(watts_of(p.output_dbm));
      low = std::min(low, p.level_db - 4.0);
      high = std::max(high, p.level_db + 2.0 * p.u_db);
    }
  }
  if (picture_.limit_db) {
    high = std::max(high, *picture_.limit_db);
    low = std::min(low, *picture_.limit_db - 20.0);
  }
  for (const DrivenPoint& p : picture_.driven.points) high = std::max(high, p.in_phase_db);
  if (outputs.empty()) {
    outputs = {1.0, 100.0};
    low = -70.0;
    high = std::max(high, -25.0);
  }
  std::sort(outputs.begin(), outputs.end());
  if (!axis_was_chosen_) {
    // Linear, because what matters lies at the top; unless most steps crowd at the left.
    const auto small = std::count_if(outputs.begin(), outputs.end(),
                                     [&](double w) { return w < 0.1 * outputs.back(); });
    is_log_ = 2 * small > static_cast<std::ptrdiff_t>(outputs.size());
  }
  double top = outputs.back() * 1.06;
  if (picture_.ceiling_dbm) top = std::max(top, watts_of(*picture_.ceiling_dbm) * 1.06);
  xAxis->setScaleType(is_log_ ? QCPAxis::stLogarithmic : QCPAxis::stLinear);
  xAxis->setTicker(QSharedPointer<WattTicker>::create(is_log_));
  xAxis->setRange(is_log_ ? outputs.front() / 1.15 : 0.0, top);
  yAxis->setRange(std::floor(low / 10.0) * 10.0, std::ceil((high + 4.0) / 5.0) * 5.0);
  fill_graphs();
  QStringList words;
  for (const auto& c : picture_.crossings) words << c.words;
  if (picture_.sweet_dbm)
    words << tr("sweet spot %1 W").arg(qt_text(number_text(watts_of(*picture_.sweet_dbm), 1)));
  setAccessibleDescription(words.join(", "));
  replot(rpQueuedReplot);
}

void LadderPlot::fill_graphs() {
  const Theme& t = theme_of(this);
  clearGraphs();
  if (!picture_.driven.points.empty()) {
    QVector<QCPGraphData> low;
    QVector<QCPGraphData> high;
    constexpr double kOffTheAxisDb = -200.0;  // where nothing is surely there, there is no bottom
    for (const DrivenPoint& p : picture_.driven.points) {
      low.append({watts_of(p.exciter_dbm), p.power_sum_db.value_or(kOffTheAxisDb)});
      high.append({watts_of(p.exciter_dbm), p.in_phase_db});
    }
    QPen edge = trace_pen(t, 5);
    edge.setWidthF(1.2);
    QColor fill = edge.color();
    fill.setAlphaF(t.is_dark ? 0.24F : 0.13F);
    QCPGraph* bottom = addGraph();
    bottom->data()->set(low, true);
    bottom->setPen(edge);
    QCPGraph* top = addGraph();
    top->data()->set(high, true);
    top->setPen(edge);
    top->setBrush(fill);
    top->setChannelFillGraph(bottom);
  }
  int number = 1;
  for (const LadderTrace& trace : picture_.traces) {
    if (trace.order > 9) break;
    QPen pen = trace_pen(t, number++);
    pen.setWidthF(2.0);
    for (std::size_t i = 1; i < trace.points.size(); ++i) {
      const LadderPoint& a = trace.points[i - 1];
      const LadderPoint& b = trace.points[i];
      QVector<QCPGraphData> line;
      // Straight in dB over dB, which bends on a linear axis.
      constexpr int kParts = 24;
      for (int k = 0; k <= kParts; ++k) {
        const double part = static_cast<double>(k) / kParts;
        line.append({watts_of(a.output_dbm + part * (b.output_dbm - a.output_dbm)),
                     a.level_db + part * (b.level_db - a.level_db)});
      }
      QCPGraph* graph = addGraph();
      graph->data()->set(line, true);
      QPen here = pen;
      if (a.is_bound || b.is_bound) {
        QColor faint = pen.color();
        faint.setAlphaF(0.45F);
        here = QPen(faint, 1.0);
      }
      graph->setPen(here);
      graph->setAdaptiveSampling(false);
    }
  }
}

void LadderPlot::follow_theme() {
  dress_plot_in_theme(*this);
  fill_graphs();
  replot(rpQueuedReplot);
}

void LadderPlot::changeEvent(QEvent* event) {
  QCustomPlot::changeEvent(event);
  if (event->type() == QEvent::PaletteChange) follow_theme();
}

bool LadderPlot::is_on_ceiling(QPointF point) const {
  return picture_.ceiling_dbm && picture_.can_move_ceiling &&
         std::abs(point.x() - x_of(*picture_.ceiling_dbm)) < 9;
}

void LadderPlot::mousePressEvent(QMouseEvent* event) {
  pressed_at_ = event->pos();
  is_dragging_ = is_on_ceiling(event->position());
  if (!is_dragging_) QCustomPlot::mousePressEvent(event);
}

void LadderPlot::mouseMoveEvent(QMouseEvent* event) {
  if (is_dragging_) {
    const double w = std::max(0.001, xAxis->pixelToCoord(event->position().x()));
    dragged_dbm_ = to_dbm(Watt{std::max(0.1, std::round(w * 10.0) / 10.0)}).value;
    replot(rpQueuedReplot);
    return;
  }
  setCursor(is_on_ceiling(event->position()) ? Qt::SizeHorCursor : Qt::ArrowCursor);
  QCustomPlot::mouseMoveEvent(event);
}

void LadderPlot::mouseReleaseEvent(QMouseEvent* event) {
  if (is_dragging_) {
    is_dragging_ = false;
    const auto moved = std::exchange(dragged_dbm_, std::nullopt);
    if (moved) emit ceiling_moved(*moved);
    return;
  }
  QCustomPlot::mouseReleaseEvent(event);
  if ((event->pos() - pressed_at_).manhattanLength() > 4) return;
  double best = 14.0;
  int row = -1;
  for (const LadderTrace& trace : picture_.traces) {
    for (const LadderPoint& p : trace.points) {
      const QPointF at(x_of(p.output_dbm), yAxis->coordToPixel(p.level_db));
      const double distance = QLineF(at, event->position()).length();
      if (distance >= best) continue;
      best = distance;
      row = static_cast<int>(p.row);
    }
  }
  if (row >= 0) emit step_chosen(row);
}

void LadderPlot::keyPressEvent(QKeyEvent* event) {
  if ((event->key() == Qt::Key_Left || event->key() == Qt::Key_Right) && picture_.ceiling_dbm &&
      picture_.can_move_ceiling) {
    const double step = event->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0;
    const double w =
        watts_of(*picture_.ceiling_dbm) + (event->key() == Qt::Key_Left ? -step : step);
    if (w >= 0.1) emit ceiling_moved(to_dbm(Watt{std::round(w * 10.0) / 10.0}).value);
    return;
  }
  if (event->key() == Qt::Key_X) {
    set_logarithmic(!is_log_);
    return;
  }
  QCustomPlot::keyPressEvent(event);
}

bool LadderPlot::save_picture(const QString& path, QString* reason) {
  return save_plot(*this, path, tr("Products over output power"), reason);
}

}  // namespace heron
