#pragma once

#include <span>
#include <string>
#include <string_view>

namespace heron {

/// What an instrument does in a measurement, whatever its make.
enum class Role {
  generator,
  sampler,
  spectrum_analyser,
  power_meter,
  counter,
  voltmeter,
  supply,
  thermometer,
  step_attenuator
};

enum class ReplyKind { none, number, numbers, yes_or_no, block };

/// One thing a role can be asked to do, and the placeholders that its command may use.
struct RoleCommand {
  std::string_view id;
  ReplyKind reply;
  bool is_required;
  std::string_view offers;  ///< names, parted by spaces
  std::string_view words;   ///< what it does, for people
};

struct RoleKind {
  Role role;
  std::string_view id;     ///< in profiles
  std::string_view title;  ///< "Spectrum analyser"
  bool is_source;          ///< puts out power that has to be taken away on every exit
  std::span<const RoleCommand> commands;

  const RoleCommand* find(std::string_view command) const;
};

std::span<const RoleKind> role_kinds();
const RoleKind& role_kind(Role role);
const RoleKind* find_role(std::string_view id);  ///< nullptr if unknown

}  // namespace heron
