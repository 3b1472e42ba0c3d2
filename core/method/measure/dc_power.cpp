#include "core/method/measure/dc_power.h"

#include <cmath>

#include "core/quantity/levels.h"

namespace heron {

double relative_u(const Figure& figure) {
  return figure.value != 0.0 ? figure.u() / std::abs(figure.value) : 0.0;
}

std::optional<Figure> dc_efficiency(const std::optional<Figure>& output,
                                    const std::optional<Figure>& volts,
                                    const std::optional<Figure>& amperes) {
  if (!output || !volts || !amperes) return std::nullopt;
  const double dc = volts->value * amperes->value;
  if (dc <= 0.0) return std::nullopt;
  Figure f;
  f.id = "efficiency";
  f.label = "Efficiency";
  f.unit = "%";
  f.value = 100.0 * to_watt(Dbm{output->value}).value / dc;
  const auto add = [&](const char* source, double relative) {
    if (relative > 0.0) f.contributions.push_back({source, f.value * relative, Scope::common});
  };
  add("output", output->u() / kDbPerRelativePower);
  add("supply volts", relative_u(*volts));
  add("supply amperes", relative_u(*amperes));
  return f;
}

std::optional<Limit> limit_in_dbm(const Limit& limit) {
  if (limit.unit == "dBm") return limit;
  if (limit.unit != "W" || limit.value <= 0.0 || limit.sense == Sense::within) return std::nullopt;
  Limit level = limit;
  level.value = to_dbm(Watt{limit.value}).value;
  level.unit = "dBm";
  return level;
}

}  // namespace heron
