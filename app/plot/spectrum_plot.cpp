#include "app/plot/spectrum_plot.h"

#include <QSvgGenerator>
#include <cmath>

#include "app/plot/plot_dress.h"
#include "app/plot/tickers.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/traces.h"
#include "core/method/two_tone/two_tone.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {

SpectrumPlot::SpectrumPlot(QWidget* parent) : QCustomPlot(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setMinimumHeight(220);
  setMouseTracking(true);
  setAccessibleName(tr("Spectrum"));
  setAutoAddPlottableToLegend(false);
  setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
  dress_plot(*this, QMargins(38, 28, 10, 26));
  axisRect()->setRangeDrag(Qt::Horizontal);
  axisRect()->setRangeZoom(Qt::Horizontal);
  yAxis->setTicker(QSharedPointer<DecibelTicker>::create());
  xAxis->setTicker(QSharedPointer<FrequencyTicker>::create());
  yAxis->setTickLabelPadding(10);
  base_ = addGraph();
  fill_ = addGraph();
  trace_ = addGraph();
  base_->setPen(Qt::NoPen);
  fill_->setPen(Qt::NoPen);
  fill_->setChannelFillGraph(base_);
  trace_->setAdaptiveSampling(false);
  backdrop_ = new SpectrumBackdrop(this, scene_);
  backdrop_->setLayer("background");
  overlay_ = new SpectrumOverlay(this, scene_);
  overlay_->setLayer("overlay");
  connect(xAxis, qOverload<const QCPRange&>(&QCPAxis::rangeChanged), this,
          &SpectrumPlot::thin_trace);
  follow_theme();
}

void SpectrumPlot::set_picture(const SpectrumPicture& picture) {
  const bool same_view =
      scene_.empty_words.isEmpty() && scene_.picture.x_from_hz == picture.x_from_hz &&
      scene_.picture.x_to_hz == picture.x_to_hz && !scene_.picture.curve.y.empty();
  scene_.picture = picture;
  scene_.empty_words.clear();
  double top = 0.0;
  for (const auto& [hz, level] : picture.tones) top = std::max(top, level);
  double low = picture.floor_db;
  if (low < -190.0) {
    // No products, no floor: show what there is.
    std::vector<float> sorted = picture.curve.y;
    if (!sorted.empty()) {
      std::nth_element(sorted.begin(),
                       sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() / 2),
                       sorted.end());
      low = sorted[sorted.size() / 2];
    }
  }
  yAxis->setRange(std::max(-200.0, std::floor((low - 12.0) / 10.0) * 10.0),
                  std::ceil(top / 10.0) * 10.0);
  if (!same_view) xAxis->setRange(picture.x_from_hz, picture.x_to_hz);
  thin_trace();
  setAccessibleDescription(
      tr("%1 product flags, %2").arg(picture.flags.size()).arg(qt_text(picture.y_title)));
  replot(rpQueuedReplot);
}

void SpectrumPlot::set_empty(const QString& words, const std::optional<Limit>& limit,
                             const QString& convention) {
  SpectrumPicture nothing;
  nothing.y_title = (QStringLiteral("dB ") + convention).toStdString();
  if (limit) {
    // Without tones the two references are their nominal 6.02 dB apart.
    const Limit shown =
        in_convention(*limit, convention.toStdString(), pep_over_one_tone(1.0).value);
    nothing.limit_db = shown.value;
    nothing.limit_words = "Limit " + number_text(shown.value, 0) + " dB";
  }
  scene_.picture = nothing;
  scene_.empty_words = words;
  xAxis->setRange(-6000, 8500);
  yAxis->setRange(-80, 0);
  thin_trace();
  replot(rpQueuedReplot);
}

void SpectrumPlot::highlight(std::optional<std::pair<int, bool>> product) {
  scene_.highlighted = product;
  replot(rpQueuedReplot);
}

void SpectrumPlot::reset_zoom() {
  if (scene_.empty_words.isEmpty())
    xAxis->setRange(scene_.picture.x_from_hz, scene_.picture.x_to_hz);
  replot(rpQueuedReplot);
}

/// One point per pixel column keeping the highest: no line is lost, however long the recording.
void SpectrumPlot::thin_trace() {
  const Curve& curve = scene_.picture.curve;
  QVector<QCPGraphData> points;
  QVector<QCPGraphData> raised;
  const QCPRange range = xAxis->range();
  const int columns = std::max(2, axisRect()->width());
  const double floor =
      scene_.picture.floor_db > -190.0 ? scene_.picture.floor_db + 3.0 : yAxis->range().lower;
  if (!curve.y.empty()) {
    const double per_column = range.size() / columns;
    const auto first = static_cast<std::ptrdiff_t>(
        std::max(0.0, std::floor((range.lower - curve.x_start) / curve.x_step)));
    const auto last = std::min(
        static_cast<std::ptrdiff_t>(curve.y.size()) - 1,
        static_cast<std::ptrdiff_t>(std::ceil((range.upper - curve.x_start) / curve.x_step)));
    std::ptrdiff_t i = first;
    while (i <= last) {
      const double x = curve.x(static_cast<std::size_t>(i));
      const double column = std::floor((x - range.lower) / per_column);
      double highest = curve.y[static_cast<std::size_t>(i)];
      ++i;
      int merged = 1;
      while (i <= last && std::floor((curve.x(static_cast<std::size_t>(i)) - range.lower) /
                                     per_column) == column) {
        highest = std::max(highest, static_cast<double>(curve.y[static_cast<std::size_t>(i)]));
        ++i;
        ++merged;
      }
      const double at = merged == 1 ? x : range.lower + (column + 0.5) * per_column;
      points.append({at, highest});
      raised.append({at, std::max(highest, floor)});
    }
  }
  trace_->data()->set(points, true);
  fill_->data()->set(raised, true);
  base_->data()->set({{range.lower, floor}, {range.upper, floor}}, true);
}

void SpectrumPlot::follow_theme() {
  const Theme& t = theme_of(this);
  scene_.theme = &t;
  dress_plot_in_theme(*this);
  trace_->setPen(trace_pen(t, 1, true));
  QColor tint = trace_pen(t, 1).color();
  tint.setAlphaF(t.is_dark ? 0.16F : 0.12F);
  fill_->setBrush(tint);
  replot(rpQueuedReplot);
}

void SpectrumPlot::changeEvent(QEvent* event) {
  QCustomPlot::changeEvent(event);
  if (event->type() == QEvent::PaletteChange) follow_theme();
}

void SpectrumPlot::resizeEvent(QResizeEvent* event) {
  QCustomPlot::resizeEvent(event);
  thin_trace();
}

void SpectrumPlot::move_cursor(double hz) {
  scene_.cursor_hz = hz;
  replot(rpQueuedReplot);
}

void SpectrumPlot::mouseMoveEvent(QMouseEvent* event) {
  QCustomPlot::mouseMoveEvent(event);
  if (!scene_.empty_words.isEmpty()) return;
  setCursor(overlay_->flag_at(event->position()) ? Qt::PointingHandCursor : Qt::CrossCursor);
  move_cursor(xAxis->pixelToCoord(event->position().x()));
}

void SpectrumPlot::mousePressEvent(QMouseEvent* event) {
  pressed_at_ = event->pos();
  QCustomPlot::mousePressEvent(event);
}

void SpectrumPlot::mouseReleaseEvent(QMouseEvent* event) {
  QCustomPlot::mouseReleaseEvent(event);
  if ((event->pos() - pressed_at_).manhattanLength() > 4) return;
  if (const auto product = overlay_->flag_at(event->position()))
    emit product_chosen(product->first, product->second);
}

void SpectrumPlot::mouseDoubleClickEvent(QMouseEvent*) {
  reset_zoom();
}

void SpectrumPlot::leaveEvent(QEvent* event) {
  QCustomPlot::leaveEvent(event);
  if (!hasFocus()) {
    scene_.cursor_hz.reset();
    replot(rpQueuedReplot);
  }
}

void SpectrumPlot::keyPressEvent(QKeyEvent* event) {
  const double pixel = xAxis->range().size() / std::max(1, axisRect()->width());
  const double step = pixel * (event->modifiers() & Qt::ShiftModifier ? 10 : 1);
  const double at = scene_.cursor_hz.value_or(xAxis->range().center());
  switch (event->key()) {
    case Qt::Key_Left:
      move_cursor(at - step);
      return;
    case Qt::Key_Right:
      move_cursor(at + step);
      return;
    case Qt::Key_Plus:
    case Qt::Key_Equal:
      xAxis->scaleRange(0.7, at);
      replot();
      return;
    case Qt::Key_Minus:
      xAxis->scaleRange(1.0 / 0.7, at);
      replot();
      return;
    case Qt::Key_0:
    case Qt::Key_Home:
      reset_zoom();
      return;
    default:
      QCustomPlot::keyPressEvent(event);
  }
}

bool SpectrumPlot::save_picture(const QString& path, QString* reason) {
  const auto cursor = std::exchange(scene_.cursor_hz, std::nullopt);
  const bool ok = save_plot(*this, path, tr("Two-tone spectrum"), reason);
  scene_.cursor_hz = cursor;
  return ok;
}

}  // namespace heron
