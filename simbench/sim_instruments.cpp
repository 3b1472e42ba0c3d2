#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/quantity/levels.h"
#include "core/scpi/reply_value.h"
#include "simbench/sim_bench.h"

namespace heron::sim {
namespace {

double number_at(const std::vector<std::string>& arguments, std::size_t index, double lowest,
                 double highest) {
  if (index >= arguments.size()) throw InputError("argument", "", "it is missing", "");
  const double value = number_reply(arguments[index], "argument");
  if (value < lowest || value > highest) throw InputError("argument", "", "out of range", "");
  return value;
}

}  // namespace

const std::vector<std::string>& SimBench::instruments() {
  static const std::vector<std::string> names{
      "generator", "sampler", "spectrum_analyser", "power_meter",     "counter",
      "voltmeter", "supply",  "thermometer",       "step_attenuator", "device"};
  return names;
}

void SimBench::add_instruments() {
  for (const std::string& name : instruments()) {
    Instrument& i = instruments_[name];
    i.identity = fmt::format("Even Heron,simulated {},{},1", name, config_.seed);
    i.commands["*IDN?"] = [&i](const Arguments&) { return i.identity; };
    i.commands["*OPC?"] = [](const Arguments&) { return "1"; };
    i.commands["*RST"] = [](const Arguments&) { return std::nullopt; };
    i.commands["*CLS"] = [this, &i](const Arguments&) -> std::optional<std::string> {
      const std::scoped_lock lock(mutex_);
      i.errors.clear();
      return std::nullopt;
    };
    i.commands["SYST:ERR?"] = [this, &i](const Arguments&) -> std::optional<std::string> {
      const std::scoped_lock lock(mutex_);
      if (i.errors.empty()) return "0,\"No error\"";
      const std::string first = i.errors.front();
      i.errors.erase(i.errors.begin());
      return first;
    };
  }
  // A command that sets something while the world stands still.
  const auto set = [this](const char* instrument, const char* header, auto change) {
    instruments_[instrument].commands[header] =
        [this, change](const Arguments& a) -> std::optional<std::string> {
      const std::scoped_lock lock(mutex_);
      live();
      change(a);
      return std::nullopt;
    };
  };
  const auto ask = [this](const char* instrument, const char* header, auto answer) {
    instruments_[instrument].commands[header] =
        [this, answer](const Arguments&) -> std::optional<std::string> {
      const std::scoped_lock lock(mutex_);
      live();
      return answer();
    };
  };
  const auto key = [this] {
    device_.audio = audio_;
    if (!is_audio_on_ || !is_supply_on_) device_.audio.kind = AudioSignal::Kind::off;
  };

  set("generator", "OUTP", [this, key](const Arguments& a) {
    if (a.empty()) throw InputError("argument", "", "it is missing", "");
    is_audio_on_ = switch_reply(a[0], "argument");
    key();
  });
  ask("generator", "OUTP?", [this] { return is_audio_on_ ? "1" : "0"; });
  set("generator", "SOUR:POW", [this, key](const Arguments& a) {
    audio_.pep_dbm = number_at(a, 0, -120.0, 10.0);
    key();
  });
  set("generator", "SOUR:FREQ", [](const Arguments& a) { number_at(a, 0, 1.0, 1e5); });
  set("generator", "SOUR:FUNC:TONE", [this, key](const Arguments& a) {
    audio_.kind = AudioSignal::Kind::tones;
    audio_.tones_hz = {number_at(a, 0, 20.0, 20e3)};
    key();
  });
  set("generator", "SOUR:FUNC:DUAL", [this, key](const Arguments& a) {
    audio_.kind = AudioSignal::Kind::tones;
    audio_.tones_hz = {number_at(a, 0, 20.0, 20e3), number_at(a, 1, 20.0, 20e3)};
    key();
  });
  set("generator", "SOUR:FUNC:NOTC", [this, key](const Arguments& a) {
    audio_.kind = AudioSignal::Kind::notched_noise;
    audio_.band_hz = {number_at(a, 0, 20.0, 7e3), number_at(a, 1, 20.0, 7e3)};
    audio_.notch_hz = {number_at(a, 2, 20.0, 7e3), number_at(a, 3, 20.0, 7e3)};
    key();
  });
  set("generator", "SOUR:FUNC:SPE", [this, key](const Arguments& a) {
    audio_.kind = AudioSignal::Kind::speech_noise;
    audio_.band_hz = {number_at(a, 0, 20.0, 7e3), number_at(a, 1, 20.0, 7e3)};
    key();
  });

  set("sampler", "SENS:FREQ:CENT",
      [this](const Arguments& a) { sampler_.center_hz = number_at(a, 0, 1e3, 1e10); });
  set("sampler", "SENS:RATE",
      [this](const Arguments& a) { sampler_.rate_hz = number_at(a, 0, 8e3, 2e6); });
  set("sampler", "SENS:COUN", [this](const Arguments& a) {
    sampler_.frames = static_cast<std::size_t>(number_at(a, 0, 16.0, 1U << 24U));
  });
  ask("sampler", "SENS:RANG?",
      [this] { return fmt::format("{}", config_.sampler_full_scale_dbm); });
  ask("sampler", "STAT:OVER?", [this] { return sampler_.was_over ? "1" : "0"; });
  instruments_["sampler"].commands["READ:IQ?"] = [this](const Arguments&) {
    return read_samples();
  };

  set("spectrum_analyser", "SENS:FREQ:CENT",
      [this](const Arguments& a) { analyser_.center_hz = number_at(a, 0, 1e3, 1e10); });
  set("spectrum_analyser", "SENS:FREQ:SPAN",
      [this](const Arguments& a) { analyser_.span_hz = number_at(a, 0, 100.0, 1e10); });
  set("spectrum_analyser", "SENS:BAND",
      [this](const Arguments& a) { analyser_.rbw_hz = number_at(a, 0, 10.0, 3e6); });
  set("spectrum_analyser", "SENS:SWE:POIN", [this](const Arguments& a) {
    analyser_.points = static_cast<std::size_t>(number_at(a, 0, 101.0, 100001.0));
  });
  ask("spectrum_analyser", "STAT:OVER?", [this] { return analyser_.was_over ? "1" : "0"; });
  instruments_["spectrum_analyser"].commands["READ:TRAC?"] = [this](const Arguments&) {
    return read_trace();
  };

  set("power_meter", "SENS:FREQ",
      [this](const Arguments& a) { power_meter_hz_ = number_at(a, 0, 1e3, 1e10); });
  instruments_["power_meter"].commands["READ?"] = [this](const Arguments&) { return read_power(); };
  set("counter", "SENS:FREQ:APER",
      [this](const Arguments& a) { gate_s_ = number_at(a, 0, 0.01, 100.0); });
  instruments_["counter"].commands["READ?"] = [this](const Arguments&) { return read_frequency(); };
  ask("voltmeter", "READ?", [this] {
    // The audio line: RMS of what the generator puts out, and half a millivolt of hum.
    std::normal_distribution<double> gauss(0.0, 1.0);
    double rms = 0.0;
    if (is_audio_on_) {
      const double peak_to_mean = audio_.kind == AudioSignal::Kind::tones
                                      ? static_cast<double>(audio_.tones_hz.size())
                                      : 6.9;
      rms = to_pd(to_watt(Dbm{audio_.pep_dbm - db_from_power_ratio(peak_to_mean)})).value;
    }
    return fmt::format("{:.5E}", std::hypot(rms, 5e-4) * (1.0 + 0.001 * gauss(random_)));
  });
  set("supply", "OUTP", [this, key](const Arguments& a) {
    if (a.empty()) throw InputError("argument", "", "it is missing", "");
    is_supply_on_ = switch_reply(a[0], "argument");
    key();
  });
  set("supply", "SOUR:VOLT",
      [this](const Arguments& a) { device_.surroundings.supply_v = number_at(a, 0, 0.0, 15.0); });
  set("supply", "SOUR:CURR", [this](const Arguments& a) {
    device_.surroundings.supply_limit_a = number_at(a, 0, 0.0, 10.0);
  });
  ask("supply", "MEAS:VOLT?", [this] {
    return fmt::format("{:.3f}", is_supply_on_ ? device_.surroundings.supply_v : 0.0);
  });
  ask("supply", "MEAS:CURR?",
      [this] { return fmt::format("{:.3f}", is_supply_on_ ? device_.current_a() : 0.0); });
  ask("thermometer", "READ?", [this] {
    return fmt::format("{:.1f}",
                       amplifier_ ? amplifier_->temperature_c() : device_.temperature_c());
  });
  set("step_attenuator", "INP:ATT",
      [this](const Arguments& a) { attenuation_db_ = std::round(number_at(a, 0, 0.0, 60.0)); });
  ask("step_attenuator", "INP:ATT?", [this] { return fmt::format("{:.0f}", attenuation_db_); });

  // The front panel of the device, for where a hand would turn it.
  set("device", "POW",
      [this](const Arguments& a) { device_.settings.power_w = number_at(a, 0, 0.1, 30.0); });
  set("device", "GAIN",
      [this](const Arguments& a) { device_.settings.gain_db = number_at(a, 0, -60.0, 20.0); });
  set("device", "FREQ",
      [this](const Arguments& a) { device_.settings.dial_hz = number_at(a, 0, 1.8e6, 54e6); });
  set("device", "FILT", [this](const Arguments& a) {
    device_.settings.filter.low_hz = number_at(a, 0, 20.0, 1e3);
    device_.settings.filter.high_hz = number_at(a, 1, 1e3, 7e3);
  });
  set("device", "COMP", [this](const Arguments& a) {
    if (a.empty()) throw InputError("argument", "", "it is missing", "");
    device_.settings.is_compressor_on = switch_reply(a[0], "argument");
  });
  ask("device", "POW?", [this] { return fmt::format("{:g}", device_.settings.power_w); });
  ask("device", "KEYED?", [this] { return device_.is_keyed() ? "1" : "0"; });
}

}  // namespace heron::sim
