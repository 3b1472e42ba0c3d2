#pragma once

#include <filesystem>

#include "core/signal/capture.h"

namespace heron {

/// A recording as a 16-bit WAV file: I and Q as two channels, real audio as one. InputError if it
/// cannot be written whole.
void write_wav(const CaptureOpener& open, const std::filesystem::path& path);

}  // namespace heron
