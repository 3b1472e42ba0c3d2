#include "app/plot/range_marks.h"

#include <algorithm>

#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"

namespace heron {
namespace {

constexpr double kLaneHeight = 16.0;
constexpr double kGripWide = 8.0;
constexpr double kGripHigh = 18.0;

double inside(QCPAxisRect& rect, double x) {
  return std::clamp(rect.axis(QCPAxis::atBottom)->coordToPixel(x), static_cast<double>(rect.left()),
                    static_cast<double>(rect.right()));
}

void draw_range(QCPPainter& p, QCPAxisRect& rect, const PlotRange& range, int room,
                const Theme& theme) {
  const QRectF r(rect.rect());
  const double left = inside(rect, range.from);
  const double right = inside(rect, range.to);
  if (right - left < 2.0) return;
  if (range.is_caution) {
    p.fillRect(QRectF(left, r.top(), right - left, r.height()), theme.margTint);
    p.fillRect(QRectF(left, r.top(), 2, r.height()), theme.ink);
    p.setFont(strong_label());
    p.setPen(theme.slate);
    p.drawText(QRectF(r.right() + 8, r.center().y() - 20, room - 12, 48),
               Qt::AlignLeft | Qt::AlignVCenter | Qt::TextWordWrap, qt_text(range.word));
    return;
  }
  if (range.is_window) {
    QColor inside_it = theme.waterTint;
    inside_it.setAlphaF(0.6F);
    p.fillRect(QRectF(left, r.top(), right - left, r.height()), inside_it);
    for (const double x : {left, right - 1})
      p.fillRect(QRectF(x, r.top(), 1, r.height()), theme.water);
    if (range.low_setting.empty()) return;
    p.setPen(QPen(theme.water, 1.2));
    p.setBrush(theme.sheet);
    for (const double x : {left, right - 1})
      p.drawRoundedRect(QRectF(x - kGripWide / 2, r.top() + 3, kGripWide, kGripHigh), 4, 4);
    return;
  }
  const bool is_said = range.verdict == Verdict::pass || range.verdict == Verdict::fail;
  const QColor tint = range.verdict == Verdict::pass   ? theme.passTint
                      : range.verdict == Verdict::fail ? theme.failTint
                                                       : theme.strip;
  if (range.is_tinted) p.fillRect(QRectF(left, r.top(), right - left, r.height()), tint);
  p.setFont(type_font(Type::label));
  p.setPen(theme.mute);
  if (is_said) {
    p.setFont(strong_label());
    p.setPen(range.verdict == Verdict::pass ? theme.pass : theme.fail);
  }
  const QString words = qt_text(range.word);
  // What is better lies below zero: its words stand above it.
  const double at = range.verdict == Verdict::pass ? r.top() + 3 : r.bottom() - 18;
  if (right - left > QFontMetricsF(p.font()).horizontalAdvance(words) + 6)
    p.drawText(QRectF(left, at, right - left, 16), Qt::AlignCenter, words);
  if (is_said) return;
  p.setPen(QPen(theme.hairStrong, 1, Qt::DashLine));
  for (const double x : {left, right}) p.drawLine(QPointF(x, r.top()), QPointF(x, r.bottom()));
}

void draw_bracket(QCPPainter& p, QCPAxisRect& rect, const PlotBracket& bracket,
                  const Theme& theme) {
  const QRectF r(rect.rect());
  const double left = inside(rect, bracket.from);
  const double right = inside(rect, bracket.to);
  const double y = r.top() + 12;
  p.setPen(QPen(theme.ink, 1.5));
  p.drawLine(QPointF(left, y), QPointF(right, y));
  for (const double x : {left, right}) p.drawLine(QPointF(x, y - 5), QPointF(x, y + 5));
  p.setFont(strong_label());
  const QString words = qt_text(bracket.words);
  const double w = QFontMetricsF(p.font()).horizontalAdvance(words);
  const double at = std::clamp((left + right - w) / 2, r.left(), std::max(r.left(), r.right() - w));
  p.fillRect(QRectF(at - 4, y + 4, w + 8, 17), theme.sheet);
  p.setPen(theme.ink);
  p.drawText(QPointF(at, y + 17), words);
}

/// Of all steps, or of the chosen one.
template <class Mark>
bool is_shown(const Mark& mark, std::optional<std::size_t> chosen) {
  return !mark.step || mark.step == chosen;
}

}  // namespace

void draw_ranges(QCPPainter& p, QCPAxisRect& rect, const PlotPanel& panel, int room,
                 std::optional<std::size_t> chosen, const Theme& theme) {
  for (const PlotRange& range : panel.ranges)
    if (is_shown(range, chosen)) draw_range(p, rect, range, room, theme);
}

void draw_brackets(QCPPainter& p, QCPAxisRect& rect, const PlotPanel& panel,
                   std::optional<std::size_t> chosen, const Theme& theme) {
  for (const PlotBracket& bracket : panel.brackets)
    if (is_shown(bracket, chosen)) draw_bracket(p, rect, bracket, theme);
}

void draw_lanes(QCPPainter& p, QCPAxisRect& rect, const PlotPanel& panel,
                std::optional<std::size_t> chosen, const Theme& theme) {
  if (panel.lanes.empty()) return;
  const QRectF r(rect.rect());
  const auto width = [](const PlotRange& lane) { return lane.to - lane.from; };
  const PlotRange* widest = &panel.lanes.front();
  bool overlap = false;
  for (const PlotRange& lane : panel.lanes) {
    if (width(lane) > width(*widest)) widest = &lane;
    for (const PlotRange& other : panel.lanes)
      overlap = overlap || (&other != &lane && lane.from < other.to && other.from < lane.to);
  }
  p.setFont(type_font(Type::label));
  const QFontMetricsF metrics(p.font());
  double used = -1e9;  // of the second lane
  std::vector<const PlotRange*> order;
  for (const PlotRange& lane : panel.lanes) order.push_back(&lane);
  std::stable_sort(order.begin(), order.end(),
                   [](const PlotRange* a, const PlotRange* b) { return a->from < b->from; });
  for (const PlotRange* lane : order) {
    if (lane->to < rect.axis(QCPAxis::atBottom)->range().lower ||
        lane->from > rect.axis(QCPAxis::atBottom)->range().upper)
      continue;
    const bool is_first = overlap && lane == widest;
    const double top = r.top() + (is_first || !overlap ? 2.0 : 2.0 + kLaneHeight + 4.0);
    const double left = inside(rect, lane->from);
    const double right = std::max(inside(rect, lane->to), left + 2.0);
    const bool is_chosen = lane->step && lane->step == chosen;
    const QRectF bar(left, top, right - left, kLaneHeight);
    p.fillRect(bar, is_chosen ? theme.waterTint : theme.sunk);
    const double edge = is_chosen ? 2.0 : 1.0;
    for (const double x : {left, right - edge})
      p.fillRect(QRectF(x, top, edge, kLaneHeight), is_chosen ? theme.water : theme.mute);
    p.setPen(is_chosen ? theme.water : theme.slate);
    const QString name = qt_text(lane->word);
    const double wide = metrics.horizontalAdvance(name);
    if (bar.width() > wide + 8.0) {
      p.drawText(bar, Qt::AlignCenter, name);
      used = std::max(used, right);
    } else if (right + 5.0 > used && right + 5.0 + wide < r.right() + 6.0) {
      p.drawText(QRectF(right + 5.0, top, wide + 2.0, kLaneHeight), Qt::AlignVCenter, name);
      used = right + 5.0 + wide;
    }
  }
}

}  // namespace heron
