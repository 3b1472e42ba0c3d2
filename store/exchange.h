#pragma once

#include <filesystem>
#include <string>
#include <utility>
#include <vector>

#include "store/shack.h"

namespace heron {

/// Writes one evaluation as a .zip: evaluation.json, captures/ as SigMF pairs, and further text
/// files (name, content) such as figures.csv. Appears only when complete. Throws InputError.
void export_evaluation(const Shack& shack, Id evaluation, const std::filesystem::path& zip_path,
                       const std::vector<std::pair<std::string, std::string>>& further_files = {});

/// Adds the evaluation of such a file to the shack, with a device of its own unless one of the same
/// name and serial is there. All or nothing. Returns the evaluation's id. InputError if the file is
/// not one, is damaged, or a recording in it does not match its hash.
Id import_evaluation(Shack& shack, const std::filesystem::path& zip_path);

}  // namespace heron
