#pragma once

#include <QObject>
#include <memory>
#include <thread>

#include "app/live/live_instruments.h"
#include "instrument/live_look.h"

namespace heron {

/// Looking at the sampler while something is adjusted, with the transmitter of the shown test.
class LookRun : public QObject {
  Q_OBJECT
 public:
  LookRun(Session& session, LiveInstruments& bench, QObject* parent = nullptr);
  ~LookRun() override;

  /// Why it cannot look; empty if it can.
  Refusal obstacle() const;
  /// Why it cannot key while it looks.
  Refusal key_obstacle() const;
  void start();
  bool is_running() const { return thread_ != nullptr; }
  bool is_keyed() const { return may_be_on(frame_.rf); }
  const LookFrame& frame() const { return frame_; }
  double rate_hz() const { return plan_.rate_hz; }
  double center_hz() const { return plan_.center_hz; }
  void set_rate(double hz);

  void key(bool on);
  void set_level(double dbm);
  double level_dbm() const { return level_dbm_; }
  void set_averages(unsigned segments);
  unsigned averages() const { return averages_; }
  void clear();
  /// RF off at once, from anywhere; true if it was keyed.
  bool drop_rf();
  /// Stops and waits until RF is off.
  void end();

 signals:
  void changed();  ///< running or not, keyed or not
  void updated();  ///< a new frame
  void rf_changed(bool on);
  void failed(const QString& what, const QString& what_to_do);

 private:
  void see();
  Session& session_;
  LiveInstruments& bench_;
  LookPlan plan_;
  std::shared_ptr<LiveLook> look_;
  std::unique_ptr<std::jthread> thread_;
  LookFrame frame_;
  double level_dbm_ = -50.0;
  unsigned averages_ = 8;
  bool was_rf_on_ = false;
  std::string last_what_;
  std::shared_ptr<std::atomic<bool>> is_due_ = std::make_shared<std::atomic<bool>>(false);
};

}  // namespace heron
