#include "core/scpi/reply_reader.h"

#include <algorithm>
#include <fmt/format.h>

#include "core/error.h"

namespace heron {
namespace {

std::string printable(std::string_view bytes) {
  std::string out;
  for (const char c : bytes.substr(0, 24)) {
    if (c >= 0x20 && c < 0x7f)
      out += c;
    else
      out += fmt::format("\\x{:02x}", static_cast<unsigned char>(c));
  }
  return out;
}

bool is_blank(char c) {
  return c == ' ' || c == '\t' || c == '\r' || c == '\n';
}

}  // namespace

ReplyReader::ReplyReader(std::string subject, State state, std::vector<char>* into)
    : subject_(std::move(subject)), state_(state), into_(into) {}

ReplyReader ReplyReader::line(std::string subject) {
  return {std::move(subject), State::line, nullptr};
}

ReplyReader ReplyReader::block(std::string subject, std::vector<char>& into) {
  into.clear();
  return {std::move(subject), State::hash, &into};
}

void ReplyReader::refuse(const std::string& why) const {
  throw InputError(subject_, "reply", why, "Test the instrument and compare its profile");
}

std::size_t ReplyReader::feed(std::string_view bytes) {
  std::size_t used = 0;
  while (used < bytes.size() && state_ != State::done) {
    const std::string_view rest = bytes.substr(used);
    const char c = rest.front();
    switch (state_) {
      case State::line: {
        const auto end = rest.find('\n');
        const std::string_view part = rest.substr(0, end);
        if (text_.size() + part.size() > kLongestLine) refuse("it is a line without end");
        text_.append(part);
        used += part.size();
        if (end == std::string_view::npos) break;
        ++used;
        while (!text_.empty() && is_blank(text_.back())) text_.pop_back();
        const auto start = std::find_if_not(text_.begin(), text_.end(), is_blank);
        text_.erase(text_.begin(), start);
        state_ = State::done;
        break;
      }
      case State::hash:
        ++used;
        if (is_blank(c)) break;
        if (c != '#')
          refuse(fmt::format("a block was expected, \u201c{}\u201d came", printable(rest)));
        state_ = State::digits;
        break;
      case State::digits:
        ++used;
        if (c < '0' || c > '9')
          refuse(fmt::format("a block cannot begin with \u201c#{}\u201d", printable(rest)));
        digits_ = c - '0';
        state_ = digits_ == 0 ? State::open_ended : State::length;
        break;
      case State::length:
        ++used;
        if (c < '0' || c > '9')
          refuse(fmt::format("the length of a block holds \u201c{}\u201d", printable(rest)));
        length_ = length_ * 10 + static_cast<std::size_t>(c - '0');
        if (--digits_ > 0) break;
        if (length_ > kLargestBlock)
          refuse(fmt::format("it announces a block of {} bytes", length_));
        into_->reserve(length_);
        state_ = length_ == 0 ? State::tail : State::counted;
        break;
      case State::counted: {
        const std::size_t part = std::min(rest.size(), missing());
        into_->insert(into_->end(), rest.begin(), rest.begin() + static_cast<std::ptrdiff_t>(part));
        received_ += part;
        used += part;
        if (missing() == 0) state_ = State::tail;
        break;
      }
      case State::open_ended:
        if (into_->size() + rest.size() > kLargestBlock) refuse("it is a block without end");
        into_->insert(into_->end(), rest.begin(), rest.end());
        used += rest.size();
        break;
      case State::tail:
        ++used;
        if (c == '\n') state_ = State::done;
        if (!is_blank(c))
          refuse(
              fmt::format("a block of {} bytes is followed by \u201c{}\u201d: its length is wrong",
                          length_, printable(rest)));
        break;
      case State::done:
        break;
    }
  }
  return used;
}

bool ReplyReader::ends_with_silence() const {
  return state_ == State::open_ended && !into_->empty() && into_->back() == '\n';
}

void ReplyReader::end_by_silence() {
  if (!ends_with_silence()) refuse("a block broke off");
  into_->pop_back();
  state_ = State::done;
}

std::string block_header(std::size_t bytes) {
  const std::string length = std::to_string(bytes);
  return "#" + std::to_string(length.size()) + length;
}

}  // namespace heron
