#pragma once

#include <string>

namespace heron {

/// Bytes that go out to an open line if the program ends in any way: a signal, an abort, an
/// exception that nobody caught. Signal handlers only write to descriptors, which is all that they
/// may do. Everything here may be called from any thread.
class LastWord {
 public:
  /// Keeps a descriptor of its own for the same line, so that the number is never another file's.
  static constexpr std::size_t kLongest = 62;
  /// Nothing for a descriptor below 0. At most 64 stand at a time, of at most 62 bytes each;
  /// std::length_error beyond.
  LastWord(int descriptor, const std::string& words);
  ~LastWord();
  LastWord(const LastWord&) = delete;
  LastWord& operator=(const LastWord&) = delete;
  /// Says it now, without waiting; false if the line did not take all of it.
  bool say() const;

 private:
  int slot_ = -1;
};

/// Sees to it that all last words are said when the process ends by SIGTERM, SIGINT, SIGHUP, a
/// fault, or std::terminate. Once is enough; the signals do afterwards what they did before.
void install_last_words();

/// Says all that stand; safe in a signal handler.
void say_last_words() noexcept;

}  // namespace heron
