#include "app/session/evidence_reader.h"

#include <nlohmann/json.hpp>

namespace heron {

EvidenceReader evidence_reader(Test test, const std::string& step,
                               std::optional<double> full_scale_dbm) {
  EvidenceReader m;
  const Method* method = find_method(test.characteristic);
  if (method == nullptr || method->analyse == nullptr) return m;
  const TakeContext context{sound_settings(*method, test), step, test.drive, full_scale_dbm,
                            std::nullopt};
  m.id = method->record;
  m.of_recording = [analyse = method->analyse, context](
                       const CaptureOpener& open, const std::optional<TimeSpan>& part,
                       const Progress& progress, const std::stop_token& stop) {
    TakeContext with = context;
    with.part = part;
    return analyse(open, with, progress, stop);
  };
  if (method->analyse_trace != nullptr)
    m.of_trace = [analyse = method->analyse_trace, context](const SpectrumTrace& trace) {
      return analyse(trace, context);
    };
  if (method->analyse_table != nullptr)
    m.of_table = [analyse = method->analyse_table, context](const CsvTable& table) {
      return analyse(table, context);
    };
  return m;
}

}  // namespace heron
