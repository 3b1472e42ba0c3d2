#pragma once

#include <QLabel>

class QHBoxLayout;

#include "app/widget/push_button.h"
#include "app/widget/tag.h"

namespace heron {

/// The head of every sheet: what it is, its one question, the one action and its consequence.
class SheetTitle : public QWidget {
 public:
  SheetTitle(const QString& question, const QString& action, QWidget* parent = nullptr);
  QLabel* title() { return title_; }
  Tag* tag() { return tag_; }
  QLabel* question() { return question_; }
  PushButton* primary() { return primary_; }
  /// Takes back what the primary action has asked; hidden otherwise.
  PushButton* cancel() { return cancel_; }
  QLabel* consequence() { return consequence_; }

 protected:
  void resizeEvent(QResizeEvent* event) override;
  bool event(QEvent* event) override;

 private:
  void fit();
  QLayout* side_ = nullptr;  ///< of the buttons
  QLabel* title_;
  Tag* tag_;
  QLabel* question_;
  PushButton* primary_;
  PushButton* cancel_;
  QLabel* consequence_;
};

/// The row of controls below it, over the whole width; `box` is the widget that holds them.
QHBoxLayout* sheet_controls(QWidget* box);

}  // namespace heron
