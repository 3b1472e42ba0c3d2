#include "app/paint/figure_text.h"

#include <QFontMetricsF>
#include <QRegularExpression>
#include <vector>

namespace heron {
namespace {

struct Run {
  QString text;
  bool is_figure;
};

std::vector<Run> runs(const QString& text) {
  static const QRegularExpression number(QStringLiteral("[+\u2212]?\\d[\\d.:,]*"));
  std::vector<Run> out;
  qsizetype at = 0;
  auto matches = number.globalMatch(text);
  while (matches.hasNext()) {
    const auto match = matches.next();
    if (match.capturedStart() > at)
      out.push_back({text.mid(at, match.capturedStart() - at), false});
    out.push_back({match.captured(), true});
    at = match.capturedEnd();
  }
  if (at < text.size()) out.push_back({text.mid(at), false});
  return out;
}

}  // namespace

double figure_text_width(const QString& text, Type figures, Type words) {
  double width = 0.0;
  for (const Run& run : runs(text)) {
    width += QFontMetricsF(type_font(run.is_figure ? figures : words)).horizontalAdvance(run.text);
  }
  return width;
}

QString elided_figure_text(const QString& text, Type figures, Type words, double width) {
  QString fitted = text;
  for (qsizetype kept = text.size() - 1;
       kept > 0 && figure_text_width(fitted, figures, words) > width; --kept)
    fitted = text.left(kept).trimmed() + QChar(0x2026);
  return fitted;
}

double draw_figure_text(QPainter& painter, QPointF baseline, const QString& text, Type figures,
                        Type words, const QColor& colour) {
  painter.setPen(colour);
  double x = baseline.x();
  for (const Run& run : runs(text)) {
    const QFont face = type_font(run.is_figure ? figures : words);
    painter.setFont(face);
    painter.drawText(QPointF(x, baseline.y()), run.text);
    x += QFontMetricsF(face).horizontalAdvance(run.text);
  }
  return x - baseline.x();
}

void draw_elided(QPainter& painter, const QRectF& box, int flags, const QString& text) {
  const QString fitted =
      painter.fontMetrics().elidedText(text, Qt::ElideRight, static_cast<int>(box.width()));
  painter.drawText(box, flags | Qt::TextSingleLine, fitted);
}

}  // namespace heron
