#pragma once

#include "instrument/scpi_session.h"

namespace heron {

/// What is known about the output of a source: never more than what it has said itself.
enum class RfState { unknown, off, on };

/// Asks a source whether its output is on; unknown where it cannot be asked. Throws InstrumentError
/// like any question.
RfState ask_rf(ScpiSession& source);

/// Switches a source's output off and asks: off once confirmed, unknown where it cannot be asked or
/// does not answer. Never throws for an instrument's sake.
RfState switch_rf_off(ScpiSession& source);

}  // namespace heron
