#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/chain/part.h"
#include "core/quantity/parse_quantity.h"

namespace heron {

/// One earlier calibration; the latest stands in the part itself.
struct PastCalibration {
  std::string date;
  double u_db = 0.0;
  std::optional<double> gain_db;  ///< where it was one number
};

/// One thing on the bench: a part of hook-ups, or an instrument.
struct BenchItem {
  std::string sort = "attenuator";  ///< id in bench_sorts()
  Part part;
  std::string serial;
  std::string note;
  std::string curve_name;   ///< the Touchstone file its network came from
  std::string level_means;  ///< a generator's dial: "dbm", "emf" or "pd"; empty = not stated
  std::optional<double> timebase_ppm;
  std::optional<double> gate_s;
  std::optional<double> current_limit_a;
  std::string resolution;  ///< as the display shows it: "0.1 mV"
  std::vector<PastCalibration> past;
  std::map<std::string, std::string> typed;  ///< what was typed into each field, by its key
};

/// What sorts of things there are, in the order of the bench's groups.
struct BenchSort {
  std::string id;     ///< "step_attenuator"
  std::string label;  ///< "Step attenuator"
  std::string group;  ///< "Pads and loads"
  std::string kind;   ///< id in part_kinds()
};
const std::vector<BenchSort>& bench_sorts();
const BenchSort* find_bench_sort(const std::string& id);  ///< nullptr if unknown

/// One thing to be known of a sort.
struct BenchField {
  std::string key;
  std::string label;
  std::string hint;                  ///< what it means, one line
  std::optional<Quantity> quantity;  ///< nullopt: text
  std::vector<std::string> choices;  ///< of a text; empty = any
};
/// What matters for a sort, in the order in which it is asked.
std::vector<BenchField> bench_fields(const std::string& sort);

/// What such a field usually holds for a sort, as it would be typed: never taken as a fact; empty =
/// nothing is usual.
std::string_view usual_text(std::string_view sort, std::string_view key);

/// As it would be typed: what was typed if that is known, else the value; empty = not stated.
std::string field_text(const BenchItem& item, const BenchField& field);
/// Reads what was typed into the field; empty takes the value away. InputError if it cannot be.
void set_field(BenchItem& item, const BenchField& field, const std::string& typed);

/// Makes a part's gain that of a Touchstone file. InputError if the text is none.
void set_curve(BenchItem& item, std::string_view text, const std::string& file_name);

/// A new calibration; what was known before is kept among the past ones.
void calibrate(BenchItem& item, const std::string& date, std::optional<double> gain_db,
               double u_db);

/// A new thing of a sort, with a name to begin with.
BenchItem made_item(const std::string& sort);
/// One as a person adds it: what it loses is not known until it is entered.
BenchItem blank_item(const std::string& sort);

/// What makes it unusable; InputError naming item and field.
void check_item(const BenchItem& item);

}  // namespace heron
