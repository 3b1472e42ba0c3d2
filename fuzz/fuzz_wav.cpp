#include <vector>

#include "core/error.h"
#include "core/signal/wav_capture.h"
#include "core/signal/wav_header.h"
#include "fuzz/temporary_file.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto path = heron::fuzzing::written("in.wav", data, size);
  heron::find_wav_data(path);
  try {
    const auto reader = heron::open_wav(path);
    std::vector<float> block(2048);
    for (int i = 0; i < 50 && reader->read(block) > 0; ++i) {
    }
    reader->seek(reader->info().frames / 2);
    reader->read(block);
  } catch (const heron::InputError&) {
  }
  return 0;
}
