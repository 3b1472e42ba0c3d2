#include "instrument/role.h"

#include <algorithm>
#include <array>

namespace heron {
namespace {

using enum ReplyKind;

constexpr std::array<RoleCommand, 11> kGenerator{{
    {"output_on", none, true, "", "switch its output on"},
    {"output_off", none, true, "", "switch its output off"},
    {"is_output_on", yes_or_no, false, "", "whether its output is on"},
    {"set_level", none, true, "dbm v_rms v_emf", "set the level of its output"},
    {"set_frequency", none, false, "hz", "set its radio frequency"},
    {"set_modulation", none, false, "depth hz", "amplitude modulation, % and tone"},
    {"modulation_off", none, false, "", "leave the carrier alone"},
    {"set_tone", none, false, "hz", "one audio tone"},
    {"set_two_tone", none, false, "f1_hz f2_hz", "two equal audio tones"},
    {"set_notched_noise", none, false, "low_hz high_hz notch_low_hz notch_high_hz",
     "noise with a notch"},
    {"set_speech_noise", none, false, "low_hz high_hz", "speech-shaped noise"},
}};
constexpr std::array<RoleCommand, 6> kSampler{{
    {"set_center", none, true, "hz", "set the frequency at the middle"},
    {"set_rate", none, true, "hz", "set the sample rate"},
    {"set_frames", none, true, "frames", "set how many samples"},
    {"read", block, true, "", "take samples and send them"},
    {"full_scale", number, false, "", "level of a full-scale sinusoid, dBm"},
    {"is_over_range", yes_or_no, false, "", "whether the last samples were clipped"},
}};
constexpr std::array<RoleCommand, 6> kSpectrumAnalyser{{
    {"set_center", none, true, "hz", "set the middle frequency"},
    {"set_span", none, true, "hz", "set the span"},
    {"set_rbw", none, false, "hz", "set the resolution bandwidth, 3 dB"},
    {"set_points", none, false, "points", "set how many points"},
    {"read", numbers, true, "", "take a sweep, levels in dBm"},
    {"is_over_range", yes_or_no, false, "", "whether its input was overloaded"},
}};
constexpr std::array<RoleCommand, 2> kPowerMeter{{
    {"set_frequency", none, false, "hz", "set the frequency of its calibration"},
    {"read", number, true, "", "read the power, dBm"},
}};
constexpr std::array<RoleCommand, 2> kCounter{{
    {"set_gate", none, false, "seconds", "set the gate time"},
    {"read", number, true, "", "read the frequency, Hz"},
}};
constexpr std::array<RoleCommand, 1> kVoltmeter{{
    {"read", number, true, "", "read the RMS voltage, V"},
}};
constexpr std::array<RoleCommand, 6> kSupply{{
    {"output_on", none, true, "", "switch its output on"},
    {"output_off", none, true, "", "switch its output off"},
    {"set_voltage", none, false, "volt", "set the voltage"},
    {"set_current_limit", none, false, "ampere", "set the current limit"},
    {"read_voltage", number, true, "", "read the voltage, V"},
    {"read_current", number, true, "", "read the current, A"},
}};
constexpr std::array<RoleCommand, 1> kThermometer{{
    {"read", number, true, "", "read the temperature, \u00b0C"},
}};
constexpr std::array<RoleCommand, 2> kStepAttenuator{{
    {"set_attenuation", none, true, "db", "set the attenuation, dB"},
    {"read", number, false, "", "which attenuation is set, dB"},
}};

constexpr std::array<RoleKind, 9> kRoles{{
    {Role::generator, "generator", "Generator", true, kGenerator},
    {Role::sampler, "sampler", "Sampler", false, kSampler},
    {Role::spectrum_analyser, "spectrum_analyser", "Spectrum analyser", false, kSpectrumAnalyser},
    {Role::power_meter, "power_meter", "Power meter", false, kPowerMeter},
    {Role::counter, "counter", "Counter", false, kCounter},
    {Role::voltmeter, "voltmeter", "RMS voltmeter", false, kVoltmeter},
    {Role::supply, "supply", "Supply", false, kSupply},
    {Role::thermometer, "thermometer", "Thermometer", false, kThermometer},
    {Role::step_attenuator, "step_attenuator", "Step attenuator", false, kStepAttenuator},
}};

}  // namespace

const RoleCommand* RoleKind::find(std::string_view command) const {
  const auto found = std::find_if(commands.begin(), commands.end(),
                                  [&](const RoleCommand& c) { return c.id == command; });
  return found == commands.end() ? nullptr : &*found;
}

std::span<const RoleKind> role_kinds() {
  return kRoles;
}

const RoleKind& role_kind(Role role) {
  return *std::find_if(kRoles.begin(), kRoles.end(),
                       [&](const RoleKind& k) { return k.role == role; });
}

const RoleKind* find_role(std::string_view id) {
  const auto found =
      std::find_if(kRoles.begin(), kRoles.end(), [&](const RoleKind& k) { return k.id == id; });
  return found == kRoles.end() ? nullptr : &*found;
}

}  // namespace heron
