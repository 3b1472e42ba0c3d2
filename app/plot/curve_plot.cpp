#include "app/plot/curve_plot.h"

#include <cmath>

#include "app/plot/plot_dress.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/traces.h"
#include "core/method/plot_scale.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

/// 1-2-5 a decade, in the unit that stands at the axis' end.
class DecadeTicker : public QCPAxisTicker {
 public:
  static double unit_for(const QCPRange& range) {
    return range.upper >= 3e9 ? 1e9 : range.upper >= 2e6 ? 1e6 : range.upper >= 2e3 ? 1e3 : 1.0;
  }

 protected:
  QVector<double> createTickVector(double, const QCPRange& range) override {
    unit_ = unit_for(range);
    const std::vector<double> ticks = decade_ticks(std::max(range.lower, 1.0), range.upper);
    return {ticks.begin(), ticks.end()};
  }
  int getSubTickCount(double) override { return 0; }
  QString getTickLabel(double tick, const QLocale&, QChar, int) override {
    return QString::number(tick / unit_, 'g', 4);
  }

 private:
  double unit_ = 1.0;
};

class CurveOverlay : public QCPAbstractItem {
 public:
  CurveOverlay(QCustomPlot* plot, const CurvePicture& picture)
      : QCPAbstractItem(plot), picture_(picture), plot_(plot) {
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
    p.drawText(QRectF(15, 2, 200, 18), Qt::AlignVCenter, picture_.y_title);
    p.setPen(t.mute);
    p.drawText(QRectF(r.right() - 360, 2, 360, 18), Qt::AlignRight | Qt::AlignVCenter,
               picture_.note);
    const double unit = DecadeTicker::unit_for(plot_->xAxis->range());
    const QString name = unit == 1e9 ? "GHz" : unit == 1e6 ? "MHz" : unit == 1e3 ? "kHz" : "Hz";
    QFont strong = type_font(Type::label);
    strong.setWeight(QFont::DemiBold);
    p.setFont(strong);
    const double w = QFontMetricsF(strong).horizontalAdvance(name) + 8;
    p.fillRect(QRectF(r.right() - w, r.bottom() + 6, w, 18), t.sheet);
    p.setPen(t.slate);
    p.drawText(QRectF(r.right() - w, r.bottom() + 6, w, 18), Qt::AlignRight | Qt::AlignVCenter,
               name);
    if (!picture_.empty_words.isEmpty()) {
      p.setFont(type_font(Type::question));
      p.drawText(r.adjusted(60, 0, -60, 0), Qt::AlignCenter | Qt::TextWordWrap,
                 picture_.empty_words);
      return;
    }
    if (!picture_.in_use_hz || !plot_->xAxis->range().contains(*picture_.in_use_hz)) return;
    const double x = plot_->xAxis->coordToPixel(*picture_.in_use_hz);
    p.fillRect(QRectF(x - 0.75, r.top() + 8, 1.5, r.height() - 8), t.ink);
    // A pennant that flies to the emptier side.
    p.setFont(strong);
    const double width = QFontMetricsF(strong).horizontalAdvance(picture_.in_use_words) + 22;
    const bool to_right = x + width < r.right();
    const double left = to_right ? x : x - width;
    QPolygonF flag;
    if (to_right)
      flag << QPointF(left, r.top()) << QPointF(left + width, r.top())
           << QPointF(left + width - 5, r.top() + 10) << QPointF(left + width, r.top() + 20)
           << QPointF(left, r.top() + 20);
    else
      flag << QPointF(left + width, r.top()) << QPointF(left, r.top())
           << QPointF(left + 5, r.top() + 10) << QPointF(left, r.top() + 20)
           << QPointF(left + width, r.top() + 20);
    p.setPen(QPen(t.ink, 1.2));
    p.setBrush(t.sheet);
    p.drawPolygon(flag);
    p.setPen(t.ink);
    p.drawText(QRectF(left, r.top(), width, 20).adjusted(8, 0, -8, 0),
               to_right ? Qt::AlignVCenter | Qt::AlignLeft : Qt::AlignVCenter | Qt::AlignRight,
               picture_.in_use_words);
    draw_harmonics(p, t, r);
  }

 private:
  void draw_harmonics(QCPPainter& p, const Theme& t, const QRectF& r) const {
    double last_x = -1;
    int last = 0;
    p.setFont(type_font(Type::label));
    for (int n = 2; n <= 10; ++n) {
      const double hz = *picture_.in_use_hz * n;
      if (!plot_->xAxis->range().contains(hz)) break;
      const double x = plot_->xAxis->coordToPixel(hz);
      p.fillRect(QRectF(std::round(x) - 1, r.bottom() - 8, 1.5, 8), t.slate);
      if (n == 2) {
        p.setPen(t.slate);
        p.drawText(QRectF(x - 100, r.bottom() - 25, 104, 16), Qt::AlignRight | Qt::AlignVCenter,
                   QObject::tr("harmonics 2"));
      }
      last_x = x;
      last = n;
    }
    if (last > 2) {
      p.setPen(t.slate);
      p.drawText(QRectF(last_x - 12, r.bottom() - 25, 24, 16), Qt::AlignCenter,
                 QString::number(last));
    }
  }
  const CurvePicture& picture_;
  QCustomPlot* plot_;
};

}  // namespace

CurvePlot::CurvePlot(QWidget* parent) : QCustomPlot(parent) {
  setMinimumHeight(170);
  setAccessibleName(tr("Curve of the part"));
  dress_plot(*this, QMargins(42, 26, 14, 26));
  xAxis->setScaleType(QCPAxis::stLogarithmic);
  xAxis->setTicker(QSharedPointer<DecadeTicker>::create());
  yAxis->ticker()->setTickCount(4);
  low_ = addGraph();
  band_ = addGraph();
  curve_ = addGraph();
  low_->setPen(Qt::NoPen);
  band_->setPen(Qt::NoPen);
  band_->setChannelFillGraph(low_);
  overlay_ = new CurveOverlay(this, picture_);
  overlay_->setLayer("overlay");
  follow_theme();
}

void CurvePlot::set_picture(const CurvePicture& picture) {
  picture_ = picture;
  QVector<QCPGraphData> low;
  QVector<QCPGraphData> high;
  QVector<QCPGraphData> middle;
  double least = 1e300;
  double most = -1e300;
  for (const auto& [hz, value] : picture.points) {
    if (hz <= 0.0) continue;
    low.append({hz, value - picture.expanded});
    high.append({hz, value + picture.expanded});
    middle.append({hz, value});
    least = std::min(least, value - picture.expanded);
    most = std::max(most, value + picture.expanded);
  }
  low_->data()->set(low, true);
  band_->data()->set(high, true);
  curve_->data()->set(middle, true);
  if (middle.isEmpty()) {
    xAxis->setRange(1e6, 1e9);
    yAxis->setRange(0, 60);
  } else {
    const double room = std::max(0.2, (most - least) * 0.15);
    xAxis->setRange(middle.front().key, std::max(middle.back().key, middle.front().key * 1.01));
    yAxis->setRange(least - room, most + room * 1.6);
  }
  setAccessibleDescription(picture.in_use_words);
  replot(rpQueuedReplot);
}

void CurvePlot::follow_theme() {
  const Theme& t = theme_of(this);
  dress_plot_in_theme(*this);
  curve_->setPen(trace_pen(t, 1));
  QColor tint = t.water;
  tint.setAlphaF(t.is_dark ? 0.20F : 0.13F);
  band_->setBrush(tint);
  replot(rpQueuedReplot);
}

void CurvePlot::changeEvent(QEvent* event) {
  QCustomPlot::changeEvent(event);
  if (event->type() == QEvent::PaletteChange) follow_theme();
}

}  // namespace heron
