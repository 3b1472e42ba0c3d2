#pragma once

#include <string>

#include "store/shack.h"

namespace heron::demo {

/// Godwit, band by band: one is deaf, one is too weak, one too close to call.
void add_sensitivity(Shack& shack, Id evaluation, const std::string& at);

/// The same before its overhaul, by ear.
void add_survey(Shack& shack, Id evaluation, const std::string& at);

/// Its gain to the IF, one band repeated 10 dB lower.
void add_conversion(Shack& shack, Id evaluation, const std::string& at);

/// All of it a band a row, with what the bands share.
void add_receiver_grid(Shack& shack, Id evaluation);

/// A transceiver’s generous indicator, on three bands.
void add_indicator(Shack& shack, Id evaluation, const std::string& at);
/// Where an old receiver shows S9 on each band; one band is left.
void add_old_indicator(Shack& shack, Id evaluation, const std::string& at);

}  // namespace heron::demo
