#include "core/quantity/levels.h"

#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace heron {

double db_from_power_ratio(double ratio) {
  return 10.0 * std::log10(ratio);
}
double power_ratio_from_db(double db) {
  return std::pow(10.0, db / 10.0);
}
double db_from_voltage_ratio(double ratio) {
  return 20.0 * std::log10(ratio);
}
double voltage_ratio_from_db(double db) {
  return std::pow(10.0, db / 20.0);
}

Dbm to_dbm(Watt power) {
  return Dbm{db_from_power_ratio(power.value / 1e-3)};
}
Watt to_watt(Dbm level) {
  return Watt{1e-3 * power_ratio_from_db(level.value)};
}
Watt to_watt(VoltPd pd, Ohm load) {
  return Watt{pd.value * pd.value / load.value};
}
VoltPd to_pd(Watt power, Ohm load) {
  return VoltPd{std::sqrt(power.value * load.value)};
}
VoltPd to_pd(VoltEmf emf) {
  return VoltPd{emf.value / 2.0};
}
VoltEmf to_emf(VoltPd pd) {
  return VoltEmf{2.0 * pd.value};
}
double peak_volts(VoltPd rms) {
  return std::numbers::sqrt2 * rms.value;
}
double peak_to_peak_volts(VoltPd rms) {
  return 2.0 * peak_volts(rms);
}
double dbuv(VoltPd rms) {
  return db_from_voltage_ratio(rms.value / 1e-6);
}

Dbm s9_level(SMeterRange range) {
  return Dbm{range == SMeterRange::hf ? -73.0 : -93.0};
}

Dbm from_s_units(double units, double db_over_s9, SMeterRange range) {
  return Dbm{s9_level(range).value + 6.0 * (units - 9.0) + db_over_s9};
}

std::string s_units_text(Dbm level, SMeterRange range) {
  const double over = level.value - s9_level(range).value;
  if (std::round(over * 10.0) > 0.0) return fmt::format("S9+{:.1f}", over);
  const double units = 9.0 + over / 6.0;
  return units < 0.0 ? "<S0" : fmt::format("S{:.1f}", units);
}

Db pep_over_one_tone(double amplitude_ratio) {
  const double mean_power = (1.0 + amplitude_ratio * amplitude_ratio) / 2.0;
  const double envelope = 1.0 + amplitude_ratio;
  return Db{db_from_power_ratio(envelope * envelope / mean_power)};
}
DbPep to_pep(DbOneTone level, Db pep_over_tone) {
  return DbPep{level.value - pep_over_tone.value};
}
DbOneTone to_one_tone(DbPep level, Db pep_over_tone) {
  return DbOneTone{level.value + pep_over_tone.value};
}

Db multiplication_penalty(double n) {
  return Db{db_from_voltage_ratio(n)};
}
Db probe_loss(double n) {
  return Db{db_from_voltage_ratio(n)};
}

}  // namespace heron
