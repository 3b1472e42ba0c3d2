#include "store/zip_reader.h"

#include <fstream>
#include <vector>

#include "core/error.h"

namespace heron {
namespace {

constexpr std::uint64_t kLargestTextBytes = 256U << 20U;

}  // namespace

void refuse_archive(const std::filesystem::path& path, const std::string& where,
                    const std::string& why) {
  throw InputError(path.filename().string(), where, why,
                   "Export the evaluation again where it came from");
}

ZipReader::ZipReader(const std::filesystem::path& path) : path_(path) {
  int error = 0;
  zip_.reset(zip_open(path.c_str(), ZIP_RDONLY | ZIP_CHECKCONS, &error));
  if (!zip_) refuse_archive(path, "", "this is not an exported evaluation, or it is damaged");
}

bool ZipReader::contains(const std::string& name) const {
  return zip_name_locate(zip_.get(), name.c_str(), 0) >= 0;
}

std::string ZipReader::text(const std::string& name) {
  if (size_of(name) > kLargestTextBytes) refuse_archive(path_, name, "it is larger than 256 MB");
  std::string content;
  stream(name, [&](const char* bytes, std::size_t count) {
    content.append(bytes, count);
    if (content.size() > kLargestTextBytes)
      refuse_archive(path_, name, "it is larger than it says");
  });
  return content;
}

void ZipReader::extract(const std::string& name, const std::filesystem::path& to,
                        const Progress& progress, const std::stop_token& stop) {
  const std::uint64_t size = size_of(name);
  std::ofstream out(to, std::ios::binary);
  std::uint64_t written = 0;
  stream(name, [&](const char* bytes, std::size_t count) {
    if (stop.stop_requested()) throw Cancelled();
    written += count;
    // More than the archive says is a bomb, not a recording.
    if (written > size) refuse_archive(path_, name, "it is larger than it says");
    out.write(bytes, static_cast<std::streamsize>(count));
    if (progress) progress(static_cast<double>(written) / static_cast<double>(size));
  });
  if (!out.flush()) {
    throw InputError(to.parent_path().string(), "", "the recording could not be written",
                     "Free some space and try again");
  }
}

std::uint64_t ZipReader::size_of(const std::string& name) {
  zip_stat_t stat{};
  if (zip_stat(zip_.get(), name.c_str(), 0, &stat) != 0)
    refuse_archive(path_, name, "it is missing from the file");
  return stat.size;
}

void ZipReader::stream(const std::string& name,
                       const std::function<void(const char*, std::size_t)>& take) {
  const std::unique_ptr<zip_file_t, int (*)(zip_file_t*)> file(
      zip_fopen(zip_.get(), name.c_str(), 0), &zip_fclose);
  if (!file) refuse_archive(path_, name, "it is missing from the file");
  std::vector<char> block(1U << 18U);
  while (true) {
    const zip_int64_t got = zip_fread(file.get(), block.data(), block.size());
    if (got < 0) refuse_archive(path_, name, "it is damaged");
    if (got == 0) break;
    take(block.data(), static_cast<std::size_t>(got));
  }
}

}  // namespace heron
