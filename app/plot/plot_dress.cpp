#include "app/plot/plot_dress.h"

#include <QSvgGenerator>

#include "app/theme/fonts.h"
#include "app/theme/theme.h"

namespace heron {

void dress_plot(QCustomPlot& plot, const QMargins& margins) {
  plot.setAntialiasedElements(QCP::aePlottables | QCP::aeItems);
  plot.axisRect()->setAutoMargins(QCP::msNone);
  plot.axisRect()->setMargins(margins);
  plot.xAxis->grid()->setVisible(false);
  plot.yAxis->setBasePen(Qt::NoPen);
  for (QCPAxis* axis : {plot.xAxis, plot.yAxis}) {
    axis->setTickPen(Qt::NoPen);
    axis->setSubTickPen(Qt::NoPen);
    axis->setTickLabelPadding(8);
  }
  plot.yAxis->grid()->setAntialiased(false);
  plot.yAxis->grid()->setZeroLinePen(Qt::NoPen);
}

void dress_plot_in_theme(QCustomPlot& plot) {
  const Theme& t = theme_of(&plot);
  plot.setBackground(t.sheet);
  plot.yAxis->grid()->setPen(QPen(t.hair, 1));
  plot.xAxis->setBasePen(QPen(t.hairStrong, 1));
  for (QCPAxis* axis : {plot.xAxis, plot.yAxis}) {
    axis->setTickLabelFont(type_font(Type::tick));
    axis->setTickLabelColor(t.mute);
  }
}

bool save_plot(QCustomPlot& plot, const QString& path, const QString& title, QString* reason) {
  bool ok = false;
  if (path.endsWith(".svg", Qt::CaseInsensitive)) {
    QSvgGenerator svg;
    svg.setFileName(path);
    svg.setSize(plot.size());
    svg.setViewBox(QRect(QPoint(0, 0), plot.size()));
    svg.setTitle(title);
    QCPPainter painter;
    ok = painter.begin(&svg);
    if (ok) {
      painter.setMode(QCPPainter::pmVectorized);
      plot.toPainter(&painter, plot.width(), plot.height());
      painter.end();
    }
    ok = ok && QFileInfo(path).size() > 0;
  } else {
    ok = plot.savePng(path, plot.width(), plot.height(), 2.0);
  }
  if (!ok && reason != nullptr)
    *reason = QObject::tr("%1 could not be written: choose another folder or name.").arg(path);
  return ok;
}

}  // namespace heron
