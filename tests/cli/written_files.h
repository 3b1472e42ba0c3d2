#pragma once

#include <QTemporaryDir>
#include <fstream>
#include <string>

namespace heron::testing {

/// Files that a test gives to a command.
struct WrittenFiles {
  QTemporaryDir folder;
  QString at(const char* name) const { return folder.filePath(name); }
  QString written(const char* name, const std::string& text) const {
    std::ofstream(at(name).toStdString()) << text;
    return at(name);
  }
};

}  // namespace heron::testing
