#pragma once

#include "core/method/evidence.h"
#include "core/method/result.h"

namespace heron {

/// Products over output power at the device, judged by their worst at each step (IEC 60244 and
/// ITU-R SM.326 speak of the same products). Levels in dB re PEP or re one tone, outputs in dBm
/// PEP. Example: two tones of -6 dBFS and a product of -36 dBFS are -30 dB re one tone, -36.02 dB
/// re PEP.
Result evaluate_two_tone(const Evidence& evidence);

/// The ceiling at which what is driven gives an output, dBm PEP; InputError outside of what was
/// measured.
SettingProposal ceiling_for(const Evidence& evidence, double wanted_dbm);

/// The highest output at which no product passes the limit; nullopt without a limit, or where none
/// is known to keep to it.
std::optional<Figure> linear_output_of_two_tone(const Evidence& evidence);

}  // namespace heron
