#pragma once

#include <QLabel>
#include <QTimer>

#include "app/live/live_ladder.h"
#include "app/widget/card.h"
#include "app/widget/push_button.h"

namespace heron {

/// A ladder being taken from live instruments: where it stands, and pause, leave out, stop.
class LiveCard : public Card {
  Q_OBJECT
 public:
  explicit LiveCard(LiveLadder& ladder, QWidget* parent = nullptr);
  PushButton* pause_button() { return pause_; }
  PushButton* skip_button() { return skip_; }
  PushButton* stop_button() { return stop_; }
  QString words() const;

 protected:
  void keyPressEvent(QKeyEvent* event) override;
  void paintEvent(QPaintEvent* event) override;

 private:
  void refresh();
  LiveLadder& ladder_;
  QLabel* head_;
  QLabel* count_;
  QLabel* what_;
  PushButton* pause_;
  PushButton* skip_;
  PushButton* less_;
  PushButton* more_;
  PushButton* there_;
  PushButton* stop_;
  bool was_moving_ = false;
  QTimer clock_;
};

}  // namespace heron
