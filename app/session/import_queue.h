#pragma once

#include <QObject>
#include <complex>
#include <deque>
#include <filesystem>
#include <vector>

#include "app/session/background_job.h"
#include "app/session/evidence_reader.h"
#include "app/session/session.h"
#include "app/session/step_edits.h"

namespace heron {

struct TakenRecording;

/// Recordings on their way onto steps, one after the other in the background. Each belongs to the
/// step it was dropped for, whatever is shown when it is done.
class ImportQueue : public QObject {
  Q_OBJECT
 public:
  explicit ImportQueue(Session& session, QObject* parent = nullptr);
  /// Puts recordings on the shown test: the first on step `from` if that has none yet, each further
  /// one on the next empty step, or on a new one named like the file once it is read. All of them
  /// are one press of undo.
  void add(const QStringList& paths, int from);
  /// Takes a step again: the new recording becomes its current one.
  void replace(const QString& path, int step);
  /// The same step once more, with so much more attenuation before the recorder: a self-test; with
  /// 0 dB a repeat, whose scatter enters the uncertainty.
  void add_beside(const QString& path, int step, AddedAttenuation added);
  /// Samples that a live instrument has just taken for a step; full scale in dBm at its input. What
  /// other instruments read with it is kept with it.
  void add_taken(Id test, Id step, std::vector<std::complex<float>> samples, CaptureInfo info,
                 double full_scale_dbm, std::vector<Reading> readings);
  /// A sweep that a live analyser has just taken for a step.
  void add_taken(Id test, Id step, SpectrumTrace trace, std::vector<Reading> readings);
  /// Measures another part of a step's recording; nullopt: the part that is found by itself.
  void measure_part(int step, const std::optional<TimeSpan>& part);
  bool is_busy() const { return job_ != nullptr; }
  void cancel();

 signals:
  void began(const QString& file, int waiting);
  void progressed(double fraction);
  void attached(long long test, long long step);
  void idle();
  void failed(const QString& what, const QString& what_to_do);
  /// Of several files, those that could not be used, each with its reason.
  void several_failed(const QStringList& reasons);
  void told(const QString& text);

 private:
  struct Item {
    std::filesystem::path file;  ///< or only a name, where the samples are at hand
    CaptureOpener samples;       ///< empty: read the file
    RecordingPlace place;
    EvidenceReader method;
    std::optional<SpectrumTrace> trace = std::nullopt;  ///< at hand
    Id measured_again = 0;                              ///< step_capture whose part is chosen
    std::optional<TimeSpan> part = std::nullopt;
  };
  bool may_add();
  /// How what was taken for a step is analysed; says why, if it cannot be kept.
  std::optional<EvidenceReader> method_for(Id test, Id step, std::optional<double> full_scale_dbm);
  void put(const QString& path, RecordingPlace place);
  void queue(Item item);
  void start_next();
  void finish(const Item& item, const std::filesystem::path& captures, TakenRecording& done);
  void fail(const Item& item, const QString& what, const QString& advice);
  void tell_failures();
  Session& session_;
  std::deque<Item> waiting_;
  QStringList failures_;  ///< of the batch under way
  Id last_batch_ = 0;
  BackgroundJob* job_ = nullptr;
};

}  // namespace heron
