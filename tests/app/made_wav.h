#pragma once

#include <QString>
#include <sndfile.h>
#include <vector>

#include "tests/store/made_shack.h"

namespace heron::testing {

/// Writes a 16-bit I/Q recording of two tones with IM3 near the given level (dBc).
inline void write_wav(const QString& path, double im3_dbc, std::uint64_t seed = 9) {
  const auto reader = two_tones(im3_dbc, seed)();
  std::vector<float> samples(static_cast<std::size_t>(reader->info().frames) * 2);
  reader->read(samples);
  SF_INFO info{};
  info.samplerate = 48000;
  info.channels = 2;
  info.format = SF_FORMAT_WAV | SF_FORMAT_PCM_16;
  SNDFILE* file = sf_open(path.toUtf8().constData(), SFM_WRITE, &info);
  sf_writef_float(file, samples.data(), reader->info().frames);
  sf_close(file);
}

}  // namespace heron::testing
