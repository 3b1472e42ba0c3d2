#pragma once

#include <qcustomplot.h>

#include "app/theme/theme.h"
#include "core/method/plot_scale.h"
#include "core/method/result.h"

namespace heron {

/// Any plot of a result: panels over one x axis, points with their ± and bounds, limits, names at
/// the right. Up and Down choose a step, the wheel and dragging look closer, Home shows all.
class PlotView : public QCustomPlot {
  Q_OBJECT
 public:
  explicit PlotView(QWidget* parent = nullptr);
  /// `chosen` is the step that is marked.
  void set_plot(const Plot& plot, std::optional<std::size_t> chosen);
  const Plot& plot() const { return plot_; }
  void show_all();

 signals:
  void step_chosen(int step);

 protected:
  void changeEvent(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;

 private:
  friend class PlotOverlay;
  void build_panels();
  void fill();
  void follow_theme();
  std::vector<std::size_t> steps(bool only_bad) const;
  std::optional<std::size_t> next_step(bool is_on, bool only_bad) const;
  static QPen pen_of(const Theme& theme, const QCPGraph& graph);
  Plot plot_;
  std::vector<QCPAxisRect*> rects_;
  std::optional<std::size_t> chosen_;
  int right_ = 0;  ///< px beside the panels, for names
  QPoint pressed_at_;
};

}  // namespace heron
