#pragma once

#include <QObject>
#include <filesystem>
#include <stop_token>
#include <thread>

#include "core/method/two_tone.h"
#include "store/capture_files.h"

namespace heron {

/// Stores and analyses one recording in the background. One job at a time an object; deleting it
/// stops it. Results come back by queued signals.
class ImportJob : public QObject {
  Q_OBJECT
 public:
  ImportJob(std::filesystem::path file, std::filesystem::path captures_folder,
            TwoToneSettings settings, Id test, Id step, QObject* parent = nullptr);
  ~ImportJob() override;
  void start();
  void cancel() { stop_.request_stop(); }
  Id test() const { return test_; }
  Id step() const { return step_; }
  const std::filesystem::path& captures_folder() const { return captures_folder_; }
  QString file_name() const;
  const StoredCapture& stored() const { return stored_; }
  const TwoToneAnalysis& analysis() const { return analysis_; }

 signals:
  void progressed(double fraction);
  void finished();
  void cancelled();
  void failed(const QString& subject, const QString& reason, const QString& advice);

 private:
  void run();
  std::filesystem::path file_;
  std::filesystem::path captures_folder_;
  TwoToneSettings settings_;
  Id test_;
  Id step_;
  StoredCapture stored_;
  TwoToneAnalysis analysis_;
  std::stop_source stop_;
  std::jthread thread_;
};

}  // namespace heron
