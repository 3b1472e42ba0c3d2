#include "core/chain/touchstone.h"
#include "core/error.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  try {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    const heron::Touchstone network = heron::parse_touchstone(text, "in.s2p");
    network.gain("in.s2p");
    network.input_vswr(1e6);
  } catch (const heron::InputError&) {
  }
  return 0;
}
