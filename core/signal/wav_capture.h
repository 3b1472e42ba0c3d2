#pragma once

#include <filesystem>
#include <memory>

#include "core/signal/capture.h"

namespace heron {

/// Two channels are I and Q, one is real audio. Integer 8 to 32 bit and float; unknown chunks are
/// skipped; a truncated file is read as far as it goes, with a caution.
std::unique_ptr<CaptureReader> open_wav(const std::filesystem::path& path);

}  // namespace heron
