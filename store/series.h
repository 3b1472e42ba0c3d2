#pragma once

#include <vector>

#include "core/method/evidence.h"
#include "store/shack.h"

namespace heron {

/// Begins a log on a step, or keeps a whole one. Returns its id.
Id add_series(Shack& shack, Id step, const Series& series);
/// What was read since; on disk when this returns.
void append_samples(Shack& shack, Id series, const std::vector<Series::Sample>& samples);
/// Takes the last ones away again, at most so many; false if none is left.
bool drop_samples(Shack& shack, Id series, std::size_t most);
/// Those of a step that were not removed, with all their samples.
std::vector<SeriesPtr> series_of_step(const Shack& shack, Id step);
void set_series_removed(Shack& shack, Id id, bool removed);

}  // namespace heron
