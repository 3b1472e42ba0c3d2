#pragma once

#include <functional>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>

#include "core/judge/limit.h"
#include "core/judge/remark.h"
#include "core/judge/verdict.h"
#include "core/quantity/figure.h"

namespace CLI {
class App;
}

namespace heron {

/// Exit statuses of the contract.
enum ExitStatus { kDone = 0, kWrongUsage = 2, kUnusableInput = 3, kVerdictNotPass = 4 };

/// A command: adds its options to the parser and gives back what runs it.
using CommandRun = std::function<int()>;

/// Prints one JSON object followed by a line feed; nothing if it cannot be serialised.
void print_json(const nlohmann::json& object);
/// "Remarks" as lines for people.
void print_remarks(const std::vector<Remark>& remarks);
nlohmann::json verdict_json(const Judgement& judgement, const Limit& limit,
                            const std::string& figure);
/// The value of a figure times a factor; null where there is none.
nlohmann::json value_or_null(const std::optional<Figure>& figure, double factor = 1.0);
/// Progress on standard error, only if that is a terminal.
std::function<void(double)> terminal_progress(const std::string& what);

/// Each adds one subcommand.
CommandRun add_adjust_command(CLI::App& app);
CommandRun add_amplifier_command(CLI::App& app);
CommandRun add_bandwidth_command(CLI::App& app);
CommandRun add_chain_command(CLI::App& app);
CommandRun add_conversion_gain_command(CLI::App& app);
CommandRun add_drift_command(CLI::App& app);
CommandRun add_indicator_command(CLI::App& app);
CommandRun add_ladder_command(CLI::App& app);
CommandRun add_level_command(CLI::App& app);
CommandRun add_lock_margin_command(CLI::App& app);
CommandRun add_make_signal_command(CLI::App& app);
CommandRun add_loop_command(CLI::App& app);
CommandRun add_noise_compare_command(CLI::App& app);
CommandRun add_noise_family_command(CLI::App& app);
CommandRun add_output_command(CLI::App& app);
CommandRun add_phase_noise_command(CLI::App& app);
CommandRun add_purity_command(CLI::App& app);
CommandRun add_reciprocal_command(CLI::App& app);
CommandRun add_reference_command(CLI::App& app);
CommandRun add_sensitivity_command(CLI::App& app);
CommandRun add_stability_command(CLI::App& app);
CommandRun add_tone_command(CLI::App& app);
CommandRun add_two_tone_command(CLI::App& app);
CommandRun add_tone_pair_command(CLI::App& app);
CommandRun add_report_command(CLI::App& app);

}  // namespace heron
