#pragma once

#include <string>

#include "core/quantity/strong.h"

namespace heron {

/// A relative change of power dp/p is this many dB, to first order: d(10 lg p) = 4.343 dp/p.
inline constexpr double kDbPerRelativePower = 4.342944819;

inline constexpr Ohm kReferenceImpedance{50.0};

double db_from_power_ratio(double ratio);    ///< 10 lg ratio
double power_ratio_from_db(double db);       ///< inverse
double db_from_voltage_ratio(double ratio);  ///< 20 lg ratio
double voltage_ratio_from_db(double db);     ///< inverse

Dbm to_dbm(Watt power);
Watt to_watt(Dbm level);
/// P = V^2 / R, V in RMS volts at the terminals.
Watt to_watt(VoltPd pd, Ohm load = kReferenceImpedance);
VoltPd to_pd(Watt power, Ohm load = kReferenceImpedance);
/// Matched system: the terminals see half of the open-circuit voltage.
VoltPd to_pd(VoltEmf emf);
VoltEmf to_emf(VoltPd pd);
double peak_volts(VoltPd rms);  ///< of a sinusoid
double peak_to_peak_volts(VoltPd rms);
double dbuv(VoltPd rms);  ///< dB re 1 uV RMS

/// S units, IARU Region 1: S9 = -73 dBm below 30 MHz, -93 dBm above; 6 dB a unit.
enum class SMeterRange { hf, vhf };
Dbm s9_level(SMeterRange range);
Dbm from_s_units(double units, double db_over_s9, SMeterRange range = SMeterRange::hf);
/// "S7.3", "S9+12.0"; "<S0" below the scale.
std::string s_units_text(Dbm level, SMeterRange range = SMeterRange::hf);

/// Peak envelope power over one tone, for two tones of the given RMS amplitude ratio (>= 0);
/// 1 gives 6.02 dB. The reference "one tone" is the mean power of the two.
Db pep_over_one_tone(double amplitude_ratio);
DbPep to_pep(DbOneTone level, Db pep_over_tone);
DbOneTone to_one_tone(DbPep level, Db pep_over_tone);

/// Frequency multiplication by n raises phase noise by 20 lg n.
Db multiplication_penalty(double n);
/// An n:1 voltage probe is a loss of 20 lg n.
Db probe_loss(double n);

}  // namespace heron
