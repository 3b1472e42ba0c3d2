#include <vector>

#include "core/error.h"
#include "core/signal/sigmf_capture.h"
#include "fuzz/temporary_file.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::uint8_t samples[64] = {1, 2, 3, 250, 128, 127, 255, 0};
  const auto path = heron::fuzzing::written("in.sigmf-meta", data, size);
  heron::fuzzing::written("in.sigmf-data", samples, sizeof samples);
  try {
    const auto reader = heron::open_sigmf(path);
    std::vector<float> block(64);
    while (reader->read(block) > 0) {
    }
  } catch (const heron::InputError&) {
  }
  return 0;
}
