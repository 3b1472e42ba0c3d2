#pragma once

#include <functional>
#include <map>
#include <mutex>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "simbench/sim_state.h"

namespace heron::sim {

/// One simulated instrument: what it answers to SCPI. Any thread may speak to it.
class SimInstrument {
 public:
  SimInstrument(SharedState& state, std::string name);
  virtual ~SimInstrument() = default;
  SimInstrument(const SimInstrument&) = delete;
  SimInstrument& operator=(const SimInstrument&) = delete;

  const std::string& name() const { return name_; }
  /// What it answers to one line, without line end; nullopt if no answer is due.
  std::optional<std::string> speak(const std::string& line);

 protected:
  using Arguments = std::vector<std::string>;
  /// A command that changes something, at the moment it comes.
  void set(const char* header, std::function<void(SimState&, const Arguments&)> change);
  /// A question that takes no time.
  void ask(const char* header, std::function<std::string(SimState&)> answer);
  /// A question that holds what it needs for itself.
  void read(const char* header, std::function<std::string()> answer);
  SharedState& state() { return state_; }

  /// InputError where it is missing or out of range.
  static double number_at(const Arguments& arguments, std::size_t index, double lowest,
                          double highest);
  static bool switch_at(const Arguments& arguments, std::size_t index);

 private:
  void complain(const std::string& error);
  SharedState& state_;
  std::string name_;
  std::map<std::string, std::function<std::optional<std::string>(const Arguments&)>> commands_;
  std::mutex errors_mutex_;
  std::vector<std::string> errors_;
};

}  // namespace heron::sim
