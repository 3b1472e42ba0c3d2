#include "core/signal/write_wav.h"

#include <cmath>
#include <memory>
#include <sndfile.h>
#include <vector>

#include "core/error.h"

namespace heron {

void write_wav(const CaptureOpener& open, const std::filesystem::path& path) {
  const auto reader = open();
  SF_INFO info{};
  info.samplerate = static_cast<int>(std::lround(reader->info().sample_rate_hz));
  info.channels = static_cast<int>(reader->floats_per_frame());
  info.format = SF_FORMAT_WAV | SF_FORMAT_PCM_16;
  const std::unique_ptr<SNDFILE, int (*)(SNDFILE*)> file(sf_open(path.c_str(), SFM_WRITE, &info),
                                                         &sf_close);
  if (!file)
    throw InputError(path.string(), "", "the file cannot be written", "Choose another folder");
  std::vector<float> block(1U << 16U);
  while (const std::size_t frames = reader->read(block)) {
    const auto count = static_cast<sf_count_t>(frames);
    if (sf_writef_float(file.get(), block.data(), count) != count)
      throw InputError(path.string(), "", "it could not be written whole", "Free some space");
  }
}

}  // namespace heron
