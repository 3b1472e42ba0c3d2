#pragma once

#include <stdexcept>
#include <string>

namespace heron {

/// Bad input from outside: what (file or field), where in it, why, and what the user can do.
/// Thrown by readers and parsers, caught at a room's door (command, job, interface action).
class InputError : public std::runtime_error {
 public:
  InputError(std::string what_subject, std::string where, std::string why, std::string what_to_do)
      : std::runtime_error(joined(what_subject, where, why) +
                           (what_to_do.empty() ? "" : ". " + what_to_do)),
        subject(std::move(what_subject)),
        place(std::move(where)),
        reason(std::move(why)),
        advice(std::move(what_to_do)) {}

  std::string subject;
  std::string place;  ///< empty if it concerns the whole subject
  std::string reason;
  std::string advice;

  /// What, where and why, without the advice.
  std::string what_happened() const { return joined(subject, place, reason); }

 private:
  static std::string joined(const std::string& subject, const std::string& place,
                            const std::string& reason) {
    return subject + (place.empty() ? "" : ", " + place) + ": " + reason;
  }
};

/// The user asked to stop; nothing is wrong and nothing was kept.
class Cancelled : public std::runtime_error {
 public:
  Cancelled() : std::runtime_error("stopped") {}
};

}  // namespace heron
