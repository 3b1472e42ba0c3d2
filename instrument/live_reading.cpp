#include "instrument/live_reading.h"

#include <algorithm>
#include <array>
#include <ctime>
#include <fmt/chrono.h>

#include "core/method/live_quantity.h"

namespace heron {

std::span<const LiveSource> live_sources() {
  static constexpr std::array<LiveSource, 5> all{{{kPowerMeter, Role::power_meter, "read"},
                                                  {kSupplyVoltage, Role::supply, "read_voltage"},
                                                  {kSupplyCurrent, Role::supply, "read_current"},
                                                  {kTemperature, Role::thermometer, "read"},
                                                  {kCountedFrequency, Role::counter, "read"}}};
  return all;
}

const LiveSource* find_live_source(std::string_view quantity) {
  const auto all = live_sources();
  const auto found = std::find_if(all.begin(), all.end(),
                                  [&](const LiveSource& s) { return s.quantity == quantity; });
  return found == all.end() ? nullptr : &*found;
}

Reading live_reading(std::string_view quantity, double value, const std::string& instrument) {
  Reading r;
  r.quantity = quantity;
  r.value = value;
  for (const LiveQuantity& q : live_quantities()) {
    if (q.id == quantity) r.unit = q.unit;
  }
  r.source = ReadingSource::live;
  r.instrument = instrument;
  r.at = fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(std::time(nullptr)));
  return r;
}

}  // namespace heron
