#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <stop_token>
#include <string>

#include "core/signal/capture.h"
#include "core/signal/keyed_parts.h"

namespace heron {

/// How far a recording drives what took it.
struct RecorderLoad {
  double peak_dbfs = -200.0;
  std::int64_t clipped_samples = 0;
  bool is_clipped() const { return clipped_samples > 0; }
};
/// Of a whole recording; Cancelled.
RecorderLoad recorder_load(const CaptureOpener& open, const std::stop_token& stop = {});
std::string load_words(const RecorderLoad& load);  ///< "12.3 dB under full scale"

/// What one recording says to a method; made in the background and kept as a record, so that it is
/// there again without the recording.
class Analysis {
 public:
  virtual ~Analysis() = default;
  /// When the recording is keyed and what of it is measured; nullptr where nothing says.
  virtual const KeyedParts* parts() const { return nullptr; }
  /// nullopt where it is no recording, or nobody looked.
  virtual std::optional<RecorderLoad> load() const { return std::nullopt; }
};
using AnalysisPtr = std::shared_ptr<const Analysis>;

}  // namespace heron
