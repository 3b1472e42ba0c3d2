#include <CLI/CLI.hpp>
#include <csignal>
#include <fmt/format.h>

#include "core/chain/chain_json.h"
#include "core/error.h"
#include "simbench/sim_server.h"

int main(int argc, char** argv) {
  CLI::App options{
      "Even Heron's simulated bench: devices and instruments on ports of this machine."};
  options.name("even-heron-simbench");
  options.set_version_flag("--version", HERON_VERSION);
  heron::sim::SimConfig config;
  int first_port = 5025;
  std::string chain_file;
  bool has_amplifier = false;
  bool has_synthesizer = false;
  bool has_receiver = false;
  options.add_option("--port", first_port, "Port of the first instrument; 0 = any free ones")
      ->check(CLI::Range(0, 65000))
      ->capture_default_str();
  options.add_option("--seed", config.seed, "Seed of the instruments' errors")
      ->capture_default_str();
  options.add_option("--speed", config.time_factor, "Speed relative to the clock")
      ->check(CLI::Range(0.01, 1e6))
      ->capture_default_str();
  options.add_option("--chain", chain_file, "Hook-up (chain file) from device to sampler");
  options.add_flag("--synthesizer", has_synthesizer,
                   "A synthesizer with its loop in the transmitter\u2019s place");
  options.add_flag("--receiver", has_receiver,
                   "A receiver behind the generator and that chain, its audio at the voltmeter");
  options.add_flag("--average-voltmeter", config.is_voltmeter_average,
                   "The voltmeter rectifies, scaled for a sinusoid; else it is true RMS");
  options.add_flag("--amplifier", has_amplifier, "An amplifier behind the transmitter");
  CLI11_PARSE(options, argc, argv);

  // Heard by nobody but the wait below, so that every port is closed in order.
  sigset_t ends;
  sigemptyset(&ends);
  sigaddset(&ends, SIGINT);
  sigaddset(&ends, SIGTERM);
  pthread_sigmask(SIG_BLOCK, &ends, nullptr);
  try {
    if (!chain_file.empty()) {
      config.chain = heron::read_chain(chain_file);
    } else {
      heron::Part pad;
      pad.name = "power pad";
      pad.kind = "attenuator";
      pad.gain = heron::Gain(-50.0);
      pad.u_db = 0.2;
      config.chain.parts.push_back(pad);
    }
    if (has_amplifier) config.amplifier.emplace();
    if (has_receiver) config.receiver.emplace();
    if (has_synthesizer) config.synthesizer.emplace();
    const heron::sim::SimServer server(config, first_port);
    for (const std::string& name : heron::sim::SimWorld::instruments())
      fmt::print("{:<18} {}\n", name, server.address(name));
    std::fflush(stdout);
    int heard = 0;
    sigwait(&ends, &heard);
    return 0;
  } catch (const heron::InputError& error) {
    fmt::print(stderr, "even-heron-simbench: {}\n", error.what());
    return 3;
  }
}
