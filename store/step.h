#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/method/evidence.h"
#include "store/shack.h"

namespace heron {

/// Quantities that a step or a recording keeps whatever is measured.
inline constexpr const char* kOutput = "output";  ///< dBm PEP at the device
inline constexpr const char* kSweepFrom = "sweep_from";
inline constexpr const char* kSweepTo = "sweep_to";
inline constexpr const char* kAddedAttenuation = "added_attenuation";

/// A reading typed by hand: what was typed stays beside what was understood.
struct TypedOutput {
  std::string typed;
  double dbm = 0.0;
  double u_db = 0.0;  ///< standard uncertainty
};
Reading to_reading(const TypedOutput& output);

/// How much more attenuation stood before the recorder than in the step's own recording: a
/// self-test of the recorder; 0 = the same taken once again.
struct AddedAttenuation {
  double db = 0.0;
  std::string typed = {};
};

/// A recording as attached to a step.
struct StepCapture {
  Id id = 0;
  std::string hash;
  std::string name;
  std::string taken_at;
  Id hookup_version_id = 0;               ///< 0 = levels as recorded
  std::optional<AddedAttenuation> added;  ///< taken beside the step's own
};

/// One step of a ladder with its evidence.
struct Step {
  Id id = 0;
  Id test_id = 0;
  std::string label;
  std::optional<TypedOutput> output;
  std::string note;
  std::vector<Reading> readings;
  std::vector<Condition> conditions;
  std::optional<StepCapture> capture;                 ///< the latest that was not removed
  std::optional<StepCapture> self_test;               ///< the latest taken with more attenuation
  std::vector<StepCapture> repeats;                   ///< the same once again, latest first
  std::string damage = {};                            ///< which parts of it cannot be read
  std::optional<std::pair<double, double>> sweep_hz;  ///< taken with an analyser over this range
};

/// What it covers with a sweep: as it was made, or as it is called; nullopt of any other.
std::optional<std::pair<double, double>> swept_hz(const Step& step);

std::vector<Step> steps(const Shack& shack, Id test);
Id add_step(Shack& shack, Id test, const std::string& label,
            const std::optional<std::pair<double, double>>& sweep_hz = std::nullopt);
void set_step_removed(Shack& shack, Id id, bool removed);
void set_step_label(Shack& shack, Id id, const std::string& label);
void set_step_output(Shack& shack, Id id, const std::optional<TypedOutput>& output);
/// 0 = none. Recordings keep what they were taken on until somebody says otherwise.
void set_step_capture_hookup(Shack& shack, Id step_capture, Id hookup_version);
void set_step_capture_removed(Shack& shack, Id step_capture, bool removed);

}  // namespace heron
