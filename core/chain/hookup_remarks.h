#pragma once

#include <string>
#include <vector>

#include "core/chain/node_verdict.h"
#include "core/chain/swap.h"

namespace heron {

/// What is said of a hook-up while it is built: what its levels say, parts whose calibration is
/// overdue on that day (ISO) or that changed on the bench since, the ± of the level at its end, and
/// the swap that would mend it, first. `result` and `swap` may be null.
std::vector<Remark> hookup_remarks(const Chain& chain, const ChainResult* result,
                                   const std::vector<Part>& bench, const ChainSwap* swap,
                                   const std::string& on);
/// Whether one of its parts is another one on the bench by now.
bool differs_from_bench(const Chain& chain, const std::vector<Part>& bench);

/// What binds the chain, or what is missing to say so. `verdicts`: one a part.
std::string rating_sentence(const Chain& chain, const ChainResult& result,
                            const std::vector<NodeVerdict>& verdicts, const Drive& drive);

}  // namespace heron
