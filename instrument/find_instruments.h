#pragma once

#include <stop_token>
#include <string>
#include <vector>

#include "core/progress.h"

namespace heron {

/// Something that says who it is.
struct FoundInstrument {
  std::string address;  ///< as parse_address takes it
  std::string identity;
};

/// Where instruments may be on this computer: ports 5025 to 5044 of its own (where programs speak
/// for some), and each serial port at the two usual speeds.
std::vector<std::string> local_addresses();

/// Asks each of them *IDN?, and nothing else; those that answer in half a second. A port that
/// answers at one speed is not asked at another. Throws Cancelled.
std::vector<FoundInstrument> find_instruments(const std::vector<std::string>& addresses,
                                              const Progress& progress,
                                              const std::stop_token& stop);

}  // namespace heron
