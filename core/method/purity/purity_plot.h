#pragma once

#include "core/method/purity/purity.h"

namespace heron {

/// Lines at the device re carrier over a logarithmic frequency axis, with the mask that they are
/// judged by; each marked with where it was read before the hook-up was taken into account.
/// nullopt: nothing can be assessed yet, as `empty_words` say.
Plot purity_plot(const std::optional<PurityAnalysis>& analysis, const Mask& mask, double carrier_hz,
                 const std::string& empty_words);

/// The filters that would help, the least that is enough first; nullopt if nothing has to come
/// down.
std::optional<ProposalCard> filter_card(const PurityAnalysis& analysis);

}  // namespace heron
