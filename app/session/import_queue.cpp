#include "app/session/import_queue.h"

#include <QFileInfo>
#include <exception>
#include <set>
#include <thread>

#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/quantity/typed_number.h"
#include "core/read_text.h"
#include "core/signal/memory_capture.h"
#include "core/signal/trace_csv.h"

namespace heron {
namespace {

struct Taken {
  StoredCapture stored;
  nlohmann::json record;
};

bool is_trace(const std::filesystem::path& file) {
  const std::string ending = lower_case(file.extension().string());
  return ending == ".csv" || ending == ".txt";
}

void keep_trace(const std::string& text, const SpectrumTrace& trace,
                const std::filesystem::path& captures, const ImportMethod& method, Taken& taken) {
  if (!method.of_trace)
    throw InputError(trace.name, "", "a trace does not do for this test",
                     "Add a recording: WAV or SigMF");
  taken.record = method.of_trace(trace);
  taken.stored = store_trace(captures, text, trace);
}

/// An analyser's trace: small enough to be read whole.
void take_trace(const std::filesystem::path& file, const std::filesystem::path& captures,
                const ImportMethod& method, Taken& taken) {
  constexpr std::uintmax_t kLargestMb = 64;
  const std::string text = read_text(file, kLargestMb);
  keep_trace(text, parse_trace(text, file.filename().string()), captures, method, taken);
}

/// Copies a recording into the shack and analyses it, both at once: the copy is mostly hashing on
/// one core, the analysis is arithmetic on all of them.
void take(const CaptureOpener& open, const std::filesystem::path& captures,
          const ImportMethod& method, Taken& taken, const Progress& progress,
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
  const PlannedTest* t = session_.planned();
  if (t == nullptr) return false;
  if (const auto no = session_.refusal(t->test.id)) {
    emit failed(no->what, no->what_to_do);
    return false;
  }
  if (!t->may_be_keyed()) {
    emit failed(tr("The hook-up of this test is not safe at the planned drive."),
                tr("Change the hook-up, lower the drive, or say on its sheet who answers for it"));
    return false;
  }
  return true;
}

void ImportQueue::add(const QStringList& paths, int from) {
  if (!may_add()) return;
  std::set<Id> spoken_for;
  for (const Item& item : waiting_) spoken_for.insert(item.step);
  for (const QString& path : paths) {
    // Both files of a SigMF pair may have been dropped: one of them is enough.
    if (path.endsWith(".sigmf-data") &&
        paths.contains(QString(path).replace(".sigmf-data", ".sigmf-meta")))
      continue;
    Id step = 0;
    const auto& steps = session_.planned()->steps;
    for (auto i = static_cast<std::size_t>(std::max(from, 0)); i < steps.size() && step == 0; ++i) {
      if (!steps[i].capture && !spoken_for.contains(steps[i].id)) step = steps[i].id;
    }
    if (step == 0) step = session_.add_step(QFileInfo(path).completeBaseName().left(24));
    if (step == 0) return;  // the session has said why
    spoken_for.insert(step);
    put(path, step);
  }
}

void ImportQueue::replace(const QString& path, int step) {
  if (may_add()) put(path, session_.planned()->steps.at(static_cast<std::size_t>(step)).id);
}

void ImportQueue::add_beside(const QString& path, int step, AddedAttenuation added) {
  if (may_add())
    put(path, session_.planned()->steps.at(static_cast<std::size_t>(step)).id, std::move(added));
}

void ImportQueue::put(const QString& path, Id step, std::optional<AddedAttenuation> added) {
  std::string label;
  for (const Step& s : session_.planned()->steps) {
    if (s.id == step) label = s.label;
  }
  waiting_.push_back({path.toStdString(),
                      {},
                      session_.test_id(),
                      step,
                      import_method(session_.loaded(), label),
                      std::move(added)});
  if (job_ == nullptr) start_next();
}

std::optional<ImportMethod> ImportQueue::method_for(Id test, Id step,
                                                    std::optional<double> full_scale_dbm) {
  LoadedTest other;
  if (test != session_.test_id()) {
    try {
      other = load_test(session_.shack(), test);
    } catch (const InputError& error) {
      emit failed(qt_text(error.what_happened()), qt_text(error.advice));
      return std::nullopt;
    }
  }
  const LoadedTest& loaded = test == session_.test_id() ? session_.loaded() : other;
  const PlannedTest* planned = planned_of(loaded);
  if (planned == nullptr) {
    emit failed(tr("The test that this was taken for cannot be read; nothing was kept."),
                tr("Open it and take the step again"));
    return std::nullopt;
  }
  std::string label;
  for (const Step& s : planned->steps) {
    if (s.id == step) label = s.label;
  }
  return import_method(loaded, label, full_scale_dbm);
}

void ImportQueue::add_taken(Id test, Id step, std::vector<std::complex<float>> samples,
                            CaptureInfo info, double full_scale_dbm) {
  auto method = method_for(test, step, full_scale_dbm);
  if (!method) return;
  Item item{info.name, {}, test, step, std::move(*method), {}};
  const double rate = info.sample_rate_hz;
  item.samples = memory_capture(std::move(samples), rate, std::move(info));
  waiting_.push_back(std::move(item));
  if (job_ == nullptr) start_next();
}

void ImportQueue::add_taken(Id test, Id step, SpectrumTrace trace) {
  auto method = method_for(test, step, std::nullopt);
  if (!method) return;
  Item item{trace.name, {}, test, step, std::move(*method), {}};
  item.trace = std::move(trace);
  waiting_.push_back(std::move(item));
  if (job_ == nullptr) start_next();
}

void ImportQueue::start_next() {
  if (waiting_.empty()) {
    emit idle();
    return;
  }
  const Item item = waiting_.front();
  waiting_.pop_front();
  const auto captures = session_.shack().captures_folder();
  auto taken = std::make_shared<Taken>();
  job_ = new BackgroundJob(
      qt_text(item.file.filename().string()),
      [item, captures, taken](const Progress& progress, const std::stop_token& stop) {
        if (item.trace)
          keep_trace(trace_csv(*item.trace), *item.trace, captures, item.method, *taken);
        else if (!item.samples && is_trace(item.file))
          take_trace(item.file, captures, item.method, *taken);
        else
          take(item.samples ? item.samples : capture_opener(item.file), captures, item.method,
               *taken, progress, stop);
      },
      this);
  const auto end = [this] {
    job_->deleteLater();
    job_ = nullptr;
    start_next();
  };
  connect(job_, &BackgroundJob::progressed, this, &ImportQueue::progressed);
  connect(job_, &BackgroundJob::finished, this, [this, item, captures, taken, end] {
    const bool kept = captures == session_.shack().captures_folder() &&
                      session_.attach(item.test, item.step, taken->stored,
                                      {item.method.id, std::move(taken->record)}, item.added);
    if (kept)
      emit attached(item.test, item.step);
    else  // another shack was opened meanwhile, or the test was signed off
      discard_capture(captures, taken->stored);
    end();
  });
  connect(job_, &BackgroundJob::cancelled, this, [this, end] {
    emit told(tr("Stopped; nothing of %1 was kept").arg(job_->name()));
    end();
  });
  connect(job_, &BackgroundJob::failed, this,
          [this, end](const QString& what, const QString& advice) {
            emit failed(what, advice);
            end();
          });
  emit began(job_->name(), static_cast<int>(waiting_.size()));
  job_->start();
}

void ImportQueue::cancel() {
  waiting_.clear();
  if (job_ != nullptr) job_->cancel();
}

}  // namespace heron
