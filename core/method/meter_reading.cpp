#include "core/method/meter_reading.h"

#include <cmath>

#include "core/method/live_quantity.h"

namespace heron {

Reading reading_of_field(const TypedField& field, const Reading& shown,
                         const std::optional<Chain>& hookup, double frequency_hz) {
  Reading r = shown;
  r.quantity = field.quantity;
  r.unit = field.unit;
  r.convention = field.convention;
  r.role = field.role;
  r.source = ReadingSource::live;
  r.u = std::hypot(field.u, field.u_relative * std::abs(r.value));
  if (field.live == kPowerMeter) refer_to_device(r, hookup, frequency_hz, field.u);
  return r;
}

void refer_to_device(Reading& r, const std::optional<Chain>& hookup, double frequency_hz,
                     double usual_u_db) {
  r.u = usual_u_db;
  if (!hookup || hookup->parts.empty()) return;
  // Refuses a hook-up of which a part's loss is not known.
  const ChainResult path = evaluate_chain(*hookup, {r.value, false, frequency_hz, std::nullopt});
  r.value -= path.total_gain_db;
  double variance = 0.0;
  for (const Contribution& c : path.contributions) variance += c.u * c.u;
  // A meter whose own uncertainty is stated is in the chain with it; else it has the usual one.
  const Part* meter = recorder_of(*hookup);
  if (meter == nullptr || meter->u_db == 0.0) variance += usual_u_db * usual_u_db;
  r.u = std::sqrt(variance);
}

std::vector<const TypedField*> live_fields(const Method& method, ReadingRole role,
                                           const nlohmann::json& settings) {
  std::vector<const TypedField*> fields;
  for (const TypedField& f : method.fields) {
    const bool is_asked = method.bare_unit == nullptr || !method.bare_unit(f, settings).empty();
    if (!f.live.empty() && f.role == role && is_asked) fields.push_back(&f);
  }
  return fields;
}

std::optional<double> step_frequency_hz(const EvidenceStep& step,
                                        const std::optional<Drive>& drive) {
  if (const Condition* own = find_condition(step.conditions, "frequency")) return own->value;
  return drive ? std::optional(drive->frequency_hz) : std::nullopt;
}

}  // namespace heron
