#pragma once

#include <QElapsedTimer>
#include <QTimer>
#include <optional>

#include "app/widget/painted_button.h"
#include "core/chain/key_down_clock.h"
#include "instrument/rf_state.h"

namespace heron {

/// The key-down clock in the header: counts how long the key is down and how much longer every part
/// stands it, then the rest that is needed. A press, or F9, says "I key now" and "key is up".
class KeyClock : public PaintedButton {
  Q_OBJECT
 public:
  explicit KeyClock(QWidget* parent = nullptr);
  /// `may_be_keyed` false: starting it is refused.
  void set_chain(const Chain& chain, const Drive& drive, bool may_be_keyed);
  void clear_chain();
  /// What is known of a connected generator's output; nullopt: the key is somebody's hand.
  void set_rf(const std::optional<RfState>& rf);
  void press();
  /// The program has keyed: counts whatever was shown before.
  void begin();
  /// The key is up; true if it was down.
  bool release();
  bool is_keyed() const { return clock_.is_keyed(); }
  QString words() const { return words_; }
  KeyDownState state() const { return reading_.state; }
  /// Seconds that count as passed beyond the real ones; for looking at states without waiting.
  void advance(double seconds) {
    ahead_s_ += seconds;
    tick();
  }
  QSize sizeHint() const override;

 signals:
  void refused(const QString& what, const QString& what_to_do);
  void changed();
  /// A press on a clock that shows RF on which nothing here has switched on.
  void rf_off_asked();

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  /// On although no key-down of ours is running: since when is not known.
  bool is_found_on() const { return reading_.state == KeyDownState::idle && rf_ == RfState::on; }
  double now() const { return static_cast<double>(timer_.elapsed()) / 1e3 + ahead_s_; }
  void tick();
  QElapsedTimer timer_;
  QTimer ticks_;
  KeyDownClock clock_;
  KeyDownReading reading_;
  QString words_;
  double ahead_s_ = 0.0;
  struct Pending {
    std::optional<Chain> chain;  ///< nullopt: none
    Drive drive;
    bool may_be_keyed = true;
  };
  std::optional<Pending> pending_;  ///< for when the key is up: what is keyed stays watched
  bool has_chain_ = false;
  bool may_be_keyed_ = true;
  std::optional<RfState> rf_;
};

}  // namespace heron
