#pragma once

#include <atomic>
#include <chrono>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <random>
#include <string>
#include <vector>

#include "core/chain/chain.h"
#include "simbench/amplifier.h"
#include "simbench/transmitter.h"

namespace heron::sim {

/// What stands on the simulated bench and how it is connected.
struct SimConfig {
  std::uint64_t seed = 1;    ///< draws every instrument's error, once
  double time_factor = 1.0;  ///< how much faster than the wall clock it lives
  TransmitterDesign transmitter;
  std::optional<AmplifierDesign> amplifier;  ///< behind the transmitter
  Chain chain;                               ///< device to sampler and analyser, as stated
  double coupler_db = -40.0;                 ///< device to power meter, as stated
  double coupler_u_db = 0.1;
  double sampler_u_db = 0.5;
  double analyser_u_db = 0.7;
  double power_meter_u_db = 0.15;
  double attenuator_u_db = 0.1;
  double sampler_full_scale_dbm = 0.0;
  double sampler_noise_dbfs_hz = -128.0;
  double sampler_third_order_dbfs = 22.0;  ///< third-order intercept of its input, dB re full scale
  double counter_timebase_ppm = 0.05;      ///< limit of its error
};

/// What the stated values hide: only tests look at it.
struct SimTruth {
  std::map<std::string, double> part_error_db;  ///< true minus stated gain, by name
  double coupler_error_db = 0.0;
  double sampler_error_db = 0.0;
  double analyser_error_db = 0.0;
  double power_meter_error_db = 0.0;
  double attenuator_db_per_db = 0.0;
  double timebase_ppm = 0.0;
};

/// A bench of devices and instruments. Any thread may speak to any instrument.
class SimBench {
 public:
  explicit SimBench(SimConfig config);

  /// "generator", "sampler", "spectrum_analyser", "power_meter", "counter", "voltmeter", "supply",
  /// "thermometer", "step_attenuator", "device".
  static const std::vector<std::string>& instruments();

  /// What an instrument answers to one line of SCPI, without line end; nullopt if no answer is due.
  std::optional<std::string> speak(const std::string& instrument, const std::string& line);

  const SimConfig& config() const { return config_; }
  const SimTruth& truth() const { return truth_; }
  /// A copy of the device as it is now.
  Transmitter device();
  bool is_keyed();
  double now_s();
  void set_time_factor(double factor);
  /// Another hook-up between device and sampler. A part keeps its error wherever it stands.
  void set_chain(const Chain& chain);
  /// Puts an amplifier behind the transmitter, or takes it away. The same one stays as warm as it
  /// is.
  void set_amplifier(const std::optional<AmplifierDesign>& design);
  /// A copy of it as it is now; nullopt if there is none.
  std::optional<Amplifier> amplifier();
  /// Every other look of the sampler loses so much.
  void set_loose_connector(double db);
  /// Where the transmitter's dial stands.
  void set_dial(double hz);

 private:
  struct Sampler {
    double center_hz = 14.2e6;
    double rate_hz = 250e3;
    std::size_t frames = 1U << 18U;
    bool was_over = false;
  };
  struct Analyser {
    double center_hz = 15e6;
    double span_hz = 10e6;
    double rbw_hz = 1e3;
    std::size_t points = 1001;
    bool was_over = false;
  };
  using Arguments = std::vector<std::string>;
  using Handler = std::function<std::optional<std::string>(const Arguments&)>;
  struct Instrument {
    std::string identity;
    std::map<std::string, Handler> commands;  ///< by header; queries with a '?'
    std::vector<std::string> errors;
  };

  void add_instruments();
  void live();  ///< catches up with the clock; mutex held
  void pass(double seconds) { extra_s_ += seconds; }
  /// What is being looked at, as it was when the look began.
  struct Output {
    Transmitter device;
    std::optional<Amplifier> amplifier;
  };
  /// Its output round a frequency, |v|^2 in watts, behind the amplifier if there is one.
  static void device_output(const Output& from, double center_hz, double rate_hz, double start_s,
                            Block out, std::mt19937_64& random);
  double true_gain_db(double frequency_hz) const;
  double output_w();
  std::string read_samples();
  std::string read_trace();
  std::string read_power();
  std::string read_frequency();

  SimConfig config_;
  SimTruth truth_;
  std::mutex mutex_;
  std::mt19937_64 random_;
  Transmitter device_;
  std::optional<Amplifier> amplifier_;
  AudioSignal audio_;
  bool is_audio_on_ = false;
  Sampler sampler_;
  Analyser analyser_;
  double attenuation_db_ = 0.0;
  double loose_db_ = 0.0;
  bool is_loose_now_ = false;
  double gate_s_ = 1.0;
  double power_meter_hz_ = 14.2e6;
  bool is_supply_on_ = true;
  std::map<std::string, Instrument> instruments_;
  std::chrono::steady_clock::time_point started_;
  double time_factor_;
  double extra_s_ = 0.0;
  double lived_s_ = 0.0;
};

}  // namespace heron::sim
