#include "core/signal/wav_header.h"

#include <algorithm>
#include <array>
#include <fstream>
#include <string_view>

namespace heron {
namespace {

std::uint64_t little_endian(const unsigned char* bytes, int count) {
  std::uint64_t value = 0;
  for (int i = count - 1; i >= 0; --i) value = value << 8 | bytes[i];
  return value;
}

/// The data chunk as it stands, an open size included.
std::optional<WavDataChunk> any_data_chunk(const std::filesystem::path& path) {
  std::error_code error;
  const std::uint64_t file_size = std::filesystem::file_size(path, error);
  std::ifstream file(path, std::ios::binary);
  std::array<unsigned char, 12> head{};
  if (error || !file.read(reinterpret_cast<char*>(head.data()), head.size())) return std::nullopt;
  const std::string_view magic(reinterpret_cast<const char*>(head.data()), 4);
  if (magic != "RIFF" && magic != "RF64") return std::nullopt;

  std::optional<std::uint64_t> long_size;
  std::uint64_t at = 12;
  for (int chunks = 0; chunks < 10000 && at + 8 <= file_size; ++chunks) {
    file.seekg(static_cast<std::streamoff>(at));
    std::array<unsigned char, 8> chunk{};
    if (!file.read(reinterpret_cast<char*>(chunk.data()), chunk.size())) return std::nullopt;
    const std::string_view id(reinterpret_cast<const char*>(chunk.data()), 4);
    std::uint64_t size = little_endian(chunk.data() + 4, 4);
    if (id == "ds64") {
      std::array<unsigned char, 16> sizes{};
      if (file.read(reinterpret_cast<char*>(sizes.data()), sizes.size())) {
        long_size = little_endian(sizes.data() + 8, 8);
      }
    }
    if (id == "data") {
      if (magic == "RF64" && size == 0xffffffffU && long_size) size = *long_size;
      const std::uint64_t behind = file_size - at - 8;
      const bool is_open = size == 0 || size == 0xffffffffU;
      return WavDataChunk{size, is_open ? behind : std::min(size, behind), at + 4};
    }
    at += 8 + size + (size & 1);
  }
  return std::nullopt;
}

}  // namespace

std::optional<WavDataChunk> find_wav_data(const std::filesystem::path& path) {
  auto chunk = any_data_chunk(path);
  if (chunk && (chunk->claimed_bytes == 0 || chunk->claimed_bytes == 0xffffffffU)) chunk.reset();
  return chunk;
}

std::optional<WavDataChunk> find_unfinished_wav(const std::filesystem::path& path) {
  auto chunk = any_data_chunk(path);
  if (chunk && (chunk->claimed_bytes != 0 || chunk->present_bytes == 0)) chunk.reset();
  return chunk;
}

}  // namespace heron
