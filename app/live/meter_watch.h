#pragma once

#include <QObject>
#include <vector>

#include "app/live/live_instruments.h"
#include "core/method/evidence.h"

namespace heron {

class SoundInput;

/// Reads meters while somebody keys the transmitter by hand: once, or once more at the end of the
/// key-down; a tone with the sound input. Switches nothing.
class MeterWatch : public QObject {
  Q_OBJECT
 public:
  explicit MeterWatch(LiveInstruments& bench, QObject* parent = nullptr);
  ~MeterWatch() override;
  /// What is read at one time of a step.
  struct Look {
    ReadingRole role = ReadingRole::at;
    std::vector<std::string> quantities;  ///< of `live_quantities`
  };
  /// One look, or two that lie `between_s` apart, at this radio frequency.
  void start(const QString& what, const std::vector<Look>& looks, double between_s,
             std::optional<double> frequency_hz);
  void stop();
  /// At once, whatever it was about: nothing is read any more.
  void end();
  bool is_running() const { return job_ != nullptr; }
  const QString& what() const { return what_; }
  /// Whether an instrument that shows it answers.
  bool can_read(std::string_view quantity) const;

 signals:
  void progressed(double fraction);
  /// The first of two looks, while it goes on.
  void looked(const std::vector<heron::Reading>& readings);
  void read(const std::vector<heron::Reading>& readings);  ///< as shown, with role and time
  void failed(const QString& what, const QString& what_to_do);
  void ended();

 private:
  LiveInstruments& bench_;
  SoundInput* sound_;
  BackgroundJob* job_ = nullptr;
  int number_ = 0;  ///< of the job
  QString what_;
};

}  // namespace heron
