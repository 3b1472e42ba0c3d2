#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace heron {

/// Puts one reply of an instrument together from whatever pieces arrive (IEEE 488.2 response
/// messages): a line of text, or an arbitrary block, "#41024..." of a stated length or "#0..." up
/// to its end. The data of a block go into a buffer of the caller, which keeps its memory from one
/// block to the next.
class ReplyReader {
 public:
  /// A reply larger than this is refused before its memory is taken.
  static constexpr std::size_t kLargestBlock = std::size_t{1} << 28U;
  static constexpr std::size_t kLongestLine = std::size_t{1} << 24U;

  /// `subject` names the instrument in messages.
  static ReplyReader line(std::string subject);
  static ReplyReader block(std::string subject, std::vector<char>& into);

  /// Takes what belongs to this reply and returns how many bytes that were. InputError for what
  /// cannot be the beginning of a block, or is too long.
  std::size_t feed(std::string_view bytes);
  bool is_complete() const { return state_ == State::done; }
  /// A block without a stated length ends when nothing follows its line end.
  bool ends_with_silence() const;
  void end_by_silence();
  /// Without line end and white space around it.
  const std::string& text() const { return text_; }
  /// How much of a block is still to come, where its length was stated.
  std::size_t missing() const { return length_ - received_; }
  bool is_in_data() const { return state_ == State::counted || state_ == State::open_ended; }

 private:
  enum class State { line, hash, digits, length, counted, open_ended, tail, done };
  ReplyReader(std::string subject, State state, std::vector<char>* into);
  [[noreturn]] void refuse(const std::string& why) const;

  std::string subject_;
  State state_;
  std::vector<char>* into_;
  std::string text_;
  int digits_ = 0;
  std::size_t length_ = 0;
  std::size_t received_ = 0;
};

/// A block of stated length, for sending.
std::string block_header(std::size_t bytes);

}  // namespace heron
