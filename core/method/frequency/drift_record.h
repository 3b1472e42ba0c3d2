#pragma once

#include <string>
#include <vector>

#include "core/csv_table.h"
#include "core/method/evidence.h"
#include "core/method/frequency/drift_fit.h"
#include "core/method/live_quantity.h"

namespace heron {

inline constexpr const char* kElapsedCondition = "elapsed";  ///< s since it was switched on
inline constexpr const char* kToneReading = kHeardTone;

/// What a log is read against.
struct DriftReference {
  std::optional<double> nominal_hz;              ///< what it should be, or the true carrier
  std::optional<double> tone_hz = std::nullopt;  ///< that is right; then tones are what is read
  bool is_upper = true;                          ///< sideband of such tones
  bool reads_typed = true;                       ///< single readings count, too
};

/// All that a test holds on one time axis: logs, tones of recordings and single readings, with the
/// nearest temperatures beside them.
struct DriftRecord {
  struct Moment {
    double seconds = 0.0;
    std::string text;
  };
  std::vector<DriftSample> samples;          ///< rising in time; error: actual less nominal
  std::vector<Series::Sample> temperatures;  ///< °C, on the same axis
  std::vector<Moment> events;
  std::vector<Remark> remarks;
  std::size_t typed = 0;        ///< of the samples
  bool has_clock = false;       ///< whether its times are of a day
  std::string started_at = {};  ///< UTC, ISO 8601; empty without
  std::string instrument = {};  ///< of the first log
  double span_s() const { return samples.empty() ? 0.0 : samples.back().seconds; }
  double usual_step_s() const;  ///< median
  /// Of even steps that are read a little early or late: mean of those that lie near the usual one.
  double even_step_s() const;
};
DriftRecord drift_record(const Evidence& evidence, const DriftReference& reference);

/// A file of a counter as logs: frequency, and temperature if it has it. Without a nominal
/// frequency the middle of what it holds stands for it. InputError as `read_frequency_log`.
std::vector<Series> series_of_log(const CsvTable& table, std::optional<double> nominal_hz);

}  // namespace heron
