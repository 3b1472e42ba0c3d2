#include "app/session/import_queue.h"

#include <QFileInfo>
#include <exception>
#include <set>
#include <thread>
#include <utility>

#include "app/session/step_edits.h"
#include "app/theme/qt_text.h"
#include "core/csv_table.h"
#include "core/error.h"
#include "core/quantity/typed_number.h"
#include "core/read_text.h"
#include "core/signal/memory_capture.h"
#include "core/signal/trace_csv.h"

namespace heron {

/// What a piece of work makes, read when it is done.
struct TakenRecording {
  StoredCapture stored;
  nlohmann::json record;
};

namespace {

bool is_trace(const std::filesystem::path& file) {
  const std::string ending = lower_case(file.extension().string());
  return ending == ".csv" || ending == ".txt";
}

void keep_trace(const std::string& text, const SpectrumTrace& trace,
                const std::filesystem::path& captures, const EvidenceReader& method,
                TakenRecording& taken) {
  if (!method.of_trace)
    throw InputError(trace.name, "", "a trace does not do for this test",
                     "Add a recording: WAV or SigMF");
  taken.record = method.of_trace(trace);
  taken.stored = store_trace(captures, text, trace.name, trace.frequency_hz.size());
}

/// An analyser's trace: small enough to be read whole.
void take_trace(const std::filesystem::path& file, const std::filesystem::path& captures,
                const EvidenceReader& method, TakenRecording& taken) {
  constexpr std::uintmax_t kLargestMb = 64;
  const std::string text = read_text(file, kLargestMb);
  if (method.of_table) {
    const CsvTable table = parse_csv(text, file.filename().string());
    taken.record = method.of_table(table);
    if (!taken.record.is_null()) {
      taken.stored = store_trace(captures, text, table.name, table.rows.size());
      return;
    }
  }
  keep_trace(text, parse_trace(text, file.filename().string()), captures, method, taken);
}

/// Copies a recording into the shack and analyses it, both at once: the copy is mostly hashing on
/// one core, the analysis is arithmetic on all of them.
void take(const CaptureOpener& open, const std::filesystem::path& captures,
          const EvidenceReader& method, TakenRecording& taken, const Progress& progress,
          const std::stop_token& stop) {
  std::stop_source both;
  const std::stop_callback forward(stop, [&both] { both.request_stop(); });
  std::exception_ptr copy_failure;
  std::jthread copy([&] {
    try {
      taken.stored = store_capture(captures, open, {}, both.get_token());
    } catch (...) {
      copy_failure = std::current_exception();
      both.request_stop();
    }
  });
  try {
    taken.record = method.of_recording(open, std::nullopt, progress, both.get_token());
  } catch (const Cancelled&) {
    copy.join();
    // The analysis may have stopped only because the copy could not go on: tell that reason.
    if (copy_failure) std::rethrow_exception(copy_failure);
    discard_capture(captures, taken.stored);
    throw;
  } catch (...) {
    both.request_stop();
    copy.join();
    discard_capture(captures, taken.stored);
    throw;
  }
  copy.join();
  if (copy_failure) std::rethrow_exception(copy_failure);
}

}  // namespace

ImportQueue::ImportQueue(Session& session, QObject* parent) : QObject(parent), session_(session) {}

bool ImportQueue::may_add() {
  session_.settle();  // which step is free, and what the hook-up stands
  const PlannedTest* t = session_.planned();
  if (t == nullptr) return false;
  if (const auto no = session_.refusal(t->test.id)) {
    emit failed(no->what, no->what_to_do);
    return false;
  }
  if (!evidence_reader(t->test, {}).of_recording) {
    emit failed(tr("This test takes no recordings."), tr("Type its readings into the grid"));
    return false;
  }
  if (const auto no = t->hookup_obstacle()) {
    emit failed(qt_text(no->what), qt_text(no->what_to_do));
    return false;
  }
  return true;
}

void ImportQueue::add(const QStringList& paths, int from) {
  if (!may_add()) return;
  std::set<Id> spoken_for;
  for (const Item& item : waiting_) spoken_for.insert(item.place.step);
  const Id batch = paths.size() > 1 ? --last_batch_ : 0;
  for (const QString& path : paths) {
    // Both files of a SigMF pair may have been dropped: one of them is enough.
    if (path.endsWith(".sigmf-data") &&
        paths.contains(QString(path).replace(".sigmf-data", ".sigmf-meta")))
      continue;
    RecordingPlace place{session_.test_id(), 0, {}, {}, batch};
    const auto& steps = session_.planned()->steps;
    for (auto i = static_cast<std::size_t>(std::max(from, 0)); i < steps.size() && place.step == 0;
         ++i) {
      if (!steps[i].capture && !spoken_for.contains(steps[i].id)) place.step = steps[i].id;
    }
    if (place.step == 0) place.new_step = QFileInfo(path).completeBaseName().left(24);
    spoken_for.insert(place.step);
    put(path, std::move(place));
  }
}

void ImportQueue::replace(const QString& path, int step) {
  if (may_add())
    put(path,
        {session_.test_id(), session_.planned()->steps.at(static_cast<std::size_t>(step)).id});
}

void ImportQueue::add_beside(const QString& path, int step, AddedAttenuation added) {
  if (may_add())
    put(path, {session_.test_id(),
               session_.planned()->steps.at(static_cast<std::size_t>(step)).id,
               {},
               std::move(added)});
}

void ImportQueue::put(const QString& path, RecordingPlace place) {
  std::string label = place.new_step.toStdString();
  for (const Step& s : session_.planned()->steps) {
    if (s.id == place.step) label = s.label;
  }
  EvidenceReader method = evidence_reader(session_.planned()->test, label);
  queue({path.toStdString(), {}, std::move(place), std::move(method)});
}

void ImportQueue::queue(Item item) {
  waiting_.push_back(std::move(item));
  if (job_ == nullptr) start_next();
}

void ImportQueue::measure_part(int step, const std::optional<TimeSpan>& part) {
  session_.settle();
  const PlannedTest* t = session_.planned();
  if (t == nullptr) return;
  if (const auto no = session_.refusal(t->test.id)) {
    emit failed(no->what, no->what_to_do);
    return;
  }
  const Step& s = t->steps.at(static_cast<std::size_t>(step));
  if (!s.capture) return;
  const auto file = capture_path(session_.shack(), s.capture->hash);
  Item item{s.capture->name, capture_opener(file), {t->test.id, s.id}, {}};
  if (file.extension() == ".csv") return;  // a trace has no time
  item.method = evidence_reader(t->test, s.label);
  item.measured_again = s.capture->id;
  item.part = part;
  queue(std::move(item));
}

std::optional<EvidenceReader> ImportQueue::method_for(Id test, Id step,
                                                      std::optional<double> full_scale_dbm) {
  try {
    std::string label;
    for (const Step& s : steps(session_.shack(), test)) {
      if (s.id == step) label = s.label;
    }
    EvidenceReader method =
        evidence_reader(heron::test(session_.shack(), test), label, full_scale_dbm);
    if (method.of_recording) return method;
    emit failed(tr("The test that this was measured for cannot be read; nothing was kept."),
                tr("Open it and measure the step again"));
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
  }
  return std::nullopt;
}

void ImportQueue::add_taken(Id test, Id step, std::vector<std::complex<float>> samples,
                            CaptureInfo info, double full_scale_dbm,
                            std::vector<Reading> readings) {
  auto method = method_for(test, step, full_scale_dbm);
  if (!method) return;
  Item item{info.name, {}, {test, step}, std::move(*method)};
  item.place.readings = std::move(readings);
  const double rate = info.sample_rate_hz;
  item.samples = memory_capture(std::move(samples), rate, std::move(info));
  queue(std::move(item));
}

void ImportQueue::add_taken(Id test, Id step, SpectrumTrace trace, std::vector<Reading> readings) {
  auto method = method_for(test, step, std::nullopt);
  if (!method) return;
  Item item{trace.name, {}, {test, step}, std::move(*method)};
  item.place.readings = std::move(readings);
  item.trace = std::move(trace);
  queue(std::move(item));
}

void ImportQueue::start_next() {
  if (waiting_.empty()) {
    tell_failures();
    emit idle();
    return;
  }
  if (waiting_.front().place.batch == 0) tell_failures();
  const Item item = waiting_.front();
  waiting_.pop_front();
  const auto captures = session_.shack().captures_folder();
  auto done = std::make_shared<TakenRecording>();
  job_ = new BackgroundJob(
      qt_text(item.file.filename().string()),
      [item, captures, done](const Progress& progress, const std::stop_token& stop) {
        TakenRecording& taken = *done;
        if (item.measured_again != 0)
          taken.record = item.method.of_recording(item.samples, item.part, progress, stop);
        else if (item.trace)
          keep_trace(trace_csv(*item.trace), *item.trace, captures, item.method, taken);
        else if (!item.samples && is_trace(item.file))
          take_trace(item.file, captures, item.method, taken);
        else
          take(item.samples ? item.samples : capture_opener(item.file), captures, item.method,
               taken, progress, stop);
      },
      this);
  const auto end = [this] {
    job_->deleteLater();
    job_ = nullptr;
    start_next();
  };
  connect(job_, &BackgroundJob::progressed, this, &ImportQueue::progressed);
  connect(job_, &BackgroundJob::finished, this, [this, item, captures, done, end] {
    finish(item, captures, *done);
    end();
  });
  connect(job_, &BackgroundJob::cancelled, this, [this, end] {
    emit told(tr("Stopped; nothing of %1 was kept").arg(job_->name()));
    end();
  });
  connect(job_, &BackgroundJob::failed, this,
          [this, item, end](const QString& what, const QString& advice) {
            fail(item, what, advice);
            end();
          });
  emit began(job_->name(), static_cast<int>(waiting_.size()));
  job_->start();
}

void ImportQueue::finish(const Item& item, const std::filesystem::path& captures,
                         TakenRecording& done) {
  const bool is_here = captures == session_.shack().captures_folder();
  if (item.measured_again != 0) {
    if (is_here)
      StepEdits(session_).set_analysis(item.place.test, item.measured_again,
                                       {item.method.id, std::move(done.record)});
    return;
  }
  const Id step = is_here ? StepEdits(session_).attach(item.place, done.stored,
                                                       {item.method.id, std::move(done.record)})
                          : 0;
  if (step != 0)
    emit attached(item.place.test, step);
  else  // another shack was opened meanwhile, or the test was signed off
    discard_capture(captures, done.stored);
}

void ImportQueue::fail(const Item& item, const QString& what, const QString& advice) {
  if (item.place.batch == 0) {
    emit failed(what, advice);
    return;
  }
  failures_ << (advice.isEmpty() ? what + '.' : what + ". " + advice + '.');
}

void ImportQueue::tell_failures() {
  if (failures_.isEmpty()) return;
  const QStringList all = std::exchange(failures_, {});
  emit several_failed(all);
}

void ImportQueue::cancel() {
  waiting_.clear();
  if (job_ != nullptr) job_->cancel();
}

}  // namespace heron
