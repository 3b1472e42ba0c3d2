#pragma once

#include "report/document.h"
#include "store/general.h"

namespace heron {

/// The section and the figures of any test whose method has a row in the table.
void add_section_of(ReportDocument& document, const GeneralTest& test);

}  // namespace heron
