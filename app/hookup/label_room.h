#pragma once

#include <QRectF>
#include <vector>

namespace heron {

/// Where labels of a drawing stand, so that none covers another: each takes the free place nearest
/// to the one it wants, straight up or down.
class LabelRoom {
 public:
  void clear(const QRectF& bounds);
  QRectF take(QRectF wanted);
  const std::vector<QRectF>& taken() const { return taken_; }

 private:
  bool is_free(const QRectF& place) const;
  QRectF bounds_;
  std::vector<QRectF> taken_;
};

}  // namespace heron
