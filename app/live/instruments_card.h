#pragma once

#include <QAbstractButton>

#include "app/live/live_instruments.h"
#include "app/widget/card.h"
#include "app/widget/push_button.h"
#include "app/widget/words.h"

namespace heron {

/// One role: connection mark, name, state word.
class InstrumentRow : public QAbstractButton {
 public:
  InstrumentRow(LiveInstruments& bench, Role role, QWidget* parent = nullptr);
  Role role() const { return role_; }
  QSize sizeHint() const override { return {200, 27}; }

 protected:
  void paintEvent(QPaintEvent* event) override;
  void enterEvent(QEnterEvent* event) override;
  void leaveEvent(QEvent* event) override;

 private:
  LiveInstruments& bench_;
  Role role_;
};

/// What answers by itself on the bench; a press on a row opens its panel.
class InstrumentsCard : public Card {
  Q_OBJECT
 public:
  explicit InstrumentsCard(LiveInstruments& bench, QWidget* parent = nullptr);
  InstrumentRow* row(Role role) const;
  PushButton* simulation_button() { return simulate_; }

 signals:
  void panel_asked(heron::Role role, const QPoint& at);

 private:
  void refresh();
  LiveInstruments& bench_;
  std::vector<InstrumentRow*> rows_;
  PushButton* simulate_;
  Words* device_;
};

}  // namespace heron
