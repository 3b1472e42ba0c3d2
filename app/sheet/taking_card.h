#pragma once

#include <QLabel>

#include "app/widget/card.h"
#include "app/widget/push_button.h"

namespace heron {

/// A recording being read: how far, and a way to stop.
class TakingCard : public Card {
  Q_OBJECT
 public:
  explicit TakingCard(QWidget* parent = nullptr);
  void begin(const QString& file, int waiting);
  void set_progress(double fraction);

 signals:
  void stop_asked();

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  QLabel* head_;
  QLabel* percent_;
  QLabel* what_;
  double fraction_ = 0.0;
};

}  // namespace heron
