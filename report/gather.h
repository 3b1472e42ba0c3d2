#pragma once

#include "report/document.h"
#include "store/shack.h"

namespace heron {

/// Everything that one evaluation has to say, read from the shack.
ReportDocument gather_report(const Shack& shack, Id evaluation);

}  // namespace heron
