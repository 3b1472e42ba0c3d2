#pragma once

#include <cstdint>
#include <filesystem>
#include <string>

namespace heron {

/// A small text file, without a byte order mark. InputError naming it: a folder, unreadable, or
/// larger than `largest_mb` megabytes.
std::string read_text(const std::filesystem::path& path, std::uintmax_t largest_mb);

}  // namespace heron
