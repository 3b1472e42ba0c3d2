#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/chain/bench_item.h"

namespace heron {

nlohmann::json to_json(const BenchItem& item);
/// InputError naming subject, place and key of what is wrong.
BenchItem bench_item_from_json(const nlohmann::json& record, const std::string& subject,
                               const std::string& place);

/// A whole bench as a file of format "even-heron-bench".
nlohmann::json bench_to_json(const std::vector<BenchItem>& items);
/// Reads such a file's text; InputError if it is none, is damaged or comes from a newer version.
std::vector<BenchItem> bench_from_text(const std::string& text, const std::string& file_name);

}  // namespace heron
