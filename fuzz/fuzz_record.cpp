#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/method/two_tone/two_tone_json.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto json = nlohmann::json::parse(data, data + size, nullptr, false);
  if (json.is_discarded()) return 0;
  const auto attempt = [&](auto&& parse) {
    try {
      parse(json);
    } catch (const heron::InputError&) {
    }
  };
  attempt([](const auto& j) { heron::two_tone_from_json(j); });
  attempt([](const auto& j) { heron::two_tone_settings_from_json(j); });
  attempt([](const auto& j) { heron::limit_from_json(j); });
  return 0;
}
