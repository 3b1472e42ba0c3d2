#pragma once

#include <QObject>
#include <QPointer>
#include <QTimer>
#include <deque>
#include <memory>

#include "app/session/background_job.h"
#include "app/session/log_edits.h"
#include "core/csv_table.h"

namespace heron {

/// Logs from files onto new steps of a test, one after the other: read in the background, written a
/// piece at a time from the event loop so that the window goes on, and seen only when whole. Each
/// file is one press of undo.
class LogImport : public QObject {
  Q_OBJECT
 public:
  using Read = std::vector<Series> (*)(const CsvTable& table, const Evidence& against);
  explicit LogImport(Session& session, QObject* parent = nullptr);
  /// `against`: what the file is read with.
  void add(const QString& path, Id test, Read read, Evidence against);
  bool is_busy() const { return is_busy_; }
  /// Nothing of the file that is read is kept, nor are those that wait.
  void cancel();

 signals:
  void began(const QString& file, int waiting);
  void progressed(double fraction);
  void idle();
  void failed(const QString& what, const QString& what_to_do);
  void told(const QString& text);

 private:
  struct Item {
    QString path;
    QString name;
    Id test = 0;
    Read read = nullptr;
    Evidence against;
  };
  struct Writing {
    LogEdits::Kept kept;
    std::size_t log = 0;      ///< that is being written
    std::size_t written = 0;  ///< samples of it
    std::size_t all_written = 0;
    std::size_t all = 0;
  };
  void next();
  void begin_writing();
  void write_piece();
  void show_whole();
  void drop_piece();
  void forget();
  Session& session_;
  std::deque<Item> waiting_;
  Item now_;
  std::shared_ptr<std::vector<Series>> logs_;
  Writing writing_;
  QPointer<BackgroundJob> job_;
  QTimer timer_;
  bool is_busy_ = false;
  bool is_dropping_ = false;
};

}  // namespace heron
