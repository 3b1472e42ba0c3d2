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
  /// Keeps a place free of labels: a line runs there.
  void block(const QRectF& place) { blocked_.push_back(place); }
  const std::vector<QRectF>& taken() const { return taken_; }

 private:
  bool is_free(const QRectF& place) const;
  QRectF bounds_;
  std::vector<QRectF> taken_;
  std::vector<QRectF> blocked_;
};

}  // namespace heron
