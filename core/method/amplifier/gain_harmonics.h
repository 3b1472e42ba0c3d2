#pragma once

#include <optional>
#include <vector>

#include "core/method/amplifier/gain_case.h"
#include "core/method/result.h"

namespace heron {

/// One harmonic of a drive step against the mask at its output.
struct StepHarmonic {
  int order = 2;
  Figure level;                     ///< dB re carrier
  std::optional<double> limit_dbc;  ///< nullopt where the mask says nothing
  std::optional<Judgement> judgement;
};

/// Those that were read.
std::vector<StepHarmonic> harmonics_of(const DrivenRow& row, const GainCase& of);

/// Filters that would bring the harmonics of the worst step under the mask; nullopt if none has to
/// come down.
std::optional<ProposalCard> harmonic_filters(const GainCase& of);

}  // namespace heron
