#include "simbench/sim_server.h"

#include <asio.hpp>
#include <atomic>
#include <fmt/format.h>
#include <future>
#include <mutex>
#include <optional>
#include <thread>

#include "core/error.h"
#include "simbench/sim_line.h"

namespace heron::sim {
namespace {

using asio::ip::tcp;

constexpr std::size_t kMostHeard = 10000;
}  // namespace

/// One instrument's port, its lines, and what goes wrong on them. All but the settings of a fault
/// is touched by its own thread only.
class SimServer::Desk {
 public:
  Desk(SimWorld& bench, std::string name, int port)
      : bench_(bench),
        name_(std::move(name)),
        stays_(asio::make_work_guard(io_)),
        thread_([this] { io_.run(); }) {
    on_thread([this, port] { listen(port); });
    if (port_ != 0) return;
    io_.stop();
    throw InputError(fmt::format("port {}", port), "", "it is taken",
                     "Choose another first port, or end what uses it");
  }
  ~Desk() {
    on_thread([this] { shut(); });
    io_.stop();
  }
  Desk(const Desk&) = delete;
  Desk& operator=(const Desk&) = delete;

  int port() const { return port_; }
  void pull() {
    on_thread([this] { shut(); });
  }
  void plug() {
    on_thread([this] { listen(port_); });
  }
  void set_fault(Fault fault, int after, int times) {
    const std::scoped_lock lock(mutex_);
    fault_ = fault;
    after_ = after;
    times_ = times;
  }
  void set_slow(double seconds) { slow_s_ = seconds; }
  std::vector<std::string> heard() const {
    const std::scoped_lock lock(mutex_);
    return heard_;
  }

 private:
  template <class Work>
  void on_thread(const Work& work) {
    std::promise<void> done;
    asio::post(io_, [&] {
      work();
      done.set_value();
    });
    done.get_future().wait();
  }

  void listen(int port) {
    const tcp::endpoint place(asio::ip::address_v4::loopback(), static_cast<std::uint16_t>(port));
    try {
      acceptor_.emplace(io_, place, true);
    } catch (const std::system_error&) {
      acceptor_.reset();
      return;  // the port stays 0, or what it was
    }
    port_ = acceptor_->local_endpoint().port();
    greet();
  }
  void greet() {
    acceptor_->async_accept([this](const asio::error_code& error, tcp::socket socket) {
      if (error || !acceptor_) return;  // pulled
      auto line = std::make_shared<SimLine>(
          std::move(socket),
          [this](SimLine& from, const std::string& words) { obey(from, words); });
      std::erase_if(lines_, [](const auto& one) { return one.expired(); });
      lines_.push_back(line);
      line->read();
      greet();
    });
  }
  void shut() {
    acceptor_.reset();
    for (const auto& one : lines_) {
      if (const auto line = one.lock()) line->close();
    }
    lines_.clear();
  }
  Fault due() {
    const std::scoped_lock lock(mutex_);
    if (times_ <= 0) return Fault::none;
    if (after_-- > 0) return Fault::none;
    --times_;
    return fault_;
  }
  void obey(SimLine& from, const std::string& words) {
    {
      const std::scoped_lock lock(mutex_);
      if (heard_.size() < kMostHeard) heard_.push_back(words);
    }
    if (slow_s_ > 0.0) std::this_thread::sleep_for(std::chrono::duration<double>(slow_s_));
    if (const auto reply = bench_.speak(name_, words)) answer(from, *reply);
  }
  void answer(SimLine& to, const std::string& reply) {
    const std::string half = reply.substr(0, reply.size() / 2);
    switch (due()) {
      case Fault::none:
        to.send(reply + "\n");
        break;
      case Fault::garbage:
        to.send("\x01\xff?? lost in the mud ??\n");
        break;
      case Fault::truncated_block:
        to.send(half);
        break;
      case Fault::wrong_length:
        to.send(half + "\n");
        break;
      case Fault::silent:
        break;
      case Fault::late:
        to.send_late(reply + "\n");
        break;
      case Fault::closes:
        to.send(half);
        to.close_after();
        break;
      case Fault::over_range:
        to.send("9.9E37\n");
        break;
    }
  }

  SimWorld& bench_;
  std::string name_;
  asio::io_context io_{1};
  asio::executor_work_guard<asio::io_context::executor_type> stays_;
  std::optional<tcp::acceptor> acceptor_;
  std::vector<std::weak_ptr<SimLine>> lines_;
  std::atomic<int> port_ = 0;
  mutable std::mutex mutex_;
  std::vector<std::string> heard_;
  Fault fault_ = Fault::none;
  int after_ = 0;
  int times_ = 0;
  std::atomic<double> slow_s_ = 0.0;
  std::jthread thread_;  ///< last: it ends before what it uses
};

SimServer::SimServer(SimConfig config, int first_port) : bench_(std::move(config)) {
  int port = first_port;
  for (const std::string& name : SimWorld::instruments()) {
    desks_[name] = std::make_unique<Desk>(bench_, name, port);
    if (port != 0) ++port;
  }
}

SimServer::~SimServer() = default;

int SimServer::port(const std::string& instrument) const {
  return desks_.at(instrument)->port();
}

std::string SimServer::address(const std::string& instrument) const {
  return fmt::format("127.0.0.1:{}", port(instrument));
}

void SimServer::set_fault(const std::string& instrument, Fault fault, int after, int times) {
  desks_.at(instrument)->set_fault(fault, after, times);
}

void SimServer::set_slow(const std::string& instrument, double seconds) {
  desks_.at(instrument)->set_slow(seconds);
}

std::vector<std::string> SimServer::heard(const std::string& instrument) const {
  return desks_.at(instrument)->heard();
}

void SimServer::pull(const std::string& instrument) {
  desks_.at(instrument)->pull();
}

void SimServer::plug(const std::string& instrument) {
  desks_.at(instrument)->plug();
}

}  // namespace heron::sim
