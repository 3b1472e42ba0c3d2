#pragma once

#include <filesystem>
#include <string>

#include "core/progress.h"
#include "core/signal/capture.h"
#include "core/signal/trace_csv.h"
#include "store/shack.h"
#include "store/step.h"

namespace heron {

/// A recording that is safely in the captures folder.
struct StoredCapture {
  std::string hash;  ///< SHA-256 over type, rate and samples, hex
  CaptureInfo info;
  bool is_new = false;  ///< it was not there before
};

/// Copies a recording into `captures_folder` as a SigMF pair named by its hash: 16-bit integers
/// stay so, everything else becomes 32-bit float. Needs no database, so it can run in the
/// background. Streams; throws InputError or Cancelled and then leaves nothing behind.
StoredCapture store_capture(const std::filesystem::path& captures_folder, const CaptureOpener& open,
                            const Progress& progress = {}, const std::stop_token& stop = {});

/// The same for an analyser's trace, or a table of so many lines: its text goes into the folder as
/// HASH.csv.
StoredCapture store_trace(const std::filesystem::path& captures_folder, const std::string& text,
                          const std::string& name, std::size_t points);

/// Takes a recording away that this process has just stored and that nothing names yet.
void discard_capture(const std::filesystem::path& captures_folder, const StoredCapture& capture);

/// The recording of a hash.
std::filesystem::path capture_path(const Shack& shack, const std::string& hash);

/// Puts a stored recording on a step; it becomes the step's current one. Returns its id.
struct Attachment {
  std::string taken_at = {};  ///< now, if empty
  Id hookup_version_id = 0;
  std::optional<AddedAttenuation> added = std::nullopt;  ///< taken beside the step's own
};
Id attach_capture(Shack& shack, Id step, const StoredCapture& capture,
                  const Attachment& attachment = {});

}  // namespace heron
