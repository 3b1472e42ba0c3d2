#pragma once

#include <optional>
#include <string>

#include "report/document.h"
#include "store/planned.h"

namespace heron {

/// Title, question, hook-up, conditions, note and signature: what every test's section has.
ReportSection section_head(const PlannedTest& test, const std::optional<HookupVersion>& taken_on,
                           double frequency_hz);
/// Where a figure's uncertainty comes from, in one line.
std::string budget_words(const Figure& figure);

}  // namespace heron
