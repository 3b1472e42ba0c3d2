#pragma once

#include <filesystem>
#include <functional>
#include <memory>
#include <string>

#include "store/analysis_cache.h"
#include "store/chain_cache.h"
#include "store/series_cache.h"

namespace SQLite {
class Database;
}

namespace heron {

using Id = long long;

/// The collection on disk: a folder with shack.sqlite and captures/. One instance writes; a second
/// one on the same folder reads only.
class Shack {
 public:
  /// Makes the folder if needed. Throws InputError if there is a shack already.
  static std::unique_ptr<Shack> create(const std::filesystem::path& folder,
                                       const std::string& place);
  /// Throws InputError: no shack there, not a shack, from a newer version, damaged.
  static std::unique_ptr<Shack> open(const std::filesystem::path& folder);
  ~Shack();
  Shack(const Shack&) = delete;
  Shack& operator=(const Shack&) = delete;

  const std::filesystem::path& folder() const { return folder_; }
  std::filesystem::path captures_folder() const { return folder_ / "captures"; }
  bool is_read_only() const { return !why_read_only_.empty(); }
  /// A sentence for the user; empty if it can be written.
  const std::string& why_read_only() const { return why_read_only_; }

  std::string place() const;
  std::string operator_name() const;
  void set_operator_name(const std::string& name);

  /// Runs `change` in one transaction, on disk when this returns. InputError if read-only or the
  /// disk is full; then nothing was changed.
  void write(const std::function<void(SQLite::Database&)>& change);
  /// Everything that `changes` writes is one transaction: all of it or nothing.
  void write_together(const std::function<void()>& changes);
  /// What was read of recordings, hook-ups and logs so far.
  AnalysisCache& analyses() const { return *analyses_; }
  ChainCache& chains() const { return *chains_; }
  SeriesCache& series() const { return *series_; }
  /// Database errors become InputErrors.
  void read(const std::function<void(SQLite::Database&)>& look) const;
  /// All that `looks` reads is of one moment, whatever is written meanwhile.
  void read_together(const std::function<void()>& looks) const;
  /// The same shack for another thread, which may only read: a connection of its own. Must be gone
  /// before this one. InputError if it cannot be opened.
  std::unique_ptr<const Shack> reader() const;

 private:
  struct SecondReader {};
  Shack(std::filesystem::path folder, bool create_new);
  Shack(const Shack& first, SecondReader);
  void take_lock();
  /// Where the folder cannot be written to, the database is read from a copy: so it can be brought
  /// to this version, and what its log still holds is seen.
  void copy_aside();
  void let_go();
  std::filesystem::path database_file() const;
  std::filesystem::path folder_;
  std::string why_read_only_;
  std::filesystem::path aside_;  ///< folder of the copy; empty = none
  int lock_ = -1;
  bool is_inside_transaction_ = false;
  std::unique_ptr<SQLite::Database> database_;
  std::shared_ptr<AnalysisCache> analyses_;
  std::shared_ptr<ChainCache> chains_;
  std::shared_ptr<SeriesCache> series_;
};

}  // namespace heron
