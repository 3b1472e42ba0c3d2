#pragma once

#include <optional>
#include <vector>

#include "core/chain/chain.h"
#include "core/judge/remark.h"
#include "core/quantity/figure.h"

namespace heron {

/// Standard uncertainty that is taken where nobody has said how good an instrument is: 0.5 dB as a
/// 95 % interval, between lines and of its level alike.
inline constexpr double kAssumedU = 0.25;
/// What an absolute level carries where nobody has said how good the recorder's scale is.
inline constexpr const char* kAssumedLevel = "recorder level, assumed";

/// How far a recorder's or analyser's scale may bend between two lines of one record.
struct RecorderLinearity {
  double u_db = kAssumedU;
  bool is_assumed = true;
  bool is_left_out = false;  ///< somebody stated 0

  Contribution contribution() const;
};

/// As stated (0 leaves it out), else what the instrument at the end of the hook-up states, else
/// assumed. `chain` = nullptr: no hook-up.
RecorderLinearity recorder_linearity(const std::optional<double>& stated_u_db, const Chain* chain);
/// Says what is assumed or left out; nothing where it is known.
void add_linearity_remark(std::vector<Remark>& remarks, const RecorderLinearity& linearity,
                          bool has_hookup);
}  // namespace heron
