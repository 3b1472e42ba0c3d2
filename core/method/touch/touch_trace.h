#pragma once

#include "core/method/touch/touch_record.h"
#include "core/signal/trace_csv.h"

namespace heron {

/// One trace of an analyser round a carrier, as a first look: a single frame, relative to the
/// carrier. InputError where its filter is not known, no carrier stands out, or it stands at an
/// end.
TouchRecord touch_of_trace(const SpectrumTrace& trace);

}  // namespace heron
