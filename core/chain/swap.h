#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/chain/chain.h"

namespace heron {

/// A change of the chain that mends what is wrong with its levels.
struct ChainSwap {
  Chain chain;            ///< as it would be
  std::size_t first = 0;  ///< the first part that differs
  bool is_added = false;  ///< a part more, not one for another
  std::string taken_out;  ///< empty if only added
  std::string put_in;
  double end_level_dbm = 0;  ///< PEP at the chain's end
  std::string sentence;      ///< "Swap the 20 dB pad for the 30 dB pad: the sampler lands …"
};

/// The best single change with parts from the bench: one attenuator for another, or one more behind
/// the first part. Only if it makes an unsafe chain safe for the drive, or brings the end into its
/// best window. Parts already in the chain and those without a place at this frequency are left
/// out.
std::optional<ChainSwap> suggest_swap(const Chain& chain, const Drive& drive,
                                      const std::vector<Part>& bench);

}  // namespace heron
