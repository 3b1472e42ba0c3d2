#pragma once

#include <chrono>
#include <mutex>
#include <optional>
#include <random>

#include "simbench/sim_config.h"

namespace heron::sim {

/// A ripple of the scale: so many dB times the cosine of 2 pi offset over period, plus phase.
struct Ripple {
  double amplitude_db = 0.0;
  double phase = 0.0;
};

/// Everything that the instruments of a simulated bench look at or change. It locks nothing:
/// whoever reads or writes it holds it (`SharedState`).
struct SimState {
  explicit SimState(SimConfig as_stated);

  /// Another hook-up between device and sampler. A part keeps its error wherever it stands.
  void set_chain(const Chain& chain);
  /// Keyed as long as audio comes in and the supply is on.
  void key();
  double true_gain_db(double frequency_hz) const;  ///< device to sampler and analyser
  /// How the scale of an instrument bends over a record there.
  Ripple ripple_of(const std::string& name, double frequency_hz) const;
  double output_w() const;  ///< mean, of the last device
  /// What drives the amplifier: the transmitter, or the generator itself at a radio frequency.
  double drive_w() const;
  double carrier_hz() const;
  /// What the generator puts into the receiver, through the chain.
  std::optional<Receiver::Signal> received() const;
  bool is_keyed() const;
  void live(double seconds);

  SimConfig config;
  SimTruth truth;
  std::mt19937_64 random;
  Transmitter device;
  std::optional<Amplifier> amplifier;
  std::optional<Oscillator> oscillator;
  std::optional<Synthesizer> synthesizer;  ///< in place of the transmitter
  std::optional<Receiver> receiver;
  AudioSignal audio;  ///< as the generator is set
  bool is_audio_on = false;
  std::optional<double> rf_hz;  ///< the generator is set to a radio frequency
  double am_depth = 0.0;        ///< of it, 0 to 1
  double am_tone_hz = 1000.0;
  bool is_bypassed = false;  ///< the amplifier stands out of the line
  bool is_supply_on = true;
  double attenuation_db = 0.0;  ///< of the step attenuator
  double loose_db = 0.0;        ///< every other look of the sampler loses so much
};

/// The state with its lock and its clock, shared by the threads of all instruments.
class SharedState {
 public:
  explicit SharedState(SimConfig config);

  /// The state, for as long as this lives.
  class Held {
   public:
    SimState* operator->() { return &shared_.state_; }
    SimState& operator*() { return shared_.state_; }
    double now_s() const { return shared_.lived_s_; }
    /// What was just read took so long.
    void pass(double seconds) { shared_.extra_s_ += seconds; }
    void set_time_factor(double factor);
    /// Lets others have it before this ends.
    void release() { lock_.unlock(); }

   private:
    friend class SharedState;
    explicit Held(SharedState& shared) : lock_(shared.mutex_), shared_(shared) {}
    std::unique_lock<std::mutex> lock_;
    SharedState& shared_;
  };

  Held held() { return Held(*this); }  ///< as it was last
  Held now();                          ///< caught up with the clock

 private:
  std::mutex mutex_;
  SimState state_;
  std::chrono::steady_clock::time_point started_;
  double time_factor_;
  double extra_s_ = 0.0;
  double lived_s_ = 0.0;
};

}  // namespace heron::sim
