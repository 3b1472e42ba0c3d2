#pragma once

#include <cstdint>
#include <filesystem>
#include <functional>
#include <memory>
#include <string>
#include <zip.h>

#include "core/progress.h"

namespace heron {

/// InputError about an archive that cannot be taken over.
[[noreturn]] void refuse_archive(const std::filesystem::path& path, const std::string& where,
                                 const std::string& why);

/// An archive being read; every size is checked before it is believed. InputError from every call.
class ZipReader {
 public:
  explicit ZipReader(const std::filesystem::path& path);
  bool contains(const std::string& name) const;
  /// An entry of at most 256 MB.
  std::string text(const std::string& name);
  /// Writes an entry of any size to a file. Cancelled if stopped.
  void extract(const std::string& name, const std::filesystem::path& to, const Progress& progress,
               const std::stop_token& stop);

 private:
  std::uint64_t size_of(const std::string& name);
  void stream(const std::string& name, const std::function<void(const char*, std::size_t)>& take);
  struct Closer {
    void operator()(zip_t* zip) const { zip_discard(zip); }
  };
  std::filesystem::path path_;
  std::unique_ptr<zip_t, Closer> zip_;
};

}  // namespace heron
