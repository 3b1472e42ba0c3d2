#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/method/evidence.h"
#include "core/method/result.h"
#include "core/quantity/parse_quantity.h"

namespace heron {

/// One thing that is typed of a step, as a column of the grid of readings.
struct TypedField {
  enum class Kind { reading, condition };
  Kind kind = Kind::reading;
  std::string_view quantity = {};  ///< id of what is kept
  ReadingRole role = ReadingRole::at;
  std::string_view head = {};  ///< "Output, cold"
  std::string_view hint = {};  ///< what it means and where it is read
  Quantity asked = Quantity::level;
  std::string_view unit = {};        ///< it is kept in
  std::string_view typed_unit = {};  ///< of a bare number; empty = `unit`
  std::string_view convention = {};
  double u = 0.0;           ///< standard uncertainty of a typed one, in `unit`
  double u_relative = 0.0;  ///< and as a share of it
  int width = 90;           ///< px
};

/// One row: all that is special of what a test measures. Whatever else reads, shows, prints and
/// keeps a test does it through this.
struct Method {
  std::string_view id = {};
  std::string_view step_head = {};     ///< what a step is called: "Band and setting"
  std::string_view step_example = {};  ///< "14 MHz, full power"
  std::vector<TypedField> fields = {};
  std::string_view limit_unit = {};  ///< of a bare number typed as a limit
  Quantity limit_quantity = Quantity::power;
  Sense limit_sense = Sense::at_least;
  std::string_view caution = {};  ///< before anything is keyed; empty = none of its own
  Result (*evaluate)(const Evidence& evidence) = nullptr;
};

/// The method of a test; nullptr of one that has no row here.
const Method* find_method(std::string_view id);

/// What was typed for a field as a reading or condition; InputError with what works.
Reading read_typed(const TypedField& field, const std::string& typed);
Condition condition_typed(const TypedField& field, const std::string& typed);
/// What stands in a field of a step, as it was typed or as it would be; empty = nothing.
std::string typed_in(const TypedField& field, const EvidenceStep& step);

}  // namespace heron
