#include "instrument/last_words.h"

#include <array>
#include <atomic>
#include <csignal>
#include <cstring>
#include <fcntl.h>
#include <mutex>
#include <stdexcept>
#include <sys/socket.h>
#include <unistd.h>

namespace heron {
namespace {

constexpr std::size_t kSlots = 64;
constexpr std::size_t kBytes = 64;

struct Slot {
  std::atomic<int> descriptor{-1};
  std::array<char, kBytes> words{};
  std::size_t length = 0;
};

// Signal handlers can see nothing but static storage.
std::array<Slot, kSlots> places;
std::mutex taking;

bool say_slot(const Slot& slot) noexcept {
  const int descriptor = slot.descriptor.load();
  if (descriptor < 0) return false;
  // A socket must neither block nor raise SIGPIPE; a serial port is no socket.
  ssize_t sent = ::send(descriptor, slot.words.data(), slot.length, MSG_DONTWAIT | MSG_NOSIGNAL);
  if (sent < 0 && errno == ENOTSOCK) sent = ::write(descriptor, slot.words.data(), slot.length);
  return sent == static_cast<ssize_t>(slot.length);
}

constexpr std::array<int, 9> kSignals{SIGTERM, SIGINT, SIGHUP, SIGQUIT, SIGSEGV,
                                      SIGBUS,  SIGFPE, SIGILL, SIGABRT};
std::array<struct sigaction, 65> before;

void on_signal(int number) {
  say_last_words();
  ::sigaction(number, &before[static_cast<std::size_t>(number)], nullptr);
  ::raise(number);
}

}  // namespace

LastWord::LastWord(int descriptor, const std::string& words) {
  if (descriptor < 0) return;
  // A line end first: whatever was half sent is ended by it.
  if (words.size() + 2 > kBytes) throw std::length_error("last word too long");
  const std::scoped_lock lock(taking);
  for (std::size_t i = 0; i < kSlots; ++i) {
    if (places[i].descriptor.load() >= 0) continue;
    places[i].words[0] = '\n';
    std::memcpy(places[i].words.data() + 1, words.data(), words.size());
    places[i].length = words.size() + 1;
    places[i].descriptor.store(::fcntl(descriptor, F_DUPFD_CLOEXEC, 0));
    slot_ = static_cast<int>(i);
    return;
  }
  throw std::length_error("too many last words");
}

LastWord::~LastWord() {
  if (slot_ < 0) return;
  const std::scoped_lock lock(taking);
  const int own = places[static_cast<std::size_t>(slot_)].descriptor.exchange(-1);
  if (own >= 0) ::close(own);
}

bool LastWord::say() const {
  return slot_ >= 0 && say_slot(places[static_cast<std::size_t>(slot_)]);
}

void say_last_words() noexcept {
  for (const Slot& slot : places) say_slot(slot);
}

void install_last_words() {
  static std::once_flag once;
  std::call_once(once, [] {
    for (const int number : kSignals) {
      struct sigaction action{};
      action.sa_handler = &on_signal;
      ::sigemptyset(&action.sa_mask);
      ::sigaction(number, &action, &before[static_cast<std::size_t>(number)]);
    }
    // An exception that nobody catches ends in abort, and so in SIGABRT.
  });
}

}  // namespace heron
