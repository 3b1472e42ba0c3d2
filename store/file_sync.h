#pragma once

#include <filesystem>
#include <string>
#include <string_view>

namespace heron {

/// A file that appears under its name only when complete: written to a temporary name beside it,
/// flushed to the disk, then renamed. Gone again if not committed. Throws InputError (disk full,
/// no permission) naming the file, or its folder where the name comes at the end.
class AtomicFile {
 public:
  AtomicFile(std::filesystem::path folder, const std::string& temporary_name,
             std::string subject = "");
  ~AtomicFile();
  AtomicFile(const AtomicFile&) = delete;
  AtomicFile& operator=(const AtomicFile&) = delete;
  void write(const void* data, std::size_t bytes);
  void write(std::string_view text) { write(text.data(), text.size()); }
  /// Moves the file to folder/name; replaces what is there.
  void commit(const std::string& name);
  /// A file a person asked for: messages name it. A link is followed; what is no file is refused.
  static void write_whole(const std::filesystem::path& path, std::string_view text);

 private:
  [[noreturn]] void fail(int error_number) const;
  std::filesystem::path folder_;
  std::filesystem::path temporary_;
  std::string subject_;
  int descriptor_ = -1;
};

inline constexpr const char* kTemporaryPrefix = ".incoming-";

}  // namespace heron
