#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/csv_table.h"
#include "core/judge/remark.h"
#include "core/method/frequency/drift_fit.h"

namespace heron {

/// A log of frequency readings, as instruments and people write it.
struct FrequencyLog {
  std::vector<DriftSample> samples;  ///< rising in time
  std::string started_at;            ///< ISO 8601 as it stands in the file; empty = seconds only
  std::vector<Remark> remarks;       ///< what was left out or mended, by name
};

/// Columns `time_s`, or `time` as ISO 8601, `frequency_hz`, and `temperature_c` if it has it. Lines
/// without a number or far from nominal are left out; local times that go back by an hour at
/// once were changed: what follows is moved; other steps back are left out. InputError without
/// those columns, or where nothing is left.
FrequencyLog read_frequency_log(const CsvTable& table, double nominal_hz);

/// Seconds since 1970 of "2026-11-28T12:00:00Z", with or without zone (taken as UTC) and fraction;
/// nullopt if it is none.
std::optional<double> seconds_of_iso(const std::string& text);

}  // namespace heron
