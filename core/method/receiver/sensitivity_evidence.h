#pragma once

#include <optional>

#include "core/method/evidence.h"
#include "core/method/receiver/receiver_audio.h"
#include "core/method/receiver/sensitivity.h"
#include "core/method/result.h"

namespace heron {

/// What was read on one band, over the mean of its noise: without the signal, with it, and with
/// half of its voltage, beside what a linear receiver would show then. nullopt where nothing was
/// read.
std::optional<PlotPanel> readings_panel(const EvidenceStep& step, const SensitivityReading& in,
                                        const SensitivityRow& row);

/// The same of two recordings: both spectra of the audio, over the middle of the noise.
PlotPanel audio_panel(const ReceiverAudio& noise, const ReceiverAudio& signal);

}  // namespace heron
