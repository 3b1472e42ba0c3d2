#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "core/csv_table.h"
#include "core/judge/remark.h"
#include "core/quantity/figure.h"

namespace heron {

/// What the commands about frequency share: their files, remarks, and errors on bands.
CsvTable table_of(const std::string& file);
void add_remarks(nlohmann::json& out, const std::vector<Remark>& remarks);
nlohmann::json bands_json(const Figure& ppm, const std::vector<double>& bands_hz);
void print_bands(const Figure& ppm, const std::vector<double>& bands_hz);

}  // namespace heron
