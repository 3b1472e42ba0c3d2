#include "core/method/live_quantity.h"

#include <algorithm>
#include <array>

#include "core/quantity/format.h"

namespace heron {

std::span<const LiveQuantity> live_quantities() {
  static constexpr std::array<LiveQuantity, 7> all{{
      {kSupplyVoltage, "supply", "V", 2},
      {kSupplyCurrent, "supply", "A", 2},
      {kTemperature, "temperature", "\u00b0C", 1},
      {kPowerMeter, "power meter", "dBm", 2},
      {kCountedFrequency, "counter", "Hz", 1},
      {kHeardTone, "tone", "Hz", 2},
      {kGeneratorLevel, "generator", "dBm", 1},
  }};
  return all;
}

std::string live_readings_text(const std::vector<Reading>& readings) {
  std::string text;
  std::string_view last;
  for (const LiveQuantity& q : live_quantities()) {
    const auto found = std::find_if(readings.rbegin(), readings.rend(), [&](const Reading& r) {
      return r.source == ReadingSource::live && r.quantity == q.id;
    });
    if (found == readings.rend()) continue;
    if (!text.empty()) text += ", ";
    if (q.words != last) text += std::string(q.words) + " ";
    text += number_text(found->value, q.decimals) + " " + std::string(q.unit);
    last = q.words;
  }
  return text;
}

}  // namespace heron
