#pragma once

#include <optional>
#include <string>
#include <vector>

#include "store/shack.h"

namespace heron {

/// A reading typed by hand: what was typed stays beside what was understood.
struct TypedOutput {
  std::string typed;
  double dbm = 0.0;
  double u_db = 0.0;  ///< standard uncertainty
};

/// A recording as attached to a step.
struct StepCapture {
  Id id = 0;
  std::string hash;
  std::string name;
  std::string taken_at;
};

/// One step of a ladder with its evidence.
struct Step {
  Id id = 0;
  Id test_id = 0;
  std::string label;
  std::optional<TypedOutput> output;
  std::string note;
  std::optional<StepCapture> capture;  ///< the latest that was not removed
};

std::vector<Step> steps(const Shack& shack, Id test);
Id add_step(Shack& shack, Id test, const std::string& label);
void set_step_removed(Shack& shack, Id id, bool removed);
void set_step_label(Shack& shack, Id id, const std::string& label);
void set_step_output(Shack& shack, Id id, const std::optional<TypedOutput>& output);
void set_step_capture_removed(Shack& shack, Id step_capture, bool removed);

}  // namespace heron
