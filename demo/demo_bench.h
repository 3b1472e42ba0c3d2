#pragma once

#include <filesystem>
#include <map>
#include <string>

#include "store/bench.h"
#include "store/hookup.h"

namespace heron::demo {

/// The invented bench of Skerry Point, by name.
std::map<std::string, Id> add_bench(Shack& shack);

/// A hook-up of parts from the bench, from the device outwards.
Id add_hookup_of(Shack& shack, const std::map<std::string, Id>& bench, const std::string& name,
                 const std::vector<std::string>& parts, double source_vswr);

/// Its power pad's curve as a Touchstone file, and an analyser's two-tone trace, to be tried.
void write_files_to_try(const std::filesystem::path& folder);

/// A day so many months ago, ISO 8601.
std::string months_ago(double months);

}  // namespace heron::demo
