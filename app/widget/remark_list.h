#pragma once

#include <QScrollArea>
#include <vector>

#include "app/widget/card.h"
#include "core/judge/remark.h"

class QVBoxLayout;
class QLabel;

namespace heron {

/// Remarks about set-up and device: to do, doubt, observation. Five shown, then "2 more".
class RemarkList : public Card {
  Q_OBJECT
 public:
  explicit RemarkList(QWidget* parent = nullptr);
  void set_remarks(const std::vector<Remark>& remarks);
  QString text() const;  ///< everything shown, for the clipboard

 private:
  void rebuild();
  std::vector<Remark> remarks_;
  bool shows_all_ = false;
  QLabel* count_;
  QWidget* body_;
  QScrollArea* scroll_;
};

}  // namespace heron
