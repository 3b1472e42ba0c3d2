#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace heron {

/// How an analyser makes one point of what it saw.
enum class TraceDetector { unknown, sample, peak, power_average, log_average };

/// A spectrum as an analyser wrote it.
struct SpectrumTrace {
  std::string name;
  std::vector<double> frequency_hz;  ///< rising
  std::vector<double> level_dbm;
  std::optional<double> rbw_hz;  ///< 3 dB width of its filter, from a "# rbw: 10 Hz" line
  bool has_rbw_kind = false;     ///< whether it says that this is the one that is meant
  TraceDetector detector = TraceDetector::unknown;  ///< "# detector: log-average"
  std::optional<int> averages;                      ///< "# averages: 16"
  double spacing_hz() const;                        ///< median distance of two points
};

/// Reads `frequency_hz,level_dbm` with a header, `#` comments, comma or semicolon or tab, decimal
/// point or comma, byte order mark and CRLF. A header may name MHz or kHz, and dBm, dBuV, dBmV or
/// dBV (in 50 ohm). InputError with the line: no numbers, a column missing, another unit,
/// frequencies that do not rise, fewer than eight points.
SpectrumTrace parse_trace(std::string_view text, const std::string& name);
/// The reverse, to the millihertz and the thousandth of a dB.
std::string trace_csv(const SpectrumTrace& trace);

}  // namespace heron
