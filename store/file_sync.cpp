#include "store/file_sync.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <unistd.h>

#include "core/error.h"

namespace heron {

AtomicFile::AtomicFile(std::filesystem::path folder, const std::string& temporary_name,
                       std::string subject)
    : folder_(std::move(folder)),
      temporary_(folder_ / (kTemporaryPrefix + std::to_string(::getpid()) + "-" + temporary_name)),
      subject_(subject.empty() ? folder_.string() : std::move(subject)) {
  descriptor_ = ::open(temporary_.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
  if (descriptor_ < 0) fail(errno);
}

AtomicFile::~AtomicFile() {
  if (descriptor_ >= 0) ::close(descriptor_);
  if (!temporary_.empty()) ::unlink(temporary_.c_str());
}

void AtomicFile::write(const void* data, std::size_t bytes) {
  const char* at = static_cast<const char*>(data);
  while (bytes > 0) {
    const ssize_t written = ::write(descriptor_, at, bytes);
    if (written < 0 && errno == EINTR) continue;
    if (written < 0) fail(errno);
    at += written;
    bytes -= static_cast<std::size_t>(written);
  }
}

void AtomicFile::commit(const std::string& name) {
  if (::fsync(descriptor_) != 0) fail(errno);
  ::close(descriptor_);
  descriptor_ = -1;
  if (::rename(temporary_.c_str(), (folder_ / name).c_str()) != 0) fail(errno);
  temporary_.clear();
  // The rename itself is only safe once the folder is.
  const int folder = ::open(folder_.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
  if (folder >= 0) {
    ::fsync(folder);
    ::close(folder);
  }
}

void AtomicFile::write_whole(const std::filesystem::path& path, std::string_view text) {
  std::error_code ignored;
  const auto status = std::filesystem::status(path, ignored);
  if (std::filesystem::exists(status) && !std::filesystem::is_regular_file(status)) {
    throw InputError(path.string(), "", "it is there already and not a file",
                     "Choose another name");
  }
  // Through a link, the file it leads to is the one to replace.
  const auto real = std::filesystem::weakly_canonical(std::filesystem::absolute(path));
  const std::string name = real.filename().string();
  AtomicFile file(real.parent_path(), name, path.string());
  file.write(text);
  file.commit(name);
}

void AtomicFile::fail(int error_number) const {
  const bool full = error_number == ENOSPC || error_number == EDQUOT || error_number == EFBIG;
  throw InputError(subject_, "",
                   full ? "the disk is full"
                        : std::string("it cannot be written (") + std::strerror(error_number) + ")",
                   full ? "Free some space and try again; nothing was changed"
                        : "Check that the folder is there and may be written to");
}

}  // namespace heron
