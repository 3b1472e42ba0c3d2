#include "instrument/read_along.h"

#include "core/method/live_quantity.h"
#include "instrument/live_reading.h"

namespace heron {
namespace {

constexpr double kGateS = 1.0;  ///< of the counter, RF on

/// Of those that only go along; nullptr if there is none.
ScpiSession* session_of(const RunInstruments& with, Role role) {
  switch (role) {
    case Role::power_meter:
      return with.power_meter;
    case Role::supply:
      return with.supply;
    case Role::thermometer:
      return with.thermometer;
    case Role::counter:
      return with.counter;
    default:
      return nullptr;
  }
}

}  // namespace

void ReadAlong::read(TakenStep& taken, RfGuard& guard, ScpiSession* session, Role role,
                     const char* command, const char* quantity, ReadingRole reading_role) {
  if (session == nullptr || !session->can(role, command) || left_out_.contains(session)) return;
  // Each may use up its time-out; the step that is measured must not be lost for that.
  guard.feed();
  try {
    Reading r = live_reading(quantity, session->ask_number(role, command), session->name());
    r.role = reading_role;
    taken.readings.push_back(std::move(r));
  } catch (const InstrumentError& error) {
    // It only goes along: the step counts without it, and RF does not stay on for it again.
    const bool is_gone = error.fault != InstrumentFault::over_range;
    if (is_gone) left_out_.insert(session);
    taken.cautions.push_back(error.what_happened() +
                             (is_gone ? "; the run goes on without it" : ""));
  }
}

/// Of two tones or noise a counter shows nothing that means anything; one whose gate cannot be set
/// would keep RF on for nobody knows how long.
bool ReadAlong::reads_counter() const {
  return plan_.reads_along && plan_.stimulus.kind == RunStimulus::Kind::tone &&
         with_.counter != nullptr && with_.counter->can(Role::counter, "set_gate") &&
         !left_out_.contains(with_.counter);
}

double ReadAlong::longest_s() const {
  return reads_counter() ? kGateS : 0.0;
}

void ReadAlong::prepare(TakenStep& taken) {
  if (!reads_counter()) return;
  try {
    with_.counter->tell(Role::counter, "set_gate", {{"seconds", kGateS}});
    with_.counter->settle();
  } catch (const InstrumentError& error) {
    left_out_.insert(with_.counter);
    taken.cautions.push_back(error.what_happened() + "; the run goes on without it");
  }
}

void ReadAlong::read_supply(TakenStep& taken, ReadingRole role, RfGuard& guard) {
  for (const LiveSource& from : live_sources())
    if (from.role == Role::supply)
      read(taken, guard, with_.supply, from.role, from.command, from.quantity, role);
}

void ReadAlong::read(TakenStep& taken, double generator_dbm, RfGuard& guard) {
  if (plan_.reads_along) {
    for (const LiveSource& from : live_sources()) {
      if (from.role != Role::counter || reads_counter())
        read(taken, guard, session_of(with_, from.role), from.role, from.command, from.quantity);
    }
    taken.readings.push_back(live_reading(kGeneratorLevel, generator_dbm, with_.generator->name()));
  }
  if (with_.sampler == nullptr || plan_.is_read_by_meter) return;
  ScpiSession& sampler = *with_.sampler;
  if (!sampler.can(Role::sampler, "is_over_range")) return;
  try {
    if (sampler.ask_yes_or_no(Role::sampler, "is_over_range"))
      taken.cautions.emplace_back(sampler.name() + " was over range");
  } catch (const InstrumentError& error) {
    taken.cautions.emplace_back(error.what_happened());
  }
}

}  // namespace heron
