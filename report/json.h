#pragma once

#include <nlohmann/json.hpp>

#include "report/document.h"

namespace heron {

/// The evaluation in the command line's common vocabulary, with one entry a test.
nlohmann::json report_json(const ReportDocument& document);

/// Keys that every JSON output of the program carries.
nlohmann::json common_json(const std::string& method, const std::vector<std::string>& inputs);

inline constexpr const char* kToolName = "even-heron";

}  // namespace heron
