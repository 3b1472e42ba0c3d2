#pragma once

#include "core/method/method.h"

namespace heron {

/// What an instrument showed as the reading of a field: of a power meter the level at the device,
/// through the hook-up, with the uncertainty of both. InputError outside a part's table, or where
/// a part's loss is not known.
Reading reading_of_field(const TypedField& field, const Reading& shown,
                         const std::optional<Chain>& hookup, double frequency_hz);

/// A level that an instrument at the end of the hook-up showed, as it is at the device.
/// `usual_u_db`: of an instrument of which the hook-up states none. InputError as above.
void refer_to_device(Reading& level, const std::optional<Chain>& hookup, double frequency_hz,
                     double usual_u_db);

/// The fields of a method that an instrument shows at a time of its step.
std::vector<const TypedField*> live_fields(const Method& method, ReadingRole role,
                                           const nlohmann::json& settings);

/// Where a step is read: its own frequency, else the planned one; nullopt = neither is known.
std::optional<double> step_frequency_hz(const EvidenceStep& step,
                                        const std::optional<Drive>& drive);

}  // namespace heron
