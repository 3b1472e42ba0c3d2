#pragma once

#include "instrument/rf_guard.h"
#include "instrument/run_plan.h"

namespace heron {

/// Samples of one step, RF on, into `taken`. `speed` is how much faster than the clock the bench
/// lives. InstrumentError if they do not come as asked for.
void take_samples(const RunPlan& plan, const RunStep& step, ScpiSession& sampler, TakenStep& taken,
                  RfGuard& guard, double speed);
/// The same of a sweep; InputError if there is no analyser.
void take_sweep(const RunStep& step, ScpiSession* analyser, TakenStep& taken, RfGuard& guard,
                double speed);

}  // namespace heron
