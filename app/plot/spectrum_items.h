#pragma once

#include <optional>
#include <qcustomplot.h>

#include "app/theme/theme.h"
#include "report/document.h"

namespace heron {

/// What the items of a spectrum plot show; owned by the plot.
struct SpectrumScene {
  SpectrumPicture picture;
  const Theme* theme = nullptr;
  std::optional<std::pair<int, bool>> highlighted;  ///< order, upper side
  std::optional<double> cursor_hz;
  QString empty_words;
};

/// Floor area and its sentence, behind the trace.
class SpectrumBackdrop : public QCPAbstractItem {
 public:
  SpectrumBackdrop(QCustomPlot* plot, const SpectrumScene& scene)
      : QCPAbstractItem(plot), scene_(scene) {}
  double selectTest(const QPointF&, bool, QVariant*) const override { return -1; }

 protected:
  void draw(QCPPainter* painter) override;

 private:
  const SpectrumScene& scene_;
};

/// Titles, limit, tones, product flags and the cursor, in front of it.
class SpectrumOverlay : public QCPAbstractItem {
 public:
  SpectrumOverlay(QCustomPlot* plot, const SpectrumScene& scene)
      : QCPAbstractItem(plot), scene_(scene) {
    setClipToAxisRect(false);
  }
  double selectTest(const QPointF&, bool, QVariant*) const override { return -1; }
  /// The flag under a point of the widget.
  std::optional<std::pair<int, bool>> flag_at(QPointF point) const;
  /// Every label in sight: tones first, then flags, none over another while there is room.
  std::vector<QRectF> labels() const;

 protected:
  void draw(QCPPainter* painter) override;

 private:
  struct FlagBox {
    QPointF foot;
    QRectF all;  ///< pennant and the level below it
    bool visible;
  };
  double x_of(double hz) const;
  double y_of(double db) const;
  /// One box a flag of the picture.
  std::vector<FlagBox> flag_boxes() const;
  std::vector<QRectF> tone_boxes() const;
  void draw_titles(QPainter& p) const;
  void draw_floor_words(QPainter& p) const;
  void draw_limit(QPainter& p) const;
  void draw_tones(QPainter& p) const;
  void draw_flag(QPainter& p, const SpectrumFlag& flag, const FlagBox& box) const;
  void draw_cursor(QPainter& p) const;
  const SpectrumScene& scene_;
};

}  // namespace heron
