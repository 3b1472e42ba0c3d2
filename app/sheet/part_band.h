#pragma once

#include <QWidget>
#include <optional>

#include "core/signal/keyed_parts.h"

namespace heron {

/// A thin band of the recording's power over time, with the measured part marked. Its ends are
/// dragged, or moved by Left and Right (Shift: the end), typed after Return, and given back to the
/// automatic choice by Delete or a double click.
class PartBand : public QWidget {
  Q_OBJECT
 public:
  explicit PartBand(QWidget* parent = nullptr);
  void set_parts(const KeyedParts& parts, bool may_change);
  const KeyedParts& parts() const { return parts_; }
  QSize sizeHint() const override { return {400, 40}; }
  /// Where a time stands, px.
  double x_of(double seconds) const;

 signals:
  void part_chosen(const TimeSpan& part);
  void automatic_asked();
  void typing_asked();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;

 private:
  enum class Grip { none, start, end };
  QRectF trace_box() const;
  double seconds_at(double x) const;
  Grip grip_at(double x) const;
  void move_grip(Grip grip, double seconds);
  void use_moved();
  QString words() const;
  KeyedParts parts_;
  TimeSpan shown_;  ///< the measured part, or what it is dragged to
  Grip grip_ = Grip::none;
  bool may_change_ = false;
  bool is_moved_ = false;
};

/// "4.02 to 9.98 s"; InputError if it is not understood.
TimeSpan parse_part(const std::string& text);

}  // namespace heron
