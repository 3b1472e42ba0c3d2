#include <CLI/CLI.hpp>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fmt/format.h>
#include <vector>

#include "cli/output.h"
#include "core/error.h"

int main(int argc, char** argv) {
  CLI::App app{"Even Heron without its window: the same analysis, for scripts."};
  app.name("even-heron-cli");
  app.set_version_flag("--version", HERON_VERSION);
  app.require_subcommand(1);
  std::vector<std::pair<std::string, heron::CommandRun>> commands;
  commands.emplace_back("level", heron::add_level_command(app));
  commands.emplace_back("chain", heron::add_chain_command(app));
  commands.emplace_back("two-tone", heron::add_two_tone_command(app));
  commands.emplace_back("ladder", heron::add_ladder_command(app));
  commands.emplace_back("tone-pair", heron::add_tone_pair_command(app));
  commands.emplace_back("make-signal", heron::add_make_signal_command(app));
  commands.emplace_back("output", heron::add_output_command(app));
  commands.emplace_back("purity", heron::add_purity_command(app));
  commands.emplace_back("bandwidth", heron::add_bandwidth_command(app));
  commands.emplace_back("amplifier", heron::add_amplifier_command(app));
  commands.emplace_back("tone", heron::add_tone_command(app));
  commands.emplace_back("reference", heron::add_reference_command(app));
  commands.emplace_back("adjust", heron::add_adjust_command(app));
  commands.emplace_back("drift", heron::add_drift_command(app));
  commands.emplace_back("stability", heron::add_stability_command(app));
  commands.emplace_back("lock-margin", heron::add_lock_margin_command(app));
  commands.emplace_back("phase-noise", heron::add_phase_noise_command(app));
  commands.emplace_back("phase-noise-compare", heron::add_noise_compare_command(app));
  commands.emplace_back("phase-noise-family", heron::add_noise_family_command(app));
  commands.emplace_back("loop", heron::add_loop_command(app));
  commands.emplace_back("reciprocal", heron::add_reciprocal_command(app));
  commands.emplace_back("sensitivity", heron::add_sensitivity_command(app));
  commands.emplace_back("conversion-gain", heron::add_conversion_gain_command(app));
  commands.emplace_back("indicator", heron::add_indicator_command(app));
  commands.emplace_back("report", heron::add_report_command(app));
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& error) {
    const int status = app.exit(error);
    return status == 0 ? heron::kDone : heron::kWrongUsage;
  }
  try {
    for (const auto& [name, run] : commands) {
      if (app.got_subcommand(name)) return run();
    }
  } catch (const heron::InputError& error) {
    fmt::print(stderr, "even-heron-cli: {}\n", error.what());
    return heron::kUnusableInput;
  } catch (const std::bad_alloc&) {
    fmt::print(stderr, "even-heron-cli: not enough memory for this input\n");
    return heron::kUnusableInput;
  } catch (const std::filesystem::filesystem_error& error) {
    fmt::print(stderr, "even-heron-cli: {}: it cannot be used ({})\n", error.path1().string(),
               error.code().message());
    return heron::kUnusableInput;
  } catch (const std::exception& error) {
    // What a library says of itself helps only whoever mends the program.
    if (std::getenv("EVEN_HERON_DEBUG") != nullptr) fmt::print(stderr, "{}\n", error.what());
    fmt::print(stderr, "even-heron-cli: the input could not be used; nothing was written\n");
    return heron::kUnusableInput;
  }
  return heron::kWrongUsage;
}
