#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>

#include "store/shack.h"

namespace heron {

/// What an analysis said, on its way to its recording.
struct AnalysisRecord {
  std::string method;
  nlohmann::json record;
};

/// Keeps what an analysis said, with the recording it was made from; replaces an earlier one.
void save_result(Shack& shack, Id step_capture, const std::string& method,
                 const nlohmann::json& record);
/// As it is written; it may be damaged.
std::optional<std::string> load_result_text(const Shack& shack, Id step_capture);
/// InputError if it is damaged.
std::optional<nlohmann::json> load_result(const Shack& shack, Id step_capture);

}  // namespace heron
