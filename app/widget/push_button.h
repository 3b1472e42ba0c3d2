#pragma once

#include "app/widget/painted_button.h"

namespace heron {

enum class ButtonRank { primary, secondary, link };

/// Primary: the one orange action of a screen. Secondary: outlined. Link: words and a chevron.
class PushButton : public PaintedButton {
 public:
  PushButton(const QString& text, ButtonRank rank, QWidget* parent = nullptr);
  QSize sizeHint() const override;
  /// As wide as the widest of these, so that nothing moves when its words change.
  void keep_room_for(const QStringList& texts);

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  void paint_link();
  ButtonRank rank_;
  QStringList room_for_;
};

}  // namespace heron
