#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <utility>

#include "core/error.h"

namespace heron {

/// What is wrong with a JSON document that a reader stumbled over, in words for people.
inline std::string json_fault(const nlohmann::json::exception& error) {
  if (dynamic_cast<const nlohmann::json::out_of_range*>(&error) != nullptr)
    return "a part of it is missing or out of range";
  if (dynamic_cast<const nlohmann::json::type_error*>(&error) != nullptr)
    return "a part of it is of the wrong kind";
  return "it is not valid JSON";
}

/// The JSON of a text; InputError naming the byte where it stops being JSON.
inline nlohmann::json parse_json(std::string_view text, const std::string& subject,
                                 const std::string& what_to_do) {
  try {
    return nlohmann::json::parse(text);
  } catch (const nlohmann::json::parse_error& error) {
    throw InputError(subject, "byte " + std::to_string(error.byte), "it is not JSON", what_to_do);
  } catch (const nlohmann::json::exception&) {
    // A number like 1e999 is JSON, but none that anything could be.
    throw InputError(subject, "", "a number in it is too large", what_to_do);
  }
}

/// One object of a file and where it stands, so that messages name the place of what is wrong.
class JsonFields {
 public:
  JsonFields(const nlohmann::json& object, std::string subject, std::string place)
      : object_(object), subject_(std::move(subject)), place_(std::move(place)) {
    if (!object_.is_object()) refuse("", "it is not an object", "Write { } round it");
  }
  [[noreturn]] void refuse(const std::string& key, const std::string& why,
                           const std::string& what_to_do) const {
    const std::string where = place_.empty() ? key : key.empty() ? place_ : place_ + ", " + key;
    throw InputError(subject_, where, why, what_to_do);
  }
  /// The file says what it is, in a version that is known.
  void require_format(const std::string& format, const std::string& what) const {
    if (text("format", "") != format)
      refuse("format", "this is not " + what, "It begins with \"format\": \"" + format + "\"");
    if (number("version").value_or(1.0) != 1.0)
      refuse("version", "this version is not known, a newer Even Heron may have written it",
             "Use version 1, or update Even Heron");
  }
  std::optional<double> number(const char* key) const {
    const auto* found = find(key);
    if (found == nullptr) return std::nullopt;
    if (!found->is_number()) refuse(key, "it is not a number", "Write it without quotes");
    return found->get<double>();
  }
  std::string text(const char* key, const std::string& otherwise) const {
    const auto found = object_.find(key);
    if (found == object_.end()) return otherwise;
    if (!found->is_string()) refuse(key, "it is not text", "Write it in quotes");
    return found->get<std::string>();
  }
  bool flag(const char* key, bool otherwise) const {
    const auto* found = find(key);
    if (found == nullptr) return otherwise;
    if (!found->is_boolean()) refuse(key, "it is not true or false", "Write true or false");
    return found->get<bool>();
  }
  /// nullptr if it is missing or null.
  const nlohmann::json* find(const char* key) const {
    const auto found = object_.find(key);
    return found == object_.end() || found->is_null() ? nullptr : &*found;
  }
  const std::string& subject() const { return subject_; }
  const std::string& place() const { return place_; }

 private:
  const nlohmann::json& object_;
  std::string subject_;
  std::string place_;
};

}  // namespace heron
