#pragma once

#include <set>

#include "instrument/rf_guard.h"
#include "instrument/role.h"
#include "instrument/run_plan.h"

namespace heron {

/// What the instruments that only go along show at a step of a run. One that fails is left out, so
/// that RF does not stay on for it again; the step counts without it.
class ReadAlong {
 public:
  ReadAlong(const RunPlan& plan, const RunInstruments& with) : plan_(plan), with_(with) {}
  /// Before RF is on.
  void prepare(TakenStep& taken);
  /// With RF on; what goes wrong becomes a caution of the step.
  void read(TakenStep& taken, double generator_dbm, RfGuard& guard);
  /// Only what the supply gives.
  void read_supply(TakenStep& taken, ReadingRole role, RfGuard& guard);
  /// The longest that reading keeps RF on.
  double longest_s() const;
  /// Asks those that failed again from now on.
  void forgive() { left_out_.clear(); }

 private:
  bool reads_counter() const;
  void read(TakenStep& taken, RfGuard& guard, ScpiSession* session, Role role, const char* command,
            const char* quantity, ReadingRole reading_role = ReadingRole::at);
  const RunPlan& plan_;
  const RunInstruments& with_;
  std::set<const ScpiSession*> left_out_;
};

}  // namespace heron
