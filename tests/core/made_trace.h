#pragma once

#include <cmath>
#include <string>
#include <utility>

namespace heron::testing {

/// An analyser's trace of two tones at 14.20065 and 14.20185 MHz, -7 dBm each, IM3 at -30 and
/// -29 dBc, through a Gaussian filter of 20 Hz, a point every 10 Hz.
inline std::string made_trace(const std::string& line_end = "\n", char separator = ',',
                              bool decimal_comma = false) {
  std::string csv = "# rbw: 20 Hz" + line_end + "frequency_hz" + separator + "level_dbm" + line_end;
  for (int i = 0; i < 1300; ++i) {
    const double hz = 14195000 + 10.0 * i;
    double dbm = -95.0 + (i * 7 % 5);
    for (const auto& [line, level] : {std::pair{14200650.0, -7.0},
                                      {14201850.0, -7.0},
                                      {14203050.0, -36.0},
                                      {14199450.0, -37.0}})
      dbm = std::max(dbm, level - 3.0103 * std::pow(2.0 * (hz - line) / 20.0, 2));
    std::string row = std::to_string(hz) + separator + std::to_string(dbm) + line_end;
    for (char& c : row) {
      if (decimal_comma && c == '.') c = ',';
    }
    csv += row;
  }
  return csv;
}

}  // namespace heron::testing
