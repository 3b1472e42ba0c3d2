#include "simbench/sim_instrument.h"

#include <fmt/format.h>

#include "core/error.h"
#include "core/scpi/command_line.h"
#include "core/scpi/reply_value.h"

namespace heron::sim {

SimInstrument::SimInstrument(SharedState& state, std::string name)
    : state_(state), name_(std::move(name)) {
  read("*IDN?", [identity = fmt::format("Even Heron,simulated {},{},1", name_,
                                        state.held()->config.seed)] { return identity; });
  read("*OPC?", [] { return "1"; });
  commands_["*RST"] = [](const Arguments&) { return std::nullopt; };
  commands_["*CLS"] = [this](const Arguments&) -> std::optional<std::string> {
    const std::scoped_lock lock(errors_mutex_);
    errors_.clear();
    return std::nullopt;
  };
  read("SYST:ERR?", [this]() -> std::string {
    const std::scoped_lock lock(errors_mutex_);
    if (errors_.empty()) return "0,\"No error\"";
    const std::string first = errors_.front();
    errors_.erase(errors_.begin());
    return first;
  });
}

void SimInstrument::set(const char* header,
                        std::function<void(SimState&, const Arguments&)> change) {
  commands_[header] =
      [this, change = std::move(change)](const Arguments& arguments) -> std::optional<std::string> {
    auto held = state_.now();
    change(*held, arguments);
    return std::nullopt;
  };
}

void SimInstrument::ask(const char* header, std::function<std::string(SimState&)> answer) {
  commands_[header] = [this, answer = std::move(answer)](const Arguments&) {
    auto held = state_.now();
    return std::optional(answer(*held));
  };
}

void SimInstrument::read(const char* header, std::function<std::string()> answer) {
  commands_[header] = [answer = std::move(answer)](const Arguments&) {
    return std::optional(answer());
  };
}

double SimInstrument::number_at(const Arguments& arguments, std::size_t index, double lowest,
                                double highest) {
  if (index >= arguments.size()) throw InputError("argument", "", "it is missing", "");
  const double value = number_reply(arguments[index], "argument");
  if (value < lowest || value > highest) throw InputError("argument", "", "out of range", "");
  return value;
}

bool SimInstrument::switch_at(const Arguments& arguments, std::size_t index) {
  if (index >= arguments.size()) throw InputError("argument", "", "it is missing", "");
  return switch_reply(arguments[index], "argument");
}

void SimInstrument::complain(const std::string& error) {
  const std::scoped_lock lock(errors_mutex_);
  if (errors_.size() < 30) errors_.push_back(error);
}

std::optional<std::string> SimInstrument::speak(const std::string& line) {
  std::optional<std::string> reply;
  for (const ScpiCommand& command : parse_commands(line)) {
    const auto handler = commands_.find(command.header + (command.is_query ? "?" : ""));
    if (handler == commands_.end()) {
      complain("-113,\"Undefined header; " + command.header.substr(0, 40) + "\"");
      continue;
    }
    try {
      const auto answer = handler->second(command.arguments);
      if (answer) reply = reply ? *reply + ";" + *answer : *answer;
    } catch (const InputError&) {
      complain("-222,\"Data out of range\"");
    }
  }
  return reply;
}

}  // namespace heron::sim
