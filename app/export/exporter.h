#pragma once

#include <QString>

#include "store/shack.h"

namespace heron {

/// Writes one evaluation by the file's ending: .pdf, .html, .csv, .json, or .zip with recordings.
/// Throws InputError naming the file and what to do.
void export_evaluation_file(const Shack& shack, Id evaluation, const QString& path);

}  // namespace heron
