#pragma once

#include "report/document.h"
#include "store/spread_test.h"

namespace heron {

/// The test as a sheet of paper, and its figures.
void add_spread_section(ReportDocument& document, const SpreadTest& test);

}  // namespace heron
