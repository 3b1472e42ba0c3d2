#pragma once

#include <QString>

#include "store/exchange.h"
#include "store/shack.h"

namespace heron {

/// Writes one evaluation by the file's ending: .pdf, .html, .csv, .json.
/// Throws InputError naming the file and what to do.
void export_evaluation_file(const Shack& shack, Id evaluation, const QString& path);

/// The whole evaluation with its report, ready to be written as a .zip in the background.
PackedEvaluation pack_with_report(const Shack& shack, Id evaluation);

}  // namespace heron
