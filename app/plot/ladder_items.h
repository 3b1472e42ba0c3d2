#pragma once

#include <qcustomplot.h>

namespace heron {

class LadderPlot;

/// Floor, sweet spot and what lies beyond the ceiling, behind the traces.
class LadderBackdrop : public QCPAbstractItem {
 public:
  explicit LadderBackdrop(LadderPlot* plot);
  double selectTest(const QPointF&, bool, QVariant*) const override { return -1; }

 protected:
  void draw(QCPPainter* painter) override;

 private:
  LadderPlot* plot_;
};

/// Marks with their ±, limit, crossings, ceiling and names, in front of them.
class LadderOverlay : public QCPAbstractItem {
 public:
  explicit LadderOverlay(LadderPlot* plot);
  double selectTest(const QPointF&, bool, QVariant*) const override { return -1; }

 protected:
  void draw(QCPPainter* painter) override;

 private:
  void draw_titles(QCPPainter& p) const;
  void draw_limit(QCPPainter& p) const;
  void draw_marks(QCPPainter& p) const;
  void draw_names(QCPPainter& p) const;
  void draw_crossings(QCPPainter& p) const;
  void draw_ceiling(QCPPainter& p) const;
  void draw_pair(QCPPainter& p) const;
  LadderPlot* plot_;
};

}  // namespace heron
