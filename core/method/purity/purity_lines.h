#pragma once

#include <optional>
#include <vector>

#include "core/method/purity/purity.h"

namespace heron {

/// How one source's levels become levels at the device and relative to a carrier.
struct PurityScale {
  const PuritySource* source = nullptr;
  const Chain* chain = nullptr;            ///< nullptr: no hook-up
  const PurityReading* carrier = nullptr;  ///< what its levels are relative to; nullptr: nothing
  const Chain* carrier_chain = nullptr;    ///< what that was read through
  bool is_own_carrier = false;
  bool is_power_given = false;  ///< relative to a stated power instead
  double reference_dbm = 0.0;   ///< the carrier at the device, on the scale of the readings
  bool can_refer() const { return carrier != nullptr || is_power_given; }
  double carrier_width_hz() const;            ///< nearer to a carrier nothing else is told from it
  double loss_db(double frequency_hz) const;  ///< InputError outside a part's table
  std::optional<double> sees_from_dbc(double frequency_hz) const;
};

/// One for each source. Levels are relative to the carrier of the same capture, else to that of
/// another on the same scale; `joint` is the strongest of all.
std::vector<PurityScale> purity_scales(const std::vector<PuritySource>& sources,
                                       const PuritySettings& settings, const PuritySource& joint,
                                       const PurityReading& joint_carrier);

/// Everything that the sources read except their carriers, each place once. What one saw another
/// cannot take away, unless it could have seen it and the first may have made it itself. Remarks on
/// places where two that could see do not agree.
std::vector<PurityLine> merged_lines(const std::vector<PurityScale>& scales,
                                     const PuritySettings& settings, double carrier_hz,
                                     std::vector<Remark>& remarks);

/// What a figure of this line is uncertain by, when so much of the carrier's own level is in what
/// it is compared with: 1 for a ratio, 0 for a level in dBm.
std::vector<Contribution> line_contributions(const PurityLine& line, double carrier_share);

}  // namespace heron
