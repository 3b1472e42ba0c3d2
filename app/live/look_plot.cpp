#include "app/live/look_plot.h"

#include <cmath>

#include "app/plot/plot_dress.h"
#include "app/plot/tickers.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "app/theme/traces.h"
#include "core/quantity/parse_quantity.h"

namespace heron {

class LookOverlay : public QCPAbstractItem {
 public:
  explicit LookOverlay(LookPlot* plot) : QCPAbstractItem(plot), plot_(plot) {
    setClipToAxisRect(false);
  }
  double selectTest(const QPointF&, bool, QVariant*) const override { return -1; }

 protected:
  void draw(QCPPainter* painter) override {
    QCPPainter& p = *painter;
    const Theme& t = theme_of(plot_);
    const QRectF r(plot_->axisRect()->rect());
    p.setFont(type_font(Type::label));
    p.setPen(t.slate);
    p.drawText(QRectF(15, 2, 260, 18), Qt::AlignVCenter,
               QObject::tr("dBm at the device, each bin"));
    p.setPen(t.mute);
    p.drawText(QRectF(r.right() - 430, 2, 430, 18), Qt::AlignRight | Qt::AlignVCenter,
               plot_->words_);
    const QString unit =
        FrequencyTicker::unit_name(FrequencyTicker::unit_for(plot_->xAxis->range()));
    QFont strong = type_font(Type::label);
    strong.setWeight(QFont::DemiBold);
    p.setFont(strong);
    p.fillRect(QRectF(r.right() - 44, r.bottom() + 6, 44, 18), t.sheet);
    p.setPen(t.slate);
    p.drawText(QRectF(r.right() - 44, r.bottom() + 6, 44, 18), Qt::AlignRight | Qt::AlignVCenter,
               unit);
    if (plot_->empty_.isEmpty()) return;
    p.setFont(type_font(Type::question));
    p.drawText(r.adjusted(60, 0, -60, 0), Qt::AlignCenter | Qt::TextWordWrap, plot_->empty_);
  }

 private:
  LookPlot* plot_;
};

LookPlot::LookPlot(QWidget* parent) : QCustomPlot(parent) {
  setMinimumHeight(180);
  setAccessibleName(tr("Live spectrum"));
  setFocusPolicy(Qt::StrongFocus);
  setAutoAddPlottableToLegend(false);
  setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
  dress_plot(*this, QMargins(42, 26, 14, 26));
  // It moves: sharp edges and speed before smooth ones.
  setAntialiasedElements(QCP::aeNone);
  setNoAntialiasingOnDrag(true);
  yAxis->setTicker(QSharedPointer<DecibelTicker>::create());
  xAxis->setTicker(QSharedPointer<FrequencyTicker>::create());
  hold_ = addGraph();
  average_ = addGraph();
  for (QCPGraph* graph : {hold_, average_}) graph->setAdaptiveSampling(false);
  hold_->setVisible(false);
  (new LookOverlay(this))->setLayer("overlay");
  yAxis->setRange(-80.0, 60.0);
  follow_theme();
}

void LookPlot::set_span(double center_hz, double rate_hz) {
  center_hz_ = center_hz;
  rate_hz_ = rate_hz;
  xAxis->setRange(-rate_hz / 2.0, rate_hz / 2.0);
}

void LookPlot::show_hold(bool shown) {
  hold_->setVisible(shown);
  replot(rpQueuedReplot);
}

void LookPlot::set_empty(const QString& words) {
  empty_ = words;
  if (!words.isEmpty()) {
    average_->data()->clear();
    hold_->data()->clear();
    words_.clear();
  }
  replot(rpQueuedReplot);
}

/// As many points as there are pixels, each the highest of its bins.
void LookPlot::fill(QCPGraph* graph, const std::vector<float>& power, double to_dbm) {
  const double bin = rate_hz_ / static_cast<double>(power.size());
  const auto first =
      static_cast<std::size_t>(std::clamp(std::floor((xAxis->range().lower + rate_hz_ / 2.0) / bin),
                                          0.0, static_cast<double>(power.size() - 1)));
  const auto last = static_cast<std::size_t>(
      std::clamp(std::ceil((xAxis->range().upper + rate_hz_ / 2.0) / bin) + 1.0,
                 static_cast<double>(first + 1), static_cast<double>(power.size())));
  const std::size_t columns = static_cast<std::size_t>(std::max(64, axisRect()->width()));
  const std::size_t per = std::max<std::size_t>(1, (last - first) / columns);
  QVector<QCPGraphData> points;
  const std::size_t count = (last - first) / per + 1;
  points.reserve(static_cast<qsizetype>(count));
  for (std::size_t k = first; k < last; k += per) {
    float most = 0.0F;
    std::size_t at = k;
    for (std::size_t i = k; i < std::min(k + per, last); ++i) {
      if (power[i] <= most) continue;
      most = power[i];
      at = i;
    }
    points.append({static_cast<double>(at) * bin - rate_hz_ / 2.0,
                   10.0 * std::log10(static_cast<double>(most) + 1e-20) + to_dbm});
  }
  graph->data()->set(points, true);
}

void LookPlot::show_frame(const LookFrame& frame) {
  if (frame.average.empty()) return;
  empty_.clear();
  const double to_dbm = frame.full_scale_dbm + frame.loss_db;
  fill(average_, frame.average, to_dbm);
  if (hold_->visible()) fill(hold_, frame.hold, to_dbm);
  const double top = std::ceil((to_dbm + 3.0) / 10.0) * 10.0;
  yAxis->setRange(top - 120.0, top);
  words_ = tr("%1 · average of %2 · %3 a second")
               .arg(qt_text(frequency_text(center_hz_)))
               .arg(std::min<std::size_t>(frame.averages, frame.segments))
               .arg(frame.updates_per_s, 0, 'f', 0);
  replot(rpQueuedReplot);
}

void LookPlot::follow_theme() {
  const Theme& t = theme_of(this);
  dress_plot_in_theme(*this);
  QPen held = trace_pen(t, 2);
  held.setStyle(Qt::SolidLine);
  held.setWidthF(1.0);
  hold_->setPen(held);
  QPen now = trace_pen(t, 1);
  now.setWidthF(1.0);
  average_->setPen(now);
  replot(rpQueuedReplot);
}

void LookPlot::changeEvent(QEvent* event) {
  QCustomPlot::changeEvent(event);
  if (event->type() == QEvent::PaletteChange) follow_theme();
}

void LookPlot::resizeEvent(QResizeEvent* event) {
  QCustomPlot::resizeEvent(event);
}

}  // namespace heron
