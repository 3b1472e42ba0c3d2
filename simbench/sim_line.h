#pragma once

#include <array>
#include <asio.hpp>
#include <deque>
#include <functional>
#include <memory>
#include <string>

namespace heron::sim {

/// One connection to a simulated instrument: lines in, bytes out in their order. Belongs to the
/// thread of its context.
class SimLine : public std::enable_shared_from_this<SimLine> {
 public:
  using Heard = std::function<void(SimLine&, const std::string&)>;
  SimLine(asio::ip::tcp::socket socket, Heard heard);
  void read();
  void send(std::string bytes);
  /// After some seconds, if it is still open then.
  void send_late(std::string bytes);
  /// Closes it when all that was sent is out.
  void close_after();
  void close();
  bool is_open() const { return socket_.is_open(); }

 private:
  void take(std::size_t size);
  void write_next();
  asio::ip::tcp::socket socket_;
  Heard heard_;
  std::array<char, 4096> chunk_{};
  std::string pending_;
  std::deque<std::string> waiting_;
  bool closes_ = false;
};

}  // namespace heron::sim
