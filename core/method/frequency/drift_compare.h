#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/method/frequency/drift.h"
#include "core/method/result.h"

namespace heron {

/// One figure of two records: before and after a modification.
struct DriftChange {
  std::string what;
  Figure now;
  Figure then;
  Figure change;
  bool is_size = false;  ///< nearer to nothing is better, else less is
};

/// On the same hook-up what both readings are off by in common cancels.
std::vector<DriftChange> compare_drift(const Drift& now, const Drift& then, bool is_on_same);
ResultTable drift_comparison(const std::vector<DriftChange>& changes, const std::string& then);
/// What changed by more than its ±, or that nothing did; nullopt where nothing can be compared.
std::optional<Remark> changed_remark(const std::vector<DriftChange>& changes);

}  // namespace heron
