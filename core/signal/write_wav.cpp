#include "core/signal/write_wav.h"

#include <cmath>
#include <memory>
#include <sndfile.h>
#include <vector>

#include "core/error.h"

namespace heron {

namespace {

using SoundFile = std::unique_ptr<SNDFILE, int (*)(SNDFILE*)>;

SoundFile create(const std::filesystem::path& path, double rate_hz, std::size_t channels,
                 int subtype) {
  SF_INFO info{};
  info.samplerate = static_cast<int>(std::lround(rate_hz));
  info.channels = static_cast<int>(channels);
  info.format = SF_FORMAT_WAV | subtype;
  SoundFile file(sf_open(path.c_str(), SFM_WRITE, &info), &sf_close);
  if (!file)
    throw InputError(path.string(), "", "the file cannot be written", "Choose another folder");
  return file;
}

[[noreturn]] void refuse_partial(const std::filesystem::path& path) {
  throw InputError(path.string(), "", "it could not be written whole", "Free some space");
}

}  // namespace

void write_wav(const Stimulus& stimulus, const std::filesystem::path& path) {
  std::filesystem::path partial = path;
  partial += ".part";
  std::error_code failed;
  try {
    SoundFile file = create(partial, stimulus.rate_hz, 1,
                            stimulus.bits == 16 ? SF_FORMAT_PCM_16 : SF_FORMAT_PCM_24);
    // The library takes samples that fill 32 bits.
    std::vector<int> block;
    for (const std::int32_t v : stimulus.samples) block.push_back(v * (1 << (32 - stimulus.bits)));
    const auto count = static_cast<sf_count_t>(block.size());
    if (sf_writef_int(file.get(), block.data(), count) != count) refuse_partial(path);
    if (sf_close(file.release()) != 0) refuse_partial(path);
    std::filesystem::rename(partial, path, failed);
    if (failed) throw InputError(path.string(), "", failed.message(), "Choose another name");
  } catch (...) {
    std::filesystem::remove(partial, failed);
    throw;
  }
}

void write_wav(const CaptureOpener& open, const std::filesystem::path& path) {
  const auto reader = open();
  const SoundFile file =
      create(path, reader->info().sample_rate_hz, reader->floats_per_frame(), SF_FORMAT_PCM_16);
  std::vector<float> block(1U << 16U);
  while (const std::size_t frames = reader->read(block)) {
    const auto count = static_cast<sf_count_t>(frames);
    if (sf_writef_float(file.get(), block.data(), count) != count) refuse_partial(path);
  }
}

}  // namespace heron
