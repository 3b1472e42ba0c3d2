#pragma once

#include <QWidget>

#include "core/chain/bench_item.h"

namespace heron {

/// How the ± of a part grew between its calibrations, and how it will: a saw-tooth filled to today,
/// dashed to come, with the day when the next one is wanted.
class AgeingStrip : public QWidget {
  Q_OBJECT
 public:
  explicit AgeingStrip(QWidget* parent = nullptr);
  void set_item(const BenchItem& item, const std::string& today);

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  BenchItem item_;
  std::string today_;
};

}  // namespace heron
