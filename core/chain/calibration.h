#pragma once

#include <optional>
#include <string>

namespace heron {

/// When a part was last calibrated, and how its value fades from then on.
struct Calibration {
  std::string date;                       ///< ISO 8601, the day is enough; empty = never
  std::optional<double> interval_months;  ///< wanted again after this; nullopt = when one likes
  /// Standard uncertainty that each month adds, dB. Not stated: what the calibration itself left is
  /// taken to come again within one interval.
  std::optional<double> ageing_u_db_per_month;
};

/// Months of 30.44 days from one ISO date or time to another; nullopt if one of them is none.
std::optional<double> months_between(const std::string& from, const std::string& to);

/// What age adds to a calibrated value on a day, standard uncertainty in dB: rate times months
/// since the calibration, to be added in quadrature. 0 before it, or where nothing is known.
double ageing_u_db(const Calibration& calibration, double calibrated_u_db, const std::string& on);

enum class CalibrationState { none, in_date, due, overdue };
/// Due within the last tenth of the interval.
CalibrationState calibration_state(const Calibration& calibration, const std::string& on);
/// Until it is due, negative when overdue; nullopt without date or interval.
std::optional<double> months_left(const Calibration& calibration, const std::string& on);
std::string calibration_word(CalibrationState state);  ///< "In date"

/// "7 mo", "3 wk", "today"; empty for none.
std::string months_text(double months);

}  // namespace heron
