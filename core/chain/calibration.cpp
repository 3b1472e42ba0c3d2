#include "core/chain/calibration.h"

#include <charconv>
#include <chrono>
#include <cmath>
#include <fmt/format.h>

namespace heron {
namespace {

constexpr double kDaysPerMonth = 30.436875;

std::optional<int> digits(const std::string& text, std::size_t at, std::size_t count) {
  if (at + count > text.size()) return std::nullopt;
  int value = 0;
  const char* begin = text.data() + at;
  const auto [end, error] = std::from_chars(begin, begin + count, value);
  if (error != std::errc() || end != begin + count || value < 0) return std::nullopt;
  return value;
}

std::optional<double> day_number(const std::string& iso) {
  const auto year = digits(iso, 0, 4);
  const auto month = digits(iso, 5, 2);
  const auto day = digits(iso, 8, 2);
  if (!year || !month || !day || iso[4] != '-' || iso[7] != '-') return std::nullopt;
  const std::chrono::year_month_day date{std::chrono::year(*year),
                                         std::chrono::month(static_cast<unsigned>(*month)),
                                         std::chrono::day(static_cast<unsigned>(*day))};
  if (!date.ok()) return std::nullopt;
  return static_cast<double>(std::chrono::sys_days(date).time_since_epoch().count());
}

}  // namespace

std::optional<double> months_between(const std::string& from, const std::string& to) {
  const auto a = day_number(from);
  const auto b = day_number(to);
  if (!a || !b) return std::nullopt;
  return (*b - *a) / kDaysPerMonth;
}

double ageing_u_db(const Calibration& calibration, double calibrated_u_db, const std::string& on) {
  const auto months = months_between(calibration.date, on);
  if (!months || *months <= 0.0) return 0.0;
  if (calibration.ageing_u_db_per_month) return *calibration.ageing_u_db_per_month * *months;
  if (!calibration.interval_months || *calibration.interval_months <= 0.0) return 0.0;
  return calibrated_u_db * *months / *calibration.interval_months;
}

std::optional<double> months_left(const Calibration& calibration, const std::string& on) {
  const auto months = months_between(calibration.date, on);
  if (!months || !calibration.interval_months) return std::nullopt;
  return *calibration.interval_months - *months;
}

CalibrationState calibration_state(const Calibration& calibration, const std::string& on) {
  if (!months_between(calibration.date, on)) return CalibrationState::none;
  const auto left = months_left(calibration, on);
  if (!left) return CalibrationState::in_date;
  if (*left < 0.0) return CalibrationState::overdue;
  return *left < 0.1 * *calibration.interval_months ? CalibrationState::due
                                                    : CalibrationState::in_date;
}

std::string calibration_word(CalibrationState state) {
  switch (state) {
    case CalibrationState::none:
      return "No calibration";
    case CalibrationState::in_date:
      return "In date";
    case CalibrationState::due:
      return "Due soon";
    case CalibrationState::overdue:
      return "Overdue";
  }
  return {};
}

std::string months_text(double months) {
  const double days = std::abs(months) * kDaysPerMonth;
  if (days < 1.0) return "today";
  if (days < 14.0) return fmt::format("{:.0f} d", days);
  if (days < 70.0) return fmt::format("{:.0f} wk", days / 7.0);
  return fmt::format("{:.0f} mo", std::abs(months));
}

}  // namespace heron
