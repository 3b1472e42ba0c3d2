#pragma once

namespace heron {

/// What levels of lines beside two tones are relative to (both named in ITU-R SM.326 usage).
inline constexpr const char* kReOneTone = "re one tone";
inline constexpr const char* kRePep = "re PEP";

}  // namespace heron
