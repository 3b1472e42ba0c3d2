#pragma once

#include "app/plot/ladder_plot.h"
#include "app/widget/verdict_card.h"
#include "core/method/two_tone/ladder_advice.h"
#include "store/two_tone.h"

namespace heron {

/// A two-tone test's ladder as a chart, in a convention, with one step chosen.
LadderPicture ladder_picture(const TwoToneTest& test, const QString& convention, int step,
                             bool can_edit);

/// What the ladder as a whole says, in the limit's convention.
LadderAdvice ladder_advice(const TwoToneTest& test);

/// The answer at one step, in a convention; `before` is a step it is compared with, -1 = none.
VerdictCardContent step_verdict(const TwoToneTest* test, int step, const QString& convention,
                                int before);

/// The answer at the chosen ceiling; nothing where none is set or it lies outside the steps.
std::optional<VerdictCardContent> ceiling_verdict(const TwoToneTest& test,
                                                  const QString& convention);

/// "Two products were typed …": the difference of two steps, with what both share taken out.
QString comparison_words(const TwoToneTest& test, int step, int before, const QString& convention);

}  // namespace heron
