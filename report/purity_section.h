#pragma once

#include "report/document.h"
#include "store/purity_test.h"

namespace heron {

/// The test as a sheet of paper, and its figures.
void add_purity_section(ReportDocument& document, const PurityTest& test);

}  // namespace heron
