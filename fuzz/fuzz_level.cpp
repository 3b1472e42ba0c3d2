#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <string_view>

#include "core/error.h"
#include "core/quantity/parse_level.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string_view text(reinterpret_cast<const char*>(data), size);
  heron::parse_number(text);
  try {
    const heron::TypedLevel level = heron::parse_level(text, {heron::Ohm{50.0}, false, "W"});
    if (!std::isfinite(level.level.value)) std::abort();
  } catch (const heron::InputError&) {
  }
  return 0;
}
