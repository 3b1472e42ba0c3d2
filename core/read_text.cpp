#include "core/read_text.h"

#include <fmt/format.h>
#include <fstream>

#include "core/error.h"

namespace heron {

std::string read_text(const std::filesystem::path& path, std::uintmax_t largest_mb) {
  std::error_code error;
  if (std::filesystem::is_directory(path, error))
    throw InputError(path.string(), "", "it is a folder", "Name a file");
  const auto size = std::filesystem::file_size(path, error);
  if (error)
    throw InputError(path.string(), "", "it cannot be read (" + error.message() + ")",
                     "Check the name and the permissions");
  if (size > largest_mb << 20U)
    throw InputError(path.string(), "", fmt::format("it is larger than {} MB", largest_mb),
                     "Choose the right file");
  std::ifstream in(path, std::ios::binary);
  std::string text{std::istreambuf_iterator<char>(in), {}};
  if (!in) throw InputError(path.string(), "", "it cannot be read", "Check the permissions");
  if (text.starts_with("\xef\xbb\xbf")) text.erase(0, 3);
  return text;
}

}  // namespace heron
