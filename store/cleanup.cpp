#include "store/cleanup.h"

#include <algorithm>
#include <map>

#include "core/error.h"
#include "core/method/kept_file.h"
#include "store/capture_files.h"
#include "store/rows.h"

namespace heron {
namespace {

namespace fs = std::filesystem;

/// What steps, and stimuli among settings, still name.
std::set<std::string> used_hashes(const Shack& shack) {
  std::set<std::string> used;
  for (const std::string& hash : rows_of(
           shack,
           "SELECT DISTINCT sc.capture_hash FROM step_capture sc JOIN step s ON s.id = sc.step_id "
           "JOIN test t ON t.id = s.test_id JOIN evaluation e ON e.id = t.evaluation_id JOIN "
           "device "
           "d ON d.id = e.device_id WHERE sc.removed_at IS NULL AND s.removed_at IS NULL AND "
           "t.removed_at IS NULL AND e.removed_at IS NULL AND d.removed_at IS NULL",
           {}, [](SQLite::Statement& row) { return row.getColumn(0).getString(); }))
    used.insert(hash);
  // A stimulus of one's own is named in a test's settings. Settings that are damaged may name one
  // too: every text that could be a hash counts.
  for (const std::string& settings :
       rows_of(shack, "SELECT settings_json FROM test WHERE removed_at IS NULL", {},
               [](SQLite::Statement& row) { return row.getColumn(0).getString(); })) {
    std::string word;
    for (const char c : settings + " ") {
      if (std::isxdigit(static_cast<unsigned char>(c)) != 0) {
        word += c;
        continue;
      }
      if (is_capture_hash(word)) used.insert(word);
      word.clear();
    }
  }
  return used;
}

/// What recordings were called when they were added, by hash.
std::map<std::string, std::string> names_by_hash(const Shack& shack) {
  std::map<std::string, std::string> names;
  for (const auto& [hash, name] :
       rows_of(shack, "SELECT hash, name FROM capture", {}, [](SQLite::Statement& row) {
         return std::pair(row.getColumn(0).getString(), row.getColumn(1).getString());
       }))
    names[hash] = name;
  return names;
}

}  // namespace

UnusedCaptures find_unused_captures(const Shack& shack) {
  UnusedCaptures unused;
  const std::set<std::string> used = used_hashes(shack);
  const auto names = names_by_hash(shack);
  std::error_code error;
  for (const auto& entry : fs::directory_iterator(shack.captures_folder(), error)) {
    const std::string hash = entry.path().stem().string();
    if (!is_capture_hash(hash) || used.contains(hash) || !entry.is_regular_file()) continue;
    if (unused.hashes.insert(hash).second) {
      const auto named = names.find(hash);
      unused.names.push_back(named != names.end() ? named->second : hash.substr(0, 12));
    }
    unused.files.push_back(entry.path());
    unused.bytes += entry.file_size(error);
  }
  std::sort(unused.names.begin(), unused.names.end());
  return unused;
}

void remove_unused_captures(Shack& shack, const UnusedCaptures& unused) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement placed(db, "DELETE FROM step_capture WHERE capture_hash = ?");
    SQLite::Statement named(db, "DELETE FROM capture WHERE hash = ?");
    for (const std::string& hash : unused.hashes) {
      for (SQLite::Statement* statement : {&placed, &named}) {
        statement->reset();
        statement->bind(1, hash);
        statement->exec();
      }
    }
  });
  for (const fs::path& file : unused.files) {
    std::error_code error;
    fs::remove(file, error);
    if (error)
      throw InputError(file.string(), "", "it cannot be deleted (" + error.message() + ")",
                       "Check the permissions of the captures folder");
  }
}

}  // namespace heron
