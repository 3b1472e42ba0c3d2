#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>

namespace heron {

/// What a RIFF or RF64 header claims about its data chunk, against what is on disk.
struct WavDataChunk {
  std::uint64_t claimed_bytes = 0;
  std::uint64_t present_bytes = 0;
  std::uint64_t size_at = 0;  ///< where in the file the claim stands
};

/// Walks the chunks. nullopt where the header is not RIFF/RF64, has no data chunk, or was written
/// by a streaming recorder that left the size open (0 or all ones).
std::optional<WavDataChunk> find_wav_data(const std::filesystem::path& path);

/// A RIFF file whose recorder crashed: its header still says 0 samples, and there are some behind
/// it. nullopt of any other.
std::optional<WavDataChunk> find_unfinished_wav(const std::filesystem::path& path);

}  // namespace heron
