#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/judge/verdict.h"
#include "core/method/two_tone/two_tone.h"

namespace heron {

/// Up to this order a ladder needs every product: an empty cell is not "no product".
inline constexpr int kHighestNeededOrder = 7;

/// One step of a ladder over drive, in any order.
struct LadderStep {
  std::string label;                          ///< "30 W"
  std::optional<Figure> output;               ///< at the device, dBm PEP; typed or measured
  const TwoToneAnalysis* analysis = nullptr;  ///< nullptr = not taken
};

struct LadderRow {
  std::string label;
  std::optional<double> output_dbm;
  std::optional<Figure> worst;  ///< in the limit's convention
  int worst_order = 0;
  int dominant_order = 0;  ///< among products that stand out of the noise; 0 = none
  Judgement judgement;
};

/// Where, between two neighbouring outputs, another order becomes the strongest.
struct DominanceChange {
  int from_order = 3;
  int to_order = 5;
  double lower_dbm = 0.0;
  double upper_dbm = 0.0;
  double crossing_dbm = 0.0;  ///< straight in dB over dB between the two steps
  double u_db = 0.0;          ///< of the crossing, from both products; at most half their distance
};

struct TwoToneLadder {
  std::vector<LadderRow> rows;            ///< in the order given
  std::optional<std::size_t> sweet_spot;  ///< highest output that passes the limit
  std::optional<std::size_t> quietest;    ///< lowest worst product
  std::vector<DominanceChange> dominance_changes;
  std::optional<Figure> oip3;       ///< only where IM3 follows the 3 dB law
  std::optional<double> im3_slope;  ///< dB of IM3 power per dB of tone power, low steps
  std::vector<Remark> remarks;
};

/// Methods for a ladder of recordings; the limit may be absent.
TwoToneLadder evaluate_ladder(const std::vector<LadderStep>& steps,
                              const std::optional<Limit>& limit);

/// Sampler self-test: the same signal again with `added_db` more attenuation. A product of the
/// device keeps its level relative to the tones; one made by the sampler falls.
struct SelfTestRow {
  std::string product;
  double change_db = 0.0;
  bool made_by_sampler = false;
};
std::vector<SelfTestRow> sampler_self_test(const TwoToneAnalysis& normal,
                                           const TwoToneAnalysis& attenuated, double added_db);

}  // namespace heron
