#include "simbench/sim_bench.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fmt/format.h>

#include "core/error.h"
#include "core/quantity/levels.h"
#include "core/scpi/command_line.h"
#include "core/scpi/reply_reader.h"
#include "core/scpi/reply_value.h"
#include "core/signal/memory_capture.h"
#include "core/signal/welch.h"
#include "simbench/random_source.h"

namespace heron::sim {
namespace {

/// The error of a thing is its own: drawn from the bench's seed and its name (FNV-1a).
double error_of(const std::string& name, double sigma, std::uint64_t seed) {
  std::uint64_t hash = 14695981039346656037U;
  for (const char c : name) hash = (hash ^ static_cast<unsigned char>(c)) * 1099511628211U;
  std::mt19937_64 random(seed * 0x9E3779B97F4A7C15U ^ hash);
  return drawn_error(random, sigma);
}

}  // namespace

SimBench::SimBench(SimConfig config)
    : config_(std::move(config)),
      random_(config_.seed),
      device_(config_.transmitter),
      started_(std::chrono::steady_clock::now()),
      time_factor_(config_.time_factor) {
  if (config_.amplifier) amplifier_.emplace(*config_.amplifier);
  const auto error = [this](const char* name, double sigma) {
    return error_of(name, sigma, config_.seed);
  };
  audio_.sequence = config_.seed;
  truth_.coupler_error_db = error("coupler of the power meter", config_.coupler_u_db);
  truth_.sampler_error_db = error("the sampler's scale", config_.sampler_u_db);
  truth_.analyser_error_db = error("the analyser's scale", config_.analyser_u_db);
  truth_.power_meter_error_db = error("the power meter's scale", config_.power_meter_u_db);
  truth_.attenuator_db_per_db = error("step attenuator", config_.attenuator_u_db) / 30.0;
  std::uniform_real_distribution<double> within(-1.0, 1.0);
  truth_.timebase_ppm = config_.counter_timebase_ppm * within(random_);
  set_chain(Chain(config_.chain));
  add_instruments();
}

void SimBench::set_chain(const Chain& chain) {
  const std::scoped_lock lock(mutex_);
  config_.chain = chain;
  // The sampler is set as the hook-up says.
  if (const Part* recorder = recorder_of(chain); recorder != nullptr && recorder->full_scale_dbm)
    config_.sampler_full_scale_dbm = *recorder->full_scale_dbm;
  truth_.part_error_db.clear();
  for (const Part& part : chain.parts)
    truth_.part_error_db[part.name] = error_of(part.name, part.u_db, config_.seed);
}

void SimBench::set_amplifier(const std::optional<AmplifierDesign>& design) {
  const std::scoped_lock lock(mutex_);
  live();
  config_.amplifier = design;
  if (!design)
    amplifier_.reset();
  else if (!amplifier_ || amplifier_->design() != *design)
    amplifier_.emplace(*design);
}

std::optional<Amplifier> SimBench::amplifier() {
  const std::scoped_lock lock(mutex_);
  live();
  return amplifier_;
}

void SimBench::set_loose_connector(double db) {
  const std::scoped_lock lock(mutex_);
  loose_db_ = db;
}

void SimBench::set_dial(double hz) {
  const std::scoped_lock lock(mutex_);
  live();
  device_.settings.dial_hz = hz;
}

double SimBench::now_s() {
  const std::scoped_lock lock(mutex_);
  live();
  return lived_s_;
}

void SimBench::set_time_factor(double factor) {
  const std::scoped_lock lock(mutex_);
  live();
  extra_s_ = lived_s_;
  started_ = std::chrono::steady_clock::now();
  time_factor_ = factor;
}

void SimBench::live() {
  const double wall =
      std::chrono::duration<double>(std::chrono::steady_clock::now() - started_).count();
  const double now = wall * time_factor_ + extra_s_;
  const double passed = now - lived_s_;
  if (passed <= 0.0) return;
  if (amplifier_) {
    const double in = device_.mean_power_w();
    amplifier_->live(passed, in, amplifier_->power_out_w(in, device_.carrier_hz()));
  }
  device_.live(passed);
  lived_s_ = now;
}

Transmitter SimBench::device() {
  const std::scoped_lock lock(mutex_);
  live();
  return device_;
}

bool SimBench::is_keyed() {
  const std::scoped_lock lock(mutex_);
  return device_.is_keyed();
}

double SimBench::true_gain_db(double frequency_hz) const {
  double gain = 0.0;
  for (const Part& part : config_.chain.parts) {
    if (find_part_kind(part.kind)->ends_chain) continue;
    const auto error = truth_.part_error_db.find(part.name);
    gain += part.gain.at(frequency_hz, part.name) +
            (error == truth_.part_error_db.end() ? 0.0 : error->second);
  }
  return gain - attenuation_db_ * (1.0 + truth_.attenuator_db_per_db);
}

void SimBench::device_output(const Output& from, double center_hz, double rate_hz, double start_s,
                             Block out, std::mt19937_64& random) {
  if (!from.amplifier) {
    from.device.output(center_hz, rate_hz, start_s, out, random);
    return;
  }
  // The amplifier makes its harmonics from what comes in at the carrier; the exciter's own are
  // taken to end at its input filter.
  const double carrier = from.device.carrier_hz();
  const int zone = std::max(1, static_cast<int>(std::lround(center_hz / carrier)));
  if (zone > Amplifier::kHighestZone) {
    std::fill(out.begin(), out.end(), std::complex<float>(0.0F));
    return;
  }
  from.device.output(center_hz / zone, rate_hz, start_s, out, random);
  from.amplifier->apply(out, carrier, zone);
}

double SimBench::output_w() {
  const double alone = device_.mean_power_w();
  return amplifier_ ? amplifier_->power_out_w(alone, device_.carrier_hz()) : alone;
}

std::string SimBench::read_samples() {
  Output output;
  Sampler s;
  double start = 0.0;
  double gain = 0.0;
  std::mt19937_64 random;
  {
    const std::scoped_lock lock(mutex_);
    live();
    output = {device_, amplifier_};
    s = sampler_;
    start = lived_s_;
    gain = true_gain_db(s.center_hz) + truth_.sampler_error_db - (is_loose_now_ ? loose_db_ : 0.0);
    is_loose_now_ = !is_loose_now_;
    random.seed(random_());
    pass(static_cast<double>(s.frames) / s.rate_hz);
  }
  std::vector<std::complex<float>> x(s.frames);
  device_output(output, s.center_hz, s.rate_hz, start, x, random);
  const auto scale =
      static_cast<float>(voltage_ratio_from_db(30.0 + gain - config_.sampler_full_scale_dbm));
  // Third-order distortion of its own: two tones of a dBFS give IM3 at 3 a - 2 IP3.
  const double third = -power_ratio_from_db(-config_.sampler_third_order_dbfs);
  const auto bend = static_cast<float>(third);
  for (auto& v : x) {
    v *= scale;
    v += bend * std::norm(v) * v;
  }
  add_white_noise(x, power_ratio_from_db(config_.sampler_noise_dbfs_hz) * s.rate_hz, random);
  bool over = false;
  constexpr float kSteps = 8192.0F;  // 14 bit
  for (auto& v : x) {
    // An offset of its own, and quadrature not quite at right angles.
    v += std::complex<float>(2e-4F, -1e-4F) + 5e-4F * std::conj(v);
    over = over || std::abs(v.real()) >= 1.0F || std::abs(v.imag()) >= 1.0F;
    const auto stored = [&](float c) {
      return std::clamp(std::round(c * kSteps), -kSteps, kSteps - 1.0F) / kSteps;
    };
    v = {stored(v.real()), stored(v.imag())};
  }
  {
    const std::scoped_lock lock(mutex_);
    sampler_.was_over = over;
  }
  const std::size_t bytes = x.size() * sizeof x[0];
  std::string reply = block_header(bytes);
  const std::size_t head = reply.size();
  reply.resize(head + bytes);
  std::memcpy(reply.data() + head, x.data(), bytes);
  return reply;
}

std::string SimBench::read_trace() {
  Output output;
  Analyser a;
  double start = 0.0;
  std::mt19937_64 random;
  {
    const std::scoped_lock lock(mutex_);
    live();
    output = {device_, amplifier_};
    a = analyser_;
    start = lived_s_;
    random.seed(random_());
    // A swept filter has to settle at every place.
    pass(0.05 + 2.5 * a.span_hz / (a.rbw_hz * a.rbw_hz));
  }
  const double spacing = a.span_hz / static_cast<double>(a.points - 1);
  const double from = a.center_hz - a.span_hz / 2.0;
  // Noise of its own in the filter: displayed average noise -150 dBm/Hz, one sweep's scatter.
  std::exponential_distribution<double> one_sweep(1.0);
  const double own_noise = power_ratio_from_db(-150.0) * 1.0645 * a.rbw_hz;
  std::vector<double> power(a.points);
  for (double& p : power) p = own_noise * one_sweep(random);
  // Each zone in the span as a recording of its own, seen through a Gaussian filter.
  constexpr double kRate = 400e3;
  constexpr std::size_t kSegment = 1U << 15U;
  const double carrier = output.device.carrier_hz();
  for (int zone = 1; zone <= 10 && output.device.is_keyed(); ++zone) {
    const double middle = zone * carrier;
    if (middle < from - kRate / 2.0 || middle > from + a.span_hz + kRate / 2.0) continue;
    std::vector<std::complex<float>> x(2 * kSegment);
    device_output(output, middle, kRate, start, x, random);
    WelchSettings welch;
    welch.segment = kSegment;
    welch.threads = 1;
    const Spectrum s = welch_spectrum(memory_capture(x, kRate), welch);
    const double gain = true_gain_db(middle) + truth_.analyser_error_db + 30.0;
    const double scale = power_ratio_from_db(gain);
    for (std::size_t k = 0; k < s.power.size(); ++k) {
      const double p = static_cast<double>(s.power[k]) * scale;
      if (p < 1e-22) continue;
      const double hz = middle + s.frequency_hz(k);
      const double reach = 3.6 * a.rbw_hz;  // -156 dB
      const auto first = static_cast<std::ptrdiff_t>(std::ceil((hz - reach - from) / spacing));
      const auto last = static_cast<std::ptrdiff_t>(std::floor((hz + reach - from) / spacing));
      for (std::ptrdiff_t i = std::max<std::ptrdiff_t>(0, first);
           i <= std::min<std::ptrdiff_t>(last, static_cast<std::ptrdiff_t>(a.points) - 1); ++i) {
        const double off = from + static_cast<double>(i) * spacing - hz;
        power[static_cast<std::size_t>(i)] +=
            p * power_ratio_from_db(-3.0103 * std::pow(2.0 * off / a.rbw_hz, 2.0));
      }
    }
  }
  std::string reply;
  bool over = false;
  for (const double p : power) {
    const double dbm = db_from_power_ratio(p);
    over = over || dbm > 10.0;
    reply += fmt::format("{}{:.2f}", reply.empty() ? "" : ",", dbm);
  }
  const std::scoped_lock lock(mutex_);
  analyser_.was_over = over;
  return reply;
}

std::string SimBench::read_power() {
  const std::scoped_lock lock(mutex_);
  live();
  pass(0.1);
  std::normal_distribution<double> gauss(0.0, 1.0);
  const double at_meter =
      output_w() * power_ratio_from_db(config_.coupler_db + truth_.coupler_error_db +
                                       truth_.power_meter_error_db);
  // Zero drift and noise of its own: some nanowatts.
  const double shown = at_meter + 3e-9 * gauss(random_);
  if (shown <= 1e-9) return "-60.00";
  const double dbm = db_from_power_ratio(shown * 1e3);
  return dbm > 23.0 ? "9.9E37" : fmt::format("{:.2f}", dbm);
}

std::string SimBench::read_frequency() {
  const std::scoped_lock lock(mutex_);
  live();
  pass(gate_s_);
  if (!device_.is_keyed() || audio_.kind != AudioSignal::Kind::tones || audio_.tones_hz.empty())
    return "9.91E37";
  std::uniform_real_distribution<double> part(-1.0, 1.0);
  const double true_hz = device_.carrier_hz() + audio_.tones_hz.front();
  // It counts whole cycles in a gate that its own timebase opens.
  const double gate = gate_s_ * (1.0 - truth_.timebase_ppm * 1e-6);
  const double shown = std::floor(true_hz * gate + 0.5 * (part(random_) + 1.0)) / gate_s_;
  return fmt::format("{:.4f}", shown);
}

std::optional<std::string> SimBench::speak(const std::string& name, const std::string& line) {
  const auto found = instruments_.find(name);
  if (found == instruments_.end()) return std::nullopt;
  Instrument& instrument = found->second;
  std::optional<std::string> reply;
  const auto complain = [&](const std::string& error) {
    const std::scoped_lock lock(mutex_);
    if (instrument.errors.size() < 30) instrument.errors.push_back(error);
  };
  for (const ScpiCommand& command : parse_commands(line)) {
    const auto handler = instrument.commands.find(command.header + (command.is_query ? "?" : ""));
    if (handler == instrument.commands.end()) {
      complain("-113,\"Undefined header; " + command.header.substr(0, 40) + "\"");
      continue;
    }
    try {
      const auto answer = handler->second(command.arguments);
      if (answer) reply = reply ? *reply + ";" + *answer : *answer;
    } catch (const InputError&) {
      complain("-222,\"Data out of range\"");
    }
  }
  return reply;
}

}  // namespace heron::sim
