#pragma once

#include "app/widget/card.h"
#include "core/method/result.h"

namespace heron {

/// A figure of its own beside the answer, with its verdict and margin line. Hidden while there is
/// none.
class FigureCardView : public Card {
  Q_OBJECT
 public:
  explicit FigureCardView(QWidget* parent = nullptr);
  void set_card(const FigureCard* card);  ///< nullptr = nothing
  const QString& text() const { return text_; }

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  FigureCard card_;
  QString text_;
};

}  // namespace heron
