#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>

#include "core/method/method.h"
#include "core/method/method_table.h"
#include "core/method/usual_tests.h"

namespace heron {

/// What a line of a specification says of a characteristic; nullopt where no test of it is
/// judged.
std::optional<LimitField> spec_field(std::string_view characteristic);

/// What somebody typed of it: "at least 60 W", "60", "± 0.5 ppm". InputError if it is no limit of
/// that characteristic, or the wrong way round.
Limit spec_limit(std::string_view characteristic, const std::string& typed);
/// "at least 60 W", "at most −30 dB re PEP", "± 0.5 ppm"
std::string spec_text(const Limit& limit);

/// A figure that somebody else found, in the unit of the limits of its characteristic: "−52 dB re
/// one tone", "62 W"; `uncertainty` is its U, in the same unit ("1 dB"), or empty. InputError.
Figure spec_figure(std::string_view characteristic, const std::string& typed,
                   const std::string& uncertainty);

/// The characteristic that somebody means: by its name or the name of its test, or by how either
/// begins; nullptr if it is none, or more than one.
const Characteristic* named_characteristic(const std::string& typed);

/// A line that devices of a kind usually have, with a usual value: nobody's specification yet.
struct UsualLine {
  std::string_view characteristic;
  std::string_view limit;  ///< as it would be typed
  std::string_view condition;
};
std::span<const UsualLine> usual_lines(const DeviceKind& kind);

}  // namespace heron
