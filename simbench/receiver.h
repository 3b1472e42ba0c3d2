#pragma once

#include <optional>
#include <utility>
#include <vector>

namespace heron::sim {

/// A receiver with its bands, as it is built. Levels are in 50 ohm at its antenna socket, PD.
struct ReceiverDesign {
  struct Band {
    double low_hz = 0.0;
    double high_hz = 0.0;
    double noise_figure_db = 10.0;  ///< in the middle
    double gain_db = 0.0;           ///< of its front end, over the others'
    double edge_db = 1.0;           ///< what its front-end filter loses at its edges
    bool is_dead = false;
  };
  struct Birdie {
    double hz = 0.0;
    double dbm = 0.0;  ///< as a signal at the input would be
  };
  std::vector<Band> bands = {
      {1.8e6, 2.0e6, 12.1},          {3.5e6, 3.8e6, 10.9, 0.5},      {7.0e6, 7.2e6, 10.1, 1.0},
      {10.1e6, 10.15e6, 11.6},       {14.0e6, 14.35e6, 9.5, 1.5},    {18.068e6, 18.168e6, 10.4},
      {21.0e6, 21.45e6, 11.0, -1.0}, {24.89e6, 24.99e6, 19.6, -8.0}, {28.0e6, 29.7e6, 16.9, -5.0}};
  std::vector<Birdie> birdies = {{10.1213e6, -121.0}};
  std::pair<double, double> audio_hz = {300.0, 2700.0};
  double skirt_db_per_octave = 60.0;  ///< of the filter, beyond its edges
  double reference_ppm = 0.0;
  double noise_v = 0.05;  ///< RMS of the audio from a noise figure of 10 dB, volume as it stands
  double clips_v = 1.5;   ///< RMS
  double agc_from_dbm = -70;  ///< at the input
  double agc_slope = 0.05;    ///< dB of audio for each dB beyond that
  double s9_dbm = -78.4;      ///< 50 uV would be -73
  /// Of each S unit from S8-S9 down to S0-S1.
  std::vector<double> unit_db = {4.1, 4.0, 3.8, 3.6, 3.4, 3.2, 3.0, 2.9, 2.8};
  double over_nine = 0.8;  ///< dB shown for each dB over S9
  bool is_am = false;      ///< switched to AM
  double if_hz = 9e6;
  double if_gain_db = 36.0;   ///< from the input to a socket at its IF, AGC off
  double if_most_dbm = 10.0;  ///< there: beyond it nothing follows
  double probe_db = 0.0;      ///< that a probe takes off there

  bool operator==(const ReceiverDesign&) const;
};

/// What comes out of it. It is a superheterodyne in upper sideband: a carrier above the dial is a
/// tone of the difference. In AM it receives twice as wide: S/N = m² C / (2 W N0).
class Receiver {
 public:
  explicit Receiver(ReceiverDesign design) : design_(std::move(design)) {}
  const ReceiverDesign& design() const { return design_; }
  void tune(double dial_hz) { dial_hz_ = dial_hz; }
  double dial_hz() const { return dial_hz_; }
  double bandwidth_hz() const { return design_.audio_hz.second - design_.audio_hz.first; }

  struct Signal {
    double hz = 0.0;
    double dbm = 0.0;
    double am_depth = 0.0;  ///< 0 to 1
    double am_tone_hz = 1000.0;
  };
  /// RMS volts of what does not repeat and of what does; the tone's pitch.
  struct Audio {
    double noise_v = 0.0;
    double tone_v = 0.0;
    double tone_hz = 0.0;  ///< of the strongest tone; 0 = none
  };
  Audio audio(const std::optional<Signal>& signal) const;
  /// S units up to 9, then 9 and each 6 dB shown beyond as one more.
  double indicated(const std::optional<Signal>& signal) const;
  /// What a meter behind the probe shows of its IF: the carrier, and with it the noise, dBm.
  double at_if_dbm(const std::optional<Signal>& signal) const;
  double if_noise_dbm() const;
  /// Level at the input in the passband that its own noise comes to, dBm.
  double noise_dbm() const;

 private:
  const ReceiverDesign::Band* band() const;
  /// Of its front end, at a frequency; 0 in the middle of a band.
  double front_end_loss_db(double hz) const;
  /// What is left of a carrier behind the filter, dB.
  double passed_db(double hz) const;
  double pitch_hz(double hz) const;
  ReceiverDesign design_;
  double dial_hz_ = 14.199e6;
};

}  // namespace heron::sim
