#pragma once

#include <QtTest>
#include <filesystem>
#include <functional>
#include <string>
#include <zip.h>

namespace heron::testing {

/// Rewrites one text entry of an archive.
inline void rewrite(const std::filesystem::path& path, const char* name,
                    const std::function<std::string(std::string)>& change) {
  int error = 0;
  zip_t* zip = zip_open(path.c_str(), 0, &error);
  zip_stat_t stat{};
  zip_stat(zip, name, 0, &stat);
  std::string text(stat.size, '\0');
  zip_file_t* file = zip_fopen(zip, name, 0);
  zip_fread(file, text.data(), text.size());
  zip_fclose(file);
  static std::string changed;  // libzip reads it when the archive closes
  changed = change(text);
  zip_file_add(zip, name, zip_source_buffer(zip, changed.data(), changed.size(), 0),
               ZIP_FL_OVERWRITE);
  QCOMPARE(zip_close(zip), 0);
}

}  // namespace heron::testing
