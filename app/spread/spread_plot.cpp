#include "app/spread/spread_plot.h"

#include <algorithm>
#include <cmath>

#include "app/paint/figure_text.h"
#include "app/plot/plot_dress.h"
#include "app/plot/tickers.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "app/theme/traces.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr int kMostTraces = 6;
constexpr double kNameHeight = 15.0;

}  // namespace

class SpreadOverlay : public QCPAbstractItem {
 public:
  SpreadOverlay(SpreadPlot* plot, bool is_behind)
      : QCPAbstractItem(plot), plot_(plot), is_behind_(is_behind) {
    setClipToAxisRect(false);
  }
  double selectTest(const QPointF&, bool, QVariant*) const override { return -1; }

 protected:
  void draw(QCPPainter* painter) override {
    QCPPainter& p = *painter;
    p.setRenderHint(QPainter::Antialiasing);
    if (is_behind_) {
      draw_windows(p);
      return;
    }
    draw_words(p);
    if (plot_->picture_.traces.empty()) return;
    draw_width(p);
    draw_names(p);
  }

 private:
  const Theme& theme() const { return theme_of(plot_); }
  QRectF area() const { return QRectF(plot_->axisRect()->rect()); }
  double x_of(double hz) const {
    return std::clamp(plot_->xAxis->coordToPixel(hz), area().left(), area().right());
  }

  /// The channel and, on either side, the window whose power is compared with it.
  void draw_windows(QCPPainter& p) const {
    const SpreadPicture& s = plot_->picture_;
    if (s.channel_hz <= 0.0 || s.traces.empty()) return;
    const QRectF r = area();
    for (const double middle : {-1.0, 0.0, 1.0}) {
      const double left = x_of(s.channel_middle_hz + (middle - 0.5) * s.channel_hz);
      const double right = x_of(s.channel_middle_hz + (middle + 0.5) * s.channel_hz);
      if (right - left < 2.0) continue;
      if (middle == 0.0) p.fillRect(QRectF(left, r.top(), right - left, r.height()), theme().strip);
      p.setFont(type_font(Type::label));
      p.setPen(theme().mute);
      const QString words = middle == 0.0 ? QObject::tr("channel") : QObject::tr("beside it");
      if (right - left > QFontMetricsF(p.font()).horizontalAdvance(words) + 6)
        p.drawText(QRectF(left, r.bottom() - 18, right - left, 16), Qt::AlignCenter, words);
      p.setPen(QPen(theme().hairStrong, 1, Qt::DashLine));
      p.drawLine(QPointF(right, r.top()), QPointF(right, r.bottom()));
      p.drawLine(QPointF(left, r.top()), QPointF(left, r.bottom()));
    }
  }

  void draw_words(QCPPainter& p) const {
    const QRectF r = area();
    p.setFont(type_font(Type::label));
    p.setPen(theme().slate);
    p.drawText(QRectF(15, 2, 300, 18), Qt::AlignVCenter,
               QObject::tr("dB relative to each trace\u2019s own peak"));
    p.setPen(theme().mute);
    p.drawText(QRectF(r.right() - 420, 2, 420, 18), Qt::AlignRight | Qt::AlignVCenter,
               plot_->picture_.note);
    const QString unit =
        FrequencyTicker::unit_name(FrequencyTicker::unit_for(plot_->xAxis->range()));
    QFont strong = type_font(Type::label);
    strong.setWeight(QFont::DemiBold);
    p.setFont(strong);
    p.fillRect(QRectF(r.right() - 46, r.bottom() + 6, 46, 18), theme().sheet);
    p.setPen(theme().slate);
    p.drawText(QRectF(r.right() - 30, r.bottom() + 6, 30, 18), Qt::AlignRight | Qt::AlignVCenter,
               unit);
    if (plot_->picture_.empty_words.isEmpty()) return;
    p.setFont(type_font(Type::question));
    p.drawText(r.adjusted(60, 0, -60, 0), Qt::AlignCenter | Qt::TextWordWrap,
               plot_->picture_.empty_words);
  }

  void draw_width(QCPPainter& p) const {
    const SpreadPicture& s = plot_->picture_;
    const QRectF r = area();
    if (!s.width) return;
    const double left = x_of(s.width->lower_hz);
    const double right = x_of(s.width->upper_hz);
    const double y = r.top() + 12;
    p.setPen(QPen(theme().ink, 1.5));
    p.drawLine(QPointF(left, y), QPointF(right, y));
    for (const double x : {left, right}) p.drawLine(QPointF(x, y - 5), QPointF(x, y + 5));
    QFont strong = type_font(Type::label);
    strong.setWeight(QFont::DemiBold);
    p.setFont(strong);
    const double w = QFontMetricsF(strong).horizontalAdvance(s.width_words);
    const double at =
        std::clamp((left + right - w) / 2, r.left(), std::max(r.left(), r.right() - w));
    p.fillRect(QRectF(at - 4, y + 4, w + 8, 17), theme().sheet);
    p.setPen(theme().ink);
    p.drawText(QPointF(at, y + 17), s.width_words);
  }

  void draw_names(QCPPainter& p) const {
    const SpreadPicture& s = plot_->picture_;
    const QRectF r = area();
    p.setFont(type_font(Type::label));
    double y = r.top() + 8;
    for (std::size_t i = 0; i < s.traces.size(); ++i, y += kNameHeight) {
      const bool is_chosen = static_cast<int>(i) == s.chosen;
      p.setPen(trace_pen(theme(), static_cast<int>(i) % kMostTraces + 1));
      p.drawLine(QPointF(r.right() + 8, y), QPointF(r.right() + 26, y));
      p.setPen(is_chosen ? theme().ink : theme().slate);
      p.setFont(type_font(is_chosen ? Type::control_chosen : Type::label));
      draw_elided(p, QRectF(r.right() + 31, y - 8, plot_->width() - r.right() - 36, 16),
                  Qt::AlignVCenter, s.traces[i].name);
    }
  }

  SpreadPlot* plot_;
  bool is_behind_;
};

SpreadPlot::SpreadPlot(QWidget* parent) : QCustomPlot(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setMinimumHeight(220);
  setAccessibleName(tr("Spectra of the steps"));
  setAutoAddPlottableToLegend(false);
  setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
  dress_plot(*this, QMargins(42, 28, 130, 26));
  axisRect()->setRangeDrag(Qt::Horizontal);
  axisRect()->setRangeZoom(Qt::Horizontal);
  yAxis->setTicker(QSharedPointer<DecibelTicker>::create());
  xAxis->setTicker(QSharedPointer<FrequencyTicker>::create());
  (new SpreadOverlay(this, true))->setLayer("background");
  (new SpreadOverlay(this, false))->setLayer("overlay");
  follow_theme();
}

void SpreadPlot::set_picture(SpreadPicture picture) {
  const bool is_same = picture.traces.size() == picture_.traces.size() && !picture.traces.empty();
  picture_ = std::move(picture);
  clearGraphs();
  double low = -60.0;
  for (const auto& trace : picture_.traces) {
    QCPGraph* graph = addGraph();
    QVector<QCPGraphData> points;
    points.reserve(static_cast<qsizetype>(trace.curve.y.size()));
    double lowest = 0.0;
    for (std::size_t i = 0; i < trace.curve.y.size(); ++i) {
      const double y = static_cast<double>(trace.curve.y[i]) - trace.peak_dbfs;
      if (!std::isfinite(y)) continue;
      points.append({trace.curve.x(i), y});
      lowest = std::min(lowest, y);
    }
    graph->data()->set(points, true);
    low = std::min(low, lowest);
  }
  yAxis->setRange(std::max(-110.0, std::floor(low / 10.0) * 10.0), 12.0);
  if (!is_same && !picture_.traces.empty()) {
    const Curve& c = picture_.traces.front().curve;
    const double reach = std::max(picture_.channel_hz * 2.2, 3000.0);
    const double end = c.x_start + c.x_step * static_cast<double>(c.y.size());
    xAxis->setRange(std::max(c.x_start, picture_.channel_middle_hz - reach),
                    std::min(end, picture_.channel_middle_hz + reach));
  }
  setAccessibleDescription(picture_.width_words);
  follow_theme();
}

void SpreadPlot::follow_theme() {
  const Theme& t = theme_of(this);
  dress_plot_in_theme(*this);
  for (int i = 0; i < graphCount(); ++i) {
    QPen pen = trace_pen(t, i % kMostTraces + 1);
    pen.setWidthF(i == picture_.chosen ? 2.0 : 1.1);
    if (i == picture_.chosen) pen.setStyle(Qt::SolidLine);
    graph(i)->setPen(pen);
  }
  replot(rpQueuedReplot);
}

void SpreadPlot::keyPressEvent(QKeyEvent* event) {
  const int step = event->key() == Qt::Key_Down ? 1 : event->key() == Qt::Key_Up ? -1 : 0;
  const int count = static_cast<int>(picture_.traces.size());
  if (step != 0 && count > 0)
    emit trace_chosen(std::clamp(picture_.chosen + step, 0, count - 1));
  else
    QCustomPlot::keyPressEvent(event);
}

void SpreadPlot::changeEvent(QEvent* event) {
  QCustomPlot::changeEvent(event);
  if (event->type() == QEvent::PaletteChange) follow_theme();
}

SpreadPicture spread_picture(const SpreadTest& t, int step, Hold hold) {
  SpreadPicture picture;
  picture.channel_hz = t.settings.channel_hz;
  for (std::size_t i = 0; i < t.steps.size(); ++i) {
    if (!t.analyses[i]) continue;
    const BandwidthAnalysis& b = t.analyses[i]->of(hold);
    const Curve& curve = hold == Hold::average ? b.average : b.max_hold;
    if (curve.y.empty()) continue;
    if (static_cast<int>(i) == step) {
      picture.chosen = static_cast<int>(picture.traces.size());
      picture.width = b.occupied;
      if (b.occupied) {
        picture.channel_middle_hz = b.channel_middle_hz;
        picture.width_words = QObject::tr("99 % of the power: %1 Hz")
                                  .arg(qt_text(number_text(b.occupied->width_hz(), 0)));
      }
    }
    const float peak = *std::max_element(curve.y.begin(), curve.y.end());
    picture.traces.push_back({qt_text(t.steps[i].label), curve, static_cast<double>(peak)});
  }
  picture.note =
      (hold == Hold::average ? QObject::tr("average") : QObject::tr("max-hold")) +
      QObject::tr(" of %1, the same for all steps").arg(qt_text(spread_stimulus_words(t.settings)));
  return picture;
}

}  // namespace heron
