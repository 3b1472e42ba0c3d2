/// What the meters of an amateur's bench are good for when nothing else is known: standard
/// uncertainties.
#pragma once

namespace heron {

inline constexpr double kPowerMeterU = 0.1;  ///< dB: a hand-held power meter, some 5 % either way
inline constexpr double kVoltsU = 0.005;     ///< of the reading
inline constexpr double kAmperesU = 0.01;    ///< of the reading

}  // namespace heron
