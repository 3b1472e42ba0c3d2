#include "core/method/frequency/adjust_state.h"

#include <algorithm>
#include <cmath>

#include "core/error.h"
#include "core/method/live_quantity.h"

namespace heron {
namespace {

constexpr double kUsualTolerancePpm = 0.5;

AdjustRow row_of(const EvidenceStep& s, const AdjustPlan& plan) {
  AdjustRow row;
  const Condition* f = find_condition(s.conditions, "frequency");
  row.nominal_hz = f != nullptr ? f->value : plan.nominal_hz.value_or(0.0);
  if (const Condition* n = find_condition(s.conditions, kSettingCondition)) row.setting = n->value;
  const auto error = [&](ReadingRole role) -> std::optional<double> {
    const Reading* r = find_reading(s.readings, kCountedFrequency, role);
    if (r == nullptr || row.nominal_hz <= 0.0) return std::nullopt;
    return (r->value - row.nominal_hz) / row.nominal_hz * kPerMillion;
  };
  row.found_ppm = error(ReadingRole::before);
  row.adjusted_ppm = error(ReadingRole::at);
  row.checked_ppm = error(ReadingRole::after);
  return row;
}

std::optional<Figure> mean_of(const AdjustState& s, std::optional<double> AdjustRow::* which,
                              const char* label) {
  std::vector<double> all;
  for (const AdjustRow& row : s.rows)
    if (row.*which) all.push_back(*(row.*which));
  if (all.empty()) return std::nullopt;
  double mean = 0.0;
  for (const double v : all) mean += v / static_cast<double>(all.size());
  double square = 0.0;
  for (const double v : all) square += (v - mean) * (v - mean);
  const auto n = static_cast<double>(all.size());
  return s.with_source(mean, all.size() > 1 ? std::sqrt(square / (n - 1.0) / n) : 0.0, label);
}

void find_errors(AdjustState& s) {
  s.found = mean_of(s, &AdjustRow::found_ppm, "As found");
  s.checked = mean_of(s, &AdjustRow::checked_ppm, "After adjusting");
  // What it will be when it is warm and closed.
  std::optional<double> now_hz;
  double u_hz = 0.0;
  if (s.hands.mean) {
    now_hz = s.hands.mean->value;
    u_hz = s.hands.mean->u();
  }
  for (auto row = s.rows.rbegin(); row != s.rows.rend() && !now_hz; ++row)
    if (row->adjusted_ppm) now_hz = s.to_hz(*row->adjusted_ppm);
  if (!now_hz) return;
  Figure f =
      s.with_source(s.to_ppm(*now_hz + s.plan.shift_hz), s.to_ppm(u_hz), "Settled, predicted");
  if (s.plan.u_shift_hz > 0.0)
    f.contributions.push_back(
        {"shift of the zero", s.to_ppm(s.plan.u_shift_hz) / 2.0, Scope::independent});
  s.predicted = std::move(f);
}

/// What closing the case did the last time, where nothing else tells.
void take_shift_of_check(AdjustState& s) {
  if (s.plan.has_shift) return;
  std::vector<double> shifts;
  for (const AdjustRow& row : s.rows)
    if (row.adjusted_ppm && row.checked_ppm) shifts.push_back(*row.checked_ppm - *row.adjusted_ppm);
  if (shifts.empty()) return;
  double mean = 0.0;
  for (const double v : shifts) mean += v / static_cast<double>(shifts.size());
  double square = 0.0;
  for (const double v : shifts) square += (v - mean) * (v - mean);
  const auto n = static_cast<double>(shifts.size());
  s.plan.shift_hz = s.to_hz(mean);
  s.plan.u_shift_hz = n > 1.0 ? 2.0 * s.to_hz(std::sqrt(square / (n - 1.0) / n)) : 0.0;
  s.plan.has_shift = s.plan.is_shift_of_check = true;
}

void find_next_setting(AdjustState& s) {
  std::vector<SettingPair> pairs;
  for (const AdjustRow& row : s.rows)
    if (row.setting && row.adjusted_ppm)
      pairs.push_back({*row.setting, s.nominal_hz() + s.to_hz(*row.adjusted_ppm)});
  if (pairs.size() < 2) return;
  try {
    s.next = next_setting(pairs, s.nominal_hz() - s.plan.shift_hz);
  } catch (const InputError& error) {
    s.next_refusal = error.what_happened();
  }
}

}  // namespace

Figure AdjustState::with_source(double ppm, double u_ppm, const char* label) const {
  Figure f;
  f.id = "frequency_error";
  f.label = label;
  f.unit = "ppm";
  f.value = ppm;
  f.contributions = {{"scatter of the readings", u_ppm, Scope::independent}};
  if (plan.source_ppm && *plan.source_ppm > 0.0)
    f.contributions.push_back(
        {"accuracy of the source", u_rectangular(*plan.source_ppm), Scope::common});
  return f;
}

std::size_t AdjustState::bands_checked() const {
  std::vector<double> bands;
  for (const AdjustRow& row : rows)
    if (row.checked_ppm && std::find(bands.begin(), bands.end(), row.nominal_hz) == bands.end())
      bands.push_back(row.nominal_hz);
  return bands.size();
}

bool AdjustState::is_stepped() const {
  return std::any_of(rows.begin(), rows.end(), [](const AdjustRow& r) { return r.setting; });
}

std::optional<double> AdjustState::steps_off() const {
  if (!next || next->slope_hz_per_step == 0.0 || !plan.is_power_cycled || plan.is_shift_of_check)
    return std::nullopt;
  for (auto row = rows.rbegin(); row != rows.rend(); ++row)
    if (row->setting && row->adjusted_ppm && row->checked_ppm)
      return (to_hz(*row->checked_ppm - *row->adjusted_ppm) - plan.shift_hz) /
             next->slope_hz_per_step;
  return std::nullopt;
}

double AdjustState::tolerance_hz() const {
  return to_hz(plan.limit ? plan.limit->value : kUsualTolerancePpm);
}

AdjustState adjust_state(const Evidence& evidence) {
  AdjustState s;
  s.plan = adjust_plan(evidence);
  for (const EvidenceStep& step : evidence.steps) s.rows.push_back(row_of(step, s.plan));
  if (!s.plan.nominal_hz) return s;
  DriftReference reference;
  reference.nominal_hz = s.plan.nominal_hz;
  // What is typed here is before and after, not a record.
  reference.reads_typed = false;
  s.record = drift_record(evidence, reference);
  s.hands = watch_hands(s.record.samples, s.record.events);
  take_shift_of_check(s);
  find_errors(s);
  find_next_setting(s);
  return s;
}

}  // namespace heron
