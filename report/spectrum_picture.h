#pragma once

#include "core/judge/limit.h"
#include "core/method/two_tone/two_tone.h"
#include "report/document.h"

namespace heron {

/// The picture of one analysis in the given convention; the limit in its own.
SpectrumPicture spectrum_picture(const TwoToneAnalysis& analysis, const std::string& convention,
                                 const std::optional<Limit>& limit);

}  // namespace heron
