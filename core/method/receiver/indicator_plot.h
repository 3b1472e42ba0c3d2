#pragma once

#include <string>
#include <vector>

#include "core/method/receiver/indicator_band.h"
#include "core/method/receiver/indicator_settings.h"
#include "core/method/result.h"

namespace heron {

/// What a reading is called by its row and its point.
std::string reading_mark(const IndicatorPoint& point);

/// What to do first.
Plot nothing_read_plot();

/// The scale of one band over level against the ideal, other bands behind it, and its errors below;
/// of segments where each lights and goes out.
Plot indicator_plot(const std::vector<BandScale>& bands, std::size_t which,
                    const IndicatorPlan& plan);

}  // namespace heron
