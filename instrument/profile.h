#pragma once

#include <map>
#include <optional>
#include <string>
#include <string_view>

#include "core/scpi/reply_value.h"
#include "instrument/role.h"

namespace heron {

/// The words that one kind of instrument understands in one role.
struct RoleProfile {
  std::map<std::string, std::string, std::less<>> commands;  ///< by id of the role's command
  SampleCoding coding = SampleCoding::cf32_le;               ///< of a sampler's block
};

/// How to talk to one kind of instrument; a small file that people write for theirs.
struct Profile {
  std::string name;
  std::string line_ending = "\n";
  double timeout_s = 2.0;
  double settle_s = 0.0;  ///< after a change of its settings
  std::map<Role, RoleProfile> roles;

  /// nullptr if it cannot do that.
  const std::string* find(Role role, std::string_view command) const;
};

/// InputError naming role and command: not JSON, a role or a command that is not known, a required
/// one missing, a placeholder that the command does not offer, a query where none is due.
Profile parse_profile(std::string_view text, const std::string& subject);

/// Speaks plain SCPI in every role.
const Profile& generic_profile();

}  // namespace heron
