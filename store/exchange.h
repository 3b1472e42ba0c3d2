#pragma once

#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/progress.h"
#include "store/capture_files.h"
#include "store/shack.h"

namespace heron {

inline constexpr const char* kEvaluationFormat = "even-heron-evaluation";
/// Of what is written; older ones are read as well.
inline constexpr int kEvaluationVersion = 2;

/// One evaluation on its way out: all that the database knows of it, and which files belong to it.
struct PackedEvaluation {
  /// Name and content: evaluation.json and what is added, such as figures.csv.
  std::vector<std::pair<std::string, std::string>> texts;
  std::vector<std::filesystem::path> captures;
};

/// One evaluation on its way in: its record, and its recordings already in the captures folder.
struct UnpackedEvaluation {
  std::filesystem::path from;
  nlohmann::json record;
  std::map<std::string, StoredCapture> captures;
};

PackedEvaluation pack_evaluation(const Shack& shack, Id evaluation);

/// Writes the .zip; needs no database, so it can run in the background. It appears only when
/// complete. Throws InputError or Cancelled.
void write_packed(const PackedEvaluation& packed, const std::filesystem::path& zip_path,
                  const Progress& progress = {}, const std::stop_token& stop = {});

/// Reads a .zip and puts its recordings into `captures_folder`; needs no database. InputError if
/// the file is not an evaluation, is damaged, or a recording in it does not match its hash.
UnpackedEvaluation unpack_evaluation(const std::filesystem::path& zip_path,
                                     const std::filesystem::path& captures_folder,
                                     const Progress& progress = {},
                                     const std::stop_token& stop = {});

/// An evaluation of this shack that is the same one: of the same device, title and start.
std::optional<Id> same_evaluation(const Shack& shack, const UnpackedEvaluation& unpacked);

/// What an import has put into the shack.
struct AddedEvaluation {
  Id evaluation = 0;
  Id device = 0;            ///< made for it; 0 = that was here already
  std::vector<Id> hookups;  ///< made for it
};

/// Adds it to the shack, with a device of its own unless one of the same name and serial is there.
/// All or nothing. InputError if a part of the record is wrong.
AddedEvaluation add_unpacked(Shack& shack, const UnpackedEvaluation& unpacked);
/// Takes all of it away, or brings it back.
void set_added_removed(Shack& shack, const AddedEvaluation& added, bool removed);

}  // namespace heron
