#pragma once

#include <QWidget>

#include "core/method/needle.h"

namespace heron {

class FactBand;
struct Theme;

/// A pointer over a flat arc with its tolerance, its state and what to do, large enough to be read
/// from across the bench; above it facts, below it the last readings and the steps.
class NeedleView : public QWidget {
  Q_OBJECT
 public:
  explicit NeedleView(QWidget* parent = nullptr);
  void set_needle(const Needle& needle);
  const Needle& needle() const { return needle_; }
  /// Only arc, readout, state and order.
  void set_plain(bool plain);
  bool is_plain() const { return is_plain_; }

 signals:
  void hand_turned();  ///< Space, or a foot switch: tool on, or hands off
  void plain_asked();  ///< F11
  void tone_asked();   ///< T
  void needle_changed();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void changeEvent(QEvent* event) override;

 private:
  void paint_arc(QPainter& p, const QRectF& area, const Theme& t) const;
  void paint_words(QPainter& p, const QRectF& area, const Theme& t) const;
  void paint_history(QPainter& p, const QRectF& area, const Theme& t) const;
  void paint_steps(QPainter& p, const QRectF& area, const Theme& t) const;
  FactBand* facts_;
  Needle needle_;
  bool is_plain_ = false;
};

}  // namespace heron
