#pragma once

#include <algorithm>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace heron {

/// What instruments do at each step of a test: what is played, how much longer than planned power
/// may peak, and how long is recorded.
struct RunRecipe {
  /// nothing: the device runs by itself and is only listened to.
  enum class Stimulus { notched_noise, speech_noise, tone, two_tones, carrier, nothing };
  Stimulus stimulus = Stimulus::notched_noise;
  std::pair<double, double> band_hz = {};
  std::pair<double, double> notch_hz = {};
  double tone_hz = 0.0;                                              ///< of audio
  std::optional<std::pair<double, double>> tones_hz = std::nullopt;  ///< of audio; else the usual
  double over_plan_db = 0.5;  ///< PEP above the planned one at which RF goes off
  double length_s = 4.0;
  double rate_hz = 48000.0;
  /// Steps are places on the radio frequency axis that their names say, all at the planned drive.
  bool is_over_places = false;
  /// Steps are drives that their names say, from low to high; one tone finds the highest of them.
  bool is_over_drives = false;
  std::optional<double> most_output_dbm = std::nullopt;  ///< that somebody allows, PEP
  /// Of a device that runs by itself: how far from the middle of what is sampled it stands.
  double aside_hz = 0.0;
  /// A step that says a span, such as "after, 100 kHz", is taken with an analyser: points of its
  /// sweep, and how many are averaged.
  std::size_t span_points = 0;
  int span_averages = 1;
  /// What an analyser could sweep over instead, in one step.
  std::optional<std::pair<double, double>> sweep_hz = std::nullopt;
  /// What is read of each step where nothing is recorded: steps are drives of the device, which
  /// their names say; one whose name says none stands without drive.
  struct Levels {
    std::string output;                  ///< reading that is kept: level at the device
    std::string drive;                   ///< reading of what goes into it, before and after
    std::string key_down;                ///< condition: how long it was keyed
    std::string rest;                    ///< condition: how long it had to cool before
    std::vector<std::string> harmonics;  ///< readings of the 2nd, 3rd, ..., dBc; empty = not read
    /// Drive over the generator's level; nullopt = read with the device bypassed, before and after.
    std::optional<double> drive_over_generator_db = std::nullopt;
    double bypass_loss_db = 0.0;  ///< of what stands for the device meanwhile
    double u_db = 0.1;            ///< of a level, where the hook-up does not say the instrument's
  };
  std::optional<Levels> levels = std::nullopt;
  /// What is heard of a receiver at each step, or shown by it: the generator is the source, a
  /// voltmeter reads the audio without a signal, with one, and with half of its voltage.
  struct Listen {
    std::string input;  ///< readings that are kept: level of the generator, dBm
    std::string off;    ///< and the audio, dB re 1 V
    std::string on;
    std::string half;
    struct Place {
      double frequency_hz = 0.0;
      double first_dbm = -107.0;  ///< of the generator
      double most_dbm = -50.0;    ///< not heard even there: deaf
      bool is_noise = false;      ///< for a recording without the signal: nothing to listen to
      std::string shows = {};     ///< nothing is heard: its indicator is brought there, "S5"
      std::optional<double> shown = std::nullopt;  ///< in S units, over 9 one more each 6 dB
      std::string by_hand = {};  ///< what somebody has to do first: "switch in 20 dB"
    };
    std::vector<std::optional<Place>> places;  ///< one a step; nullopt = its frequency is not known
    int readings = 6;                          ///< of each
    std::string birdie = {};                   ///< condition: noise there over noise beside it, dB
    double beside_hz = 1000.0;                 ///< the dial stands so far below: the tone
    struct Modulation {
      double depth = 30.0;  ///< %
      double tone_hz = 1000.0;
    };
    std::optional<Modulation> am = std::nullopt;  ///< is switched instead of the carrier
    /// Not its audio is read but the level at its IF, at this level and at a lower one.
    struct IfLevels {
      std::string lower_input;  ///< readings that are kept, dBm; `input` and `on` are the first two
      std::string lower;
      double lower_db = 10.0;
      std::optional<double> if_hz = std::nullopt;  ///< by an analyser there; else by a power meter
      double probe_db = 0.0;                       ///< that a probe takes off before it
    };
    std::optional<IfLevels> at_if = std::nullopt;
    bool reads_indicator() const {
      return std::any_of(places.begin(), places.end(),
                         [](const auto& place) { return place && !place->shows.empty(); });
    }
  };
  std::optional<Listen> listen = std::nullopt;
  /// Whether somebody has to take the device out of the line, and put it back.
  bool bypasses_device() const { return levels && !levels->drive_over_generator_db; }
  nlohmann::json settings = {};  ///< all of the test's that such a sweep needs; null = as they are
  std::string refusal = {};      ///< why it cannot be run; empty = it can
  std::string what_to_do = {};
};

}  // namespace heron
