#pragma once

#include <string>

#include "report/document.h"

namespace heron {

/// One line a figure, RFC 4180, decimal points, true numbers (no rounding to be read back).
std::string report_csv(const ReportDocument& document);

}  // namespace heron
