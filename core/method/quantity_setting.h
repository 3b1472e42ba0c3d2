#pragma once

#include <algorithm>
#include <array>
#include <string>

#include "core/method/method.h"

namespace heron {

/// A setting that is typed with its unit; `none` says what holds while it is left open.
inline SettingField quantity_setting(std::string_view key, std::string_view group,
                                     std::string_view head, std::string_view hint, Quantity asked,
                                     std::string_view unit, std::string_view none,
                                     std::string_view example) {
  SettingField f;
  f.kind = SettingField::Kind::quantity;
  f.key = key;
  f.group = group;
  f.head = head;
  f.hint = hint;
  f.asked = asked;
  f.unit = unit;
  f.none = none;
  f.example = example;
  return f;
}

/// A frequency likewise, with the unit of a bare number.
inline SettingField frequency_setting(std::string_view key, std::string_view group,
                                      std::string_view head, std::string_view hint,
                                      std::string_view none, std::string_view example,
                                      std::string_view bare_unit) {
  SettingField f =
      quantity_setting(key, group, head, hint, Quantity::frequency, "Hz", none, example);
  f.typed_unit = bare_unit;
  return f;
}

/// The entry of a table of choices that a setting names; the first one where it names none.
template <class Entry, std::size_t N>
const Entry& named_or_first(const std::array<Entry, N>& all, const std::string& id) {
  const auto found =
      std::find_if(all.begin(), all.end(), [&](const Entry& e) { return id == e.id; });
  return found == all.end() ? all.front() : *found;
}

/// The object of a method's own settings among those of a test; empty if there is none.
inline const nlohmann::json& own_settings(const nlohmann::json& settings, const char* key) {
  static const nlohmann::json kNothing = nlohmann::json::object();
  const auto found = settings.find(key);
  return found != settings.end() && found->is_object() ? *found : kNothing;
}

}  // namespace heron
