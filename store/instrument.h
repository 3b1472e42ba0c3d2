#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "store/shack.h"

namespace heron {

/// Where an instrument that answers by itself is found; one for each role.
struct KnownInstrument {
  std::string role;      ///< id of a role: "sampler"
  std::string name;      ///< as the bench calls it
  std::string address;   ///< as it was typed
  std::string profile;   ///< text of its profile; empty = the generic one
  std::string identity;  ///< what it answered to *IDN? last
};

std::vector<KnownInstrument> known_instruments(const Shack& shack);
/// Replaces the one of the same role.
void keep_instrument(Shack& shack, const KnownInstrument& instrument);
void forget_instrument(Shack& shack, const std::string& role);

/// What this shack's simulated instruments are drawn from, always the same; drawn when first asked
/// for. A read-only shack that has none gets 1.
std::uint64_t simulation_seed(Shack& shack);
void set_simulation_seed(Shack& shack, std::uint64_t seed);

}  // namespace heron
