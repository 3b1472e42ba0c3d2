#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/method/purity/purity_reading.h"

namespace heron {

/// One line read off a screen by a person.
struct TypedLine {
  std::string typed;  ///< "28.4 MHz -41.2 dBc"
  double frequency_hz = 0.0;
  double to_hz = 0.0;  ///< above 0: nothing else stands above the level from `frequency_hz` to here
  double level = 0.0;
  bool is_dbc = false;  ///< re carrier; else dBm at the instrument
  bool is_bound = false;
};

/// A frequency, then a level in dBc or any unit of level; "<" or "≤" before the level makes it a
/// bound; without a unit the level is dBc. "1.8 MHz to 150 MHz < -65 dBc" says where somebody
/// looked and saw nothing else. InputError with what works.
TypedLine parse_typed_line(std::string_view text);

/// One a line of text; "#" begins a comment. InputError names the line.
std::vector<TypedLine> parse_typed_lines(const std::string& text);
/// "3 lines. The last: 42.6 MHz at -60.0 dBc"
std::string typed_lines_words(const std::vector<TypedLine>& lines);

/// Typed lines as a source. Those in dBc hang on the carrier that an instrument read, or on a
/// carrier at 0 where none was. InputError: dBm without a carrier while others are dBc.
PuritySource typed_purity_source(const std::vector<TypedLine>& lines, double carrier_hz,
                                 const std::vector<PuritySource>& measured, double reading_u_db);

}  // namespace heron
