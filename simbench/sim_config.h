#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>

#include "core/chain/chain.h"
#include "simbench/amplifier.h"
#include "simbench/oscillator.h"
#include "simbench/receiver.h"
#include "simbench/synthesizer.h"
#include "simbench/transmitter.h"

namespace heron::sim {

/// What stands on the simulated bench and how it is connected.
struct SimConfig {
  std::uint64_t seed = 1;    ///< draws every instrument's error, once
  double time_factor = 1.0;  ///< how much faster than the wall clock it lives
  TransmitterDesign transmitter;
  std::optional<AmplifierDesign> amplifier;    ///< behind the transmitter
  std::optional<OscillatorDesign> oscillator;  ///< that the counter looks at while nothing is keyed
  std::optional<SynthesizerDesign> synthesizer;  ///< in place of the transmitter
  std::optional<ReceiverDesign> receiver;        ///< at the other end of the chain, with a
                                                 ///< generator before it and a voltmeter behind
  std::optional<double> reference_dbm;           ///< of a source, before the step attenuator
  Chain chain;                                   ///< device to sampler and analyser, as stated
  double coupler_db = -40.0;                     ///< device to power meter, as stated
  bool is_meter_at_end = false;                  ///< it stands at the end of the chain instead
  double driver_db = 45.0;  ///< between a generator at a radio frequency and the amplifier
  double coupler_u_db = 0.1;
  double sampler_u_db = 0.5;
  double analyser_u_db = 0.7;
  double power_meter_u_db = 0.15;
  double attenuator_u_db = 0.1;
  double generator_u_db = 0.45;       ///< of a level at a radio frequency
  bool is_voltmeter_average = false;  ///< it rectifies, scaled for a sinusoid; else true RMS
  double sampler_full_scale_dbm = 0.0;
  double sampler_noise_dbfs_hz = -128.0;
  double sampler_third_order_dbfs = 22.0;  ///< third-order intercept of its input, dB re full scale
  double counter_timebase_ppm = 0.05;      ///< limit of its error
  /// How far the scales of sampler and analyser bend between two lines: as ripple, another one in
  /// each octave.
  double bend_u_db = 0.0;
  /// Parts are off by something else in each octave, as a statement without a frequency allows.
  bool has_part_errors_by_octave = false;
};

/// What the stated values hide: only tests look at it.
struct SimTruth {
  std::map<std::string, double> part_error_db;  ///< true minus stated gain, by name
  double coupler_error_db = 0.0;
  double sampler_error_db = 0.0;
  double analyser_error_db = 0.0;
  double power_meter_error_db = 0.0;
  double generator_error_db = 0.0;
  double attenuator_db_per_db = 0.0;
  double timebase_ppm = 0.0;
};

}  // namespace heron::sim
