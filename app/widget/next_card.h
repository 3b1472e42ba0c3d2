#pragma once

#include <vector>

#include "app/widget/card.h"
#include "app/widget/painted_button.h"
#include "core/method/result.h"

class QVBoxLayout;

namespace heron {

/// One thing to do next, with its reason and what it costs.
class NextEntry : public PaintedButton {
  Q_OBJECT
 public:
  NextEntry(int number, const NextList::Entry& entry, QWidget* parent);
  QSize sizeHint() const override { return {200, 46}; }

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  int number_;
  NextList::Entry entry_;
};

/// What is best done next, ranked by what it would decide; each entry opens its sheet. Hidden while
/// there is nothing.
class NextCard : public Card {
  Q_OBJECT
 public:
  explicit NextCard(QWidget* parent = nullptr);
  void set_list(const NextList* list);  ///< nullptr = nothing
  const std::vector<NextEntry*>& entries() const { return entries_; }

 signals:
  void asked(const heron::CellLink& link);

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  NextList list_;
  std::vector<NextEntry*> entries_;
  QVBoxLayout* column_;
};

}  // namespace heron
