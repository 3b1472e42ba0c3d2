#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>

namespace heron {

/// Whether a text is the SHA-256 of a kept recording, in small hexadecimal digits: it becomes part
/// of a file's name, and from elsewhere it may be anything.
bool is_capture_hash(const std::string& text);

/// A file of the user's own that a setting named `key` keeps, as "KEY_hash"; empty if there is none
/// or it is no hash. May throw a json exception.
std::string kept_file_hash(const nlohmann::json& settings, const std::string& key);

}  // namespace heron
