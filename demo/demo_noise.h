#pragma once

#include <string>

#include "store/shack.h"

namespace heron::demo {

/// A synthesizer times four, recorded before and after its supply was filtered better, with an
/// analyser's spans beyond what the recorder reaches.
void add_phase_noise(Shack& shack, Id evaluation, const std::string& at);

/// The same over its charge-pump current, as tables, with the unmodified state beside them.
void add_noise_family(Shack& shack, Id evaluation, const std::string& at);

/// Its loop, as built and with another filter tried.
void add_loop(Shack& shack, Id evaluation);

/// What its noise does to a weak signal beside a strong one.
void add_reciprocal(Shack& shack, Id evaluation);

}  // namespace heron::demo
