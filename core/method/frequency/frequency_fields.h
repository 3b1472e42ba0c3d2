#pragma once

#include <optional>
#include <vector>

#include "core/method/frequency/drift_record.h"
#include "core/method/method.h"

namespace heron {

/// What the methods of this room ask for alike.

/// What a counter shows.
TypedField counted_field(ReadingRole role = ReadingRole::at, std::string_view head = "Counted",
                         std::string_view hint = "What the counter shows, every digit of it");

/// A limit in ppm, either way or at most; kept in ppm.
LimitField ppm_limit_field(std::string_view head, std::string_view hint, std::string_view example,
                           Sense sense = Sense::within);
/// The limit of a test, if it is one; nullopt in another unit.
std::optional<Limit> ppm_limit(const Evidence& evidence, Sense sense = Sense::within);
/// Says that a limit in another unit does not judge this; nullopt if there is none.
std::optional<Remark> other_limit_remark(const Evidence& evidence, const char* what);

/// Nominal frequency; counter, or the tone of a carrier in a sideband, and which tone is right.
std::vector<SettingField> reference_fields(std::string_view nominal_when_open);
DriftReference reference_from(const nlohmann::json& own);

/// How often a live log is read, and for how long.
std::vector<SettingField> log_fields(std::string_view usual_every, std::string_view usual_length);

}  // namespace heron
