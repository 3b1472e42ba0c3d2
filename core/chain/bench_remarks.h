#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/chain/bench_item.h"
#include "core/judge/remark.h"
#include "core/judge/verdict.h"

namespace heron {

/// A thing of the bench in a hook-up of a test.
struct BenchUse {
  std::string hookup;
  std::string test;   ///< with its device
  std::string limit;  ///< what binds it there, "10 W average"
  std::optional<double> margin_db;
  Verdict verdict = Verdict::not_taken;
};

/// What is to be known of a thing of the bench on a day (ISO): what is not stated, a calibration
/// that is overdue, and where it is used over its rating.
std::vector<Remark> bench_remarks(const BenchItem& item, const std::vector<BenchUse>& uses,
                                  const std::string& on);
/// Of a part in a hook-up; nullopt unless it is overdue.
std::optional<Remark> overdue_remark(const Part& part, const std::string& on);

/// What age has made of its ±; "Calibrated on 2026-02-01."
std::string calibration_sentence(const Part& part, const std::string& on);
/// ± of its gain or level on that day, k = 2, dB.
double expanded_on(const Part& part, const std::string& on);

}  // namespace heron
