#pragma once

#include <memory>

#include "core/signal/keyed_parts.h"

namespace heron {

/// What one recording says to a method; made in the background and kept as a record, so that it is
/// there again without the recording.
class Analysis {
 public:
  virtual ~Analysis() = default;
  /// When the recording is keyed and what of it is measured; nullptr where nothing says.
  virtual const KeyedParts* parts() const { return nullptr; }
};
using AnalysisPtr = std::shared_ptr<const Analysis>;

}  // namespace heron
