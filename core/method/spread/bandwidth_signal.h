#pragma once

#include "core/method/spread/bandwidth.h"

namespace heron {

/// Takes the line off that an I/Q recorder adds on its own centre, in every trace of the spectrum,
/// and says which share of the power it held; 0 where nothing stands out, or it is the signal.
double take_spike_off(Spectrum& spectrum);
void note_spike(std::vector<Remark>& remarks, double share);

/// Whether one signal is measured, and all of it: remarks, and the widths become bounds where it
/// goes on. `range` is what was looked at; `band` was found in it.
void add_signal_remarks(BandwidthAnalysis& analysis, const Spectrum& spectrum, double floor,
                        FrequencyRange range, const BandwidthSettings& settings);

}  // namespace heron
