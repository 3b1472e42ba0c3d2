#pragma once

#include <filesystem>

#include "core/signal/capture.h"
#include "core/signal/stimulus.h"

namespace heron {

/// A recording as a 16-bit WAV file: I and Q as two channels, real audio as one. InputError if it
/// cannot be written whole.
void write_wav(const CaptureOpener& open, const std::filesystem::path& path);

/// A test signal as one channel of 16 or 24 bits, under its own name only when it is whole.
/// InputError if it cannot be written.
void write_wav(const Stimulus& stimulus, const std::filesystem::path& path);

}  // namespace heron
