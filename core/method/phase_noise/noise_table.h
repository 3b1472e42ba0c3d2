#pragma once

#include "core/csv_table.h"
#include "core/method/phase_noise/noise_curve.h"

namespace heron {

/// Whether a file of columns is a phase-noise curve: it has a column of offsets.
bool is_noise_table(const CsvTable& table);
/// A curve as a file has it: `offset_hz` (or kHz, MHz), `l_dbc_hz`, and `u_db` if it knows it.
/// InputError with the line: columns missing, offsets that do not rise, no numbers.
NoiseCurve noise_of_table(const CsvTable& table);

}  // namespace heron
