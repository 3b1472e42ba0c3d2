#pragma once

#include <QWidget>
#include <optional>

#include "app/live/live_plan.h"

namespace heron {

/// Asks how recordings are taken from live instruments; nullopt if left. What is left as the method
/// has it stays the method's own.
std::optional<TakingSettings> ask_taking(QWidget* parent, const TakingNow& now,
                                         const TakingSettings& wished);

}  // namespace heron
