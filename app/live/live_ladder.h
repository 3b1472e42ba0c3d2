#pragma once

#include <QObject>
#include <memory>
#include <thread>
#include <vector>

#include "app/live/live_instruments.h"
#include "app/session/import_queue.h"
#include "instrument/ladder_run.h"

namespace heron {

struct LivePlan;

/// Takes the steps of the shown test from live instruments: each is stored and analysed
/// while the next one settles.
class LiveLadder : public QObject {
  Q_OBJECT
 public:
  LiveLadder(Session& session, LiveInstruments& bench, ImportQueue& queue,
             QObject* parent = nullptr);
  ~LiveLadder() override;

  /// Why it cannot start; empty if it can.
  Refusal obstacle(int only = -1) const;
  /// The steps that would be taken: those without a recording, or the one asked for.
  std::vector<int> due(int only = -1) const;
  /// Keys the transmitter. Complains through failed().
  void start(int only = -1);
  bool is_running() const { return thread_ != nullptr; }
  /// Whether it puts RF out; else what runs by itself is only listened to.
  bool is_keyed() const { return is_keyed_; }
  /// How far it is in what is being taken, and how long that is, bench time; nullopt while nothing
  /// is taken.
  std::optional<std::pair<double, double>> taking_s() const;
  /// Looks for full output with one tone. Keys the transmitter in short steps.
  void find_full_output();
  Refusal full_output_obstacle() const;
  /// What the last search has seen so far.
  const std::vector<DrivePoint>& points() const { return points_; }
  const RunState& state() const { return state_; }
  /// Nothing is keyed before somebody goes on.
  bool is_waiting() const {
    return state_.kind == RunState::Kind::paused || state_.kind == RunState::Kind::switching;
  }
  std::size_t taken() const { return taken_; }
  std::size_t count() const { return steps_.size(); }
  /// "settling at 10 W, 0.4 s"
  QString words() const;

  void pause();
  void resume();
  void skip();
  /// While the receiver is to show something: the generator by so many dB, or it shows it now.
  void move_level(double db);
  void take_level();
  void stop();
  /// RF off at once, from anywhere; true if it was running.
  bool drop_rf();
  /// Stops and waits until RF is off.
  void end();

 signals:
  void changed();
  void rf_changed(bool on);
  void point_taken();
  void full_output_ended();
  void failed(const QString& what, const QString& what_to_do);
  void told(const QString& text);

 private:
  struct Conversation;
  void begin(const RunPlan& plan, std::function<void(TakenStep&&)> taken,
             std::function<std::string(std::size_t)> objection = nullptr,
             std::function<void(std::size_t, double)> tune = nullptr,
             std::function<double()> shown = nullptr);
  void keep_readings(const LivePlan& plan, Id test);
  std::function<void(std::size_t, double)> tuner(const LivePlan& plan);
  void see(const RunState& state);
  void keep(Id test, Id step, TakenStep& taken);
  void finish();
  QString end_words() const;
  std::size_t step_count() const;
  void clear_run();
  Session& session_;
  LiveInstruments& bench_;
  ImportQueue& queue_;
  std::vector<Id> steps_;
  std::vector<QString> labels_;
  std::vector<DrivePoint> points_;
  std::shared_ptr<LadderRun> run_;
  std::unique_ptr<std::jthread> thread_;
  RunState state_;
  bool was_rf_on_ = false;
  std::size_t taken_ = 0;
  bool is_keyed_ = true;
  std::chrono::steady_clock::time_point taking_since_;
  double taking_length_s_ = 0.0;
  int number_ = 0;  ///< of the run: what an earlier one still has to say is not about this one
};

}  // namespace heron
