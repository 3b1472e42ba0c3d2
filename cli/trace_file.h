#pragma once

#include <filesystem>
#include <string>

#include "core/quantity/typed_number.h"
#include "core/read_text.h"
#include "core/signal/trace_csv.h"

namespace heron {

inline bool is_trace(const std::string& file) {
  return lower_case(std::filesystem::path(file).extension().string()) == ".csv";
}

inline SpectrumTrace read_trace(const std::string& file) {
  constexpr std::uintmax_t kLargestTraceMb = 64;
  const std::filesystem::path path(file);
  return parse_trace(read_text(path, kLargestTraceMb), path.filename().string());
}

}  // namespace heron
