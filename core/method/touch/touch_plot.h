#pragma once

#include "core/judge/limit.h"
#include "core/method/result.h"
#include "core/method/touch/touch.h"

namespace heron {

/// Mean of both sidebands over time.
PlotPicture touch_picture(const TouchRecord& record, const TouchPlan& plan);

/// Spectra of an event and of hands off, over all of the recording with its events.
/// Another recording of the test, seen beside it.
struct TouchBeside {
  std::string name;
  const TouchRecord* record = nullptr;
};
Plot touch_plot(const TouchRecord& record, const TouchPlan& plan, const TouchTest& test,
                std::size_t chosen, const std::optional<Limit>& limit, const PlotPicture& picture,
                const std::vector<TouchBeside>& beside);
Plot empty_touch_plot(const TouchPlan& plan);

/// "dBc in 6 Hz" without its first word.
std::string touch_filter_words(const TouchBand& band);

}  // namespace heron
