#include "core/method/kept_file.h"

#include <nlohmann/json.hpp>

namespace heron {

bool is_capture_hash(const std::string& text) {
  return text.size() == 64 && text.find_first_not_of("0123456789abcdef") == std::string::npos;
}

std::string kept_file_hash(const nlohmann::json& settings, const std::string& key) {
  std::string hash = settings.value(key + "_hash", "");
  return is_capture_hash(hash) ? hash : "";
}

}  // namespace heron
