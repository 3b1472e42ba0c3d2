#pragma once

#include <vector>

#include "core/method/two_tone.h"

namespace heron {

/// What a product of exciter and amplifier together can be: both make their own, and how they add
/// depends on phases that nobody measured.
struct CascadedProduct {
  int order = 3;
  Side side = Side::lower;
  double exciter_dbc = 0.0;
  double amplifier_dbc = 0.0;
  double power_sum_dbc = 0.0;  ///< unrelated phases: expected
  double in_phase_dbc = 0.0;   ///< worst case: amplitudes add
  double opposed_dbc = 0.0;    ///< best case: amplitudes subtract; -300 where they cancel
  bool is_bound = false;       ///< one of the two was only an upper bound
};

/// The products that both recordings have, by order and side. Each is measured alone at the level
/// that it has in the pair, relative to one tone.
std::vector<CascadedProduct> predict_cascade(const TwoToneAnalysis& exciter,
                                             const TwoToneAnalysis& amplifier);

enum class CascadeFinding { within, above, below, unknown };

/// Where the measured pair lies against the band from opposed to in phase, with its uncertainty.
CascadeFinding compare_cascade(const CascadedProduct& predicted, const TwoToneAnalysis& pair,
                               double u_db);

}  // namespace heron
