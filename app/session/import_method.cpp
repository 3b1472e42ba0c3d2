#include "app/session/import_method.h"

#include <nlohmann/json.hpp>

namespace heron {

ImportMethod import_method(const LoadedTest& test, const std::string& step,
                           std::optional<double> full_scale_dbm) {
  ImportMethod m;
  if (!test || test->method->analyse == nullptr) return m;
  const TakeContext context{test->evidence.settings, step, test->test.drive, full_scale_dbm,
                            std::nullopt};
  m.id = test->method->record;
  m.of_recording = [analyse = test->method->analyse, context](
                       const CaptureOpener& open, const std::optional<TimeSpan>& part,
                       const Progress& progress, const std::stop_token& stop) {
    TakeContext with = context;
    with.part = part;
    return analyse(open, with, progress, stop);
  };
  if (test->method->analyse_trace != nullptr)
    m.of_trace = [analyse = test->method->analyse_trace, context](const SpectrumTrace& trace) {
      return analyse(trace, context);
    };
  return m;
}

}  // namespace heron
