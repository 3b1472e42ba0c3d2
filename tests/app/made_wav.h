#pragma once

#include <QString>

#include "core/signal/write_wav.h"
#include "tests/store/made_shack.h"

namespace heron::testing {

/// Writes a 16-bit I/Q recording of two tones with IM3 near the given level (dBc).
inline void write_wav(const QString& path, double im3_dbc, std::uint64_t seed = 9) {
  heron::write_wav(two_tones(im3_dbc, seed), path.toStdString());
}

}  // namespace heron::testing
