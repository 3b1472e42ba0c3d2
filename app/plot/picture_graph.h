#pragma once

#include <QImage>
#include <qcustomplot.h>

#include "app/theme/theme.h"
#include "core/method/result.h"

namespace heron {

/// Levels as a picture, the highest of what falls on each pixel: from the paper's colour over water
/// to ink.
class PictureGraph : public QCPAbstractPlottable {
 public:
  PictureGraph(QCPAxis* x, QCPAxis* y, PlotPicture picture);
  void dress(const Theme& theme);

  double selectTest(const QPointF&, bool, QVariant*) const override { return -1.0; }
  QCPRange getKeyRange(bool& found, QCP::SignDomain) const override;
  QCPRange getValueRange(bool& found, QCP::SignDomain, const QCPRange&) const override;

 protected:
  void draw(QCPPainter* painter) override;
  void drawLegendIcon(QCPPainter*, const QRectF&) const override {}

 private:
  void render(const QSize& size);
  PlotPicture picture_;
  std::array<QRgb, 256> colours_{};
  QImage image_;
  QCPRange image_x_;
  QCPRange image_y_;
};

/// What stands for a level between nothing, 0, and the highest, 1.
QColor picture_colour(const Theme& theme, double share);

/// How dark which level is, in the margin at the right.
void draw_picture_scale(QCPPainter& p, QCPAxisRect& rect, const PlotPicture& picture,
                        const Theme& theme);

}  // namespace heron
