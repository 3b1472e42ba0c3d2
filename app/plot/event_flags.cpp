#include "app/plot/event_flags.h"

#include <algorithm>

#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"

namespace heron {
namespace {

constexpr double kHigh = 18.0;
constexpr double kTail = 5.0;

void draw_flag(QCPPainter& p, const QRectF& box, const QString& words, bool is_chosen,
               const Theme& t) {
  QPolygonF flag;
  flag << box.topLeft() << box.topRight() << QPointF(box.right() - kTail, box.center().y())
       << box.bottomRight() << box.bottomLeft();
  p.setPen(QPen(t.ink, 1.2));
  p.setBrush(is_chosen ? t.ink : t.sheet);
  p.drawPolygon(flag);
  p.setPen(is_chosen ? t.sheet : t.ink);
  p.drawText(box.adjusted(0, 0, -kTail, 0), Qt::AlignCenter, words);
}

}  // namespace

std::optional<std::size_t> event_at(const PlotPanel& panel, double x) {
  const PlotRange* best = nullptr;
  for (const PlotRange& e : panel.lanes)
    if (x >= e.from && x <= e.to && (best == nullptr || e.to - e.from < best->to - best->from))
      best = &e;
  return best != nullptr ? best->step : std::nullopt;
}

void draw_event_flags(QCPPainter& p, QCPAxisRect& rect, const PlotPanel& panel,
                      std::optional<std::size_t> chosen, const Theme& theme) {
  const QRectF r(rect.rect());
  const QCPAxis* axis = rect.axis(QCPAxis::atBottom);
  const auto x_of = [&](double x) {
    return std::round(std::clamp(axis->coordToPixel(x), r.left(), r.right()));
  };
  const QCPRange range = axis->range();
  std::vector<std::pair<std::size_t, const PlotRange*>> shown;
  for (std::size_t i = 0; i < panel.lanes.size(); ++i)
    if (panel.lanes[i].to > range.lower && panel.lanes[i].from < range.upper)
      shown.emplace_back(i + 1, &panel.lanes[i]);
  p.setFont(strong_label());
  const QFontMetricsF metrics(p.font());
  for (std::size_t k = 0; k < shown.size(); ++k) {
    const auto& [number, event] = shown[k];
    const double left = x_of(event->from);
    const double end = k + 1 < shown.size() ? x_of(shown[k + 1].second->from) : r.right() + 24.0;
    QString words = qt_text(event->word);
    double wide = metrics.horizontalAdvance(words) + 16.0 + kTail;
    if (left + wide > end) {
      words = QString::number(number);
      wide = metrics.horizontalAdvance(words) + 10.0 + kTail;
    }
    const bool is_chosen = event->step == chosen;
    p.setRenderHint(QPainter::Antialiasing, true);
    if (left + wide <= end + 1.0)
      draw_flag(p, {left, r.top() - kHigh - 3.0, wide, kHigh}, words, is_chosen, theme);
    p.fillRect(QRectF(left - 0.75, r.top() - kHigh - 3.0, 1.5, r.height() + kHigh + 3.0),
               theme.ink);
    p.fillRect(QRectF(left, r.top() - 2.0, std::max(2.0, x_of(event->to) - left), 2.0),
               is_chosen ? theme.water : theme.ink);
  }
}

}  // namespace heron
