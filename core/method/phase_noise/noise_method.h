#pragma once

#include "core/method/method.h"

namespace heron {

const Method& phase_noise_method();

/// What every method of phase noise makes of a recording, a trace, or a table.
nlohmann::json take_noise(const CaptureOpener& open, const TakeContext& context,
                          const Progress& progress, const std::stop_token& stop);
nlohmann::json take_noise_trace(const SpectrumTrace& trace, const TakeContext& context);
nlohmann::json take_noise_table(const CsvTable& table, const TakeContext& context);

std::string noise_evidence_words(const Evidence& evidence);  ///< "3 recordings"

}  // namespace heron
