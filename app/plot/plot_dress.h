#pragma once

#include <qcustomplot.h>

namespace heron {

/// What every plot has: no frame, a horizontal grid only, room for the words around it.
void dress_plot(QCustomPlot& plot, const QMargins& margins);
/// Colours and fonts of the theme that the plot is shown in.
void dress_plot_in_theme(QCustomPlot& plot);

/// SVG or PNG by the file's ending; false with a reason if it cannot be written.
bool save_plot(QCustomPlot& plot, const QString& path, const QString& title, QString* reason);

}  // namespace heron
