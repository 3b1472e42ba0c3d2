#pragma once

#include <QString>

#include "report/document.h"

namespace heron {

/// The report as an A4 PDF: vector plots, repeated table heads, nothing torn across pages.
/// Throws InputError if the file cannot be written.
void write_report_pdf(const ReportDocument& document, const QString& path);

}  // namespace heron
