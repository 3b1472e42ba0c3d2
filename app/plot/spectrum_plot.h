#pragma once

#include <qcustomplot.h>

#include "app/plot/spectrum_items.h"
#include "core/judge/limit.h"

namespace heron {

/// The spectrum of one recording with its product flags. Drag to pan, wheel to zoom, arrows move
/// the cursor, click a flag to choose its product.
class SpectrumPlot : public QCustomPlot {
  Q_OBJECT
 public:
  explicit SpectrumPlot(QWidget* parent = nullptr);
  void set_picture(const SpectrumPicture& picture);
  /// Axes, limit and grid stay; words say what to do.
  void set_empty(const QString& words, const std::optional<Limit>& limit,
                 const QString& convention);
  void highlight(std::optional<std::pair<int, bool>> product);
  std::optional<std::pair<int, bool>> highlighted() const { return scene_.highlighted; }
  void reset_zoom();
  /// SVG or PNG by the file's ending; false with a reason if it cannot be written.
  bool save_picture(const QString& path, QString* reason);
  const SpectrumPicture& picture() const { return scene_.picture; }
  /// Where the labels of tones and flags stand, in the widget.
  std::vector<QRectF> labels() const { return overlay_->labels(); }

 signals:
  void product_chosen(int order, bool upper);

 protected:
  void changeEvent(QEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void leaveEvent(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  void follow_theme();
  void thin_trace();
  void move_cursor(double hz);
  SpectrumScene scene_;
  SpectrumBackdrop* backdrop_;
  SpectrumOverlay* overlay_;
  QCPGraph* base_;
  QCPGraph* fill_;
  QCPGraph* trace_;
  QPoint pressed_at_;
};

}  // namespace heron
