#include "simbench/sim_line.h"

namespace heron::sim {
namespace {

constexpr std::chrono::milliseconds kLate{4000};
constexpr std::size_t kLongestLine = 65536;

}  // namespace

SimLine::SimLine(asio::ip::tcp::socket socket, Heard heard)
    : socket_(std::move(socket)), heard_(std::move(heard)) {
  asio::error_code ignored;  // who has gone already is noticed when reading
  ignored = socket_.set_option(asio::ip::tcp::no_delay(true), ignored);
}

void SimLine::read() {
  socket_.async_read_some(
      asio::buffer(chunk_),
      [self = shared_from_this()](const asio::error_code& error, std::size_t size) {
        if (error) return self->close();
        self->take(size);
        if (self->is_open()) self->read();
      });
}

void SimLine::send(std::string bytes) {
  if (!is_open()) return;
  waiting_.push_back(std::move(bytes));
  if (waiting_.size() == 1) write_next();
}

void SimLine::send_late(std::string bytes) {
  auto timer = std::make_shared<asio::steady_timer>(socket_.get_executor(), kLate);
  timer->async_wait([self = weak_from_this(), timer, bytes](const asio::error_code& error) {
    if (const auto line = self.lock(); line && !error) line->send(bytes);
  });
}

void SimLine::close_after() {
  closes_ = true;
  if (waiting_.empty()) close();
}

void SimLine::close() {
  asio::error_code ignored;
  ignored = socket_.close(ignored);
}

void SimLine::take(std::size_t size) {
  pending_.append(chunk_.data(), size);
  for (auto end = pending_.find('\n'); end != std::string::npos; end = pending_.find('\n')) {
    std::string line = pending_.substr(0, end);
    pending_.erase(0, end + 1);
    while (!line.empty() && (line.back() == '\r' || line.back() == ' ')) line.pop_back();
    line.erase(0, line.find_first_not_of(" \t"));
    if (!line.empty()) heard_(*this, line);
    if (!is_open()) return;
  }
  if (pending_.size() > kLongestLine) pending_.clear();
}

void SimLine::write_next() {
  asio::async_write(socket_, asio::buffer(waiting_.front()),
                    [self = shared_from_this()](const asio::error_code& error, std::size_t) {
                      if (error) return self->close();
                      self->waiting_.pop_front();
                      if (!self->waiting_.empty())
                        self->write_next();
                      else if (self->closes_)
                        self->close();
                    });
}

}  // namespace heron::sim
