#include "core/error.h"
#include "core/method/two_tone/two_tone_trace.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  try {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    heron::analyse_trace(heron::parse_trace(text, "in.csv"));
  } catch (const heron::InputError&) {
  }
  return 0;
}
