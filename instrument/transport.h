#pragma once

#include <chrono>
#include <functional>
#include <memory>
#include <stop_token>
#include <string>
#include <string_view>

namespace heron {

/// Where an instrument is: "192.168.1.20:5025" or "/dev/ttyUSB0 115200".
struct InstrumentAddress {
  std::string host_or_port;
  int number = 0;  ///< TCP port, or baud rate
  bool is_serial = false;
  std::string text() const;
};

/// InputError saying what an address looks like. A host without a port gets 5025.
InstrumentAddress parse_address(const std::string& typed);

/// Bytes to an instrument and back. Belongs to one thread, and blocks it.
class Transport {
 public:
  using Clock = std::chrono::steady_clock;
  virtual ~Transport() = default;
  /// InputError if nobody answers there in time.
  virtual void open(Clock::time_point deadline) = 0;
  virtual void close() = 0;
  virtual bool is_open() const = 0;
  /// Hands everything over; false if the connection was lost or it took too long.
  virtual bool write(std::string_view bytes, Clock::time_point deadline) = 0;
  /// Waits for something to come, at most until `deadline`; 0 = nothing came. Throws Cancelled.
  virtual std::size_t read(char* into, std::size_t size, Clock::time_point deadline,
                           const std::stop_token& stop) = 0;
  /// File descriptor that a signal handler may write to; -1 if closed.
  virtual int descriptor() const = 0;
};

std::unique_ptr<Transport> make_transport(const InstrumentAddress& address);

}  // namespace heron
