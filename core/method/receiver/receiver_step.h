#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/error.h"
#include "core/method/method.h"
#include "core/quantity/figure.h"

namespace heron {

inline constexpr const char* kReceiverFrequency = "frequency";

/// What the name of a step says beside its band: "14.2 MHz", "14.2 MHz, noise" (a recording without
/// the signal), "14.2 MHz, after" (once more, after something was moved).
struct ReceiverStepName {
  std::string band;
  bool is_noise = false;
  bool is_after = false;
};
ReceiverStepName receiver_step_name(const std::string& label);

/// Its own condition, else what its name says.
std::optional<double> receiver_frequency_hz(const EvidenceStep& step);

/// A level of the generator as it arrives at the receiver: through the hook-up, where there is one,
/// with what that adds. InputError where it is not known there, or the frequency is not.
Figure at_receiver(Figure generator, const Evidence& evidence, std::optional<double> frequency_hz);

/// Why a step has no level at the receiver, as `at_receiver` said.
Remark unknown_way(const std::string& step, const InputError& error);

/// What the path takes away, dB; 0 where that is not known: the figure refuses it, with its reason.
double generator_over_receiver_db(const Evidence& evidence, double frequency_hz);

/// "0.63" of a level in 50 ohm, PD: two digits say as much as is known.
std::string microvolt_text(double level_dbm);

/// The bands that are usually gone through.
StepPlan plan_receiver_bands(const Evidence& evidence);

}  // namespace heron
