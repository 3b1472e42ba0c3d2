#pragma once

#include <memory>
#include <qcustomplot.h>
#include <vector>

#include "core/method/result.h"

namespace heron {

/// Single readings as small dots; where they are denser than pixels, one stroke a column from the
/// lowest to the highest, told from extremes of blocks: however many there are, a frame costs the
/// same.
class DotGraph : public QCPAbstractPlottable {
 public:
  DotGraph(QCPAxis* x, QCPAxis* y, std::shared_ptr<const Dots> dots, int trace);
  int trace() const { return trace_; }  ///< of the trace set
  void set_colour(const QColor& colour) { colour_ = colour; }

  double selectTest(const QPointF&, bool, QVariant*) const override { return -1.0; }
  QCPRange getKeyRange(bool& found, QCP::SignDomain) const override;
  QCPRange getValueRange(bool& found, QCP::SignDomain, const QCPRange&) const override;

 protected:
  void draw(QCPPainter* painter) override;
  void drawLegendIcon(QCPPainter*, const QRectF&) const override {}

 private:
  struct Extremes {
    float least = 0.0F;
    float most = 0.0F;
  };
  Extremes extremes(std::size_t from, std::size_t to) const;
  std::shared_ptr<const Dots> dots_;
  std::vector<Extremes> blocks_;
  int trace_;
  QColor colour_;
};

}  // namespace heron
