#pragma once

#include "app/widget/painted_button.h"
#include "store/two_tone_test.h"

namespace heron {

/// From the device to the recorder in three nodes: what was sent, on which path,
/// how the recorder stood it. A press asks for the words.
class HookupStrip : public PaintedButton {
 public:
  explicit HookupStrip(QWidget* parent = nullptr);
  void set_step(const QString& device, const TwoToneTest* test, int step);

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  struct Node {
    QString name;
    QString line;
    QString small;
  };
  void paint_node(QPainter& p, const QRectF& box, const Node& node) const;
  Node device_;
  Node path_;
  Node recorder_;
  QString output_;
  QString output_u_;
  double fill_ = -1.0;  ///< peak against full scale, in dB distance; below 0 = unknown
  bool is_clipped_ = false;
};

}  // namespace heron
