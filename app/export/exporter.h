#pragma once

#include <QString>

#include "core/progress.h"
#include "store/shack.h"

namespace heron {

/// Writes one evaluation by the file's ending: .pdf, .html, .csv, .json, or .zip with its
/// recordings and report. From any thread, with a shack of its own. Throws InputError naming the
/// file and what to do, or Cancelled.
void export_evaluation_file(const Shack& shack, Id evaluation, const QString& path,
                            const Progress& progress, const std::stop_token& stop);

}  // namespace heron
