#pragma once

#include <cstdint>
#include <filesystem>
#include <fstream>
#include <string>
#include <unistd.h>

namespace heron::fuzzing {

/// A folder of this process, with one file written anew for each input.
inline std::filesystem::path written(const std::string& name, const std::uint8_t* data,
                                     std::size_t size) {
  const auto folder =
      std::filesystem::temp_directory_path() / ("heron-fuzz-" + std::to_string(::getpid()));
  std::filesystem::create_directories(folder);
  std::ofstream(folder / name, std::ios::binary)
      .write(reinterpret_cast<const char*>(data), static_cast<std::streamsize>(size));
  return folder / name;
}

}  // namespace heron::fuzzing
