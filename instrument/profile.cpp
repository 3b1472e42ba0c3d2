#include "instrument/profile.h"

#include <fmt/format.h>

#include "core/json_fields.h"
#include "core/scpi/command_line.h"
#include "instrument/last_words.h"

namespace heron {
namespace {

std::string joined(std::span<const RoleKind> kinds) {
  std::string out;
  for (const RoleKind& k : kinds) out += (out.empty() ? "" : ", ") + std::string(k.id);
  return out;
}

bool offers(const RoleCommand& command, const std::string& placeholder) {
  const std::string all = " " + std::string(command.offers) + " ";
  return all.find(" " + placeholder + " ") != std::string::npos;
}

void check_command(const JsonFields& in, const RoleCommand& kind, const std::string& pattern) {
  const std::string id(kind.id);
  if (pattern.find_first_not_of(" \t") == std::string::npos)
    in.refuse(id, "it is empty", "Write the command, or leave the line out");
  if (pattern.find_first_of("\r\n") != std::string::npos)
    in.refuse(id, "it holds a line end", "The line end is added when it is sent");
  if (id == "output_off" && pattern.size() + 2 > LastWord::kLongest)
    in.refuse(id, "it is too long to be sent on exit",
              fmt::format("Use at most {} characters", LastWord::kLongest - 2));
  for (const std::string& name : placeholders(pattern)) {
    if (!offers(kind, name))
      in.refuse(
          id, fmt::format("{{{}}} is not offered", name),
          kind.offers.empty() ? "Remove the braces" : fmt::format("Use one of: {}", kind.offers));
  }
  const bool asks = pattern.find('?') != std::string::npos;
  if (asks != (kind.reply != ReplyKind::none))
    in.refuse(id, asks ? "it is a question, but no answer is due" : "it is not a question",
              asks ? "Remove the question mark" : "Write a command that ends in ?");
}

RoleProfile role_from_json(const JsonFields& in, const RoleKind& kind) {
  RoleProfile role;
  const std::string coding = in.text("coding", "cf32_le");
  try {
    role.coding = sample_coding_from_name(coding);
  } catch (const InputError& error) {
    in.refuse("coding", error.reason, error.advice);
  }
  const auto* commands = in.find("commands");
  if (commands == nullptr) in.refuse("commands", "they are missing", "Write { } with commands");
  const JsonFields fields(*commands, in.subject(), in.place() + ", commands");
  for (const auto& [id, value] : commands->items()) {
    const RoleCommand* command = kind.find(id);
    if (command == nullptr) {
      std::string known;
      for (const RoleCommand& c : kind.commands)
        known += (known.empty() ? "" : ", ") + std::string(c.id);
      fields.refuse(id, "this command is not known", "Use " + known);
    }
    if (!value.is_string()) fields.refuse(id, "it is not text", "Write it in quotes");
    check_command(fields, *command, value.get<std::string>());
    role.commands[id] = value.get<std::string>();
  }
  for (const RoleCommand& c : kind.commands) {
    if (c.is_required && !role.commands.contains(c.id))
      fields.refuse(std::string(c.id), "it is missing",
                    fmt::format("Write the command to {}", c.words));
  }
  return role;
}

}  // namespace

const std::string* Profile::find(Role role, std::string_view command) const {
  const auto known = roles.find(role);
  if (known == roles.end()) return nullptr;
  const auto found = known->second.commands.find(command);
  return found == known->second.commands.end() ? nullptr : &found->second;
}

Profile parse_profile(std::string_view text, const std::string& subject) {
  const nlohmann::json file = parse_json(text, subject, "Mend the place that it names");
  const JsonFields in(file, subject, "");
  in.require_format("even-heron-profile", "a profile");
  Profile p;
  p.name = in.text("name", subject);
  p.line_ending = in.text("line_ending", "\n");
  if (p.line_ending != "\n" && p.line_ending != "\r\n" && p.line_ending != "\r")
    in.refuse("line_ending", "it is none", R"(Use "\n", "\r\n" or "\r")");
  p.timeout_s = in.number("timeout_s").value_or(p.timeout_s);
  p.settle_s = in.number("settle_s").value_or(p.settle_s);
  if (!(p.timeout_s > 0.0 && p.timeout_s <= 600.0))
    in.refuse("timeout_s", "it is not between 0 and 600 s", "Use 2");
  if (!(p.settle_s >= 0.0 && p.settle_s <= 600.0))
    in.refuse("settle_s", "it is not between 0 and 600 s", "Use 0.1");
  const auto* roles = in.find("roles");
  if (roles == nullptr || !roles->is_object() || roles->empty())
    in.refuse("roles", "there are none", "Describe at least one of " + joined(role_kinds()));
  for (const auto& [id, value] : roles->items()) {
    const RoleKind* kind = find_role(id);
    if (kind == nullptr) in.refuse(id, "this role is not known", "Use " + joined(role_kinds()));
    p.roles[kind->role] = role_from_json({value, subject, id}, *kind);
  }
  return p;
}

const Profile& generic_profile() {
  static const Profile profile = parse_profile(
#include "instrument/generic_profile.inc"
      , "generic profile");
  return profile;
}

}  // namespace heron
