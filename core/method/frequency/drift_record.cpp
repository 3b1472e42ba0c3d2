#include "core/method/frequency/drift_record.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/frequency/frequency_log.h"
#include "core/method/frequency/tone_log.h"
#include "core/method/live_quantity.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"
#include "core/signal/median.h"

namespace heron {
namespace {

constexpr double kLongPauseSteps = 5.0;  ///< of the usual step
constexpr double kLongPauseS = 60.0;
constexpr double kOldTemperatureS = 900.0;  ///< a reading says nothing of what is further away

/// One value with a time of the day, or since switch-on.
struct Stamped {
  std::optional<double> of_day;
  double seconds = 0.0;  ///< after that, or since switch-on
  double value = 0.0;
};

class Collected {
 public:
  Collected(const Evidence& evidence, const DriftReference& reference) : reference_(reference) {
    for (const EvidenceStep& s : evidence.steps) add(s);
    add_start();
    for (const Event& e : evidence.events) {
      const auto at = seconds_of_iso(e.at);
      if (at && start_) record_.events.push_back({*at - *start_, e.text});
    }
  }

  DriftRecord record() {
    for (const Stamped& f : frequencies_) record_.samples.push_back({seconds_of(f), f.value});
    for (const Stamped& t : temperatures_) record_.temperatures.push_back({seconds_of(t), t.value});
    const auto by_time = [](const auto& a, const auto& b) { return a.seconds < b.seconds; };
    std::stable_sort(record_.samples.begin(), record_.samples.end(), by_time);
    std::stable_sort(record_.temperatures.begin(), record_.temperatures.end(), by_time);
    // Nothing stands before the first reading but an event.
    if (!record_.samples.empty() && !has_elapsed_) begin_at(record_.samples.front().seconds);
    for (DriftSample& s : record_.samples) s.temperature_c = temperature_at(s.seconds);
    tell_gaps();
    record_.has_clock = start_.has_value();
    return std::move(record_);
  }

 private:
  bool is_tone() const { return reference_.tone_hz.has_value(); }

  double error_of(double value) const {
    if (is_tone()) return (reference_.is_upper ? 1.0 : -1.0) * (*reference_.tone_hz - value);
    return value - reference_.nominal_hz.value_or(0.0);
  }

  void add(const EvidenceStep& s) {
    for (const SeriesPtr& log : s.series) add_log(*log);
    if (is_tone()) add_tones(s);
    if (!reference_.reads_typed) return;
    const Condition* elapsed = find_condition(s.conditions, kElapsedCondition);
    for (const Reading& r : s.readings) {
      const bool is_temperature = r.quantity == kTemperature;
      if (!is_temperature && r.quantity != (is_tone() ? kToneReading : kCountedFrequency)) continue;
      Stamped one;
      if (elapsed != nullptr) {
        one.seconds = elapsed->value;
        has_elapsed_ = true;
        // Events are of a day: it was switched on so long before that was typed, at the latest.
        if (const auto at = seconds_of_iso(r.at))
          typed_start_ = std::min(typed_start_.value_or(1e300), *at - elapsed->value);
      } else {
        one.of_day = seconds_of_iso(r.at);
        if (!one.of_day) {
          ++undated_;
          continue;
        }
      }
      one.value = is_temperature ? r.value : error_of(r.value);
      (is_temperature ? temperatures_ : frequencies_).push_back(one);
      if (!is_temperature) ++record_.typed;
    }
  }

  void add_log(const Series& log) {
    const bool is_temperature = log.quantity == kTemperature;
    if (!is_temperature && log.quantity != (is_tone() ? kToneReading : kCountedFrequency)) return;
    record_.remarks.insert(record_.remarks.end(), log.remarks.begin(), log.remarks.end());
    if (record_.instrument.empty()) record_.instrument = log.instrument;
    const auto from = seconds_of_iso(log.started_at);
    for (const Series::Sample& v : log.samples) {
      if (!std::isfinite(v.value) || !std::isfinite(v.seconds)) continue;
      Stamped one{from, v.seconds, is_temperature ? v.value : error_of(v.value)};
      (is_temperature ? temperatures_ : frequencies_).push_back(one);
    }
  }

  void add_tones(const EvidenceStep& s) {
    const auto* log = dynamic_cast<const ToneLog*>(s.analysis.get());
    if (log == nullptr) return;
    record_.remarks.insert(record_.remarks.end(), log->remarks.begin(), log->remarks.end());
    const auto from = seconds_of_iso(log->started_at);
    for (std::size_t i = 0; i < log->seconds.size(); ++i)
      frequencies_.push_back({from, log->seconds[i], error_of(log->tone_hz[i])});
  }

  /// The earliest time of a day.
  void add_start() {
    for (const auto* all : {&frequencies_, &temperatures_})
      for (const Stamped& s : *all)
        if (s.of_day) start_ = std::min(start_.value_or(1e300), *s.of_day);
    if (!start_) start_ = typed_start_;
  }

  double seconds_of(const Stamped& s) const {
    return s.of_day ? *s.of_day - start_.value_or(0.0) + s.seconds : s.seconds;
  }

  void begin_at(double seconds) {
    for (DriftSample& s : record_.samples) s.seconds -= seconds;
    for (Series::Sample& t : record_.temperatures) t.seconds -= seconds;
    for (DriftRecord::Moment& e : record_.events) e.seconds -= seconds;
  }

  /// Straight between two readings of it; nothing where the next is far.
  std::optional<double> temperature_at(double seconds) const {
    const auto& all = record_.temperatures;
    const auto after = std::lower_bound(all.begin(), all.end(), seconds,
                                        [](const auto& t, double at) { return t.seconds < at; });
    const Series::Sample* next = after != all.end() ? &*after : nullptr;
    const Series::Sample* last = after != all.begin() ? &*std::prev(after) : nullptr;
    if (next != nullptr && next->seconds - seconds > kOldTemperatureS) next = nullptr;
    if (last != nullptr && seconds - last->seconds > kOldTemperatureS) last = nullptr;
    if (last == nullptr) return next != nullptr ? std::optional(next->value) : std::nullopt;
    if (next == nullptr || next->seconds <= last->seconds) return last->value;
    return std::lerp(last->value, next->value,
                     (seconds - last->seconds) / (next->seconds - last->seconds));
  }

  void tell_gaps() {
    if (undated_ > 0)
      record_.remarks.push_back({"no_time", Severity::caution,
                                 fmt::format("{} {} no time: left out.", undated_,
                                             undated_ == 1 ? "reading has" : "readings have"),
                                 "Type the time since switch-on beside it"});
    const double usual = record_.usual_step_s();
    double longest = std::max(kLongPauseSteps * usual, kLongPauseS);
    double from = -1.0;
    // By hand nobody reads at even steps.
    if (record_.typed == record_.samples.size()) return;
    for (std::size_t i = 1; i < record_.samples.size(); ++i) {
      const double pause = record_.samples[i].seconds - record_.samples[i - 1].seconds;
      if (pause <= longest) continue;
      longest = pause;
      from = record_.samples[i - 1].seconds;
    }
    if (from >= 0.0)
      record_.remarks.push_back({"gap", Severity::note,
                                 "Nothing was read for " + duration_text(longest) + " from " +
                                     duration_text(from) + " on.",
                                 ""});
  }

  DriftReference reference_;
  DriftRecord record_;
  std::vector<Stamped> frequencies_;
  std::vector<Stamped> temperatures_;
  std::optional<double> start_;
  std::optional<double> typed_start_;
  bool has_elapsed_ = false;
  std::size_t undated_ = 0;
};

}  // namespace

double DriftRecord::usual_step_s() const {
  std::vector<double> steps;
  for (std::size_t i = 1; i < samples.size(); ++i)
    steps.push_back(samples[i].seconds - samples[i - 1].seconds);
  return steps.empty() ? 0.0 : median_of(steps);
}

double DriftRecord::even_step_s() const {
  constexpr double kMostSteps = 3.0;  // beyond is a pause
  const double usual = usual_step_s();
  double seconds = 0.0;
  double steps = 0.0;
  for (std::size_t i = 1; i < samples.size() && usual > 0.0; ++i) {
    const double step = samples[i].seconds - samples[i - 1].seconds;
    const double count = std::round(step / usual);
    if (count > kMostSteps) continue;
    seconds += step;
    steps += count;
  }
  return steps > 0.0 ? seconds / steps : usual;
}

DriftRecord drift_record(const Evidence& evidence, const DriftReference& reference) {
  return Collected(evidence, reference).record();
}

std::vector<Series> series_of_log(const CsvTable& table, std::optional<double> nominal_hz) {
  if (!nominal_hz) {
    std::vector<double> values;
    if (const auto column = table.column("frequency_hz"))
      for (const CsvTable::Row& row : table.rows) {
        const auto v = parse_number(CsvTable::cell(row, column));
        if (v && std::isfinite(*v) && std::abs(*v) < 1e30) values.push_back(*v);
      }
    nominal_hz = values.empty() ? 0.0 : median_of(values);
  }
  const FrequencyLog log = read_frequency_log(table, *nominal_hz);
  Series frequency;
  frequency.quantity = kCountedFrequency;
  frequency.unit = "Hz";
  frequency.instrument = table.name;
  frequency.started_at = log.started_at;
  frequency.remarks = log.remarks;
  Series temperature = frequency;
  temperature.quantity = kTemperature;
  temperature.unit = "\u00b0C";
  temperature.remarks.clear();
  for (const DriftSample& s : log.samples) {
    frequency.samples.push_back({s.seconds, *nominal_hz + s.error_hz});
    if (s.temperature_c) temperature.samples.push_back({s.seconds, *s.temperature_c});
  }
  std::vector<Series> all{std::move(frequency)};
  if (!temperature.samples.empty()) all.push_back(std::move(temperature));
  return all;
}

}  // namespace heron
