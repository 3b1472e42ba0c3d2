#include "core/method/frequency/frequency_log.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <fmt/format.h>

#include "core/error.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"
#include "core/signal/median.h"

namespace heron {
namespace {

constexpr double kFarShare = 1e-3;  ///< of nominal: another signal, or another unit
constexpr double kHourS = 3600.0;

/// Instruments write such a number where they have none.
bool is_no_reading(double value) {
  return !std::isfinite(value) || std::abs(value) > 1e30;
}

struct Counts {
  std::size_t no_number = 0;
  std::size_t no_time = 0;
  std::size_t far = 0;
  std::size_t back = 0;
  std::size_t moved = 0;
  std::size_t same_time = 0;
};

std::string lines(std::size_t n) {
  return fmt::format("{} {}", n, n == 1 ? "line" : "lines");
}

void tell(FrequencyLog& log, const Counts& c, double nominal_hz) {
  const auto add = [&](const char* code, Severity severity, std::string text, const char* advice) {
    log.remarks.push_back({code, severity, std::move(text), advice});
  };
  if (c.no_number > 0)
    add("no_reading", Severity::caution,
        lines(c.no_number) + (c.no_number == 1 ? " holds" : " hold") +
            " no reading (overflow, no signal): left out.",
        "");
  if (c.no_time > 0)
    add("no_time", Severity::caution,
        lines(c.no_time) + (c.no_time == 1 ? " has" : " have") +
            " no time that can be read: left out.",
        "Write times as 2026-11-28T12:00:00Z, or as seconds");
  if (c.far > 0)
    add("other_nominal", Severity::caution,
        lines(c.far) + (c.far == 1 ? " is" : " are") + " further than 0.1 % from " +
            frequency_text(nominal_hz) + ": another signal, left out.",
        "Give each nominal frequency a log of its own");
  if (c.moved > 0)
    add("clock_changed", Severity::caution,
        fmt::format("The clock was changed by an hour {}: what follows is moved.",
                    c.moved == 1 ? "once" : fmt::format("{} times", c.moved)),
        "Log in UTC");
  if (c.back > 0)
    add("clock_back", Severity::caution,
        fmt::format("The clock goes back at {}: left out.", lines(c.back)), "");
  if (c.same_time > 0)
    add("same_time", Severity::note,
        lines(c.same_time) + " at the time of the one before: their mean counts.", "");
}

}  // namespace

std::optional<double> seconds_of_iso(const std::string& text) {
  int year = 0;
  unsigned month = 0;
  unsigned day = 0;
  int hour = 0;
  int minute = 0;
  double second = 0.0;
  int used = 0;
  if (std::sscanf(text.c_str(), "%4d-%2u-%2u%*1[T ]%2d:%2d%n", &year, &month, &day, &hour, &minute,
                  &used) < 5 ||
      used == 0)
    return std::nullopt;
  std::string rest = text.substr(static_cast<std::size_t>(used));
  if (!rest.empty() && rest.front() == ':') {
    int more = 0;
    std::replace(rest.begin(), rest.end(), ',', '.');
    if (std::sscanf(rest.c_str(), ":%lf%n", &second, &more) < 1) return std::nullopt;
    rest = rest.substr(static_cast<std::size_t>(more));
  }
  double zone_s = 0.0;
  if (!rest.empty() && rest != "Z") {
    int zone_hour = 0;
    int zone_minute = 0;
    if (std::sscanf(rest.c_str(), "%3d:%2d", &zone_hour, &zone_minute) < 1) return std::nullopt;
    zone_s = zone_hour * kHourS + (rest.front() == '-' ? -60.0 : 60.0) * zone_minute;
  }
  const std::chrono::year_month_day date{std::chrono::year(year), std::chrono::month(month),
                                         std::chrono::day(day)};
  if (!date.ok() || hour > 24 || minute > 59 || !(second < 61.0)) return std::nullopt;
  const auto days = std::chrono::sys_days(date).time_since_epoch().count();
  return 86400.0 * static_cast<double>(days) + kHourS * hour + 60.0 * minute + second - zone_s;
}

FrequencyLog read_frequency_log(const CsvTable& table, double nominal_hz) {
  const auto frequency = table.column("frequency_hz");
  const auto seconds = table.column("time_s");
  const auto time = table.column("time");
  const auto temperature = table.column("temperature_c");
  if (!frequency || (!seconds && !time))
    throw InputError(table.name, "line 1", "it has no columns of time and frequency",
                     "Begin it with time_s,frequency_hz or time,frequency_hz");
  struct Row {
    double t;
    double error_hz;
    std::optional<double> temperature_c;
  };
  FrequencyLog log;
  Counts counts;
  std::vector<Row> rows;
  for (const CsvTable::Row& r : table.rows) {
    const auto value = parse_number(CsvTable::cell(r, frequency));
    if (!value || is_no_reading(*value)) {
      ++counts.no_number;
      continue;
    }
    const std::string at = CsvTable::cell(r, seconds ? seconds : time);
    const auto t = seconds ? parse_number(at) : seconds_of_iso(at);
    if (!t || !std::isfinite(*t)) {
      ++counts.no_time;
      continue;
    }
    if (std::abs(*value - nominal_hz) > kFarShare * nominal_hz) {
      ++counts.far;
      continue;
    }
    if (rows.empty() && !seconds) log.started_at = at;
    auto warm = parse_number(CsvTable::cell(r, temperature));
    if (warm && is_no_reading(*warm)) warm.reset();
    rows.push_back({*t, *value - nominal_hz, warm});
  }
  if (rows.empty()) {
    tell(log, counts, nominal_hz);
    throw InputError(table.name, "",
                     log.remarks.empty() ? std::string("it holds no reading")
                                         : "no line can be used: " + log.remarks.front().text,
                     "Compare the nominal frequency and the columns");
  }
  // What a step usually is: an hour at once in a log of hours is no changed clock.
  std::vector<double> steps;
  for (std::size_t i = 1; i < rows.size(); ++i) steps.push_back(rows[i].t - rows[i - 1].t);
  const double usual = steps.empty() ? 0.0 : std::abs(median_of(steps));
  double moved_s = 0.0;
  std::size_t alike = 1;
  for (const Row& r : rows) {
    double t = r.t + moved_s;
    if (!log.samples.empty()) {
      const double last = log.samples.back().seconds + rows.front().t;
      const double jump = t - last - usual;
      const bool is_hour = std::abs(std::abs(jump) - kHourS) < std::max(5.0, 3.0 * usual);
      // Only local times are changed; a pause of an hour looks the same going on.
      if (!seconds && is_hour && jump < 0.0 && usual < kHourS / 4.0) {
        moved_s += kHourS;
        t += kHourS;
        ++counts.moved;
      }
      if (t < last) {
        ++counts.back;
        continue;
      }
      if (t == last) {
        DriftSample& same = log.samples.back();
        ++alike;
        same.error_hz += (r.error_hz - same.error_hz) / static_cast<double>(alike);
        ++counts.same_time;
        continue;
      }
    }
    alike = 1;
    log.samples.push_back({t - rows.front().t, r.error_hz, r.temperature_c});
  }
  tell(log, counts, nominal_hz);
  const bool is_constant =
      log.samples.size() > 2 &&
      std::all_of(log.samples.begin(), log.samples.end(),
                  [&](const DriftSample& s) { return s.error_hz == log.samples.front().error_hz; });
  if (is_constant)
    log.remarks.push_back({"constant", Severity::caution,
                           "All readings are the same: this log could not have shown drift below "
                           "the last digit of the instrument.",
                           "Lengthen the gate, or read more digits"});
  return log;
}

}  // namespace heron
