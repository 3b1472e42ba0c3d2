#include "store/cleanup.h"

#include "core/error.h"
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

}  // namespace

UnusedCaptures find_unused_captures(const Shack& shack) {
  UnusedCaptures unused;
  const std::set<std::string> used = used_hashes(shack);
  std::error_code error;
  for (const auto& entry : fs::directory_iterator(shack.captures_folder(), error)) {
    const std::string hash = entry.path().stem().string();
    if (!is_capture_hash(hash) || used.contains(hash) || !entry.is_regular_file()) continue;
    unused.hashes.insert(hash);
    unused.files.push_back(entry.path());
    unused.bytes += entry.file_size(error);
  }
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
