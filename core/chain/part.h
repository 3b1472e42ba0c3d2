#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/chain/calibration.h"
#include "core/chain/thermal.h"
#include "core/chain/touchstone.h"

namespace heron {

/// One piece of a hook-up as seen from its input.
struct Part {
  std::string name;
  std::string kind = "adapter";  ///< one of part_kinds()
  Gain gain;
  bool is_gain_known = true;   ///< false: nobody has said; nothing is worked out through it
  double u_db = 0.0;           ///< standard uncertainty of the gain, on the day of calibration
  double u_age_db = 0.0;       ///< what its age has added since; see aged()
  std::optional<double> vswr;  ///< at both ports
  std::optional<Touchstone> network;
  std::optional<double> max_input_w;  ///< continuous, average power
  std::optional<double> time_constant_s;
  std::optional<double> max_input_dbm;  ///< absolute, peak envelope
  std::optional<std::pair<double, double>> best_input_dbm;
  std::optional<double> full_scale_dbm;  ///< of a recorder's input
  std::optional<double> linearity_u_db;  ///< how far a recorder's scale may bend between two lines
  Calibration calibration;
  std::string bench_id;  ///< which thing on the bench it is; empty = described only here

  /// Whether anything says what it stands.
  bool is_rated() const { return max_input_w || max_input_dbm; }
  std::optional<double> input_vswr(double frequency_hz) const;
  std::optional<double> output_vswr(double frequency_hz) const;
};

/// A part as it is in a system of `ohm`: itself, or a copy whose network is converted to it.
class PartInSystem {
 public:
  PartInSystem(const Part& part, double ohm);
  PartInSystem(const PartInSystem&) = delete;
  PartInSystem& operator=(const PartInSystem&) = delete;
  const Part& operator*() const { return converted_ ? *converted_ : part_; }

 private:
  const Part& part_;
  std::optional<Part> converted_;
};

/// However short, no more than this times a part's average rating where no peak one is stated.
inline constexpr double kPeakOverAverage = 10.0;

/// What its input stands for a moment, peak envelope: as stated, else ten times its average rating;
/// nullopt if it has none.
std::optional<double> peak_rating_dbm(const Part& part);

struct PartKind {
  std::string id;
  bool is_passive;  ///< cannot have gain
  bool ends_chain;  ///< an instrument's input, or a device that is driven
};
const std::vector<PartKind>& part_kinds();
const PartKind* find_part_kind(const std::string& id);  ///< nullptr if unknown

/// What a person must mend before the part can be used; InputError naming part and field.
void check_part(const Part& part);

}  // namespace heron
