#pragma once

#include <string>

#include "report/document.h"

namespace heron {

/// One self-contained page: style and pictures inline, prints well.
std::string report_html(const ReportDocument& document);

}  // namespace heron
