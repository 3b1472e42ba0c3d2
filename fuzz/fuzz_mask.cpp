#include <cstddef>
#include <cstdint>
#include <string_view>

#include "core/error.h"
#include "core/judge/mask.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  try {
    const heron::Mask mask = heron::parse_mask({reinterpret_cast<const char*>(data), size}, "fuzz");
    for (const double f : {1.0, 1e6, 1e9}) heron::mask_limit_dbc(mask, {14.2e6, 44.0}, f);
  } catch (const heron::InputError&) {
  }
  return 0;
}
