#pragma once

#include <filesystem>

#include "core/progress.h"

namespace heron::demo {

/// A shack to look at: two friends prepare a portable station for Skerry Point. All of it is
/// invented, and made on the spot. InputError where the folder cannot be written; Cancelled.
void make_demo_shack(const std::filesystem::path& folder, const Progress& progress = {},
                     const std::stop_token& stop = {});

}  // namespace heron::demo
