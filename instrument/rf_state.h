#pragma once

#include <optional>

#include "instrument/scpi_session.h"

namespace heron {

/// What is known about the output of a source: never more than what it has said itself.
enum class RfState { unknown, confirmed_off, on };

/// Nothing known yet is left as it was before.
inline bool may_be_on(const std::optional<RfState>& rf) {
  return rf && *rf != RfState::confirmed_off;
}

/// Asks a source whether its output is on; unknown where it cannot be asked. Throws InstrumentError
/// like any question.
RfState ask_rf(ScpiSession& source);

/// How a source took being switched off.
enum class RfOff {
  confirmed,
  told,   ///< it took the command and cannot be asked
  failed  ///< it did not answer, or says that it is still on
};

/// Switches a source's output off and asks. Never throws for an instrument's sake.
RfOff switch_rf_off(ScpiSession& source);

}  // namespace heron
