#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>

namespace heron {

/// What a RIFF or RF64 header claims about its data chunk, against what is on disk.
struct WavDataChunk {
  std::uint64_t claimed_bytes = 0;
  std::uint64_t present_bytes = 0;
};

/// Walks the chunks. nullopt where the header is not RIFF/RF64, has no data chunk, or was written
/// by a streaming recorder that left the size open (0 or all ones).
std::optional<WavDataChunk> find_wav_data(const std::filesystem::path& path);

}  // namespace heron
