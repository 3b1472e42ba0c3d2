#pragma once

#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "core/error.h"
#include "core/scpi/reply_reader.h"
#include "instrument/last_words.h"
#include "instrument/profile.h"
#include "instrument/transport.h"

namespace heron {

/// What went wrong with an instrument, by what has to be done about it.
enum class InstrumentFault { lost, silent, garbled, over_range, refused, another_one };

/// Names the instrument; after any but `over_range` and `refused` the line is opened anew and the
/// identity compared before the next command, so that a late reply is never taken for another's.
class InstrumentError : public InputError {
 public:
  InstrumentError(InstrumentFault what, const std::string& instrument, const std::string& where,
                  const std::string& why, const std::string& what_to_do)
      : InputError(instrument, where, why, what_to_do), fault(what) {}
  InstrumentFault fault;
};

/// One line of the conversation, for those who watch it.
struct Traffic {
  bool is_sent = false;
  std::string text;  ///< a block is told by its size
};

/// A conversation with one instrument. Belongs to one thread, and blocks it; a stop throws
/// Cancelled.
class ScpiSession {
 public:
  ScpiSession(std::string name, InstrumentAddress address, Profile profile);
  ~ScpiSession();
  ScpiSession(const ScpiSession&) = delete;
  ScpiSession& operator=(const ScpiSession&) = delete;

  const std::string& name() const { return name_; }
  const Profile& profile() const { return profile_; }
  const std::string& identity() const { return identity_; }
  bool is_open() const { return transport_->is_open(); }
  void set_stop(std::stop_token stop) { stop_ = std::move(stop); }
  void watch(std::function<void(const Traffic&)> listener) { listener_ = std::move(listener); }

  /// Opens the line and asks who is there (*IDN?).
  void connect();
  void close();

  /// What the profile says for a role's command. InstrumentError if it says nothing.
  void tell(Role role, const char* command, const std::map<std::string, double>& values = {});
  double ask_number(Role role, const char* command);
  /// `expected_s`: how long it takes before it answers, beyond the usual.
  std::vector<double> ask_numbers(Role role, const char* command, double expected_s = 0.0);
  bool ask_yes_or_no(Role role, const char* command);
  /// Samples as full-scale values; both buffers keep their memory.
  void ask_samples(Role role, const char* command, std::vector<char>& block,
                   std::vector<float>& samples, double expected_s = 0.0);
  bool can(Role role, const char* command) const;

  /// Waits until what was told is done (*OPC?), then reads the error queue empty (SYST:ERR?).
  /// InstrumentError with the instrument's own words for the first error in it.
  void settle();

  /// Plain words, for the panel and for tests.
  void send(const std::string& command);
  std::string ask(const std::string& query, double extra_s = 0.0);

  /// Switches a source off at once, without waiting for an answer, whatever else is under way. From
  /// any thread. False if there is no open line that took it.
  bool drop_now() const;
  /// The role in which it puts out power that has to be taken away; nullptr if in none.
  const RoleKind* source_role() const;

 private:
  void open_line();
  void ready();
  void resynchronise();
  void write_line(const std::string& command);
  void read_reply(ReplyReader& reader, double timeout_s);
  const std::string& words(Role role, const char* command) const;
  [[noreturn]] void fail(InstrumentFault fault, const std::string& where, const std::string& why,
                         const std::string& what_to_do);
  template <class Read>
  auto understood(const std::string& query, const Read& read);
  void tell_listener(bool is_sent, std::string text);

  std::string name_;
  InstrumentAddress address_;
  Profile profile_;
  std::unique_ptr<Transport> transport_;
  mutable std::mutex last_word_mutex_;
  std::unique_ptr<LastWord> last_word_;  ///< of a source, while the line is open
  std::string identity_;
  bool is_out_of_step_ = false;
  std::stop_token stop_;
  std::function<void(const Traffic&)> listener_;
  std::vector<char> arrived_;  ///< bytes behind the last reply
};

}  // namespace heron
