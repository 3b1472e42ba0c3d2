#include "app/plot/state_marks.h"

#include <algorithm>

#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"

namespace heron {
namespace {

constexpr double kLane = 20.0;
constexpr double kShape = 9.0;

}  // namespace

void draw_states(QCPPainter& p, QCPAxisRect& rect, const PlotPanel& panel, const Theme& theme) {
  const QRectF area(rect.rect());
  const QCPAxis* x = rect.axis(QCPAxis::atBottom);
  double top = area.bottom() + 5;
  for (const PlotStates& lane : panel.states) {
    p.setFont(type_font(Type::label));
    p.setPen(theme.slate);
    p.drawText(QRectF(0, top, area.left() - 6, kLane), Qt::AlignRight | Qt::AlignVCenter,
               qt_text(lane.name));
    for (const PlotStates::Cell& cell : lane.cells) {
      const double left = std::max(x->coordToPixel(cell.from), area.left());
      const double right = std::min(x->coordToPixel(cell.to), area.right());
      if (right - left < 2.0) continue;
      const QRectF box(left, top, right - left - 1, kLane);
      p.setRenderHint(QPainter::Antialiasing);
      p.setPen(Qt::NoPen);
      p.setBrush(verdict_tint(theme, cell.verdict));
      p.drawRoundedRect(box, 3, 3);
      const QString word = qt_text(cell.word);
      p.setFont(strong_label());
      const double wide = QFontMetricsF(p.font()).horizontalAdvance(word) + kShape + 6;
      const bool has_word = wide < box.width() - 6;
      const double from = box.center().x() - (has_word ? wide / 2 : kShape / 2);
      if (box.width() > kShape + 2)
        draw_verdict(p, QPointF(from + kShape / 2, box.center().y()), kShape, cell.verdict, theme);
      if (!has_word) continue;
      p.setPen(verdict_colour(theme, cell.verdict));
      p.drawText(QRectF(from + kShape + 6, top, wide, kLane), Qt::AlignVCenter, word);
    }
    top += kStateHeight;
  }
}

}  // namespace heron
