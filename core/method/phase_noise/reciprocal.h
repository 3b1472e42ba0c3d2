#pragma once

#include <optional>

#include "core/method/phase_noise/noise_curve.h"

namespace heron {

/// A receiver that hears a weak signal beside a strong one, whose oscillator's noise falls into its
/// channel.
struct ReciprocalCase {
  double offset_hz = 20e3;
  double bandwidth_hz = 500.0;  ///< noise bandwidth
  double mds_dbm = -135.0;      ///< level that doubles its own noise
  std::optional<double> interferer_dbm = std::nullopt;
};

struct Reciprocal {
  double l_dbc_hz = 0.0;
  double u_db = 0.0;  ///< standard, of L
  Bound bound = Bound::none;
  double ratio_db = 0.0;  ///< from the strong signal to MDS at which its noise equals MDS
  double limit_interferer_dbm = 0.0;
  std::optional<double> noise_in_channel_dbm = std::nullopt;
  std::optional<double> desensitisation_db = std::nullopt;
};
/// Noise in the channel is P + L + 10 lg B: taken as flat over it. Example: L = -100 dBc/Hz, 500
/// Hz, MDS -135 dBm: -62 dBm, 73 dB. InputError where the curve does not reach the offset.
Reciprocal reciprocal_mixing(const NoiseCurve& curve, const ReciprocalCase& how);

/// Strong signal that costs so many dB there.
double interferer_for_loss(double l_dbc_hz, double bandwidth_hz, double mds_dbm, double loss_db);

}  // namespace heron
