#pragma once

#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPlainTextEdit>
#include <QPointer>

#include "app/live/live_instruments.h"
#include "app/widget/chip.h"
#include "app/widget/floating_card.h"
#include "app/widget/push_button.h"
#include "instrument/find_instruments.h"

namespace heron {

class BackgroundJob;

/// One instrument: where it is, what it speaks, who it says it is, a line to try, the traffic.
class InstrumentPanel : public FloatingCard {
  Q_OBJECT
 public:
  InstrumentPanel(LiveInstruments& bench, QWidget* window);
  void open_for(Role role, QPoint at);
  Role role() const { return role_; }
  QLineEdit* address() { return address_; }
  QLineEdit* line() { return line_; }
  PushButton* connect_button() { return connect_; }
  QString traffic() const { return traffic_->toPlainText(); }
  QString state_words() const { return state_->text(); }
  PushButton* look_button() { return look_; }
  QMenu* found() { return found_; }
  /// Where it is looked for; else on all ports of this computer.
  void set_places(const std::vector<std::string>& addresses) { places_ = addresses; }
  /// Asks who is there on them, and offers who answers.
  void look();
  /// A profile file, checked at once.
  void take_profile(const QString& path);

 signals:
  void failed(const QString& what, const QString& what_to_do);

 private:
  void refresh();
  void refresh_traffic();
  void offer(const std::vector<FoundInstrument>& found);
  LiveInstruments& bench_;
  Role role_ = Role::sampler;
  QString profile_text_;
  QLabel* state_;
  QLineEdit* name_;
  QLineEdit* address_;
  Chip* profile_;
  PushButton* connect_;
  PushButton* forget_;
  PushButton* look_;
  QMenu* found_;
  std::vector<std::string> places_;
  QPointer<BackgroundJob> job_;  ///< that looks
  QLineEdit* line_;
  QPlainTextEdit* traffic_;
};

}  // namespace heron
