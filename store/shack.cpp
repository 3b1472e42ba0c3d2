#include "store/shack.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <array>
#include <fcntl.h>
#include <fstream>
#include <sqlite3.h>
#include <sys/file.h>
#include <unistd.h>

#include "core/error.h"
#include "store/clock.h"
#include "store/file_sync.h"
#include "store/schema.h"

namespace heron {
namespace {

namespace fs = std::filesystem;
constexpr const char* kFile = "shack.sqlite";

[[noreturn]] void rethrow_as_input_error(const SQLite::Exception& error, const fs::path& folder) {
  const int code = error.getErrorCode();
  if (code == SQLITE_FULL || error.getExtendedErrorCode() == SQLITE_IOERR_WRITE) {
    throw InputError(folder.string(), "", "the disk is full",
                     "Free some space and try again; nothing in the shack was changed");
  }
  if (code == SQLITE_CORRUPT || code == SQLITE_NOTADB) {
    throw InputError((folder / kFile).string(), "", "the file is damaged or not a shack",
                     "Restore it from a copy; the recordings in captures/ are untouched");
  }
  const char* why = "it cannot be used";
  if (code == SQLITE_BUSY || code == SQLITE_LOCKED) why = "another program is using it";
  if (code == SQLITE_READONLY || code == SQLITE_PERM) why = "it cannot be written to";
  if (code == SQLITE_CANTOPEN) why = "it cannot be opened";
  if (code == SQLITE_ERROR || code == SQLITE_SCHEMA) why = "it is damaged, or not as it should be";
  throw InputError((folder / kFile).string(), "", why,
                   "Check the folder's permissions and free space, or restore it from a copy");
}

void require_sqlite_file(const fs::path& file) {
  std::error_code error;
  if (!fs::exists(file, error)) {
    throw InputError(file.parent_path().string(), "", "there is no shack in this folder",
                     "Choose a folder that holds shack.sqlite, or make a new shack");
  }
  if (!fs::is_regular_file(file, error)) {
    throw InputError(file.string(), "", "this is not a file", "Choose another folder");
  }
  std::ifstream in(file, std::ios::binary);
  std::array<char, 16> head{};
  in.read(head.data(), head.size());
  if (!in || std::string(head.data(), 15) != "SQLite format 3") {
    throw InputError(file.string(), "at its first bytes", "this is not a shack file",
                     "Choose another folder, or restore the file from a copy");
  }
}

void require_known_shack(SQLite::Database& database, const fs::path& file) {
  if (database.execAndGet("PRAGMA application_id").getInt() != kApplicationId) {
    throw InputError(file.string(), "", "this database belongs to another program",
                     "Choose another folder");
  }
  const int version = database.execAndGet("PRAGMA user_version").getInt();
  if (version > schema_version()) {
    throw InputError(file.string(), "version " + std::to_string(version),
                     "a newer Even Heron wrote this shack; this one knows versions up to " +
                         std::to_string(schema_version()),
                     "Update Even Heron; the shack was not touched");
  }
}

}  // namespace

std::unique_ptr<Shack> Shack::create(const fs::path& folder, const std::string& place) {
  std::error_code error;
  fs::create_directories(folder / "captures", error);
  if (error) {
    throw InputError(folder.string(), "", "the folder cannot be made (" + error.message() + ")",
                     "Choose a folder you may write to");
  }
  if (fs::exists(folder / kFile)) {
    throw InputError(folder.string(), "", "there is a shack in this folder already",
                     "Open it, or choose another folder");
  }
  std::unique_ptr<Shack> shack(new Shack(folder, true));
  shack->write([&](SQLite::Database& db) {
    SQLite::Statement insert(db, "INSERT INTO shack(id, place, created_at) VALUES (1, ?, ?)");
    insert.bind(1, place);
    insert.bind(2, utc_now());
    insert.exec();
  });
  return shack;
}

std::unique_ptr<Shack> Shack::open(const fs::path& folder) {
  require_sqlite_file(folder / kFile);
  return std::unique_ptr<Shack>(new Shack(folder, false));
}

Shack::Shack(fs::path folder, bool create_new)
    : folder_(std::move(folder)),
      analyses_(std::make_shared<AnalysisCache>()),
      chains_(std::make_shared<ChainCache>()),
      series_(std::make_shared<SeriesCache>()) {
  try {
    take_lock();
    const fs::path file = database_file();
    const int mode = is_read_only() && aside_.empty() ? SQLite::OPEN_READONLY
                     : create_new                     ? SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE
                                                      : SQLite::OPEN_READWRITE;
    database_ = std::make_unique<SQLite::Database>(file.string(), mode, 3000);
    if (!create_new) require_known_shack(*database_, file);
    database_->exec("PRAGMA foreign_keys = ON");
    if (!aside_.empty()) migrate(*database_);
    if (!is_read_only()) {
      database_->exec("PRAGMA journal_mode = WAL");
      database_->exec("PRAGMA synchronous = FULL");
      migrate(*database_);
      fs::create_directories(captures_folder());
      // What a killed import left behind.
      for (const auto& entry : fs::directory_iterator(captures_folder())) {
        if (entry.path().filename().string().starts_with(kTemporaryPrefix))
          fs::remove(entry.path());
      }
    }
  } catch (const SQLite::Exception& error) {
    let_go();
    rethrow_as_input_error(error, folder_);
  } catch (...) {
    let_go();
    throw;
  }
}

Shack::Shack(const Shack& first, SecondReader)
    : folder_(first.folder_),
      why_read_only_("This is read only."),
      analyses_(first.analyses_),
      chains_(first.chains_),
      series_(first.series_) {
  try {
    database_ = std::make_unique<SQLite::Database>(first.database_file().string(),
                                                   SQLite::OPEN_READONLY, 3000);
  } catch (const SQLite::Exception& error) {
    rethrow_as_input_error(error, folder_);
  }
}

std::unique_ptr<const Shack> Shack::reader() const {
  return std::unique_ptr<const Shack>(new Shack(*this, SecondReader()));
}

Shack::~Shack() {
  let_go();
}

void Shack::let_go() {
  database_.reset();
  if (lock_ >= 0) ::close(lock_);
  lock_ = -1;
  std::error_code error;
  if (!aside_.empty()) fs::remove_all(aside_, error);
}

fs::path Shack::database_file() const {
  return (aside_.empty() ? folder_ : aside_) / kFile;
}

void Shack::copy_aside() {
  std::string name = (fs::temp_directory_path() / "even-heron-shack-XXXXXX").string();
  if (::mkdtemp(name.data()) == nullptr)
    throw InputError(folder_.string(), "", "it is read-only, and there is no room for a copy",
                     "Free some space in " + fs::temp_directory_path().string());
  aside_ = name;
  for (const char* ending : {"", "-wal"}) {
    const fs::path from = folder_ / (std::string(kFile) + ending);
    std::error_code error;
    if (!fs::exists(from, error)) continue;
    fs::copy_file(from, aside_ / from.filename(), error);
    if (error)
      throw InputError(from.string(), "", "it cannot be read (" + error.message() + ")",
                       "Check the folder's permissions and free space");
    fs::permissions(aside_ / from.filename(), fs::perms::owner_read | fs::perms::owner_write,
                    error);
  }
}

void Shack::take_lock() {
  lock_ = ::open((folder_ / "shack.lock").c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644);
  if (lock_ < 0) {
    why_read_only_ = "This shack's folder cannot be written to: it can be read here, not changed.";
    copy_aside();
    return;
  }
  if (::flock(lock_, LOCK_EX | LOCK_NB) != 0) {
    ::close(lock_);
    lock_ = -1;
    why_read_only_ = "This shack is open in another window: it can be read here, not changed.";
  }
}

std::string Shack::place() const {
  std::string place;
  read([&](SQLite::Database& db) { place = db.execAndGet("SELECT place FROM shack").getString(); });
  return place;
}

std::string Shack::operator_name() const {
  std::string name;
  read([&](SQLite::Database& db) {
    name = db.execAndGet("SELECT operator FROM shack").getString();
  });
  return name;
}

void Shack::set_operator_name(const std::string& name) {
  write([&](SQLite::Database& db) {
    SQLite::Statement update(db, "UPDATE shack SET operator = ?");
    update.bind(1, name);
    update.exec();
  });
}

void Shack::write(const std::function<void(SQLite::Database&)>& change) {
  if (is_read_only()) {
    throw InputError("shack", "", why_read_only_,
                     "Close the other window and open the shack again");
  }
  try {
    if (is_inside_transaction_) {
      change(*database_);
      return;
    }
    SQLite::Transaction transaction(*database_);
    change(*database_);
    transaction.commit();
  } catch (const SQLite::Exception& error) {
    rethrow_as_input_error(error, folder_);
  }
}

void Shack::write_together(const std::function<void()>& changes) {
  write([&](SQLite::Database&) {
    struct Inside {
      bool& flag;
      explicit Inside(bool& f) : flag(f) { flag = true; }
      ~Inside() { flag = false; }
    };
    if (is_inside_transaction_) {
      changes();
      return;
    }
    const Inside inside(is_inside_transaction_);
    changes();
  });
}

void Shack::read(const std::function<void(SQLite::Database&)>& look) const {
  try {
    look(*database_);
  } catch (const SQLite::Exception& error) {
    rethrow_as_input_error(error, folder_);
  }
}

void Shack::read_together(const std::function<void()>& looks) const {
  read([&](SQLite::Database& db) {
    SQLite::Transaction moment(db);
    looks();
    moment.commit();
  });
}

}  // namespace heron
