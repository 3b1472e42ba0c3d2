#pragma once

#include <map>
#include <memory>
#include <string>
#include <vector>

#include "simbench/sim_world.h"

namespace heron::sim {

/// What an instrument can do wrong, to see what the program makes of it.
enum class Fault {
  none,
  garbage,          ///< an answer that is none
  truncated_block,  ///< half a block, then nothing
  wrong_length,     ///< a block shorter than it says
  silent,           ///< no answer
  late,             ///< an answer after the time is over
  closes,           ///< closes the line in the middle of an answer
  over_range        ///< says over range
};

/// Puts each instrument of a bench on a port of the loopback, each served by a thread of its own.
class SimServer {
 public:
  /// `first_port` 0: any free ones. InputError if a port is taken.
  explicit SimServer(SimConfig config, int first_port = 0);
  ~SimServer();
  SimServer(const SimServer&) = delete;
  SimServer& operator=(const SimServer&) = delete;

  SimWorld& bench() { return bench_; }
  int port(const std::string& instrument) const;
  /// "127.0.0.1:40123"
  std::string address(const std::string& instrument) const;

  /// From the `after`-th query on, `times` queries go wrong like that.
  void set_fault(const std::string& instrument, Fault fault, int after = 0, int times = 1);
  /// Obeys and answers so much later than it was told, as a busy one does.
  void set_slow(const std::string& instrument, double seconds);
  /// Lines that came, without their ends.
  std::vector<std::string> heard(const std::string& instrument) const;
  /// Switches an instrument off: closes its port and its lines; and on again, on the same port.
  void pull(const std::string& instrument);
  void plug(const std::string& instrument);

 private:
  class Desk;
  SimWorld bench_;
  std::map<std::string, std::unique_ptr<Desk>> desks_;
};

}  // namespace heron::sim
