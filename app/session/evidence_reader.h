#pragma once

#include <functional>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>

#include "core/csv_table.h"
#include "core/progress.h"
#include "core/signal/keyed_parts.h"
#include "core/signal/trace_csv.h"
#include "store/loaded.h"

namespace heron {

/// How evidence of a test is analysed into the record that is kept with it; by value, so that it
/// can go into the background.
struct EvidenceReader {
  std::string id;
  /// With the part that somebody chose; none: the method finds it.
  std::function<nlohmann::json(const CaptureOpener&, const std::optional<TimeSpan>&,
                               const Progress&, const std::stop_token&)>
      of_recording;
  std::function<nlohmann::json(const SpectrumTrace&)> of_trace;
  /// null = the table is none of its kind.
  std::function<nlohmann::json(const CsvTable&)> of_table;
};

/// For a step of that label; the full scale is that of the instrument which took it, where known.
/// An empty id: tests of this kind take no recordings.
EvidenceReader evidence_reader(Test test, const std::string& step,
                               std::optional<double> full_scale_dbm = std::nullopt);

}  // namespace heron
