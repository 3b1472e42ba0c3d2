#pragma once

#include <QObject>
#include <functional>
#include <memory>

#include "app/session/background_job.h"
#include "app/session/session.h"
#include "app/shell/message_bar.h"
#include "core/signal/stimulus.h"

namespace heron {

struct UnpackedEvaluation;

/// Files that come into the window and go out of it: shacks, exports, imports, test signals. Long
/// work is told in the message bar; one at a time.
class WindowFiles : public QObject {
  Q_OBJECT
 public:
  WindowFiles(Session& session, MessageBar& messages, QWidget& window);
  /// Opens a shack; complains in the window if that fails, and returns false.
  bool open_shack(const QString& folder);
  bool open_or_create_shack(const QString& folder, const QString& place);
  /// The one that was open last, else the usual one where there is one; else none is. One that
  /// could not be opened, or that the program did not survive, is not tried again by itself.
  void open_last_shack(const QString& usual);
  /// Writes the shown evaluation in the background; by ending: .pdf .html .csv .json .zip. False if
  /// that cannot begin.
  bool export_to(const QString& path);
  /// A minute of a test signal for playing into a transmitter, as WAV, in the background.
  void write_signal(StimulusKind kind, const QString& path);
  /// Adds an exported evaluation in the background.
  void import_from(const QString& path);
  /// The invented one, made in the background where it is not there yet, then opened.
  void open_demo();
  /// Folders of shacks that were open, the last one first.
  static QStringList recent();
  void ask_for_shack();
  void ask_for_new_shack();
  void ask_for_export(const QString& ending);
  void ask_for_import();
  void ask_for_signal(StimulusKind kind);
  /// Stops the work; false if there is none.
  bool cancel();

 signals:
  void shack_leaves();  ///< another one is about to be opened: whatever runs has to end
  void shack_opened();
  void evaluation_asked(long long evaluation);

 private:
  bool work_on(const QString& path, const QString& words, BackgroundJob::Work work,
               const std::function<void()>& then);
  void add_imported(const QString& name, const std::shared_ptr<UnpackedEvaluation>& unpacked);
  Session& session_;
  MessageBar& messages_;
  QWidget& window_;
  BackgroundJob* job_ = nullptr;
};

}  // namespace heron
