#pragma once

#include <memory>
#include <vector>

#include "app/live/reading_keeper.h"
#include "app/session/session.h"
#include "instrument/ladder_run.h"
#include "store/taking.h"

namespace heron {

/// How the steps of a test are taken from live instruments.
struct LivePlan {
  RunPlan run;
  std::vector<Id> steps;  ///< one a step of the run
  std::vector<QString> labels;
  std::shared_ptr<ReadingKeeper> keeper;  ///< where nothing is recorded
  Refusal refusal;                        ///< why it cannot be; empty if it can
};

/// What instruments do at each step of it; nothing where they can do nothing.
RunRecipe recipe_of(const LoadedTest& test);
/// The steps that would be taken: those without a recording, or the one asked for; over drives from
/// low to high power.
std::vector<int> live_due(const LoadedTest& test, int only = -1);
/// One tone of the pair, from little drive on, for full output: its first step.
RunPlan full_output_plan(const LoadedTest& test);
/// What a test's recordings are taken with: its own wishes, else what its method uses.
struct TakingNow {
  double length_s = 0.0;
  double rate_hz = 0.0;
  double settle_s = 0.0;
  double most_drive_dbm = 0.0;
};
TakingNow taking_now(const LoadedTest& test);

/// Whether levels are what a power meter shows: where the hook-up does not end in a sampler.
bool is_read_by_meter(const LoadedTest& test);
/// What has to answer before it can be measured.
std::vector<Role> roles_needed(const LoadedTest& test, int only = -1);
/// Whether it listens to a receiver: a hook-up is welcome, not needed.
bool is_listening(const LoadedTest& test);
/// Whether its indicator is brought to each step by the level, instead of its audio being read.
bool is_read_off(const LoadedTest& test);
/// Of a test with a hook-up and a planned drive, or one that listens to a receiver. `has_hands`:
/// somebody has to tune it.
LivePlan live_plan(const LoadedTest& test, const std::vector<int>& due, bool has_hands = true);

}  // namespace heron
