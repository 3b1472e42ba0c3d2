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

namespace heron {

/// What is read again and again; nothing is switched.
struct LogPlan {
  std::vector<std::string> quantities;  ///< of `live_quantities`; the first is what the log is of
  double every_s = 1.0;
  double length_s = 600.0;
};

/// What was read at one time; what could not be read is not among it.
struct LogSample {
  double seconds = 0.0;  ///< since the log was begun
  std::vector<Reading> readings;
  std::string missed;  ///< why the first quantity is not there; empty = it is
};

/// Reads instruments at even times until the end, or until it is stopped (Cancelled). An instrument
/// that says nothing leaves a gap, and is asked again at the next time: nobody sits beside a log.
class LogRun {
 public:
  using Sessions = std::map<Role, std::unique_ptr<ScpiSession>>;
  LogRun(Sessions sessions, LogPlan plan, BenchTime time);
  /// InputError if the first quantity cannot be read from any of them.
  void run(const std::function<void(const LogSample&)>& sampled, const Progress& progress,
           const std::stop_token& stop);

 private:
  LogSample sample(double seconds);
  Sessions sessions_;
  LogPlan plan_;
  BenchTime time_;
};

}  // namespace heron
