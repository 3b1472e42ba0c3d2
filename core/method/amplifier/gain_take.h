#pragma once

#include <vector>

#include "core/method/amplifier/gain_settings.h"
#include "core/method/evidence.h"

namespace heron {

inline constexpr double kLevelU = 0.1;  ///< dB: a hand-held power meter, a coupler
inline constexpr const char* kDriveReading = "drive";
inline constexpr const char* kOutputReading = "output";
inline constexpr const char* kSecondReading = "second_output";
inline constexpr const char* kSecondHarmonic = "second_harmonic";
inline constexpr const char* kThirdHarmonic = "third_harmonic";
inline constexpr const char* kFrequencyCondition = "frequency";
inline constexpr const char* kKeyDownCondition = "key_down";
inline constexpr const char* kRestCondition = "rest";

/// The steps of a test as the assessment wants them: typed levels referred to the device through
/// the hook-up where they were read at its end.
std::vector<DrivenStep> driven_steps(const Evidence& evidence);

/// What the instrument at the end of the hook-up shows for an output at the device, in its own
/// unit: "141 mV RMS"; empty where the hook-up does not say. Zero probe and offset are none.
std::string shown_words(double output_dbm, const Evidence& evidence, double frequency_hz);

/// Why what was typed of a step cannot be referred to the device: no hook-up, or one that does not
/// say its loss there; empty if it can, or was read at the device.
std::string step_refusal(const EvidenceStep& step, const Evidence& evidence,
                         const GainSettings& settings);

/// Drive and output of a step, the role of the drive before or after, as figures at the device.
std::optional<Figure> drive_figure(const EvidenceStep& step, ReadingRole role,
                                   const Evidence& evidence, const GainSettings& settings);
std::optional<Figure> output_figure(const EvidenceStep& step, const Evidence& evidence,
                                    const GainSettings& settings);
/// Volts or amperes of a step: the mean of what was read before, at and after.
std::optional<Figure> mean_figure(const EvidenceStep& step, const char* quantity,
                                  const char* label);

}  // namespace heron
