#pragma once

#include <functional>
#include <map>
#include <memory>
#include <stop_token>
#include <string>
#include <vector>

#include "core/method/evidence.h"
#include "core/progress.h"
#include "instrument/bench_time.h"
#include "instrument/role.h"
#include "instrument/scpi_session.h"
#include "instrument/tone_ear.h"

namespace heron {

/// What is read again and again; nothing is keyed.
struct LogPlan {
  std::vector<std::string> quantities;  ///< of `live_quantities`; the first is what the log is of
  double every_s = 1.0;
  double length_s = 600.0;
  /// Of a step attenuator, one after the other, with so many readings at each; empty = one long
  /// log.
  std::vector<double> stops_db = {};
  std::size_t readings = 5;
  double settle_s = 2.0;
};

/// What was read at one time; what could not be read is not among it.
struct LogSample {
  double seconds = 0.0;  ///< since the log was begun
  std::vector<Reading> readings;
  std::string missed;    ///< why the first quantity is not there; empty = it is
  std::size_t stop = 0;  ///< of the plan
  bool is_last = false;  ///< of its stop
};

/// Reads instruments at even times until the end, or until it is stopped (Cancelled). An instrument
/// that says nothing leaves a gap, and is asked again at the next time: nobody sits beside a log.
/// With stops the attenuator stands as at the first of them again, however the run ends.
class LogRun {
 public:
  using Sessions = std::map<Role, std::unique_ptr<ScpiSession>>;
  /// `ear`: what hears a tone, where that is read.
  LogRun(Sessions sessions, LogPlan plan, BenchTime time, std::optional<ToneEar> ear = {});
  /// InputError if the first quantity cannot be read from any of them.
  void run(const std::function<void(const LogSample&)>& sampled, const Progress& progress,
           const std::stop_token& stop);

 private:
  LogSample sample(double seconds, const std::stop_token& stop);
  void ask(const std::string& quantity, LogSample& s);
  void listen(LogSample& s, const std::stop_token& stop);
  void run_stops(const std::function<void(const LogSample&)>& sampled, const Progress& progress,
                 const std::stop_token& stop);
  void wait(double seconds, const std::stop_token& stop) const;
  Sessions sessions_;
  LogPlan plan_;
  BenchTime time_;
  std::optional<ToneEar> ear_;
};

}  // namespace heron
