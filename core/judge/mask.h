#pragma once

#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace heron {

/// Attenuation below the carrier that grows with its power: a + b lg(P / 1 W) dB, no more than
/// `at_most` where that is given.
struct PowerFormula {
  double a = 43.0;
  double b_log_watt = 10.0;
  std::optional<double> at_most;
  double attenuation_db(double carrier_watt) const;
};

/// What is allowed between two frequencies: exactly one of the three.
struct MaskSegment {
  double from_hz = 0.0;
  double to_hz = 0.0;
  bool is_offset = false;  ///< both count from the carrier, on either side
  std::optional<double> limit_dbc;
  std::optional<double> limit_dbm;
  std::optional<PowerFormula> formula;
};

/// Limits of unwanted emissions over frequency, kept as data so that everybody's own rules fit.
struct Mask {
  std::string name;
  std::string note;
  std::vector<MaskSegment> segments;

  bool is_none() const { return segments.empty(); }
  /// Whether a limit in it cannot be told without the carrier's power.
  bool needs_power() const;
};

/// The carrier that a mask is applied to.
struct CarrierPower {
  double frequency_hz = 0.0;
  std::optional<double> dbm;  ///< unknown where levels are only relative
};

/// One limit at a frequency.
struct MaskLimit {
  double dbc = 0.0;  ///< for this carrier
  /// How much of the carrier's own level is in it: 1 of a ratio, 0 of a limit in dBm, between them
  /// where attenuation grows with power.
  double carrier_share = 1.0;
};
struct MaskLimits {
  std::vector<MaskLimit> known;  ///< every one of them holds
  bool needs_power = false;      ///< another one cannot be told: the carrier's power is unknown
};
MaskLimits mask_limits(const Mask& mask, const CarrierPower& carrier, double frequency_hz);

/// The strictest limit at a frequency, dB re carrier; nullopt where nothing is said or the power
/// it depends on is unknown.
std::optional<double> mask_limit_dbc(const Mask& mask, const CarrierPower& carrier,
                                     double frequency_hz);

/// Where the limit is the same over a stretch.
struct MaskStep {
  double from_hz = 0.0;
  double to_hz = 0.0;
  double limit_dbc = 0.0;
};
/// The mask between two frequencies as steps from low to high; gaps where nothing is said.
std::vector<MaskStep> mask_steps(const Mask& mask, const CarrierPower& carrier, double from_hz,
                                 double to_hz);

/// Attenuation 43 + 10 lg P, or 50 dB (carrier below 30 MHz) or 70 dB (above), whichever is less
/// (ITU-R SM.329, amateur stations), from 9 kHz to the tenth harmonic. The carrier's band decides
/// between the two.
Mask generic_mask(double carrier_hz);

/// Closer to the carrier than this, other limits than those for spurious emissions may apply:
/// 2.5 times the band's lower threshold of necessary bandwidth (ITU-R SM.1539).
double spurious_domain_hz(double carrier_hz);

/// A mask file; InputError naming the place of what is wrong in it.
Mask parse_mask(std::string_view text, const std::string& subject);
nlohmann::json to_json(const Mask& mask);

inline constexpr const char* kOwnLicence = "check the rules of your own licence";

}  // namespace heron
