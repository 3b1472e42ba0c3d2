#include "instrument/scpi_session.h"

#include <algorithm>
#include <array>
#include <fmt/format.h>

#include "core/scpi/command_line.h"
#include "core/scpi/reply_value.h"

namespace heron {
namespace {

using Clock = Transport::Clock;

constexpr double kOpenS = 3.0;
constexpr double kSilenceS = 0.1;  // after the line end of a block without a length
constexpr std::size_t kPiece = std::size_t{1} << 18U;

Clock::time_point after(double seconds) {
  return Clock::now() +
         std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(seconds));
}

}  // namespace

ScpiSession::ScpiSession(std::string name, InstrumentAddress address, Profile profile)
    : name_(std::move(name)),
      address_(std::move(address)),
      profile_(std::move(profile)),
      transport_(make_transport(address_)) {}

ScpiSession::~ScpiSession() = default;

void ScpiSession::fail(InstrumentFault fault, const std::string& where, const std::string& why,
                       const std::string& what_to_do) {
  if (fault != InstrumentFault::over_range && fault != InstrumentFault::refused)
    is_out_of_step_ = true;
  throw InstrumentError(fault, name_, where, why, what_to_do);
}

void ScpiSession::tell_listener(bool is_sent, std::string text) {
  if (listener_) listener_({is_sent, std::move(text)});
}

const RoleKind* ScpiSession::source_role() const {
  for (const auto& [role, profile] : profile_.roles) {
    if (role_kind(role).is_source) return &role_kind(role);
  }
  return nullptr;
}

bool ScpiSession::drop_now() const {
  const std::scoped_lock lock(last_word_mutex_);
  return last_word_ && last_word_->say();
}

void ScpiSession::open_line() {
  close();
  try {
    transport_->open(after(kOpenS));
  } catch (const InputError& error) {
    throw InstrumentError(InstrumentFault::lost, name_, error.subject, error.reason, error.advice);
  }
  if (const RoleKind* source = source_role()) {
    const std::scoped_lock lock(last_word_mutex_);
    last_word_ = std::make_unique<LastWord>(
        transport_->descriptor(),
        *profile_.find(source->role, "output_off") + profile_.line_ending);
  }
}

void ScpiSession::connect() {
  open_line();
  is_out_of_step_ = false;
  identity_ = ask("*IDN?");
}

void ScpiSession::close() {
  {
    const std::scoped_lock lock(last_word_mutex_);
    last_word_.reset();
  }
  transport_->close();
  arrived_.clear();
}

void ScpiSession::resynchronise() {
  // A new line has no late replies in it; a serial one is read until it is quiet.
  const std::string known = identity_;
  open_line();
  std::array<char, 4096> stale;
  if (address_.is_serial) {
    while (transport_->read(stale.data(), stale.size(), after(kSilenceS), stop_) > 0) {
    }
  }
  is_out_of_step_ = false;
  const std::string now = ask("*IDN?");
  if (!known.empty() && now != known)
    fail(InstrumentFault::another_one, "",
         fmt::format("\u201c{}\u201d answers there now, it was \u201c{}\u201d", now, known),
         "Connect the right one, or identify it anew");
  identity_ = now;
}

void ScpiSession::ready() {
  if (is_out_of_step_ || !transport_->is_open()) resynchronise();
}

void ScpiSession::write_line(const std::string& command) {
  tell_listener(true, command);
  // Replies that nobody asked for must not answer the next question.
  arrived_.clear();
  if (!transport_->write(command + profile_.line_ending, after(profile_.timeout_s)))
    fail(InstrumentFault::lost, command, "the connection was lost",
         "Check the cable and that it is on");
}

void ScpiSession::read_reply(ReplyReader& reader, double timeout_s) {
  if (!arrived_.empty()) {
    const std::size_t used = reader.feed({arrived_.data(), arrived_.size()});
    arrived_.erase(arrived_.begin(), arrived_.begin() + static_cast<std::ptrdiff_t>(used));
  }
  std::vector<char>& piece = arrived_;
  const auto deadline = after(timeout_s);
  while (!reader.is_complete()) {
    piece.resize(kPiece);
    const bool may_end = reader.ends_with_silence();
    // As long as data flow the time does not run out: a block may take longer than a reply.
    const std::size_t got = transport_->read(piece.data(), piece.size(),
                                             may_end               ? after(kSilenceS)
                                             : reader.is_in_data() ? after(timeout_s)
                                                                   : deadline,
                                             stop_);
    piece.resize(got);
    if (got == 0) {
      if (may_end) {
        reader.end_by_silence();
        return;
      }
      if (!transport_->is_open())
        fail(InstrumentFault::lost, "", "it closed the connection in the middle of an answer",
             "Check the cable and that it is on");
      if (reader.is_in_data())
        fail(InstrumentFault::garbled, "",
             fmt::format("its block broke off, {} bytes are missing", reader.missing()),
             "Measure it again");
      fail(InstrumentFault::silent, "", fmt::format("no answer within {:g} s", timeout_s),
           "Check that it is in remote mode and that the profile fits it");
    }
    const std::size_t used = reader.feed({piece.data(), got});
    piece.erase(piece.begin(), piece.begin() + static_cast<std::ptrdiff_t>(used));
  }
}

void ScpiSession::send(const std::string& command) {
  ready();
  write_line(command);
}

/// Runs `read`; what the reply cannot be read as becomes an error of this instrument.
template <class Read>
auto ScpiSession::understood(const std::string& query, const Read& read) {
  try {
    return read();
  } catch (const InstrumentError&) {
    throw;
  } catch (const InputError& error) {
    const bool is_over = error.reason.find("over range") != std::string::npos;
    fail(is_over ? InstrumentFault::over_range : InstrumentFault::garbled, query, error.reason,
         error.advice);
  }
}

std::string ScpiSession::ask(const std::string& query, double extra_s) {
  ready();
  return understood(query, [&] {
    write_line(query);
    ReplyReader reader = ReplyReader::line(name_);
    read_reply(reader, profile_.timeout_s + extra_s);
    tell_listener(false, reader.text());
    return reader.text();
  });
}

bool ScpiSession::can(Role role, const char* command) const {
  return profile_.find(role, command) != nullptr;
}

const std::string& ScpiSession::words(Role role, const char* command) const {
  const std::string* found = profile_.find(role, command);
  if (found == nullptr)
    throw InstrumentError(InstrumentFault::refused, name_, command,
                          fmt::format("the profile \u201c{}\u201d has no such command as {}",
                                      profile_.name, role_kind(role).title),
                          "Add it to the profile");
  return *found;
}

void ScpiSession::tell(Role role, const char* command,
                       const std::map<std::string, double>& values) {
  send(filled(words(role, command), values, name_));
}

double ScpiSession::ask_number(Role role, const char* command) {
  const std::string& query = words(role, command);
  const std::string text = ask(query);
  return understood(query, [&] { return number_reply(text, name_); });
}

std::vector<double> ScpiSession::ask_numbers(Role role, const char* command, double expected_s) {
  const std::string& query = words(role, command);
  const std::string text = ask(query, expected_s);
  return understood(query, [&] { return numbers_reply(text, name_); });
}

bool ScpiSession::ask_yes_or_no(Role role, const char* command) {
  const std::string& query = words(role, command);
  const std::string text = ask(query);
  return understood(query, [&] { return switch_reply(text, name_); });
}

void ScpiSession::ask_samples(Role role, const char* command, std::vector<char>& block,
                              std::vector<float>& samples, double expected_s) {
  const std::string& query = words(role, command);
  ready();
  understood(query, [&] {
    write_line(query);
    ReplyReader reader = ReplyReader::block(name_, block);
    read_reply(reader, profile_.timeout_s + expected_s);
    tell_listener(false, fmt::format("block of {} bytes", block.size()));
    decode_samples(block, profile_.roles.at(role).coding, name_, samples);
    return 0;
  });
}

void ScpiSession::settle() {
  const std::string done = ask("*OPC?");
  understood("*OPC?", [&] {
    if (number_reply(done, name_) != 1.0)
      throw InputError(name_, "*OPC?", "\u201c" + done + "\u201d is not the 1 that says done", "");
    return 0;
  });
  constexpr int kMostErrors = 20;
  std::optional<ErrorReply> first;
  for (int i = 0; i < kMostErrors; ++i) {
    const std::string text = ask("SYST:ERR?");
    const ErrorReply reply = understood("SYST:ERR?", [&] { return error_reply(text, name_); });
    if (reply.code == 0) break;
    if (!first) first = reply;
  }
  if (first)
    fail(InstrumentFault::refused, "",
         fmt::format("it reports \u201c{}, {}\u201d", first->code, first->text),
         "Compare its profile with its manual");
}

}  // namespace heron
